"""What the register's columns are in the database: the expression to sort and filter by, and what it must join."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, and_, func, or_, select
from sqlalchemy.orm import aliased

from nod.core.register.columns import FIELD, Column, Kind
from nod.core.register.filters import Filter, parse_bound
from nod.store.tables import DocumentRow, DocumentValueRow, DrawingSetRow, PersonRow, SetSheetRow

PLAIN = (
    "number", "title", "discipline", "revision", "in_force", "release", "status",
    "verdict", "with_whom", "since_at", "due_on", "originator",
    "form", "zone", "level", "scale", "sheet_size", "purpose", "kind", "filed_at", "came_from", "arrived_at",
    "file_name", "file_kinds", "came_person", "came_by", "size_bytes", "sha256", "withdrawn",
)  # fmt: skip
_INSTANTS = ("since_at", "filed_at", "arrived_at")

Joined = Callable[[Any], Any]


@dataclass(frozen=True)
class Expression:
    """`value` sorts, `key` tells groups apart and is what `is` compares; `join` adds to a query what both need."""

    value: Any
    key: Any
    join: Joined


def _nothing(query: Any) -> Any:
    return query


def expression(key: str, paths: Mapping[str, str], columns: Mapping[str, Column]) -> Expression:
    """`paths` maps each folder that is seen to its path. Raises KeyError for a column that is none."""
    if key in PLAIN:
        own = getattr(DocumentRow, key)
        return Expression(own, own, _nothing)
    if key.startswith(FIELD):
        return _typed(key, columns[key])
    return {"folder": _folder, "filed_by": _filed_by, "checked_out": _checked_out, "sets": _sets}[key](paths)


def _typed(key: str, column: Column) -> Expression:
    values = aliased(DocumentValueRow)
    on = and_(values.seq == DocumentRow.seq, values.field == key.removeprefix(FIELD))
    value = values.number if column.kind is Kind.NUMBER else values.value
    return Expression(value, values.value, lambda query: query.outerjoin(values, on))


def _folder(paths: Mapping[str, str]) -> Expression:
    places = func.json_each(json.dumps(dict(paths))).table_valued("key", "value", name="places")
    return Expression(
        places.c.value, DocumentRow.folder_id,
        lambda query: query.outerjoin(places, places.c.key == DocumentRow.folder_id),
    )  # fmt: skip


def _person(column: Any) -> Expression:
    person = aliased(PersonRow)
    return Expression(person.name, column, lambda query: query.outerjoin(person, person.id == column))


def _filed_by(_paths: Mapping[str, str]) -> Expression:
    return _person(DocumentRow.filed_by)


def _checked_out(_paths: Mapping[str, str]) -> Expression:
    return _person(DocumentRow.checked_out_by)


def _sets(_paths: Mapping[str, str]) -> Expression:
    """A document comes once for each of its sets; sets taken away do not count."""
    inside = (
        select(SetSheetRow.document_id, DrawingSetRow.id, DrawingSetRow.name)
        .join(DrawingSetRow, DrawingSetRow.id == SetSheetRow.set_id)
        .where(~DrawingSetRow.removed)
        .subquery()
    )
    return Expression(
        inside.c.name, inside.c.id, lambda query: query.outerjoin(inside, inside.c.document_id == DocumentRow.id)
    )


def condition(each: Filter, columns: Mapping[str, Column], zone: ZoneInfo) -> ColumnElement[bool]:
    """A filter as a condition on the document's row. Values of `folder`, people and sets are their ids."""
    column = columns[each.column]
    if each.column.startswith(FIELD):
        return _on_typed(each, column)
    if each.column == "sets":
        return _on_sets(each)
    own = {"folder": "folder_id", "checked_out": "checked_out_by"}.get(each.column, each.column)
    if each.column == "filed_by":
        return _on_person(each)
    if each.column == "checked_out" and each.op in ("has", "is"):
        return _on_person(each)
    return _compare(getattr(DocumentRow, own), each, column, zone if each.column in _INSTANTS else None)


def _on_person(each: Filter) -> ColumnElement[bool]:
    """By the person's name; ids would say nothing to whoever types."""
    column = DocumentRow.filed_by if each.column == "filed_by" else DocumentRow.checked_out_by
    if each.op in ("none", "some"):
        return column == "" if each.op == "none" else column != ""
    name = PersonRow.name
    wanted = name.in_(each.values) if each.op == "is" else name.contains(each.values[0], autoescape=True)
    return column.in_(select(PersonRow.id).where(or_(wanted, PersonRow.id.in_(each.values))))


def _on_typed(each: Filter, column: Column) -> ColumnElement[bool]:
    values = aliased(DocumentValueRow)
    having = select(values.seq).where(values.field == each.column.removeprefix(FIELD))
    if each.op == "any":
        return DocumentRow.seq.is_not(None)
    if each.op in ("none", "some"):
        return DocumentRow.seq.not_in(having) if each.op == "none" else DocumentRow.seq.in_(having)
    if column.kind is Kind.YES_NO:
        return DocumentRow.seq.in_(having.where(values.value == each.op))
    if each.op == "not" or "" in each.values:
        return _either_or_none(each, having, values.value)
    compared = values.number if column.kind is Kind.NUMBER else values.value
    return DocumentRow.seq.in_(having.where(_compare(compared, each, column, None)))


def _either_or_none(each: Filter, having: Any, value: Any) -> ColumnElement[bool]:
    listed = DocumentRow.seq.in_(having.where(value.in_(each.values)))
    found = or_(listed, DocumentRow.seq.not_in(having)) if "" in each.values else listed
    return ~found if each.op == "not" else found


def _on_sets(each: Filter) -> ColumnElement[bool]:
    standing = select(SetSheetRow.document_id).join(DrawingSetRow, DrawingSetRow.id == SetSheetRow.set_id)
    standing = standing.where(~DrawingSetRow.removed)
    if each.op in ("none", "some"):
        return DocumentRow.id.not_in(standing) if each.op == "none" else DocumentRow.id.in_(standing)
    listed = DocumentRow.id.in_(standing.where(DrawingSetRow.id.in_(each.values)))
    found = or_(listed, DocumentRow.id.not_in(standing)) if "" in each.values else listed
    return ~found if each.op == "not" else found


def _compare(own: Any, each: Filter, column: Column, zone: ZoneInfo | None) -> ColumnElement[bool]:
    return _COMPARED[each.op](own, each, column, zone)


def _empty(own: Any, column: Column) -> ColumnElement[bool]:
    textual = column.kind in (Kind.TEXT, Kind.CODE)
    return own == "" if textual else own.is_(None)  # type: ignore[no-any-return]


def _bound(each: Filter, column: Column, zone: ZoneInfo | None) -> Any:
    """Up to a day means to its end: the beginning of the next, in the project's time zone."""
    bound = parse_bound(column, each.values[0])
    if not isinstance(bound, date):
        return bound
    if zone is None:
        return bound
    day = bound + timedelta(days=1) if each.op == "to" else bound
    return datetime.combine(day, time.min, zone)


def _upto(own: Any, each: Filter, column: Column, zone: ZoneInfo | None) -> ColumnElement[bool]:
    bound = _bound(each, column, zone)
    return own < bound if isinstance(bound, datetime) else own <= bound  # type: ignore[no-any-return]


_COMPARED: dict[str, Callable[[Any, Filter, Column, ZoneInfo | None], ColumnElement[bool]]] = {
    "has": lambda own, each, _column, _zone: own.contains(each.values[0], autoescape=True),
    "is": lambda own, each, _column, _zone: own == each.values[0] if len(each.values) == 1 else own.in_(each.values),
    "not": lambda own, each, _column, _zone: own.not_in(each.values),
    "none": lambda own, _each, column, _zone: _empty(own, column),
    "some": lambda own, _each, column, _zone: ~_empty(own, column),
    "from": lambda own, each, column, zone: own >= _bound(each, column, zone),
    "to": _upto,
    "yes": lambda own, _each, _column, _zone: own.is_(True),
    "no": lambda own, _each, _column, _zone: own.is_(False),
    "any": lambda own, _each, _column, _zone: own.is_not(None),
}
