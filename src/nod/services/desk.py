"""The Desk: what waits on a person, what they wait for, what will be late (handbook §2)."""

from __future__ import annotations

from datetime import date, datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.reviews import routes
from nod.core.reviews.routes import StepAct
from nod.services.acts.answers import Answered, Standing
from nod.services.acts.context import Context, project_clock
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.reviews import review_rows
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.reviews_view import step_standing
from nod.services.transmittals.transmittals_view import transmittal_lines
from nod.store.tables import (
    ArrivalRow,
    BatchRow,
    RecipientRow,
    ReviewRow,
    ReviewStepRow,
    StepPersonRow,
    TransmittalRow,
)

_SOON = timedelta(days=1)


class DeskLine(Answered):
    """One thing with its one next act; `link` leads to where the act is done."""

    kind: str
    id: str
    number: str
    name: str
    detail: str
    standing: Standing
    act: str
    link: str


class Desk(Answered):
    yours_now: list[DeskLine]
    coming: list[DeskLine]
    you_wait_for: list[DeskLine]
    late: list[DeskLine]
    arrived_today: int
    counts: dict[str, int]


class _Room:
    """What every tray needs."""

    def __init__(self, session: Session, actor: Actor, seat: Seat, now: datetime) -> None:
        self.session, self.actor, self.seat, self.now = session, actor, seat, now
        self.project_id = seat.project.id
        self.clock = project_clock(session, seat.project)
        self.late = LateBy(session, seat.project, now)


def read_desk(context: Context, actor: Actor, project_id: str) -> Desk:
    with context.database.read() as session:
        room = _Room(session, actor, take_seat(session, actor, project_id), context.clock.now())
        steps = _my_steps(room)
        batches = _batches(room)
        receipts = _receipts(room)
        closed = _to_send_out(room) if "transmittals" in room.seat.tools else []
        return Desk(
            yours_now=[*steps, *batches, *closed, *receipts],
            coming=_coming(room),
            you_wait_for=[*_my_reviews(room), *_my_transmittals(room)],
            late=_late(room),
            arrived_today=_arrived_today(room),
            counts={
                "intake": sum(int(line.detail.split()[0]) for line in batches),
                "reviews": len(steps) + len(closed),
                "transmittals": len(receipts),
            },
        )


def _step_rows(room: _Room, *conditions: object) -> list[tuple[ReviewStepRow, ReviewRow]]:
    if "reviews" not in room.seat.tools:
        return []
    query = (
        select(ReviewStepRow, ReviewRow)
        .join(ReviewRow, ReviewRow.id == ReviewStepRow.review_id)
        .where(ReviewRow.project_id == room.project_id, ReviewRow.state == "running", *conditions)  # type: ignore[arg-type]
        .where(REVIEW.seen(room.seat))
        .order_by(ReviewStepRow.due_on, ReviewRow.number)
    )
    return [(step, review) for step, review in room.session.execute(query)]


def _mine(room: _Room) -> object:
    candidates = select(StepPersonRow.step_id).where(StepPersonRow.person_id == room.actor.person_id)
    return ReviewStepRow.id.in_(candidates)


def _step_line(room: _Room, step: ReviewStepRow, review: ReviewRow, act: str) -> DeskLine:
    return DeskLine(
        kind="review",
        id=review.id,
        number=review.number,
        name=review.name,
        detail=f"step {step.name}",
        standing=step_standing(room.session, step, room.late),
        act=act,
        link=f"/reviews/{review.id}",
    )


def _my_steps(room: _Room) -> list[DeskLine]:
    """Steps I could take or have taken; those another has picked up are not mine."""
    rows = _step_rows(room, ReviewStepRow.state == "running", _mine(room))
    open_rows = [(step, review) for step, review in rows if step.taken_by in (None, room.actor.person_id)]
    return [_step_line(room, step, review, _step_act(step)) for step, review in open_rows]


def _step_act(step: ReviewStepRow) -> str:
    if step.taken_by is None:
        return "Pick up"
    return "Hand in verdicts" if step.act == StepAct.DECIDE.value else "Hand in comments"


def _batches(room: _Room) -> list[DeskLine]:
    if not room.seat.runs:
        return []
    query = (
        select(BatchRow, func.count(), func.sum(ArrivalRow.state == "held"))
        .join(ArrivalRow, ArrivalRow.batch_id == BatchRow.id)
        .where(BatchRow.project_id == room.project_id, ArrivalRow.state.in_(("waiting", "held")))
        .group_by(BatchRow.id)
        .order_by(BatchRow.arrived_at)
    )
    return [
        DeskLine(
            kind="batch",
            id=batch.id,
            number="",
            name=f"From {batch.came_from}",
            detail=f"{count} to check" + (f", {held} held" if held else ""),
            standing=Standing(with_whom="the controllers", since_at=batch.arrived_at),
            act="Check",
            link=f"/intake/{batch.id}",
        )
        for batch, count, held in room.session.execute(query)
    ]


def _to_send_out(room: _Room) -> list[DeskLine]:
    """My reviews that closed and have not been sent out."""
    sent = select(TransmittalRow.review_id).where(TransmittalRow.review_id.is_not(None))
    query = select(ReviewRow).where(
        ReviewRow.project_id == room.project_id,
        ReviewRow.state == "closed",
        ReviewRow.started_by == room.actor.person_id,
        ReviewRow.id.not_in(sent),
        REVIEW.seen(room.seat),
    )
    return [
        DeskLine(
            kind="review",
            id=review.id,
            number=review.number,
            name=review.name,
            detail="closed, not sent out",
            standing=Standing(with_whom=room.actor.name, since_at=review.ended_at),
            act="Send out",
            link=f"/reviews/{review.id}",
        )
        for review in room.session.scalars(query.order_by(ReviewRow.ended_at))
    ]


def _receipts(room: _Room) -> list[DeskLine]:
    if "transmittals" not in room.seat.tools:
        return []
    query = (
        select(TransmittalRow)
        .join(RecipientRow, RecipientRow.transmittal_id == TransmittalRow.id)
        .where(
            TransmittalRow.project_id == room.project_id,
            RecipientRow.person_id == room.actor.person_id,
            RecipientRow.acknowledged_at.is_(None),
        )
        .order_by(TransmittalRow.sent_at)
    )
    lines = transmittal_lines(room.session, list(room.session.scalars(query)))
    return [
        DeskLine(
            kind="transmittal",
            id=line.id,
            number=line.number,
            name=f"{line.purpose}, from {line.sent_by.name}",
            detail=f"{line.documents} documents",
            standing=_waiting_since(room, room.actor.name, line.sent_at, line.answer_wanted_on),
            act="Acknowledge",
            link=f"/transmittals/{line.id}",
        )
        for line in lines
    ]


def _waiting_since(room: _Room, name: str, since: datetime, due: date | None) -> Standing:
    return Standing(with_whom=name, since_at=since, due_on=due, days_late=room.late(due))


def _coming(room: _Room) -> list[DeskLine]:
    """Steps that will be mine, with the day on which they are expected to begin."""
    lines = []
    for step, review in _step_rows(room, ReviewStepRow.state == "waiting", _mine(room)):
        loaded = review_rows.load(room.session, review)
        planned = routes.forecast(loaded.value, room.late.today, room.clock)
        before = next(run for run in loaded.steps if run.state == "running")
        lines.append(
            DeskLine(
                kind="review",
                id=review.id,
                number=review.number,
                name=review.name,
                detail=f"step {step.name}, after {before.name}",
                standing=step_standing(room.session, before, room.late).model_copy(
                    update={"due_on": planned[step.place], "days_late": 0}
                ),
                act="Look ahead",
                link=f"/reviews/{review.id}",
            )
        )
    return lines


def _my_reviews(room: _Room) -> list[DeskLine]:
    mine = ReviewRow.started_by == room.actor.person_id
    rows = _step_rows(room, ReviewStepRow.state == "running", mine)
    return [_step_line(room, step, review, "Open") for step, review in rows]


def _my_transmittals(room: _Room) -> list[DeskLine]:
    if "transmittals" not in room.seat.tools:
        return []
    query = select(TransmittalRow).where(
        TransmittalRow.project_id == room.project_id, TransmittalRow.sent_by == room.actor.person_id
    )
    lines = transmittal_lines(room.session, list(room.session.scalars(query.order_by(TransmittalRow.sent_at))))
    return [
        DeskLine(
            kind="transmittal",
            id=line.id,
            number=line.number,
            name=line.purpose,
            detail=f"{line.acknowledged} of {line.recipients} acknowledged",
            standing=_waiting_since(room, line.with_whom, line.sent_at, line.answer_wanted_on),
            act="Open",
            link=f"/transmittals/{line.id}",
        )
        for line in lines
        if line.acknowledged < line.recipients
    ]


def _late(room: _Room) -> list[DeskLine]:
    """Running steps that are late or due by tomorrow: all of them for leads and controllers, otherwise one's own."""
    conditions = [ReviewStepRow.state == "running", ReviewStepRow.due_on <= room.late.today + _SOON]
    if not room.seat.runs:
        conditions.append(_mine(room) | (ReviewRow.started_by == room.actor.person_id))  # type: ignore[operator]
    return [_step_line(room, step, review, "Open") for step, review in _step_rows(room, *conditions)]


def _arrived_today(room: _Room) -> int:
    begin = datetime.combine(room.late.today, datetime.min.time(), tzinfo=room.clock.zone)
    query = (
        select(func.count())
        .select_from(ArrivalRow)
        .join(BatchRow, BatchRow.id == ArrivalRow.batch_id)
        .where(BatchRow.project_id == room.project_id, BatchRow.arrived_at >= begin)
        .where(room.seat.sees(BatchRow.folder_id, Level.FILE))
    )
    return room.session.scalar(query) or 0
