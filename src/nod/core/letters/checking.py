"""A second pair of eyes: what is written is looked at, or signed, by somebody else before it goes (handbook §11)."""

from __future__ import annotations

from enum import StrEnum

from nod.core.acts.refusals import RuleBroken


class Check(StrEnum):
    """Of a draft. What is let go is sent in the same act."""

    NONE = ""
    ASKED = "asked"
    RETURNED = "returned"


def check_untouched(state: str, checker: str) -> None:
    """Raises RuleBroken for a draft that is changed, sent or thrown away while somebody looks at it."""
    if state == Check.ASKED.value:
        words = f"{checker} is looking at it. Take it back to go on writing."
        raise RuleBroken("letter_with_checker", words, checker)


def check_looked_at(state: str) -> None:
    """Raises RuleBroken for a draft that is not with whoever looks at it any more."""
    if state != Check.ASKED.value:
        raise RuleBroken("letter_not_with_checker", "It was taken back meanwhile.")
