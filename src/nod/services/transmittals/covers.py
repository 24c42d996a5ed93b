"""What the code on a cover sheet tells whoever holds one, for ever: what of the transmittal still holds."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select

from nod.core.acts.refusals import NotFound
from nod.core.register.in_force import standing_of
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.register.in_force import around_of
from nod.services.transmittals.transmittals_view import void_shown
from nod.store.tables import CompanyRow, DocumentRow, RevisionRow, TransmittalDocumentRow, TransmittalRow


class CoverDocument(Answered):
    """A line of the cover, by the number that stands on it. `kind` and `words` as in `Standing`.

    `holds`: it is what to work from.
    """

    number: str
    revision: str
    kind: str
    words: str
    holds: bool


class CoverTold(Answered):
    """No titles and no people: whoever holds the cover has them on it. `replaced_by` is empty where nothing came.

    `holding` counts the documents that hold.
    """

    number: str
    company: str
    sent_at: datetime
    void_at: datetime | None
    replaced_by: str
    documents: list[CoverDocument]
    holding: int
    at: datetime


def read_cover(context: Context, code: str) -> CoverTold:
    """Raises NotFound for a code that was never on a cover."""
    with context.database.read() as session:
        row = session.scalars(select(TransmittalRow).where(TransmittalRow.code == code.lower())).one_or_none()
        if not code or row is None:
            raise NotFound
        query = (
            select(TransmittalDocumentRow.number, RevisionRow.code, DocumentRow)
            .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
            .join(DocumentRow, DocumentRow.id == TransmittalDocumentRow.document_id)
            .where(TransmittalDocumentRow.transmittal_id == row.id)
            .order_by(TransmittalDocumentRow.place)
        )
        documents = [_line(number, revision, document) for number, revision, document in session.execute(query)]
        void = void_shown(session, row)
        return CoverTold(
            number=row.number, company=session.get_one(CompanyRow, row.company_id).name, sent_at=row.sent_at,
            void_at=row.voided_at, replaced_by=void.replaced_by if void else "", at=context.clock.now(),
            documents=documents, holding=sum(each.holds for each in documents),
        )  # fmt: skip


def _line(number: str, revision: str, document: DocumentRow) -> CoverDocument:
    stands = standing_of(revision, around_of(document))
    holds = revision == document.in_force and not document.withdrawn
    return CoverDocument(number=number, revision=revision, kind=stands.kind, words=stands.words, holds=holds)
