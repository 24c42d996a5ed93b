"""What a list of the register is narrowed to, as a rule and in words (handbook §4)."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date

from nod.core.acts.refusals import RuleBroken
from nod.core.register.columns import Column, Kind

OPS: dict[Kind, tuple[str, ...]] = {
    Kind.TEXT: ("has", "is", "none", "some"),
    Kind.CODE: ("is", "not", "none", "some"),
    Kind.DATE: ("from", "to", "none", "some"),
    Kind.NUMBER: ("from", "to", "none", "some"),
    Kind.YES_NO: ("yes", "no", "any"),
}
_WITHOUT_VALUE = ("none", "some", "yes", "no", "any")
_FIRST_YEAR, _LAST_YEAR = 1900, 2999
MOST_FILTERS, MOST_VALUES = 40, 200
_LONGEST = 200


@dataclass(frozen=True)
class Filter:
    """One condition on a column. `values` are alternatives for `is` and `not`, otherwise one; none where none is asked.

    Dates are ISO 8601; an instant is compared by its day in the project's time zone. Numbers are decimal.
    """

    column: str
    op: str
    values: tuple[str, ...] = ()


@dataclass(frozen=True)
class Sort:
    column: str
    descending: bool = False


def check_filters(filters: Iterable[Filter], columns: Mapping[str, Column]) -> tuple[Filter, ...]:
    """Raises RuleBroken for a column, an act or a value that is none."""
    found = tuple(filters)
    if len(found) > MOST_FILTERS:
        raise _unknown("There are too many filters.")
    for each in found:
        column = columns.get(each.column)
        if column is None:
            raise _unknown(f"There is no column {each.column} to filter by.", each.column)
        _check_filter(each, column)
    return found


def _check_filter(each: Filter, column: Column) -> None:
    if each.op not in OPS[column.kind]:
        raise _unknown(f"{column.head} cannot be filtered like that.", each.op)
    wanted = 0 if each.op in _WITHOUT_VALUE else MOST_VALUES if each.op in ("is", "not") else 1
    if len(each.values) > wanted or (wanted and not each.values) or any(len(one) > _LONGEST for one in each.values):
        raise _unknown(f"The filter on {column.head} has the wrong number of values.", each.column)
    if each.op in ("from", "to"):
        parse_bound(column, each.values[0])


def parse_bound(column: Column, text: str) -> date | float:
    """The day or number of a `from` or `to`. Raises RuleBroken for one that is none."""
    try:
        bound = date.fromisoformat(text) if column.kind is Kind.DATE else float(text)
    except ValueError as error:
        raise _unknown(f"“{text}” is no {'day' if column.kind is Kind.DATE else 'number'}.", text) from error
    if isinstance(bound, date) and not _FIRST_YEAR <= bound.year <= _LAST_YEAR:
        raise _unknown(f"Days are of the years {_FIRST_YEAR} to {_LAST_YEAR}.", text)
    if isinstance(bound, float) and not math.isfinite(bound):
        raise _unknown(f"“{text}” is no number.", text)
    return bound


def check_sorts(sorts: Iterable[Sort], columns: Mapping[str, Column]) -> tuple[Sort, ...]:
    """Each column once, the first naming of it. Raises RuleBroken for one that is none."""
    found: dict[str, Sort] = {}
    for each in sorts:
        if each.column not in columns:
            raise RuleBroken("view_unknown", "This list cannot be shown in that order.", each.column)
        found.setdefault(each.column, each)
    return tuple(found.values())[:5]


def _unknown(words: str, about: str = "") -> RuleBroken:
    return RuleBroken("filter_unknown", words, about)


def words_of(each: Filter, column: Column, say: Callable[[str, str], str]) -> str:
    """A filter in words, like `Discipline is A Architecture or S Structure`; `say` words a value of a column."""
    said = [say(each.column, value) for value in each.values]
    joined = _either(said)
    sayings = {
        "has": f"{column.head} has “{joined}”",
        "is": f"{column.head} is {joined}",
        "not": f"{column.head} is not {joined}",
        "from": f"{column.head} from {joined}",
        "to": f"{column.head} up to {joined}",
        "none": f"{column.head} is empty",
        "some": f"{column.head} is not empty",
        "yes": f"{column.head}",
        "no": f"not {column.head.lower()}",
        "any": f"{column.head} or not",
    }
    return sayings[each.op]


def _either(said: list[str]) -> str:
    shown = [each or "none" for each in said]
    return shown[0] if len(shown) == 1 else f"{', '.join(shown[:-1])} or {shown[-1]}" if shown else ""
