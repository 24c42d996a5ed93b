"""Reviews as things: a review speaks of all its documents, so it is there for those who see all of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from sqlalchemy import ColumnElement, Select, exists, or_, select
from sqlalchemy.orm import Session

from nod.core.reviews.path import Shows
from nod.core.reviews.running import ReviewState
from nod.services.marks.readers import Offer, ReaderGroup, reader_group
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside, asides
from nod.store.tables import DocumentRow, PersonRow, ReviewDocumentRow, ReviewRow, ReviewStepRow, StepPlaceRow


def _folders(review_id: Any) -> Select[Any]:
    of, document = asides("reviews_folders", ReviewDocumentRow, DocumentRow)
    query = select(document.folder_id).join(of, of.document_id == document.id)
    return query.where(of.review_id == review_id)


Among = Callable[[Any], ColumnElement[bool]]
"""A condition on a column of ids of reviews."""


def _has_part(person_id: Any, among: Among) -> ColumnElement[bool]:
    """Whoever is or was asked in one of the reviews, or started it."""
    place, step, review = asides("reviews_has_part", StepPlaceRow, ReviewStepRow, ReviewRow)
    asked = select(place.person_id).where(place.person_id == person_id, place.step_id == step.id, among(step.review_id))
    started = select(review.id).where(among(review.id), review.started_by == person_id)
    return or_(exists(asked.correlate_except(place, step)), exists(started.correlate_except(review)))


def _people(review_id: Any) -> Select[Any]:
    person = aside("reviews_people", PersonRow)
    return select(person.id).where(_has_part(person.id, lambda column: column == review_id))


def _is_shown(review_id: Any) -> ColumnElement[bool]:
    row = aside("reviews_is_shown", ReviewRow)
    return exists().where(row.id == review_id, or_(row.shows == Shows.AT_ONCE, row.state == ReviewState.CLOSED))


def _names(session: Session, ids: Sequence[str]) -> dict[str, str]:
    numbers = session.execute(select(ReviewRow.id, ReviewRow.number).where(ReviewRow.id.in_(ids)))
    return {id: f"the people of {number}" for id, number in numbers}


def _offered(session: Session, person_id: str, revision_id: str) -> list[Offer]:
    """Those that run with the revision and in which somebody has a part; first where it shows at its end only."""
    query = (
        select(ReviewRow.id, ReviewRow.shows)
        .join(ReviewDocumentRow, ReviewDocumentRow.review_id == ReviewRow.id)
        .where(
            ReviewDocumentRow.revision_id == revision_id, ReviewRow.state == ReviewState.RUNNING,
            _has_part(person_id, lambda column: column == ReviewRow.id),
        )
        .order_by(ReviewRow.number)
    )  # fmt: skip
    return [Offer(id, first=shows == Shows.END) for id, shows in session.execute(query)]


reader_group(ReaderGroup("review", lambda person, of: _has_part(person, lambda c: c.in_(of)), _names, _offered))

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

SAYS = thing_kind(
    ThingKind(
        code="review_says",
        words="what is said in a review",
        plural="what is said in reviews",
        row=ReviewRow,
        audience=AudienceOf(folders=(_folders,), people=(_people,), is_open=_is_shown),
        number=lambda row: row.number,
        title=lambda row: row.name,
        address=lambda row: f"/reviews/{row.id}",
        named_by=(),
        listed=(ReviewRow.id, ReviewRow.number, ReviewRow.name),
        newest=ReviewRow.number,
        topic="reviews",
        tool="reviews",
        find=lambda session, seat, words, most: [],
        part_of="review",
        has_talk=False,
    )
)
"""What the people of a review say in it, which others see at once or at its end, as the route says."""
