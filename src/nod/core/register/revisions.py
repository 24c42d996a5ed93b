"""Revision schemes: which codes there are, their order, what comes next (handbook §4)."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum

# I and O are left out because they read as 1 and 0: common practice.
_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"
_STAGED = re.compile(r"([PC])(\d{2})(?:\.(\d{1,2}))?")
_SHARED = 100


class Scheme(StrEnum):
    """The three schemes a project can pick from."""

    STAGED = "staged"
    LETTERS = "letters"
    NUMBERS = "numbers"


@dataclass(frozen=True, order=True)
class RevisionKey:
    """Orders the codes of one scheme: stage, number within it, then work in progress before shared."""

    stage: int
    number: int
    progress: int


def parse(scheme: Scheme, code: str) -> RevisionKey | None:
    """The place of `code` in the scheme's order, or None if the scheme has no such code.

    Work in progress precedes what it works towards: P02.1 < P02.2 < P02 (common practice, from memory).
    """
    return _PARSERS[scheme](code)


def _parse_staged(code: str) -> RevisionKey | None:
    match = _STAGED.fullmatch(code)
    if not match or int(match[2]) == 0 or (match[3] and (match[1] == "C" or int(match[3]) == 0)):
        return None
    return RevisionKey("PC".index(match[1]), int(match[2]), int(match[3]) if match[3] else _SHARED)


def _parse_letters(code: str) -> RevisionKey | None:
    if not code or len(code) > 3 or any(letter not in _LETTERS for letter in code):
        return None
    number = 0
    for letter in code:
        number = number * len(_LETTERS) + _LETTERS.index(letter) + 1
    return RevisionKey(0, number, _SHARED)


def _parse_numbers(code: str) -> RevisionKey | None:
    if not re.fullmatch(r"0|[1-9]\d{0,3}", code):
        return None
    return RevisionKey(0, int(code) + 1, _SHARED)


def _write(scheme: Scheme, stage: int, number: int) -> str:
    if scheme is Scheme.STAGED:
        return f"{'PC'[stage]}{number:02d}"
    if scheme is Scheme.NUMBERS:
        return str(number - 1)
    letters = ""
    while number:
        number, digit = divmod(number - 1, len(_LETTERS))
        letters = _LETTERS[digit] + letters
    return letters


_PARSERS = {Scheme.STAGED: _parse_staged, Scheme.LETTERS: _parse_letters, Scheme.NUMBERS: _parse_numbers}


def first_code(scheme: Scheme) -> str:
    """The code of a document's first revision."""
    return _write(scheme, 0, 1)


def next_codes(scheme: Scheme, current: str) -> tuple[str, ...]:
    """What may follow `current` without a gap, the most usual first. Raises ValueError for an unknown code."""
    key = parse(scheme, current)
    if key is None:
        raise ValueError(current)
    usual = _write(scheme, key.stage, key.number + (key.progress == _SHARED))
    if scheme is Scheme.STAGED and key.stage == 0:
        return (usual, _write(scheme, 1, 1))
    return (usual,)


def is_gap(scheme: Scheme, current: str | None, new: str) -> bool:
    """Whether codes are missing between `current` (None: a new document) and a later `new`."""
    key = parse(scheme, new)
    if key is None:
        raise ValueError(new)
    towards = _write(scheme, key.stage, key.number)
    if current is None:
        return towards not in (first_code(scheme), "C01")
    return towards not in next_codes(scheme, current) and towards != current


def next_statuses(current: str, statuses: Sequence[str], reviewed: Collection[str]) -> tuple[str, ...]:
    """With what status the next revision may be filed: the present one first, then the others in the project's order.

    Those that only a review gives are left out; a document that has one of them goes on from the first status.
    """
    open_ones = [each for each in statuses if each not in reviewed]
    return tuple(sorted(open_ones, key=lambda each: each != current))
