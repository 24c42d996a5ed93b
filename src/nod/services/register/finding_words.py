"""What a document is found by beside its number and title."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.register.number_shapes import shapes
from nod.store.tables import DocumentRow, DocumentValueRow, FormerNumberRow


def gather_words(session: Session, row: DocumentRow) -> None:
    """Its fields' values and its old numbers; a copy's are those of the document that it came from."""
    values = session.scalars(
        select(DocumentValueRow.value).where(DocumentValueRow.seq == row.seq).order_by(DocumentValueRow.field)
    )
    query = select(FormerNumberRow.number).where(FormerNumberRow.document_id == (row.copy_of or row.id))
    former = list(session.scalars(query.order_by(FormerNumberRow.number)))
    row.field_words = " ".join([*values, *former])
    row.shapes = " ".join(shapes(number) for number in (row.number, *former))
