"""Where a file arrived: what work on it concerns."""

from __future__ import annotations

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from nod.core.trail.entries import Subject
from nod.services.acts.work import Concern, Payload
from nod.store.tables import ArrivalRow, AttachmentRow, BatchRow

_MOST = 200


def of_file(session: Session, payload: Payload) -> list[Concern]:
    """The same bytes may have arrived in many places, some of them hidden from whoever sees one."""
    sha256: str = payload.get("sha256") or payload["after"]
    return _arrivals(session, ArrivalRow.sha256 == sha256) + _attached(session, sha256)


def _attached(session: Session, sha256: str) -> list[Concern]:
    """What it is attached to may be there for few: nothing is told but that it was given up."""
    query = select(AttachmentRow).where(AttachmentRow.sha256 == sha256).limit(_MOST)
    return [
        Concern(
            row.project_id, Subject("project", row.project_id), "an attached file", "/register/attached",
            person_id=row.added_by or "",
        )
        for row in session.scalars(query)
    ]  # fmt: skip


def of_arrival(session: Session, payload: Payload) -> list[Concern]:
    return _arrivals(session, ArrivalRow.id == payload["arrival_id"])


def _arrivals(session: Session, condition: ColumnElement[bool]) -> list[Concern]:
    query = select(ArrivalRow, BatchRow.folder_id).join(BatchRow, BatchRow.id == ArrivalRow.batch_id)
    return [
        Concern(row.project_id, Subject("arrival", row.id), row.file_name, f"/intake/{row.batch_id}", folder_id)
        for row, folder_id in session.execute(query.where(condition).limit(_MOST))
    ]
