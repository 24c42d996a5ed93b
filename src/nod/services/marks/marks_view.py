"""Marks as those see them who may: their looks, threads, first places and what they measure (handbook §6)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Strict
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.marks import marks as rules
from nod.core.marks.readers import EVERYBODY
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, take_seat
from nod.services.marks.linked_things import MarkLink, links_of
from nod.services.marks.mark_rows import is_read_by, marks_with_threads, shape_of
from nod.services.marks.readers import MarkReaders, shown_readers
from nod.services.marks.scales import MeasuredShown, Measurer, measurer_for, units_of
from nod.services.threads.said import Author, Reply, author_ids, author_of, replies_of, revision_codes
from nod.store.tables import DocumentRow, MarkRow, ProjectRow, RevisionRow, SessionRow

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


class FirstPlace(Answered):
    """The revision on which a mark was drawn that was carried forward, and the mark there."""

    mark: str
    revision_id: str
    revision: str


class Mark(Answered):
    """One mark with its thread, as its viewer may see it. In pencil while `inked_at` is empty.

    `readers` are those who read it, none where everybody does who sees the sheet; `may_open`: the viewer opens it to
    more. `session` is the number of the session in which it was made. `mine` allows changing it. One that is not
    `sound` cannot be drawn as it is kept, and is shown as a pin.
    """

    id: str
    thread_id: str
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
    author: Author
    meant_for: Who | None
    locked: bool
    rank: int
    mine: bool
    may_change: bool
    drawn_at: datetime
    inked_at: datetime | None
    readers: list[MarkReaders]
    may_open: bool
    session_id: str
    session: str
    replies: list[Reply]
    first_place: FirstPlace | None
    touched: bool | None
    links: list[MarkLink]
    sound: bool


def list_marks(context: Context, actor: Actor, revision_id: str) -> list[Mark]:
    """The ink that is for the viewer, and their own pencil, in the order in which they lie over each other."""
    with context.database.read() as session:
        _, document, seat = see_revision(session, actor, revision_id, let_in=True)
        query = marks_with_threads().where(
            MarkRow.revision_id == revision_id, MarkRow.removed_at.is_(None), is_read_by(seat, document)
        )
        rows = list(session.scalars(query.order_by(MarkRow.rank, MarkRow.seq)))
        return show_marks(session, actor, rows)


def show_marks(session: Session, actor: Actor, rows: list[MarkRow]) -> list[Mark]:
    """Rows as they are answered, in a fixed number of queries."""
    return as_seen_by(session, actor, rows, show_to_nobody(session, rows))


def as_seen_by(session: Session, actor: Actor, rows: Sequence[MarkRow], shown: Sequence[Mark]) -> list[Mark]:
    """What is shown to nobody, as it is for somebody."""
    links = links_of(session, actor, {row.thread_id for row in rows})

    some = next((row for row in rows if row.thread.readers != EVERYBODY), None)
    runs = some is not None and actor.looker is None and take_seat(session, actor, some.thread.project_id).runs

    def theirs(row: MarkRow, mark: Mark) -> Mark:
        mine = row.thread.author_id == actor.person_id and actor.looker is None
        own = {
            "mine": mine, "may_change": mine and not mark.replies, "may_open": bool(mark.readers) and (mine or runs),
            "links": links.get(mark.thread_id, []),
        }  # fmt: skip
        return mark.model_copy(update=own)

    return [theirs(row, mark) for row, mark in zip(rows, shown, strict=True)]


def show_to_nobody(session: Session, rows: Sequence[MarkRow]) -> list[Mark]:
    """What is the same for all who may see these marks: nobody's own, and without links."""
    threads = {row.thread_id: row.thread for row in rows}
    replies = replies_of(session, threads)
    came = _first_places(session, rows)
    named = author_ids(threads.values()) | {thread.meant_for for thread in threads.values()}
    people = people_by_id(session, named)
    measure = measures_of(session, rows)
    readers = shown_readers(session, threads.values())
    numbers = _session_numbers(session, {thread.session_id for thread in threads.values()} - {""})
    return [
        _mark(row, people, replies.get(row.thread_id, []), measure(row), came.get(row.id)).model_copy(
            update={
                "readers": readers.get(row.thread_id, []),
                "session": numbers.get(threads[row.thread_id].session_id, ""),
            }
        )
        for row in rows
    ]


def _session_numbers(session: Session, ids: set[str]) -> dict[str, str]:
    if not ids:
        return {}
    return dict(session.execute(select(SessionRow.id, SessionRow.number).where(SessionRow.id.in_(ids))).all())


def _first_places(session: Session, rows: Sequence[MarkRow]) -> dict[str, FirstPlace]:
    """Where marks that were carried forward were drawn first; a thread has the id of its first mark."""
    carried = [row for row in rows if row.thread_id != row.id]
    codes = revision_codes(session, {row.thread.said_on for row in carried})
    return {
        row.id: FirstPlace(mark=row.thread_id, revision_id=row.thread.said_on, revision=codes[row.thread.said_on])
        for row in carried
        if row.thread.said_on in codes
    }


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
    measured: MeasuredShown | None,
    first_place: FirstPlace | None,
) -> Mark:
    thread = row.thread
    shape = shape_of(row)
    kind: Any = shape.kind.value
    return Mark(
        id=row.id, thread_id=row.thread_id, version=row.seen_version, page=row.page, kind=kind,
        points=list(shape.points), sound=shape.sound, rings=list(shape.rings), measured=measured,
        look=MarkLook(**asdict(shape.look)), text=thread.text, label=row.label, discipline=row.discipline,
        pin_number=row.pin_number, state=thread.state, author=author_of(thread, people),
        meant_for=people.get(thread.meant_for), locked=row.locked, rank=row.rank, mine=False,
        may_change=False, drawn_at=thread.said_at, inked_at=thread.shared_at, readers=[], may_open=False,
        session_id=thread.session_id, session="", replies=replies,
        first_place=first_place, touched=row.touched, links=[],
    )  # fmt: skip
