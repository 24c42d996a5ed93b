"""What is told live: only that something changed, and only to those who may know."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import ColumnElement, and_, exists, func, or_, select

from nod.core.acts.refusals import NotFound
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.store.tables import LiveEventFolderRow, LiveEventRow

_MOST_AT_ONCE = 500


@dataclass(frozen=True)
class Event:
    """`topic` is what to fetch again, `subject_id` which one of it; `key` is its name outside."""

    key: str
    topic: str
    subject_id: str
    project_id: str
    by_person_id: str


def last_seq(context: Context) -> int:
    """The number of the newest event; 0 before the first."""
    with context.database.read() as session:
        return session.scalar(select(func.max(LiveEventRow.seq))) or 0


def seq_of(context: Context, key: str) -> int | None:
    """The number behind an event's name; None for one that has been forgotten: then all is to be fetched again."""
    with context.database.read() as session:
        return session.scalar(select(LiveEventRow.seq).where(LiveEventRow.key == key))


def key_of(context: Context, seq: int) -> str:
    """The name of an event by its number; empty for none."""
    with context.database.read() as session:
        return session.scalar(select(LiveEventRow.key).where(LiveEventRow.seq == seq)) or ""


def events_after(context: Context, actor: Actor, after: int) -> tuple[list[Event], int]:
    """Those the person may know, in order, and the number up to which all have been considered."""
    with context.database.read() as session:
        until = session.scalar(select(func.max(LiveEventRow.seq)).where(LiveEventRow.seq <= after + _MOST_AT_ONCE))
        lately = (LiveEventRow.seq > after, LiveEventRow.seq <= (until or after))
        rows: list[LiveEventRow] = []
        for project_id in session.scalars(select(LiveEventRow.project_id).where(*lately).distinct()).all():
            try:
                seat = take_seat(session, actor, project_id)
            except NotFound:
                continue
            rows += session.scalars(select(LiveEventRow).where(*lately, _known_to(actor, seat)))
        events = [
            Event(row.key, row.topic, row.subject_id, row.project_id, row.by_person_id)
            for row in sorted(rows, key=lambda row: row.seq)
        ]
    return events, max(until or after, after)


def _known_to(actor: Actor, seat: Seat) -> ColumnElement[bool]:
    """Of the seat's project: what is for this person alone, and what speaks of nothing but folders they see."""
    hidden = exists().where(LiveEventFolderRow.seq == LiveEventRow.seq, seat.hides(LiveEventFolderRow.folder_id))
    for_all = LiveEventRow.only_person_id == ""
    return and_(
        LiveEventRow.project_id == seat.project.id,
        or_(LiveEventRow.only_person_id == (actor.private_id or "-"), for_all if seat.runs else for_all & ~hidden),
    )
