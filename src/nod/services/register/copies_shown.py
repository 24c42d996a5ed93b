"""Where a document lies besides: its copies in folders, as somebody who sees it and them is shown them."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.services.acts.answers import Answered
from nod.services.acts.seats import Seat
from nod.store.dialects.sqlite import one_of
from nod.store.tables import NO_COPY, DocumentRow, RevisionRow


class CopyShown(Answered):
    """`why` is what put it there, `verdict` what it came with; `passed`: another revision is in force.

    `taken_out`: somebody took it out of the folder again.
    """

    document_id: str
    revision_id: str
    revision: str
    folder: str
    why: str
    verdict: str
    put_at: datetime | None
    passed: bool
    taken_out: bool


def copies_seen(
    session: Session, seat: Seat, document_ids: Collection[str], paths: Mapping[str, str]
) -> dict[str, list[CopyShown]]:
    """By document, its copies in folders that the seat sees, by path."""
    query = (
        select(DocumentRow, RevisionRow)
        .join(RevisionRow, RevisionRow.id == DocumentRow.revision_id)
        .where(
            DocumentRow.copy_of != NO_COPY, one_of(DocumentRow.copy_of, document_ids), seat.sees(DocumentRow.folder_id),
        )
    )  # fmt: skip
    found: dict[str, list[CopyShown]] = {}
    for row, revision in session.execute(query):
        found.setdefault(row.copy_of, []).append(show_copy(row, revision, paths.get(row.folder_id, "")))
    return {of: sorted(each, key=lambda copy: copy.folder.casefold()) for of, each in found.items()}


def show_copy(row: DocumentRow, revision: RevisionRow, folder: str) -> CopyShown:
    return CopyShown(
        document_id=row.id, revision_id=revision.id, revision=revision.code, folder=folder, why=revision.copy_why,
        verdict=revision.copy_verdict, put_at=revision.copied_at, passed=row.release == "passed",
        taken_out=row.withdrawn,
    )  # fmt: skip
