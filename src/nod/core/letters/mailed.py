"""What a mail in a thread says of itself: whether it is the answer that was asked for."""

from __future__ import annotations

ANSWER_WORD = "ANSWER"


def is_answer(text: str) -> bool:
    """Whether it begins with the word in a line of its own, as the mail that asked has said.

    Anything else is something that was written, and no answer: a mail that says *we shall see* decides nothing.
    """
    first = text.lstrip().partition("\n")[0]
    return first.strip().rstrip(":.!-").rstrip().casefold() == ANSWER_WORD.casefold()
