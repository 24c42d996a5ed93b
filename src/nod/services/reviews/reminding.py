"""Whoever has a step is reminded in the project's morning, and leads are told what is late (handbook §8)."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.acts.working_days import Counting, days_late
from nod.core.reviews.reminders import Due, Remind, due_today, words
from nod.core.reviews.running import ReviewState, StepState
from nod.core.trail.entries import FactKind
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, project_clock, today_in
from nod.services.acts.seats import NOBODY, Actor
from nod.services.reviews import review_mails, review_rows
from nod.services.reviews.absences import hand_over_of_today
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.reviews import record
from nod.services.reviews.silence import tell_of_silence
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import ProjectRow, ReviewRow, ReviewStepRow

MORNING_HOUR = 7
MOST_AT_ONCE = 500


class RemindNow(Command):
    """Ids of reviews."""

    project_id: str
    reviews: list[str] = Field(min_length=1, max_length=MOST_AT_ONCE)


class Reminded(Answered):
    """How many steps were reminded of."""

    steps: int


def send_reminders(context: Context) -> int:
    """In every project whose morning has come, once a day and step: returns how many steps were reminded of.

    Each step is a transaction of its own. First of all whoever is away from today on is stood in for.
    """
    now = context.clock.now()
    hand_over_of_today(context, now)
    tell_of_silence(context, now)
    with context.database.read() as session:
        waiting = [step_id for step_id, _, _ in _due(session, now)]
    return sum(_remind_of(context, step_id, now) for step_id in waiting)


def _due(session: Session, now: datetime) -> Iterable[tuple[str, date, Due]]:
    """Steps that something is to be said of today, and has not been."""
    for project in session.scalars(select(ProjectRow)).all():
        if now.astimezone(ZoneInfo(project.time_zone)).hour < MORNING_HOUR:
            continue
        today, calendar = today_in(project, now), project_clock(session, project).calendar
        query = (
            select(ReviewStepRow)
            .join(ReviewRow, ReviewRow.id == ReviewStepRow.review_id)
            .where(
                ReviewRow.project_id == project.id,
                ReviewRow.state == ReviewState.RUNNING.value,
                ReviewStepRow.state == StepState.RUNNING.value,
                or_(ReviewStepRow.reminded_on.is_(None), ReviewStepRow.reminded_on < today),
            )
        )
        for step in session.scalars(query).all():
            remind = Remind(step.remind_before, step.remind_every, step.lead_after)
            due = due_today(remind, step.due_on or today, today, Counting(step.counting), calendar)
            if due and not (due.lead and step.lead_told_on and not _again(remind, due)):
                yield step.id, today, due


def _again(remind: Remind, due: Due) -> bool:
    return bool(remind.every) and due.late % remind.every == 0


def _remind_of(context: Context, step_id: str, now: datetime) -> bool:
    """Asked again inside the transaction: somebody may have handed in meanwhile."""
    with context.database.write() as session:
        found = next((each for each in _due(session, now) if each[0] == step_id), None)
        if found is None:
            return False
        _, today, due = found
        act = Act(context, session, NOBODY, now)
        step = session.get_one(ReviewStepRow, step_id)
        loaded = review_rows.load(session, session.get_one(ReviewRow, step.review_id))
        step.reminded_on = today
        lead = due.lead and step.lead_told_on is None
        if lead:
            step.lead_told_on = today
        at = loaded.at(step_id)
        if at is None:
            return False
        _remind(act, loaded, at, words(due), f"{today:%Y%m%d}", lead=lead)
        return True


def _remind(act: Act, loaded: LoadedReview, at: int, said: str, key: str, *, lead: bool) -> None:
    step = loaded.steps[at]
    record(act, loaded, FactKind.STEP_REMINDED, {"step": step.name, "because": said})
    review_mails.remind(act, loaded, at, said, key)
    if lead:
        review_mails.tell_leads_late(act, loaded, at, said, key)


def remind_now(context: Context, actor: Actor, command: RemindNow) -> Reminded:
    """Of many reviews in one act, by those who run the project or started them: all who are asked and have not
    answered; what is not there for them is left out. Raises RuleBroken where nothing of them runs."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.MARK, "reviews")
        here = (unindexed(ReviewRow.project_id) == command.project_id, REVIEW.seen(seat))
        rows = act.session.scalars(select(ReviewRow).where(one_of(ReviewRow.id, command.reviews), *here)).all()
        for row in rows:
            if not (seat.runs or row.started_by == actor.person_id):
                raise NotAllowed("not_your_review", "This is for its starter, a lead or a controller.", row.number)
        at = project_clock(act.session, seat.project)
        today, count = today_in(seat.project, act.at), 0
        for row in rows:
            loaded = review_rows.load(act.session, row)
            for place, step in enumerate(loaded.steps):
                if step.state == StepState.RUNNING.value and row.state == ReviewState.RUNNING.value:
                    late = days_late(step.due_on or today, today, Counting(step.counting), at.calendar)
                    said = words(Due(late=late)) if late else f"due {step.due_on:%-d %B}" if step.due_on else "due"
                    _remind(act, loaded, place, said, f"{act.at:%Y%m%dT%H%M%S}", lead=False)
                    count += 1
        if not count:
            raise RuleBroken("nothing_to_remind", "Nothing of these runs: nobody is asked anything.")
        return Reminded(steps=count)
