"""What a mark can be linked to: documents, reviews, transmittals that are there for a person; web addresses."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.acts.web_addresses import is_web_address
from nod.services.access.visibility import reviews_seen, see_revision, transmittals_seen
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat
from nod.services.register import search
from nod.store.tables import DocumentRow, ReviewRow, TransmittalRow

LinkKind = Literal["document", "review", "transmittal", "web"]
_MOST = 8


class LinkTarget(Answered):
    """`target` is the id of the thing, or a web address; `words` name it; a document opens at `revision_id`."""

    kind: LinkKind
    target: str
    words: str
    revision_id: str


class LinkTargets(Answered):
    targets: list[LinkTarget]


def find_targets(context: Context, actor: Actor, revision_id: str, words: str) -> LinkTargets:
    """What the words may mean, documents first; a web address means itself."""
    address = words.strip()
    if is_web_address(address):
        return LinkTargets(targets=[LinkTarget(kind="web", target=address, words=address, revision_id="")])
    with context.database.read() as session:
        _, document, seat = see_revision(session, actor, revision_id)
        like = f"%{address.replace('%', '').replace('_', '')}%"
        found: list[LinkTarget] = []
        if len(address) > 1 and "reviews" in seat.tools:
            named = or_(ReviewRow.name.ilike(like), ReviewRow.number.ilike(like))
            query = select(ReviewRow).where(ReviewRow.project_id == seat.project.id, named, reviews_seen(seat))
            found += [_review(row) for row in session.scalars(query.order_by(ReviewRow.number).limit(_MOST))]
        if len(address) > 1 and "transmittals" in seat.tools:
            seen = transmittals_seen(seat, actor.person_id)
            query_sent = select(TransmittalRow).where(
                TransmittalRow.project_id == seat.project.id, TransmittalRow.number.ilike(like), seen
            )
            found += [
                _transmittal(row)
                for row in session.scalars(query_sent.order_by(TransmittalRow.number.desc()).limit(_MOST))
            ]
        project_id, own = seat.project.id, document.id
    hits = search.search(context, actor, project_id, words, _MOST).documents
    documents = [
        LinkTarget(
            kind="document", target=hit.document_id, words=f"{hit.number} {hit.title}", revision_id=hit.revision_id
        )
        for hit in hits
        if hit.document_id != own
    ]
    return LinkTargets(targets=[*documents, *found])


def targets_of(
    session: Session, actor: Actor, seat: Seat, asked: Iterable[tuple[str, str]]
) -> dict[tuple[str, str], LinkTarget]:
    """Those of `asked` (kind and target) that are there for this person, in a fixed number of queries."""
    by_kind: dict[str, set[str]] = {}
    for kind, target in asked:
        by_kind.setdefault(kind, set()).add(target)
    found = [LinkTarget(kind="web", target=each, words=each, revision_id="") for each in by_kind.get("web", ())]
    project = seat.project.id
    if ids := by_kind.get("document"):
        query = select(DocumentRow).where(DocumentRow.project_id == project, DocumentRow.id.in_(ids))
        found += [_document(row) for row in session.scalars(query.where(seat.sees(DocumentRow.folder_id)))]
    if (ids := by_kind.get("review")) and "reviews" in seat.tools:
        reviews = select(ReviewRow).where(ReviewRow.project_id == project, ReviewRow.id.in_(ids), reviews_seen(seat))
        found += [_review(row) for row in session.scalars(reviews)]
    if (ids := by_kind.get("transmittal")) and "transmittals" in seat.tools:
        sent = select(TransmittalRow).where(TransmittalRow.project_id == project, TransmittalRow.id.in_(ids))
        seen = transmittals_seen(seat, actor.person_id)
        found += [_transmittal(row) for row in session.scalars(sent.where(seen))]
    return {(each.kind, each.target): each for each in found}


def _document(row: DocumentRow) -> LinkTarget:
    words = f"{row.number} {row.title}"
    return LinkTarget(kind="document", target=row.id, words=words, revision_id=row.revision_id)


def _review(row: ReviewRow) -> LinkTarget:
    return LinkTarget(kind="review", target=row.id, words=f"{row.number} {row.name}", revision_id="")


def _transmittal(row: TransmittalRow) -> LinkTarget:
    return LinkTarget(kind="transmittal", target=row.id, words=row.number, revision_id="")
