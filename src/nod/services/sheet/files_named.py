"""Documents by the names of their files: what a drawing or a link refers to."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.intake.file_names import alike
from nod.services.acts.seats import Seat
from nod.store.tables import DocumentRow, RevisionRow

_ASKED_AT_ONCE = 500


def documents_with_files(session: Session, seat: Seat, names: Iterable[str]) -> dict[str, str]:
    """By name as `alike` writes it, the document that a file of that name was filed for last, if the seat sees it.

    A copy only where its document is not seen.
    """
    wanted = sorted({alike(name) for name in names})
    found: dict[str, str] = {}
    for first in range(0, len(wanted), _ASKED_AT_ONCE):
        # Step by step, as SQLite would rather walk all documents of the project than look up a few.
        named = session.execute(
            select(RevisionRow.file_alike, RevisionRow.document_id)
            .where(RevisionRow.file_alike.in_(wanted[first : first + _ASKED_AT_ONCE]))
            .order_by(RevisionRow.copied_from == "", RevisionRow.filed_at)
        ).all()
        ids = {document_id for _, document_id in named}
        documents = session.execute(
            select(DocumentRow.id, DocumentRow.project_id, DocumentRow.folder_id).where(DocumentRow.id.in_(ids))
        )
        seen = {
            row.id for row in documents
            if row.project_id == seat.project.id and seat.at(row.folder_id) >= Level.READ
        }  # fmt: skip
        found |= {name: document_id for name, document_id in named if document_id in seen}
    return found
