"""What is said in a review, and whom it is shown: at once, or when a document has left it (handbook §8)."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.reviews.path import Shows
from nod.core.reviews.running import DocumentState, PlaceState, ReviewState, StepState
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import Seat
from nod.services.marks.hindrances import hindrance
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_rows import marks_with_threads
from nod.services.marks.mark_threads import open_mark
from nod.services.marks.readers import is_open_ink, reads_with
from nod.services.reviews.kind import SAYS
from nod.services.reviews.review_rows import LoadedReview
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    DocumentRow,
    MarkRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    StepPlaceRow,
)


@dataclass(frozen=True)
class WordsShown:
    """All of it, or what is said of the documents that have left."""

    everything: bool
    left: frozenset[str]

    def of(self, document_id: str) -> bool:
        return self.everything or document_id in self.left


def words_for_all(session: Session, row: ReviewRow) -> WordsShown:
    """What is shown to whoever sees the review."""
    if row.shows == Shows.AT_ONCE.value or row.state == ReviewState.CLOSED.value:
        return WordsShown(everything=True, left=frozenset())
    of = ReviewDocumentRow
    query = select(of.document_id).where(of.review_id == row.id, of.state != DocumentState.GOING.value)
    return WordsShown(everything=False, left=frozenset(session.scalars(query)))


def words_for(session: Session, seat: Seat, row: ReviewRow) -> WordsShown:
    """What is shown to one who sees the review: to its people, and to whoever runs the project, all of it."""
    shown = words_for_all(session, row)
    if shown.everything:
        return shown
    all_of_it = session.scalar(select(ReviewRow.id).where(ReviewRow.id == row.id, SAYS.seen(seat)))
    return WordsShown(everything=True, left=frozenset()) if all_of_it else shown


def says(row: ReviewRow) -> tuple[Subject, ...]:
    """What an entry is about besides, where it tells what was said: others see it when they see that."""
    return (Subject(SAYS.code, row.id),) if row.shows == Shows.END.value else ()


def open_ink_of(act: Act, loaded: LoadedReview, left: Collection[str]) -> None:
    """What was inked for the review's people, on documents that have left it, is for everybody who sees them."""
    row = loaded.row
    if not left or row.shows != Shows.END.value:
        return
    revisions = [each.revision_id for each in loaded.documents if each.document_id in left]
    query = marks_with_threads().where(
        one_of(MarkRow.revision_id, revisions), ~is_open_ink(), reads_with("review", row.id)
    )
    marks: dict[str, MarkRow] = {}
    for mark in act.session.scalars(query.order_by(MarkRow.seq)):
        marks.setdefault(mark.thread_id, mark)
    of = select(DocumentRow).where(one_of(DocumentRow.id, {mark.document_id for mark in marks.values()}))
    for document in act.session.scalars(of).all():
        opened: list[MarkRow] = []
        for mark in marks.values():
            if mark.document_id == document.id:
                opened += open_mark(act, document, mark, None, f"{document.number} has left {row.number}")
        tell(act, document, opened)


@hindrance
def words_only(session: Session, person_id: str, revision_id: str) -> str:
    """While all that asks somebody about a revision are steps that are answered in words."""
    query = (
        select(ReviewStepRow.marking, ReviewRow.number, ReviewStepRow.name)
        .join(ReviewStepRow, ReviewStepRow.review_id == ReviewRow.id)
        .join(StepPlaceRow, StepPlaceRow.step_id == ReviewStepRow.id)
        .join(ReviewDocumentRow, ReviewDocumentRow.review_id == ReviewRow.id)
        .where(
            ReviewDocumentRow.revision_id == revision_id,
            ReviewDocumentRow.state == DocumentState.GOING.value,
            ReviewStepRow.state == StepState.RUNNING.value,
            StepPlaceRow.person_id == person_id,
            StepPlaceRow.state == PlaceState.ASKED.value,
            or_(ReviewStepRow.taken_by.is_(None), ReviewStepRow.taken_by == person_id),
        )
        .order_by(ReviewRow.number)
    )
    asked = session.execute(query).all()
    if not asked or any(marking for marking, _, _ in asked):
        return ""
    _, number, step = asked[0]
    return f"{number} asks you for words in its step {step}, and not for marks. Say it there."
