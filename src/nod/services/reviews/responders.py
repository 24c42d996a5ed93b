"""Outside contacts whose documents go round in a review: those that came from them, by name, or from their company."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.reviews.comments import CommentState
from nod.services.reviews.roster import contact_ids
from nod.services.reviews.words_shown import words_for_all
from nod.store.tables import (
    CompanyRow,
    PersonRow,
    ReviewCommentRow,
    ReviewDocumentRow,
    ReviewRow,
    RevisionRow,
)


def contacts_of(session: Session, project_id: str) -> list[tuple[str, str, str]]:
    """Id, name and the name of the company of each outside contact."""
    query = (
        select(PersonRow.id, PersonRow.name, CompanyRow.name)
        .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
        .where(PersonRow.id.in_(contact_ids(session, project_id)))
        .order_by(PersonRow.name)
    )
    return [(id, name, company) for id, name, company in session.execute(query)]


def documents_of(session: Session, review: ReviewRow, people: Iterable[tuple[str, str, str]]) -> dict[str, set[str]]:
    """By contact, ids of the documents in the review that came from them or from their company."""
    query = (
        select(ReviewDocumentRow.document_id, RevisionRow.came_from, RevisionRow.came_person)
        .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
        .where(ReviewDocumentRow.review_id == review.id)
    )
    came = session.execute(query).all()
    return {
        id: {document for document, company_of, person_of in came if company_of == company or person_of == name}
        for id, name, company in people
    }


def responds_on(session: Session, review: ReviewRow, person_id: str) -> frozenset[str]:
    """Ids of the documents on which a contact responds."""
    people = [each for each in contacts_of(session, review.project_id) if each[0] == person_id]
    return frozenset(documents_of(session, review, people).get(person_id, ()))


def open_of_contacts(session: Session, review: ReviewRow) -> dict[str, tuple[int, int]]:
    """By contact, how many open comments there are on documents of theirs that are shown, and how many of
    these are not released.

    Without those who have none.
    """
    query = select(ReviewCommentRow.document_id, ReviewCommentRow.released_at).where(
        ReviewCommentRow.review_id == review.id, ReviewCommentRow.state == CommentState.OPEN.value
    )
    words = words_for_all(session, review)
    still = [each for each in session.execute(query) if words.of(each.document_id)]
    theirs = documents_of(session, review, contacts_of(session, review.project_id)) if still else {}
    found = {id: [released for document, released in still if document in own] for id, own in theirs.items()}
    return {id: (len(each), each.count(None)) for id, each in found.items() if each}
