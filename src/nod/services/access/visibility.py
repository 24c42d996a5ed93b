"""What exists for a person: the conditions that every list, count and search puts into its query (decision 0007).

They name their own aliases: a condition that shared a table with the query around it would silently look at the
row at hand instead of at all rows.
"""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.store.tables import (
    DocumentRow,
    RevisionRow,
)


def see_document(
    session: Session, actor: Actor, document_id: str, level: Level = Level.READ
) -> tuple[DocumentRow, Seat]:
    """Raises NotFound for a document that is not there for this person, NotAllowed below `level` in its folder."""
    document = session.scalars(select(DocumentRow).where(DocumentRow.id == document_id)).one_or_none()
    if document is None:
        raise NotFound(document_id)
    seat = take_seat(session, actor, document.project_id)
    if seat.at(document.folder_id) is Level.NONE:
        raise NotFound(document_id)
    seat.need_at(document.folder_id, level, document.number)
    return document, seat


def see_revision(
    session: Session, actor: Actor, revision_id: str, level: Level = Level.READ
) -> tuple[RevisionRow, DocumentRow, Seat]:
    """As `see_document`, by one of its revisions."""
    revision = session.get(RevisionRow, revision_id)
    if revision is None:
        raise NotFound(revision_id)
    document, seat = see_document(session, actor, revision.document_id, level)
    return revision, document, seat


def folders_of(session: Session, document_ids: set[str]) -> set[str]:
    """The folders these documents are in, for telling live."""
    return set(session.scalars(select(DocumentRow.folder_id).where(DocumentRow.id.in_(document_ids))))
