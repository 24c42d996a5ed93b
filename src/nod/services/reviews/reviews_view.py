"""What is shown of reviews: the list, the slip, the routes to choose from."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.reviews import routes
from nod.core.reviews.routes import StepState
from nod.services.acts.answers import Answered, Standing, VerdictShown, Who, initials, people_by_id, show_verdicts
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.open_work.open_work import standings
from nod.services.reviews import review_rows
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import STEP
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.reviews import steps_of
from nod.services.things.kinds import seen_of
from nod.services.things.things import see_thing
from nod.store.tables import (
    AnswerRow,
    DocumentRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    RevisionRow,
    RouteRow,
    TransmittalRow,
)


class RouteStepShown(Answered):
    name: str
    act: str
    people: list[Who]
    days: int
    counting: str
    planned_on: date


class RouteShown(Answered):
    """A route and the dates it would take if it began now."""

    id: str
    name: str
    purpose: str
    steps: list[RouteStepShown]
    retired: bool
    version: int


class ReviewLine(Answered):
    id: str
    number: str
    name: str
    state: str
    step: str
    documents: int
    standing: Standing
    started_by: Who
    started_at: datetime
    ended_at: datetime | None


class AnswerShown(Answered):
    document_id: str
    verdict: str
    comment: str


class SlipRow(Answered):
    """One step on the slip. `planned_on` is its forecast last day while it has not ended."""

    name: str
    act: str
    state: str
    people: list[Who]
    taken_by: Who | None
    stamp: str
    began_at: datetime | None
    taken_at: datetime | None
    due_on: date | None
    planned_on: date | None
    ended_at: datetime | None
    days: int
    counting: str
    days_late: int
    note: str
    answers: list[AnswerShown]


class ReviewedDocument(Answered):
    document_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    current_revision: str
    verdict: str


class MyPart(Answered):
    """What the viewer may do here now."""

    may_pick_up: bool
    may_put_down: bool
    may_hand_in: bool
    may_cancel: bool
    may_send: bool


class Review(Answered):
    id: str
    project_id: str
    number: str
    name: str
    message: str
    route_name: str
    state: str
    version: int
    started_by: Who
    started_at: datetime
    ended_at: datetime | None
    why_cancelled: str
    forecast_end_on: date | None
    verdict_set: list[VerdictShown]
    slip: list[SlipRow]
    documents: list[ReviewedDocument]
    transmittals: list[str]
    my_part: MyPart


def list_routes(context: Context, actor: Actor, project_id: str, *, retired: bool = False) -> list[RouteShown]:
    """Those that can be started on, or with `retired` all of them."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool("reviews")
        query = select(RouteRow).where(RouteRow.project_id == project_id).order_by(RouteRow.name)
        rows = list(session.scalars(query if retired else query.where(RouteRow.retired_at.is_(None))))
        return [_route(session, seat, row, context.clock.now()) for row in rows]


def _route(session: Session, seat: Seat, row: RouteRow, now: datetime) -> RouteShown:
    steps = steps_of(row)
    people = people_by_id(session, {person for step in steps for person in step.people})
    started = routes.Review(routes.ReviewState.RUNNING, tuple(routes.StepRun(step) for step in steps), {}, ())
    planned = routes.forecast(started, today_in(seat.project, now), project_clock(session, seat.project))
    return RouteShown(
        id=row.id,
        name=row.name,
        purpose=row.purpose,
        retired=row.retired_at is not None,
        version=row.version,
        steps=[
            RouteStepShown(
                name=step.name,
                act=step.act,
                people=[people[person] for person in step.people],
                days=step.days,
                counting=step.counting,
                planned_on=day or today_in(seat.project, now),
            )
            for step, day in zip(steps, planned, strict=True)
        ],
    )


def list_reviews(context: Context, actor: Actor, project_id: str) -> list[ReviewLine]:
    """Running ones first, the soonest due on top; then the rest, newest first."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool("reviews")
        query = select(ReviewRow).where(ReviewRow.project_id == project_id, REVIEW.seen(seat))
        rows = list(session.scalars(query))
        lines = _lines(session, rows, LateBy(session, seat.project, context.clock.now()))
    running = sorted(
        (line for line in lines if line.state == "running"), key=lambda line: (line.standing.due_on, line.number)
    )
    rest = sorted((line for line in lines if line.state != "running"), key=lambda line: line.started_at, reverse=True)
    return running + rest


def _lines(session: Session, rows: Sequence[ReviewRow], late: LateBy) -> list[ReviewLine]:
    ids = [row.id for row in rows]
    steps = select(ReviewStepRow).where(ReviewStepRow.review_id.in_(ids), ReviewStepRow.state == "running")
    running = {step.review_id: step for step in session.scalars(steps)}
    counting = select(ReviewDocumentRow.review_id, func.count()).where(ReviewDocumentRow.review_id.in_(ids))
    counts = dict(session.execute(counting.group_by(ReviewDocumentRow.review_id)).all())
    people = people_by_id(session, {row.started_by for row in rows})
    stands = standings(session, STEP.code, "review", ids, late)
    return [
        ReviewLine(
            id=row.id,
            number=row.number,
            name=row.name,
            state=row.state,
            step=running[row.id].name if row.id in running else "",
            documents=counts.get(row.id, 0),
            standing=stands.get(row.id, Standing()),
            started_by=people[row.started_by],
            started_at=row.started_at,
            ended_at=row.ended_at,
        )
        for row in rows
    ]


def read_review(context: Context, actor: Actor, review_id: str) -> Review:
    now = context.clock.now()
    with context.database.read() as session:
        row, seat = see_thing(session, actor, REVIEW, review_id)
        loaded = review_rows.load(session, row)
        at = project_clock(session, seat.project)
        planned = routes.forecast(loaded.value, today_in(seat.project, now), at)
        late = LateBy(session, seat.project, now)
        sent = select(TransmittalRow.number).where(TransmittalRow.review_id == review_id, seen_of("transmittal", seat))
        return Review(
            id=row.id,
            project_id=row.project_id,
            number=row.number,
            name=row.name,
            message=row.message,
            route_name=row.route_name,
            state=row.state,
            version=row.version,
            started_by=people_by_id(session, {row.started_by})[row.started_by],
            started_at=row.started_at,
            ended_at=row.ended_at,
            why_cancelled=row.why_cancelled,
            forecast_end_on=planned[-1] if row.state == "running" else None,
            verdict_set=show_verdicts(row.verdict_set),
            slip=_slip(session, loaded, planned, late),
            documents=_documents(session, review_id),
            transmittals=list(session.scalars(sent.order_by(TransmittalRow.sent_at))),
            my_part=_my_part(actor, seat, loaded),
        )


def _slip(session: Session, loaded: LoadedReview, planned: tuple[date | None, ...], late: LateBy) -> list[SlipRow]:
    ids = {person for run in loaded.value.steps for person in run.step.people}
    people = people_by_id(session, ids)
    return [
        _slip_row(session, row, run, day, late, people)
        for row, run, day in zip(loaded.steps, loaded.value.steps, planned, strict=True)
    ]


def _slip_row(
    session: Session,
    row: ReviewStepRow,
    run: routes.StepRun,
    planned_on: date | None,
    late: LateBy,
    people: dict[str, Who],
) -> SlipRow:
    taker = people.get(row.taken_by) if row.taken_by else None
    answers = session.scalars(select(AnswerRow).where(AnswerRow.step_id == row.id))
    running = run.state is StepState.RUNNING
    return SlipRow(
        name=row.name,
        act=row.act,
        state=row.state,
        people=[people[person] for person in run.step.people],
        taken_by=taker,
        stamp=initials(taker.name) if taker and run.state is StepState.DONE else "",
        began_at=row.began_at,
        taken_at=row.taken_at,
        due_on=row.due_on,
        planned_on=None if run.state is StepState.DONE else planned_on,
        ended_at=row.ended_at,
        days=row.days,
        counting=row.counting,
        days_late=late(row.due_on, run.step.counting) if running else 0,
        note=row.note,
        answers=[
            AnswerShown(document_id=each.document_id, verdict=each.verdict, comment=each.comment) for each in answers
        ],
    )


def _documents(session: Session, review_id: str) -> list[ReviewedDocument]:
    query = (
        select(
            DocumentRow.id.label("document_id"),
            RevisionRow.id.label("revision_id"),
            DocumentRow.number,
            RevisionRow.title,
            RevisionRow.code.label("revision"),
            DocumentRow.revision.label("current_revision"),
            ReviewDocumentRow.verdict,
        )
        .join(ReviewDocumentRow, ReviewDocumentRow.document_id == DocumentRow.id)
        .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
        .where(ReviewDocumentRow.review_id == review_id)
        .order_by(ReviewDocumentRow.place)
    )
    return [ReviewedDocument.model_validate(dict(row._mapping)) for row in session.execute(query)]


def _my_part(actor: Actor, seat: Seat, loaded: LoadedReview) -> MyPart:
    place = loaded.value.current()
    run = loaded.value.steps[place] if place is not None else None
    may_act = seat.level >= Level.MARK and actor.looker is None
    mine = run is not None and actor.person_id in run.step.people and may_act
    taken_by = run.taken_by if run else None
    alone = run is not None and len(run.step.people) == 1
    steward = may_act and (loaded.row.started_by == actor.person_id or seat.runs)
    return MyPart(
        may_pick_up=mine and taken_by is None,
        may_put_down=mine and taken_by == actor.person_id and not alone,
        may_hand_in=mine and taken_by == actor.person_id,
        may_cancel=run is not None and steward,
        may_send=loaded.row.state == "closed" and may_act and seat.level >= Level.FILE and "transmittals" in seat.tools,
    )
