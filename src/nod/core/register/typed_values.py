"""Values of typed fields and of the register's columns, as they are kept: plain text in one form (handbook §4)."""

from __future__ import annotations

import re
from collections.abc import Collection
from contextlib import suppress
from datetime import date, datetime

from nod.core.acts.refusals import RuleBroken
from nod.core.register.columns import Column, Kind

LONGEST = 200
# With strokes nobody knows whether day or month comes first, so these are not among them (common practice).
_DAYS = ("%d.%m.%Y", "%d.%m.%y", "%d %b %Y", "%d %B %Y", "%Y/%m/%d", "%Y.%m.%d", "%d-%b-%Y")


def check_value(column: Column, text: str, codes: Collection[str] = ()) -> str:
    """The value in the form it is kept; empty stays empty. Raises RuleBroken naming the column.

    Dates become ISO 8601; they may come written out, or with points and the day first. Numbers are decimal with a
    point (a comma typed between figures is taken for one), yes and no as `yes` and `no`. `codes` are those a CODE
    column may have; none means any.
    """
    plain = " ".join(text.split())
    if not plain:
        return ""
    if len(plain) > LONGEST:
        raise _unfit(column, plain[:40], f"at most {LONGEST} characters")
    return _CHECKED[column.kind](column, plain, codes)


def _text(_column: Column, plain: str, _codes: Collection[str]) -> str:
    return plain


def _code(column: Column, plain: str, codes: Collection[str]) -> str:
    if not codes or plain in codes:
        return plain
    for code in codes:
        if code.casefold() == plain.casefold():
            return code
    raise _unfit(column, plain, f"one of {', '.join(sorted(codes)[:20])}")


def _date(column: Column, plain: str, _codes: Collection[str]) -> str:
    with suppress(ValueError):
        return date.fromisoformat(plain).isoformat()
    for form in _DAYS:
        with suppress(ValueError):
            return datetime.strptime(plain, form).date().isoformat()  # noqa: DTZ007 - a day has no zone
    raise _unfit(column, plain, "a day like 2027-03-14")


def _number(column: Column, plain: str, _codes: Collection[str]) -> str:
    if not re.fullmatch(r"[-+]?\d{1,15}([.,]\d{1,9})?", plain):
        raise _unfit(column, plain, "a number")
    return plain.replace(",", ".").removeprefix("+")


def _yes_no(column: Column, plain: str, _codes: Collection[str]) -> str:
    found = {"yes": "yes", "y": "yes", "true": "yes", "1": "yes", "no": "no", "n": "no", "false": "no", "0": "no"}
    if plain.casefold() not in found:
        raise _unfit(column, plain, "yes or no")
    return found[plain.casefold()]


def _unfit(column: Column, given: str, wanted: str) -> RuleBroken:
    return RuleBroken("value_unfit", f"“{given}” does not fit {column.head}: it takes {wanted}.", column.head)


_CHECKED = {Kind.TEXT: _text, Kind.CODE: _code, Kind.DATE: _date, Kind.NUMBER: _number, Kind.YES_NO: _yes_no}
