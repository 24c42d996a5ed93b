"""What a mail in a thread says of itself: whether it is the answer that was asked for."""

from __future__ import annotations

import re

ANSWER_WORD = "ANSWER"
_FIRST = re.compile(r"\s*answer\s*[:.!-]?[ \t]*(?:\n|$)", re.I)


def is_answer(text: str) -> bool:
    """Whether it begins with the word in a line of its own, as the mail that asked has said.

    Anything else is something that was written, and no answer: a mail that says *we shall see* decides nothing.
    """
    return bool(_FIRST.match(text))


def without_word(text: str) -> int:
    """How many characters of it that line is."""
    match = _FIRST.match(text)
    return match.end() if match else 0
