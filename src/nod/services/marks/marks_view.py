"""Marks as those see them who may: their looks, threads, first places and what they measure (handbook §6)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Strict
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.marks import marks as rules
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.marks.linked_things import MarkLink, links_of
from nod.services.marks.mark_rows import shape_of
from nod.services.marks.scales import MeasuredShown, Measurer, measurer_for, units_of
from nod.store.tables import MARK_ORDER, DocumentRow, MarkRow, ProjectRow, ReplyRow, RevisionRow

# JSON has no tuples: a pair of numbers arrives as a list.
Pair = Annotated[tuple[float, float], Strict(False)]
Kind = Literal[
    "cloud", "rectangle", "ellipse", "line", "arrow", "polyline", "polygon", "freehand", "highlight", "text", "callout",
    "pin", "stamp", "symbol", "count", "distance", "path", "area", "perimeter", "angle",
]  # fmt: skip


class MarkLook(Command, Answered):
    """See `core.marks.marks.Look`: millimetres on paper, names of inks."""

    colour: str = "red"
    weight_mm: float = 0.5
    fill: str = ""
    opacity: float = 1.0
    dashed: bool = False
    type_mm: float = 3.5
    symbol: str = ""


class Reply(Answered):
    """`other_author` wrote it in another program, and `author` took it in."""

    id: str
    author: Who
    other_author: str
    text: str
    at: datetime


class FirstPlace(Answered):
    """The revision on which a mark was drawn that was carried forward, and the mark there."""

    mark: str
    revision_id: str
    revision: str


class Mark(Answered):
    """One mark as its viewer may see it. In pencil while `inked_at` is empty. `mine` allows changing it.

    One that is not `sound` cannot be drawn as it is kept, and is shown as a pin with its text.
    """

    id: str
    version: int
    page: int
    kind: Kind
    points: list[tuple[float, float]]
    rings: list[int]
    look: MarkLook
    text: str
    label: str
    discipline: str
    measured: MeasuredShown | None
    pin_number: int | None
    state: str
    author: Who
    other_author: str
    meant_for: Who | None
    locked: bool
    rank: int
    mine: bool
    may_change: bool
    drawn_at: datetime
    inked_at: datetime | None
    replies: list[Reply]
    first_place: FirstPlace | None
    touched: bool | None
    links: list[MarkLink]
    sound: bool


def list_marks(context: Context, actor: Actor, revision_id: str) -> list[Mark]:
    """All ink, and one's own pencil, in the order in which they lie over each other."""
    with context.database.read() as session:
        see_revision(session, actor, revision_id)
        query = select(MarkRow).where(
            MarkRow.revision_id == revision_id,
            MarkRow.removed_at.is_(None),
            or_(MarkRow.inked_at.is_not(None), MarkRow.author_id == actor.private_id),
        )
        rows = list(session.scalars(query.order_by(MarkRow.rank, MARK_ORDER)))
        return show_marks(session, actor, rows)


def show_marks(session: Session, actor: Actor, rows: list[MarkRow]) -> list[Mark]:
    """Rows as they are answered, in a fixed number of queries."""
    ids = [row.thread for row in rows]
    replies = list(session.scalars(select(ReplyRow).where(ReplyRow.mark_id.in_(ids)).order_by(ReplyRow.at)))
    came = _first_places(session, rows)
    links = links_of(session, actor, rows)
    named = {row.author_id for row in rows} | {row.meant_for for row in rows} | {reply.author_id for reply in replies}
    people = people_by_id(session, named)
    measure = measures_of(session, rows)
    threads: dict[str, list[Reply]] = {}
    for reply in replies:
        shown = Reply(
            id=reply.id, author=people[reply.author_id], other_author=reply.other_author, text=reply.text, at=reply.at
        )
        threads.setdefault(reply.mark_id, []).append(shown)
    return [
        _mark(
            row, people, threads.get(row.thread, []), links.get(row.thread, []), actor, measure(row),
            came.get(row.thread),
        )
        for row in rows
    ]  # fmt: skip


def _first_places(session: Session, rows: Sequence[MarkRow]) -> dict[str, FirstPlace]:
    """Where marks that were carried forward were drawn first."""
    first = {row.thread_id for row in rows if row.thread_id}
    if not first:
        return {}
    query = select(MarkRow.id, MarkRow.revision_id, RevisionRow.code).join(
        RevisionRow, RevisionRow.id == MarkRow.revision_id
    )
    found = session.execute(query.where(MarkRow.id.in_(first)))
    return {mark: FirstPlace(mark=mark, revision_id=revision, revision=code) for mark, revision, code in found}


def measures_of(session: Session, rows: Sequence[MarkRow]) -> Callable[[MarkRow], MeasuredShown | None]:
    """What rows of one revision measure, by the scales as they are now."""
    if not any(row.kind in rules.MEASURES for row in rows):
        return lambda row: None
    return revision_measurer(session, rows[0].revision_id, rows).of


def revision_measurer(session: Session, revision_id: str, rows: Sequence[MarkRow]) -> Measurer:
    revision = session.get_one(RevisionRow, revision_id)
    project_id = session.scalars(select(DocumentRow.project_id).where(DocumentRow.id == revision.document_id)).one()
    return measurer_for(session, revision, units_of(session.get_one(ProjectRow, project_id)), rows)


def _mark(
    row: MarkRow,
    people: dict[str, Who],
    replies: list[Reply],
    links: list[MarkLink],
    actor: Actor,
    measured: MeasuredShown | None,
    first_place: FirstPlace | None,
) -> Mark:
    mine = row.author_id == actor.person_id and actor.looker is None
    shape = shape_of(row)
    kind: Any = shape.kind.value
    return Mark(
        id=row.id, version=row.version, page=row.page, kind=kind, points=list(shape.points), sound=shape.sound,
        rings=list(shape.rings), measured=measured, look=MarkLook(**asdict(shape.look)), text=row.text, label=row.label,
        discipline=row.discipline,
        pin_number=row.pin_number, state=row.state, author=people[row.author_id],
        other_author=row.other_author, meant_for=people.get(row.meant_for), locked=row.locked,
        rank=row.rank, mine=mine, may_change=mine and not replies, drawn_at=row.drawn_at, inked_at=row.inked_at,
        replies=replies, first_place=first_place, touched=row.touched, links=links,
    )  # fmt: skip
