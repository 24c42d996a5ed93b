"""What exists for a person: the conditions that every list, count and search puts into its query (decision 0007).

They name their own aliases: a condition that shared a table with the query around it would silently look at the
row at hand instead of at all rows.
"""

from __future__ import annotations

from sqlalchemy import ColumnElement, exists, or_, select, true
from sqlalchemy.orm import Session, aliased

from nod.core.access.levels import Level, Reach
from nod.core.acts.refusals import NotFound
from nod.services.acts.seats import Actor, Seat, grants_of, holder_of, take_seat, tree_of
from nod.store.tables import (
    AuditEntryRow,
    AuditSubjectRow,
    DocumentRow,
    MembershipRow,
    RecipientRow,
    ReviewDocumentRow,
    ReviewRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
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


def who_sees(session: Session, document: DocumentRow) -> list[str]:
    """Ids of the project's people who see the document."""
    project_id = document.project_id
    reach = Reach(tree_of(session, project_id), grants_of(session, project_id))
    query = select(MembershipRow).where(MembershipRow.project_id == project_id, MembershipRow.state == "active")
    found = []
    for member in session.scalars(query):
        effects = reach.of(holder_of(session, member))
        if document.folder_id in effects and effects[document.folder_id].level >= Level.READ:
            found.append(member.person_id)
    return found


def reviews_seen(seat: Seat) -> ColumnElement[bool]:
    """A review speaks of all its documents, so it is there for those who see all of them."""
    if seat.runs:
        return true()
    of, document = aliased(ReviewDocumentRow), aliased(DocumentRow)
    hidden = exists().where(of.review_id == ReviewRow.id, document.id == of.document_id, seat.hides(document.folder_id))
    return ~hidden


def see_review(session: Session, actor: Actor, review_id: str) -> tuple[ReviewRow, Seat]:
    """Raises NotFound for a review that is not there for this person, NotAllowed without the tool."""
    row = session.get(ReviewRow, review_id)
    if row is None:
        raise NotFound(review_id)
    seat = take_seat(session, actor, row.project_id)
    if session.scalar(select(ReviewRow.id).where(ReviewRow.id == review_id, reviews_seen(seat))) is None:
        raise NotFound(review_id)
    seat.need_tool("reviews")
    return row, seat


def transmittals_seen(seat: Seat, person_id: str) -> ColumnElement[bool]:
    """One's own, those sent to oneself, and those all of whose documents one sees."""
    if seat.runs:
        return true()
    of, document, recipient = aliased(TransmittalDocumentRow), aliased(DocumentRow), aliased(RecipientRow)
    hidden = exists().where(
        of.transmittal_id == TransmittalRow.id, document.id == of.document_id, seat.hides(document.folder_id)
    )
    to_me = exists().where(recipient.transmittal_id == TransmittalRow.id, recipient.person_id == person_id)
    return or_(TransmittalRow.sent_by == person_id, to_me, ~hidden)


def entries_seen(seat: Seat, actor: Actor) -> ColumnElement[bool]:
    """Entries of the trail about documents, reviews and transmittals one sees, and one's own; no hidden document."""
    if seat.runs:
        return true()
    subject, row = aliased(AuditSubjectRow), aliased(DocumentRow)
    about = subject.seq == AuditEntryRow.seq
    document = exists().where(about, subject.kind == "document", row.id == subject.subject_id)
    review = exists().where(about, subject.kind == "review", ReviewRow.id == subject.subject_id)
    sent = exists().where(about, subject.kind == "transmittal", TransmittalRow.id == subject.subject_id)
    return (
        ~document.where(seat.hides(row.folder_id))
        & ~review.where(~reviews_seen(seat))
        & ~sent.where(~transmittals_seen(seat, actor.person_id))
        & or_(document, review, sent, AuditEntryRow.person_id == actor.private_id)
    )


def folders_of(session: Session, document_ids: set[str]) -> set[str]:
    """The folders these documents are in, for telling live."""
    return set(session.scalars(select(DocumentRow.folder_id).where(DocumentRow.id.in_(document_ids))))
