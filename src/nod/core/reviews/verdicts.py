"""Verdicts and what they mean for the document (handbook §8)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class Verdict:
    """One possible verdict. A higher `severity` outweighs a lower one."""

    code: str
    words: str
    severity: int
    may_be_used: bool
    needs_new_revision: bool
    meaning: str


DEFAULT_SET: tuple[Verdict, ...] = (
    Verdict("A", "proceed", 0, True, False, "go"),
    Verdict("B", "proceed as noted", 1, True, False, "look"),
    Verdict("C", "revise and resubmit", 2, False, True, "stop"),
    Verdict("D", "do not proceed", 3, False, True, "stop"),
)


def most_severe(codes: Iterable[str], verdicts: tuple[Verdict, ...] = DEFAULT_SET) -> str | None:
    """The code that counts where several were given; None for none. Raises KeyError for an unknown code."""
    by_code = {each.code: each for each in verdicts}
    return max(codes, key=lambda code: by_code[code].severity, default=None)
