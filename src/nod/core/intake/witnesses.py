"""Three witnesses of what a file is: its name, its title block, the register (handbook §5.4)."""

from __future__ import annotations

import re
from collections.abc import Mapping
from enum import StrEnum

from nod.core.register.look_alikes import plain

FIELDS = ("number", "revision", "status", "title", "scale")


class Witness(StrEnum):
    """Whose value was taken."""

    NAME = "file name"
    BLOCK = "title block"
    REGISTER = "register"
    TYPED = "typed"


def first_choice(field: str, by_name: Mapping[str, str], by_block: Mapping[str, str]) -> str:
    """What to go by until somebody chooses: the file name, but the title as it is printed on the sheet."""
    named, printed = by_name.get(field, ""), by_block.get(field, "")
    return (printed or named) if field in ("title", "scale") else (named or printed)


def agree(field: str, one: str, other: str) -> bool:
    """Whether two witnesses say the same; one that says nothing contradicts nobody.

    Codes agree to the letter, look-alikes of other alphabets aside. Titles agree but for capitals, blanks and strokes:
    a file name cannot hold all that a title block can.
    """
    if not one or not other:
        return True
    if field == "title":
        return _words(one) == _words(other)
    return plain(one).upper() == plain(other).upper()


def _words(title: str) -> list[str]:
    return re.findall(r"\w+", title.casefold().replace("_", " "))


def disagreements(
    by_name: Mapping[str, str], by_block: Mapping[str, str], settled: Mapping[str, str]
) -> list[tuple[str, str, str]]:
    """Field, what the name says, what the block says; fields that somebody has settled are left out."""
    return [
        (field, by_name.get(field, ""), by_block.get(field, ""))
        for field in FIELDS
        if field not in settled and not agree(field, by_name.get(field, ""), by_block.get(field, ""))
    ]
