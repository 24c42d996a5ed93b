"""A list of the register as it is shown, taken away as a spreadsheet or CSV."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import date, datetime
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.register.columns import FIELD, USUAL, Column, Kind
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Value
from nod.services.acts.context import Context, acting, today_in
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.files.tables_out import Exported, table_out
from nod.services.register.register_list import AskedView, DocumentLine, lines_of, read_view
from nod.store import register_query
from nod.store.register_query import RegisterView

MOST_LINES = 100_000
MOST_AT_ONCE = 5000
"""Longer lists take seconds: the worker makes them (see `list_packs`)."""
_PAGE = 1000


def export_register(
    context: Context, actor: Actor, asked: AskedView, keys: list[str], form: Literal["xlsx", "csv"]
) -> Exported:
    """All lines of the view, with these columns in this order. Recorded, as every download, before it is made.

    The lines are read outside the act that records it: a long list keeps nobody from writing.
    """
    with context.database.read() as session:
        view, columns, total = asked_for(session, take_seat(session, actor, asked.project_id), asked, keys)
    if total > MOST_AT_ONCE:
        raise RuleBroken("list_long", f"The list has {total:,} lines. Have it made: that takes a while.")
    with acting(context, actor) as act:
        seat = act.enter(asked.project_id)
        stem = f"{seat.project.number} register {today_in(seat.project, act.at).isoformat()}"
        after = {"lines": total, "columns": [each.head for each in columns], "as": form}
        fact = Fact(FactKind.REGISTER_EXPORTED, Subject("project", seat.project.id), seat.project.name, after=after)
        act.record(seat.project.id, fact)
    with context.database.read() as session:
        rows = rows_of(session, take_seat(session, actor, asked.project_id), view, columns, context.clock.now())
        heads = [(each.head, each.width) for each in columns]
        return table_out(context, stem, form, heads, (cells for _, cells in rows))


def asked_for(
    session: Session, seat: Seat, asked: AskedView, keys: list[str]
) -> tuple[RegisterView, list[Column], int]:
    view = replace(read_view(session, seat, asked), limit=_PAGE, cursor="", shut=())
    total = register_query.count(session, view)
    if total > MOST_LINES:
        raise RuleBroken("list_large", f"The list has {total:,} lines; at most {MOST_LINES:,} go into one file.")
    return view, _columns(view, keys), total


def _columns(view: RegisterView, keys: list[str]) -> list[Column]:
    unknown = [key for key in keys if key not in view.columns]
    if unknown:
        raise RuleBroken("view_unknown", "There is no such column.", unknown[0])
    return [view.columns[key] for key in dict.fromkeys(keys) or USUAL]


def rows_of(
    session: Session, seat: Seat, view: RegisterView, columns: list[Column], now: datetime
) -> Iterator[tuple[str, list[Value]]]:
    """Each document's id with its cells."""
    zone = ZoneInfo(seat.project.time_zone)
    while True:
        page = register_query.read_page(session, view, MOST_LINES)
        for line in lines_of(session, seat, now, page.rows):
            yield line.id, [_shown(line, column, zone) for column in columns]
        if not page.cursor:
            return
        view = replace(view, cursor=page.cursor)


def _shown(line: DocumentLine, column: Column, zone: ZoneInfo) -> Value:
    key = column.key
    if key.startswith(FIELD):
        return _typed(line.fields.get(key.removeprefix(FIELD), ""), column.kind)
    if key in ("with_whom", "since_at", "due_on"):
        return _local(getattr(line.standing, key), zone)
    if key == "sets":
        return ", ".join(line.sets)
    if key == "withdrawn":
        return "yes" if line.withdrawn else "no"
    return _local(getattr(line, key), zone)


def _typed(value: str, kind: Kind) -> Value:
    if not value:
        return None
    if kind is Kind.NUMBER:
        return float(value)
    return date.fromisoformat(value) if kind is Kind.DATE else value


def _local(value: Value, zone: ZoneInfo) -> Value:
    return value.astimezone(zone) if isinstance(value, datetime) else value
