"""The log of reviews: filtered, counted, a page at a time; running ones first, the soonest due on top (handbook §8)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import ColumnElement, Select, exists, func, or_, select

from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, today_in
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import STEP
from nod.services.reviews.reviews_view import ReviewLine, review_lines
from nod.store.tables import (
    DocumentRow,
    OpenWorkHolderRow,
    OpenWorkRow,
    PersonRow,
    ReviewDocumentRow,
    ReviewRow,
)

Whose = Literal["", "with_me", "my_company", "started"]
State = Literal["", "running", "closed", "cancelled", "recalled"]


@dataclass(frozen=True)
class AskedLog:
    """`words` are looked for in number and name, `document` in the numbers of its documents. `start` is the first line
    wanted, from 0."""

    project_id: str
    words: str = ""
    whose: Whose = ""
    state: State = ""
    late: bool = False
    route: str = ""
    document: str = ""
    start: int = 0
    limit: int = 100


class ReviewLog(Answered):
    """`total` counts what the filters leave; `routes`, on the first page, are those that were gone on, by name."""

    lines: list[ReviewLine]
    total: int
    routes: list[str]


def list_log(context: Context, actor: Actor, asked: AskedLog) -> ReviewLog:
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        seat.need_tool("reviews")
        now = context.clock.now()
        seen = [ReviewRow.project_id == asked.project_id, REVIEW.seen(seat)]
        kept = [*seen, *_filters(seat, actor, asked, today_in(seat.project, now))]
        total = session.scalar(select(func.count()).select_from(ReviewRow).where(*kept)) or 0
        rows = list(session.scalars(_ordered(select(ReviewRow).where(*kept)).offset(asked.start).limit(asked.limit)))
        routes = select(ReviewRow.route_name).where(*seen).distinct().order_by(ReviewRow.route_name)
        names = [] if asked.start else list(session.scalars(routes))
        return ReviewLog(
            lines=review_lines(session, rows, LateBy(session, seat.project, now)), total=total, routes=names
        )


def _ordered(query: Select[Any]) -> Select[Any]:
    due = (
        select(OpenWorkRow.thing_id, func.min(OpenWorkRow.due_on).label("due"))
        .where(OpenWorkRow.kind == STEP.code, ~OpenWorkRow.is_coming)
        .group_by(OpenWorkRow.thing_id)
        .subquery()
    )
    runs = ReviewRow.state == "running"
    return query.outerjoin(due, due.c.thing_id == ReviewRow.id).order_by(
        ~runs, func.iif(runs, due.c.due, None), func.iif(runs, None, ReviewRow.started_at).desc(), ReviewRow.number
    )


def _filters(seat: Seat, actor: Actor, asked: AskedLog, today: Any) -> list[ColumnElement[bool]]:
    found: list[ColumnElement[bool]] = []
    if asked.words.strip():
        words = asked.words.strip()
        found.append(
            or_(ReviewRow.number.contains(words, autoescape=True), ReviewRow.name.contains(words, autoescape=True))
        )
    if asked.whose:
        found.append(_whose(actor, asked.whose))
    if asked.state:
        found.append(ReviewRow.state == asked.state)
    if asked.route:
        found.append(ReviewRow.route_name == asked.route)
    if asked.late:
        found.append(_open_step(OpenWorkRow.due_on < today))
    if asked.document.strip():
        number = DocumentRow.number.contains(asked.document.strip(), autoescape=True)
        of = exists().where(
            ReviewDocumentRow.review_id == ReviewRow.id, DocumentRow.id == ReviewDocumentRow.document_id, number
        )
        found.append(of)
    return found


def _whose(actor: Actor, whose: Whose) -> ColumnElement[bool]:
    if whose == "started":
        return ReviewRow.started_by == actor.person_id
    holder = (OpenWorkHolderRow.work_id == OpenWorkRow.id) & (OpenWorkHolderRow.kind == "person")
    if whose == "with_me":
        return _open_step(holder, OpenWorkHolderRow.holder_id == actor.person_id)
    theirs = select(PersonRow.id).where(PersonRow.company_id == actor.company_id)
    return _open_step(holder, OpenWorkHolderRow.holder_id.in_(theirs))


def _open_step(*more: ColumnElement[bool]) -> ColumnElement[bool]:
    """There is a step of it that runs and of which this holds."""
    running = (OpenWorkRow.thing_id == ReviewRow.id, OpenWorkRow.kind == STEP.code, ~OpenWorkRow.is_coming)
    return exists().where(*running, *more)
