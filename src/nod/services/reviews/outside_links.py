"""Links by which outside contacts take part in a review, while it runs (handbook §8, whom)."""

from __future__ import annotations

from typing import Any, Literal

from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from nod.core.reviews.running import PlaceState, ReviewState
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.links import part_links
from nod.services.links.part_links import links_of
from nod.services.links.rooms import LinkRoom, link_room
from nod.services.mail.mails import SecretLink
from nod.services.reviews.responders import responds_on
from nod.store.tables import ReviewCommentRow, ReviewRow, ReviewStepRow, StepPlaceRow

_HAVE_A_PART = (PlaceState.ASKED.value, PlaceState.HANDED_IN.value)


def _names(session: Session, row: Any, person_id: str) -> bool:
    return has_a_part(session, row, person_id) or bool(released_to(session, row, person_id))


def has_a_part(session: Session, row: ReviewRow, person_id: str) -> bool:
    """Asked in it, or handed in, while it runs."""
    if row.state != ReviewState.RUNNING.value:
        return False
    place = select(StepPlaceRow.step_id).join(ReviewStepRow, ReviewStepRow.id == StepPlaceRow.step_id)
    place = place.where(
        ReviewStepRow.review_id == row.id, StepPlaceRow.person_id == person_id, StepPlaceRow.state.in_(_HAVE_A_PART)
    )
    return bool(session.scalar(select(exists(place))))


def released_to(session: Session, row: ReviewRow, person_id: str) -> frozenset[str]:
    """Ids of documents of the contact's on which something was released to them, whatever became of the review."""
    if not any("respond" in link.allows for link in links_of(session, Subject("review", row.id), person_id)):
        return frozenset()
    released = select(ReviewCommentRow.document_id).where(
        ReviewCommentRow.review_id == row.id, ReviewCommentRow.released_at.is_not(None)
    )
    return responds_on(session, row, person_id).intersection(session.scalars(released))


link_room(LinkRoom("review", ("look", "answer", "respond"), lambda seat, row: False, _names))
"""Links to it go to the contacts who are asked in it, with the mail, and to nobody else."""


def link_for(act: Act, review: ReviewRow, person_id: str, to: Literal["answer", "respond"]) -> SecretLink:
    """The contact's one link to a review."""
    return part_links.link_for(act, review.project_id, Subject("review", review.id), review.started_by, person_id, to)
