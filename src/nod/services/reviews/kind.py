"""Reviews as things: a review speaks of all its documents, so it is there for those who see all of them."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import aliased

from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.tables import DocumentRow, ReviewDocumentRow, ReviewRow


def _folders(review_id: Any) -> Select[Any]:
    of, document = aliased(ReviewDocumentRow), aliased(DocumentRow)
    query = select(document.folder_id).join(of, of.document_id == document.id)
    return query.where(of.review_id == review_id)


REVIEW = thing_kind(
    ThingKind(
        code="review",
        words="review",
        plural="reviews",
        row=ReviewRow,
        audience=AudienceOf(folders=(_folders,)),
        number=lambda row: row.number,
        title=lambda row: row.name,
        address=lambda row: f"/reviews/{row.id}",
        named_by=(ReviewRow.number, ReviewRow.name),
        listed=(ReviewRow.id, ReviewRow.number, ReviewRow.name),
        newest=ReviewRow.number,
        topic="reviews",
        tool="reviews",
    )
)
