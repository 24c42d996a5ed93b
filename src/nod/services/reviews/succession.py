"""What of reviews is with a person who leaves, and whoever takes their place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.reviews.acts import is_asked, is_free, succeed
from nod.core.reviews.path import Named, NamedKind, StepAct
from nod.core.reviews.running import PlaceState, Review, StepRun, StepState
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.acts.handing_over import Estate, OpenWork, OpenWorkList, register
from nod.services.acts.seats import Seat
from nod.services.reviews import review_mails, review_rows
from nod.services.reviews.paths import path_kept, to_keep, whom_kept, whom_read
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.reviews import moment_of, settle
from nod.store.tables import PersonRow, ReviewRow, ReviewStepRow, RouteRow, StepPlaceRow


def list_open(session: Session, project_id: str, person_id: str) -> OpenWorkList:
    """Steps that run with the person or will, and routes that name them."""
    steps = [
        OpenWork(
            review_id=review.id, number=review.number, name=review.name, step=step.name, state=step.state,
            alone=_is_alone(session, step),
        )
        for step, review in _open_steps(session, project_id, person_id)
    ]  # fmt: skip
    routes = [row.name for row in _routes(session, project_id, person_id)]
    return OpenWorkList(steps=steps, routes=routes, things=[])


def _is_alone(session: Session, step: ReviewStepRow) -> bool:
    if step.state == StepState.WAITING.value:
        return len(step.whom) == 1
    query = select(func.count()).where(StepPlaceRow.step_id == step.id, StepPlaceRow.state != PlaceState.CROSSED.value)
    return session.scalar(query) == 1


def _open_steps(session: Session, project_id: str, person_id: str) -> list[tuple[ReviewStepRow, ReviewRow]]:
    """Those in which something is asked of them, and those to come that name them."""
    query = (
        select(ReviewStepRow, ReviewRow)
        .join(ReviewRow, ReviewRow.id == ReviewStepRow.review_id)
        .where(
            ReviewRow.project_id == project_id,
            ReviewRow.state == "running",
            ReviewStepRow.state.in_(("running", "waiting")),
        )
        .order_by(ReviewRow.number, ReviewStepRow.place)
    )
    asked = set(
        session.scalars(
            select(StepPlaceRow.step_id).where(
                StepPlaceRow.person_id == person_id, StepPlaceRow.state == PlaceState.ASKED.value
            )
        )
    )
    return [
        (step, review)
        for step, review in session.execute(query)
        if (step.id in asked if step.state == "running" else _names(step.whom, person_id))
    ]


def _names(whom: Sequence[Any], person_id: str) -> bool:
    return Named(NamedKind.PERSON, person_id) in whom_read(list(whom))


def _routes(session: Session, project_id: str, person_id: str) -> list[RouteRow]:
    query = select(RouteRow).where(RouteRow.project_id == project_id, RouteRow.retired_at.is_(None))
    rows = session.scalars(query.order_by(RouteRow.name))
    return [row for row in rows if any(_names(step["whom"], person_id) for of in row.stages for step in of["steps"])]


def _instead(whom: Sequence[Named], gone: str, heir: str) -> tuple[Named, ...]:
    """The heir where the person was named, once."""
    own = {Named(NamedKind.PERSON, gone): Named(NamedKind.PERSON, heir)}
    return tuple(dict.fromkeys(own.get(each, each) for each in whom))


def hand_over(act: Act, seat: Seat, person: PersonRow, heir: PersonRow) -> None:
    """The heir stands in the person's place. Raises RuleBroken for one who could not answer."""
    steps = _open_steps(act.session, seat.project.id, person.id)
    for review in {review.id: review for _, review in steps}.values():
        _hand_over_review(act, seat, review, person, heir)
    for route in _routes(act.session, seat.project.id, person.id):
        route.stages = to_keep(
            tuple(
                replace(
                    stage,
                    steps=tuple(replace(step, whom=_instead(step.whom, person.id, heir.id)) for step in stage.steps),
                )
                for stage in path_kept(route.stages)
            )
        )
        route.version += 1
        after = {"from": person.name, "to": heir.name}
        act.record(
            seat.project.id, Fact(FactKind.WORK_HANDED_OVER, Subject("route", route.id), route.name, after=after)
        )


def _hand_over_review(act: Act, seat: Seat, review: ReviewRow, person: PersonRow, heir: PersonRow) -> None:
    """The heir stands in the person's place in every step that has not ended, and is told of one that runs."""
    loaded = review_rows.load(act.session, review)
    _check_heir(act, seat, loaded, person, heir)
    turn = succeed(loaded.value, person.id, heir.id, moment_of(act, seat, loaded))
    for row, run in zip(loaded.steps, turn.review.steps, strict=True):
        row.whom = whom_kept(run.step.whom)
    fact = Fact(
        FactKind.WORK_HANDED_OVER, Subject("review", review.id), f"{review.number} {review.name}", loaded.subjects(),
        {"with": person.name}, {"with": heir.name},
    )  # fmt: skip
    act.record(seat.project.id, fact)
    before = loaded.value.steps
    loaded = settle(act, loaded, turn)
    for at, run in enumerate(before):
        if is_asked(run, person.id) and not run.place_of(heir.id):
            review_mails.tell_newcomer(act, loaded, at, heir.id)


def _check_heir(act: Act, seat: Seat, loaded: LoadedReview, person: PersonRow, heir: PersonRow) -> None:
    """Raises RuleBroken for an heir who could not answer, or would decide on what they filed."""
    roster = review_rows.roster_of(act.session, seat.project, loaded)
    if not roster.may_mark(heir.id):
        words = f"{heir.name} may not mark all documents of {loaded.row.number}. Set their access, or take another."
        raise RuleBroken("heir_cannot_mark", words, loaded.row.number)
    for run in loaded.value.steps:
        theirs = is_asked(run, person.id)
        coming = run.state is StepState.WAITING and Named(NamedKind.PERSON, person.id) in run.step.whom
        if (theirs or coming) and _would_decide_on_own(loaded.value, run, heir.id):
            words = f"{heir.name} filed a document of {loaded.row.number} and cannot decide on it."
            raise RuleBroken("heir_is_author", words, loaded.row.number)


def _would_decide_on_own(value: Review, run: StepRun, heir: str) -> bool:
    return run.step.act is StepAct.DECIDE and not run.place_of(heir) and not is_free(value, run, heir)


register(Estate(list_open, hand_over))
