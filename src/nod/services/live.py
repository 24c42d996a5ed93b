"""What is told live: only that something changed, and only to those who may know."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, or_, select

from nod.services.context import Context
from nod.store.tables import LiveEventRow, MembershipRow

_MOST_AT_ONCE = 500


@dataclass(frozen=True)
class Event:
    """`topic` is what to fetch again, `subject_id` which one of it."""

    seq: int
    topic: str
    subject_id: str
    project_id: str
    by_person_id: str


def last_seq(context: Context) -> int:
    """The number of the newest event; 0 before the first."""
    with context.database.read() as session:
        return session.scalar(select(func.max(LiveEventRow.seq))) or 0


def has_gap(context: Context, after: int) -> bool:
    """Whether events after `after` have been forgotten already: then everything is to be fetched again."""
    with context.database.read() as session:
        oldest = session.scalar(select(func.min(LiveEventRow.seq)))
        return oldest is not None and after + 1 < oldest


def events_after(context: Context, person_id: str, after: int) -> tuple[list[Event], int]:
    """Those the person may know, in order, and the number up to which all have been considered."""
    with context.database.read() as session:
        until = session.scalar(select(func.max(LiveEventRow.seq)).where(LiveEventRow.seq <= after + _MOST_AT_ONCE))
        query = (
            select(LiveEventRow)
            .join(MembershipRow, MembershipRow.project_id == LiveEventRow.project_id)
            .where(
                LiveEventRow.seq > after,
                LiveEventRow.seq <= (until or after),
                MembershipRow.person_id == person_id,
                MembershipRow.level > 0,
                or_(LiveEventRow.only_person_id == "", LiveEventRow.only_person_id == person_id),
            )
            .order_by(LiveEventRow.seq)
        )
        events = [
            Event(row.seq, row.topic, row.subject_id, row.project_id, row.by_person_id)
            for row in session.scalars(query)
        ]
    return events, max(until or after, after)
