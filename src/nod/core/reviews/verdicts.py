"""Verdicts and what they mean for the document (handbook §8)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Verdict:
    """One possible verdict. A higher `severity` outweighs a lower one of the same set.

    `of_set` is the name of its set, empty for the usual one. Codes are unique in a project, whatever their set, so that
    a code says all wherever it stands.
    """

    code: str
    words: str
    severity: int
    may_be_used: bool
    needs_new_revision: bool
    meaning: str
    of_set: str = ""


DEFAULT_SET: tuple[Verdict, ...] = (
    Verdict("A", "proceed", 0, True, False, "go"),
    Verdict("B", "proceed as noted", 1, True, False, "look"),
    Verdict("C", "revise and resubmit", 2, False, True, "stop"),
    Verdict("D", "do not proceed", 3, False, True, "stop"),
)


def sets_of(verdicts: Iterable[Verdict]) -> tuple[str, ...]:
    """Names of the sets, in the order of their first verdicts; the usual one is empty."""
    return tuple(dict.fromkeys(each.of_set for each in verdicts))


def in_set(verdicts: Sequence[Verdict], of_set: str) -> tuple[Verdict, ...]:
    return tuple(each for each in verdicts if each.of_set == of_set)


def most_severe(codes: Iterable[str], verdicts: tuple[Verdict, ...] = DEFAULT_SET) -> str | None:
    """The code that counts where several were given; None for none. Raises KeyError for an unknown code."""
    by_code = {each.code: each for each in verdicts}
    return max(codes, key=lambda code: by_code[code].severity, default=None)
