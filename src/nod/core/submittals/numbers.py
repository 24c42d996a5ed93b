"""How submittals are numbered, and what their spec sections look like (handbook §9)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from enum import StrEnum

from nod.core.acts.refusals import RuleBroken

LONGEST_NUMBER = 40
_SECTION = re.compile(r"(\d{2})[ .-]?(\d{2})[ .-]?(\d{2})(?:\.(\d{2}))?")
_LONGEST_COUNT = 10
_NUMBER = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._/-]{0,39}")


class NumberedBy(StrEnum):
    """What a number begins with: the responsible company's code, or the spec section."""

    COMPANY = "company"
    SECTION = "section"


def check_section(text: str) -> str:
    """As `NN NN NN` or `NN NN NN.NN`, however it is typed; empty where there is none. Raises RuleBroken otherwise."""
    tidy = " ".join(text.split())
    if not tidy:
        return ""
    found = _SECTION.fullmatch(tidy)
    if found is None:
        raise RuleBroken("section_unfit", "A section is written like 08 44 13 or 08 44 13.10.", tidy[:40])
    first, second, third, more = found.groups()
    return f"{first} {second} {third}" + (f".{more}" if more else "")


def file_number(number: str, revision: int, place: int) -> str:
    """Under which a file is registered that was sent in as the `place`-th of a revision, from 1 (handbook §9)."""
    return f"{number}-{revision}-{place:02}"


def prefix(by: NumberedBy, company_code: str, section: str) -> str:
    """What the running number is joined to. Raises RuleBroken for a submittal without a section where that counts."""
    if by is NumberedBy.COMPANY:
        return company_code
    if not section:
        raise RuleBroken("section_missing", "The project numbers submittals by section. Give this one its section.")
    return section.replace(" ", "").replace(".", "")


def next_number(by: NumberedBy, start: str, taken: Iterable[str]) -> str:
    """After the highest there is, whoever numbered it: `HBC-0012`, `084413-003`. `taken` are numbers of the project."""
    return Counter(by, taken).next(start)


class Counter:
    """Gives several numbers in a row."""

    def __init__(self, by: NumberedBy, taken: Iterable[str]) -> None:
        self._width, self._highest = 4 if by is NumberedBy.COMPANY else 3, dict[str, int]()
        for each in taken:
            start, _, count = each.rpartition("-")
            if start and count.isascii() and count.isdigit() and len(count) < _LONGEST_COUNT:
                self._highest[start] = max(int(count), self._highest.get(start, 0))

    def next(self, start: str) -> str:
        self._highest[start] = self._highest.get(start, 0) + 1
        return f"{start}-{self._highest[start]:0{self._width}d}"


def check_number(text: str) -> str:
    """A number that came from elsewhere. Raises RuleBroken for one that is not fit for a file name or a line."""
    tidy = " ".join(text.split())
    if not _NUMBER.fullmatch(tidy):
        words = f"A number has up to {LONGEST_NUMBER} letters, digits, and - . _ / between them."
        raise RuleBroken("number_unfit", words, tidy[:60])
    return tidy


def shown_number(number: str, revision: int) -> str:
    """Like `HBC-0012 rev 1`; the first is shown without."""
    return f"{number} rev {revision}" if revision else number
