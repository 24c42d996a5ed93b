"""What a transmittal wants: that each of its recipients acknowledges it."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.counted import counted
from nod.core.trail.entries import Subject
from nod.services.open_work.kinds import Opened, Said, WorkKind, work_kind
from nod.services.open_work.open_work import Wanted, set_open_work
from nod.services.transmittals.transmittals_view import transmittal_lines
from nod.store.tables import RecipientRow, TransmittalRow


def want_acknowledgements(session: Session, row: TransmittalRow) -> None:
    """Of all who have not yet acknowledged it, unless it is void."""
    session.flush()
    query = select(RecipientRow.person_id).where(
        RecipientRow.transmittal_id == row.id, RecipientRow.acknowledged_at.is_(None), ~RecipientRow.copied
    )
    people = list(session.scalars(query.order_by(RecipientRow.place)))
    wanted = Wanted(
        ACKNOWLEDGE.code, people, each=True, waiter_id=row.sent_by, since_at=row.sent_at, due_on=row.answer_wanted_on
    )
    waits = people and row.voided_at is None
    set_open_work(session, row.project_id, Subject("transmittal", row.id), [wanted] if waits else [])


def _say_mine(session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
    lines = transmittal_lines(session, [row for _, row in opened])
    return {
        work.id: Said(f"{line.purpose}, from {line.sent_by.name}", counted(line.documents, "document"), "Acknowledge")
        for (work, _), line in zip(opened, lines, strict=True)
    }


def _say_theirs(session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
    lines = transmittal_lines(session, [row for _, row in opened])
    return {
        work.id: Said(line.purpose, f"{line.acknowledged} of {line.recipients} acknowledged", "Open")
        for (work, _), line in zip(opened, lines, strict=True)
    }


ACKNOWLEDGE = work_kind(WorkKind("acknowledge", "transmittal", 3, _say_mine, _say_theirs))
