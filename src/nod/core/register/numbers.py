"""Document numbers: a project's convention, and what is wrong with a number that breaks it (handbook §4)."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from nod.core.register.look_alikes import nearest, plain


@dataclass(frozen=True)
class NumberField:
    """One field of a number: either a list of codes with their meaning, or a pattern described in words."""

    name: str
    codes: Mapping[str, str] = field(default_factory=dict)
    pattern: str = ""
    pattern_words: str = ""

    def allows(self, value: str) -> bool:
        if self.codes:
            return value in self.codes
        return re.fullmatch(self.pattern, value) is not None


@dataclass(frozen=True)
class Convention:
    """The fields of a project's numbers, in order, and what stands between them."""

    fields: tuple[NumberField, ...]
    separator: str = "-"

    def outline(self) -> str:
        """The convention in words, like `project-originator-…`."""
        return self.separator.join(each.name for each in self.fields)

    def split(self, number: str) -> dict[str, str]:
        """Field name to value for a number that keeps the convention."""
        return dict(zip((each.name for each in self.fields), number.split(self.separator), strict=True))


@dataclass(frozen=True)
class NumberFault:
    """What is wrong with one field; `nearest` is the allowed code closest to what was given."""

    field: str
    value: str
    words: str
    nearest: str | None = None


def check_number(convention: Convention, number: str) -> list[NumberFault]:
    """Every fault of `number`, in the order of the fields; empty if it keeps the convention."""
    if not number:
        return [NumberFault("number", "", f"No number was found. It should read {convention.outline()}.")]
    values = number.split(convention.separator)
    if len(values) != len(convention.fields):
        return [_count_fault(convention, values, number)]
    pairs = zip(convention.fields, values, strict=True)
    return [_field_fault(each, value) for each, value in pairs if not each.allows(value)]


def mend_number(convention: Convention, number: str) -> str | None:
    """The number that was most likely meant, or None where no field-by-field guess keeps the convention."""
    values = plain(number).upper().split(convention.separator)
    if len(values) != len(convention.fields):
        return None
    mended = [_mend_field(each, value) for each, value in zip(convention.fields, values, strict=True)]
    guess = convention.separator.join(mended)
    return guess if not check_number(convention, guess) else None


def _mend_field(each: NumberField, value: str) -> str:
    if each.allows(value):
        return value
    if each.codes:
        return nearest(value, tuple(each.codes)) or value
    digits = value.translate(str.maketrans("OQDIL", "00011"))
    return digits if each.allows(digits) else value


def _field_fault(each: NumberField, value: str) -> NumberFault:
    shown = f"“{value}”" if value else "empty"
    if each.codes:
        near = nearest(value, tuple(each.codes))
        meaning = f"{near} ({each.codes[near]})" if near else "none"
        return NumberFault(
            each.name, value, f"Field {each.name} is {shown}, which is not a code here. Nearest: {meaning}.", near
        )
    mended = _mend_field(each, plain(value).upper())
    near = mended if each.allows(mended) else None
    hint = f" Nearest: {near}." if near else ""
    return NumberFault(each.name, value, f"Field {each.name} is {shown}; it takes {each.pattern_words}.{hint}", near)


def _count_fault(convention: Convention, values: list[str], number: str) -> NumberFault:
    missing = _one_missing(convention, values)
    if missing:
        return NumberFault(
            missing, "", f"Field {missing} is missing in “{number}”. It should read {convention.outline()}."
        )
    expected = len(convention.fields)
    return NumberFault(
        "number",
        number,
        f"“{number}” has {len(values)} fields where {expected} belong. It should read {convention.outline()}.",
    )


def _one_missing(convention: Convention, values: list[str]) -> str | None:
    """The single field without which the rest fits, if there is exactly one such."""
    if len(values) != len(convention.fields) - 1:
        return None
    found = []
    for skip, left_out in enumerate(convention.fields):
        rest = convention.fields[:skip] + convention.fields[skip + 1 :]
        if all(each.allows(value) for each, value in zip(rest, values, strict=True)):
            found.append(left_out.name)
    return found[0] if len(found) == 1 else None
