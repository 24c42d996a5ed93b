"""Reading lists that people keep in spreadsheets: which column holds what, and days however they are written."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from datetime import date, datetime

_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")


def guess_columns(heads: Sequence[object], named: Mapping[str, tuple[str, ...]]) -> dict[str, int]:
    """Field to place, by what the first row says; fields that it does not name are left out.

    `named` has the heads by which each field is known, in small letters without figures, the likeliest first.
    """
    said = [re.sub(r"[^a-z ]+", " ", str(head or "").casefold()).split() for head in heads]
    plain = [" ".join(words) for words in said]
    found: dict[str, int] = {}
    for field, names in named.items():
        for name in names:
            if name in plain and plain.index(name) not in found.values():
                found[field] = plain.index(name)
                break
    return found


def find_heads(rows: Sequence[Sequence[object]], named: Mapping[str, tuple[str, ...]]) -> int:
    """The place of the row that names the most columns among the first, the upper one of equals.

    The first with something in it where none names two: above a list stand often its title, its day, its company.
    """
    counts = [len(guess_columns(row, named)) for row in rows[:_HEADS_WITHIN]]
    best = max(counts, default=0)
    if best >= 2:
        return counts.index(best)
    return next((at for at, row in enumerate(rows) if any(each not in (None, "") for each in row)), 0)


_HEADS_WITHIN = 30


def read_day(value: object, *, day_first: bool) -> date | None:
    """A day as a spreadsheet or a person writes it; None for what is none. Two-figure years are this century's."""
    if isinstance(value, datetime):
        return value.date()
    if isinstance(value, date):
        return value
    text = str(value or "").strip().rstrip(".")
    if match := re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})(?:[T ].*)?", text):
        return _day(int(match[1]), int(match[2]), int(match[3]))
    if match := re.fullmatch(r"(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d{2})", text):
        first, second, year = int(match[1]), int(match[2]), int(match[3])
        day, month = (first, second) if day_first else (second, first)
        return _day(year if year > 99 else 2000 + year, month, day)
    if match := re.fullmatch(r"(\d{1,2})[ -]([A-Za-z]{3,9})[ -](\d{4}|\d{2})", text):
        month_name = match[2][:3].casefold()
        if month_name in _MONTHS:
            year = int(match[3])
            return _day(year if year > 99 else 2000 + year, _MONTHS.index(month_name) + 1, int(match[1]))
    return None


def _day(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day)
    except ValueError:
        return None


def is_either_way(value: object) -> bool:
    """Whether day and month could be taken for each other, as in 03/04/2027."""
    match = re.fullmatch(r"(\d{1,2})[./-](\d{1,2})[./-]\d{2,4}", str(value or "").strip())
    return bool(match) and int(match[1]) <= 12 and int(match[2]) <= 12 and match[1] != match[2]  # type: ignore[index]
