"""The log of reviews taken away as XLSX or CSV: what the filters leave, in the order in which it is shown."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import select

from nod.core.trail.entries import FactKind
from nod.formats.files.spreadsheet import Value
from nod.services.acts.answers import named
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.files.tables_out import Exported, LogAsked, log_out
from nod.services.reviews.log import AskedLog, list_log
from nod.services.reviews.reviews_view import ReviewLine
from nod.store.dialects.sqlite import one_of
from nod.store.tables import ReviewRow

_PAGE = 500
_HEADS = (
    ("Number", 70), ("Name", 260), ("State", 80), ("Route", 180), ("Documents", 70), ("Step", 120), ("With", 220),
    ("Since", 130), ("Due", 90), ("Days late", 70), ("Answer by contract", 110), ("Started by", 180), ("Started", 130),
    ("Ended", 130),
)  # fmt: skip
"""And their widths in pixels."""


def take_log(context: Context, actor: Actor, asked: AskedLog, form: Literal["xlsx", "csv"]) -> Exported:
    """Raises RuleBroken for more than goes into one file."""
    total = list_log(context, actor, replace(asked, limit=1)).total
    log = LogAsked(asked.project_id, "reviews", FactKind.REVIEW_LOG_TAKEN, total, form)
    return log_out(context, actor, log, _HEADS, lambda zone: _rows(context, actor, asked, zone, total))


def _rows(context: Context, actor: Actor, asked: AskedLog, zone: ZoneInfo, total: int) -> Iterator[list[Value]]:
    for start in range(0, total, _PAGE):
        lines = list_log(context, actor, replace(asked, start=start, limit=_PAGE)).lines
        with context.database.read() as session:
            query = select(ReviewRow.id, ReviewRow.route_name, ReviewRow.answer_by)
            more = {
                row.id: row for row in session.execute(query.where(one_of(ReviewRow.id, [each.id for each in lines])))
            }
        for line in lines:
            yield _cells(line, more[line.id].route_name, more[line.id].answer_by, zone)


def _cells(line: ReviewLine, route: str, answer_by: Value, zone: ZoneInfo) -> list[Value]:
    def local(at: datetime | None) -> datetime | None:
        return at.astimezone(zone) if at else None

    runs, standing = line.state == "running", line.standing
    return [
        line.number, line.name, line.state, route, line.documents, line.step if runs else None, standing.with_whom,
        local(standing.since_at), standing.due_on, standing.days_late or None, answer_by, named(line.started_by),
        local(line.started_at), local(line.ended_at),
    ]  # fmt: skip
