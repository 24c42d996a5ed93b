"""Links by which outside contacts take part in a review, while it runs (handbook §8, whom)."""

from __future__ import annotations

from typing import Any, Literal

from sqlalchemy import ColumnElement, exists, select
from sqlalchemy.orm import Session

from nod.core.reviews.running import PlaceState, ReviewState
from nod.services.acts.context import Act
from nod.services.links.rooms import LinkRoom, link_room
from nod.services.mail.mails import SecretLink
from nod.services.people.sign_in import token_hash
from nod.services.reviews.responders import responds_on
from nod.store.ids import new_id
from nod.store.tables import LinkRow, ReviewCommentRow, ReviewRow, ReviewStepRow, StepPlaceRow

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
    links = session.scalars(select(LinkRow).where(*_of(row, person_id)))
    if not any("respond" in link.allows for link in links):
        return frozenset()
    released = select(ReviewCommentRow.document_id).where(
        ReviewCommentRow.review_id == row.id, ReviewCommentRow.released_at.is_not(None)
    )
    return responds_on(session, row, person_id).intersection(session.scalars(released))


def _of(review: ReviewRow, person_id: str) -> tuple[ColumnElement[bool], ...]:
    return (
        LinkRow.thing_kind == "review", LinkRow.thing_id == review.id, LinkRow.person_id == person_id,
        LinkRow.withdrawn_at.is_(None),
    )  # fmt: skip


ROOM = link_room(LinkRoom("review", ("look", "answer", "respond"), lambda seat, row: False, _names))
"""Links to it go to the contacts who are asked in it, with the mail, and to nobody else."""


def part_link(link_id: str) -> SecretLink:
    return SecretLink("/l/", f"part in a review:{link_id}")


def link_for(act: Act, review: ReviewRow, person_id: str, to: Literal["answer", "respond"]) -> SecretLink:
    """The contact's one link to a review, made when they are first asked; a new one after it was withdrawn."""
    found = act.session.scalars(select(LinkRow).where(*_of(review, person_id))).first()
    if found is not None:
        found.allows = [each for each in ROOM.offers if each == to or each in found.allows]
        return part_link(found.id)
    id = new_id()
    link = part_link(id)
    act.session.add(
        LinkRow(
            id=id, project_id=review.project_id, thing_kind="review", thing_id=review.id, for_kind="named",
            person_id=person_id, allows=["look", to], made_by=review.started_by, made_at=act.at,
            token_sha256=token_hash(link.token(act.context)),
        )
    )  # fmt: skip
    act.session.flush()
    return link
