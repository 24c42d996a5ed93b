"""What of reviews is with a person who leaves, and whoever takes their place."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.acts.handing_over import Estate, OpenWork, OpenWorkList, register
from nod.services.acts.seats import Seat, can_see_all, reach
from nod.services.reviews import review_rows
from nod.services.reviews.review_rows import LoadedReview
from nod.store.tables import DocumentRow, PersonRow, ReviewRow, ReviewStepRow, RouteRow, StepPersonRow


def list_open(session: Session, project_id: str, person_id: str) -> OpenWorkList:
    """Steps that run or will, and routes that name the person."""
    steps = [
        OpenWork(
            review_id=review.id, number=review.number, name=review.name, step=step.name, state=step.state,
            alone=_count(session, step.id) == 1,
        )
        for step, review in _open_steps(session, project_id, person_id)
    ]  # fmt: skip
    return OpenWorkList(steps=steps, routes=[row.name for row in _routes(session, project_id, person_id)])


def _count(session: Session, step_id: str) -> int:
    return session.scalar(select(func.count()).where(StepPersonRow.step_id == step_id)) or 0


def _open_steps(session: Session, project_id: str, person_id: str) -> list[tuple[ReviewStepRow, ReviewRow]]:
    query = (
        select(ReviewStepRow, ReviewRow)
        .join(ReviewRow, ReviewRow.id == ReviewStepRow.review_id)
        .join(StepPersonRow, StepPersonRow.step_id == ReviewStepRow.id)
        .where(
            ReviewRow.project_id == project_id,
            ReviewRow.state == "running",
            ReviewStepRow.state.in_(("running", "waiting")),
            StepPersonRow.person_id == person_id,
        )
        .order_by(ReviewRow.number, ReviewStepRow.place)
    )
    return [(step, review) for step, review in session.execute(query)]


def _routes(session: Session, project_id: str, person_id: str) -> list[RouteRow]:
    query = select(RouteRow).where(RouteRow.project_id == project_id, RouteRow.retired_at.is_(None))
    rows = session.scalars(query.order_by(RouteRow.name))
    return [row for row in rows if any(person_id in step["people"] for step in row.steps)]


def hand_over(act: Act, seat: Seat, person: PersonRow, heir: PersonRow) -> None:
    """The heir stands in the person's place. Raises RuleBroken for one who could not answer."""
    steps = _open_steps(act.session, seat.project.id, person.id)
    for review in {review.id: review for _, review in steps}.values():
        _hand_over_review(act, seat, review, person, heir)
    for route in _routes(act.session, seat.project.id, person.id):
        route.steps = [
            {**step, "people": list(dict.fromkeys(heir.id if id == person.id else id for id in step["people"]))}
            for step in route.steps
        ]
        route.version += 1
        after = {"from": person.name, "to": heir.name}
        act.record(
            seat.project.id, Fact(FactKind.WORK_HANDED_OVER, Subject("route", route.id), route.name, after=after)
        )


def _hand_over_review(act: Act, seat: Seat, review: ReviewRow, person: PersonRow, heir: PersonRow) -> None:
    """The heir stands in the person's place in every step that has not ended, and is told of one that runs."""
    loaded = review_rows.load(act.session, review)
    _check_heir(act, seat, loaded, heir)
    for row in loaded.steps:
        place = act.session.get(StepPersonRow, (row.id, person.id))
        if row.state not in ("running", "waiting") or place is None:
            continue
        if act.session.get(StepPersonRow, (row.id, heir.id)) is None:
            act.session.add(StepPersonRow(step_id=row.id, person_id=heir.id, place=place.place))
        act.session.delete(place)
        if row.taken_by == person.id:
            row.taken_by, row.taken_at = heir.id, act.at
    act.session.flush()
    after = review_rows.load(act.session, review)
    fact = Fact(
        FactKind.WORK_HANDED_OVER, Subject("review", review.id), f"{review.number} {review.name}", after.subjects(),
        {"with": person.name}, {"with": heir.name},
    )  # fmt: skip
    act.record(seat.project.id, fact)
    review_rows.write_back(act, after, after.value)
    review_rows.mail_heir(act, after, heir)


def _check_heir(act: Act, seat: Seat, loaded: LoadedReview, heir: PersonRow) -> None:
    """Raises RuleBroken for an heir who could not answer, or would decide on what they filed."""
    documents = [each.document_id for each in loaded.documents]
    folders = act.session.scalars(select(DocumentRow.folder_id).where(DocumentRow.id.in_(documents)))
    if not can_see_all(reach(act.session, seat.project, heir.id), folders, Level.MARK):
        words = f"{heir.name} may not mark all documents of {loaded.row.number}. Set their access, or take another."
        raise RuleBroken("heir_cannot_mark", words, loaded.row.number)
    if heir.id in loaded.value.filed_by.values():
        words = f"{heir.name} filed a document of {loaded.row.number} and cannot decide on it."
        raise RuleBroken("heir_is_author", words, loaded.row.number)


register(Estate(list_open, hand_over))
