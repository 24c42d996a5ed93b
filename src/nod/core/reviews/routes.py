"""Routes and reviews: who may act on a step, what follows, and when it is due (handbook §8)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, datetime
from enum import StrEnum
from zoneinfo import ZoneInfo

from nod.core.acts import working_days as clock
from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.acts.working_days import Calendar, Counting
from nod.core.reviews.verdicts import Verdict


class StepAct(StrEnum):
    """What a step does with each document."""

    COMMENT = "comment"
    DECIDE = "decide"


class StepState(StrEnum):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    DROPPED = "dropped"


class ReviewState(StrEnum):
    RUNNING = "running"
    CLOSED = "closed"
    CANCELLED = "cancelled"


@dataclass(frozen=True)
class Step:
    """A step of a route, taken by any one of `people`."""

    name: str
    act: StepAct
    people: tuple[str, ...]
    days: int = 3
    counting: Counting = Counting.WORKING


@dataclass(frozen=True)
class StepRun:
    """A step while it runs. Instants are UTC; `due_on` is the last day in time, in the project's zone."""

    step: Step
    state: StepState = StepState.WAITING
    began_at: datetime | None = None
    due_on: date | None = None
    taken_by: str | None = None
    ended_at: datetime | None = None


@dataclass(frozen=True)
class Review:
    """A review: its steps in order and who filed each document, by document id."""

    state: ReviewState
    steps: tuple[StepRun, ...]
    filed_by: dict[str, str]
    verdicts: tuple[Verdict, ...]

    def current(self) -> int | None:
        """The position of the running step, or None when the review is over."""
        running = (place for place, run in enumerate(self.steps) if run.state is StepState.RUNNING)
        return next(running, None)


@dataclass(frozen=True)
class ProjectClock:
    """The project's calendar and zone."""

    calendar: Calendar
    zone: ZoneInfo


@dataclass(frozen=True)
class Answer:
    """What a step says about one document: a verdict code (deciding steps) and a comment."""

    document_id: str
    verdict: str
    comment: str


def start(
    steps: tuple[Step, ...], filed_by: dict[str, str], verdicts: tuple[Verdict, ...], now: datetime, at: ProjectClock
) -> Review:
    """A running review whose first step has begun. Raises RuleBroken naming what is missing."""
    if not filed_by:
        raise RuleBroken("no_documents", "Choose at least one document to review.")
    if not 1 <= len(steps) <= 10:
        raise RuleBroken("step_count", "A route has one to ten steps.")
    for step in steps:
        _check_people(step, filed_by)
    waiting = Review(ReviewState.RUNNING, tuple(StepRun(step) for step in steps), filed_by, verdicts)
    return _begin(waiting, 0, now, at)


def _check_people(step: Step, filed_by: dict[str, str]) -> None:
    if not step.people:
        raise RuleBroken("step_without_people", f"Nobody is named for the step {step.name}.", step.name)
    authors = set(filed_by.values())
    if step.act is StepAct.DECIDE and set(step.people) <= authors:
        raise RuleBroken(
            "separation_of_duties",
            f"Nobody decides on a document they filed: name somebody else for the step {step.name}.",
            step.name,
        )


def _begin(review: Review, place: int, now: datetime, at: ProjectClock) -> Review:
    run = review.steps[place]
    began_on = clock.local_date(now, at.zone)
    due = clock.due_on(began_on, run.step.days, run.step.counting, at.calendar)
    # With a single candidate there is nobody to keep from doing it twice: it is theirs at once.
    taker = run.step.people[0] if len(run.step.people) == 1 else None
    begun = replace(run, state=StepState.RUNNING, began_at=now, due_on=due, taken_by=taker)
    return _with_step(review, place, begun)


def _with_step(review: Review, place: int, run: StepRun) -> Review:
    return replace(review, steps=(*review.steps[:place], run, *review.steps[place + 1 :]))


def _running_step(review: Review, person: str) -> tuple[int, StepRun]:
    place = review.current()
    if place is None:
        raise RuleBroken("review_over", "This review is over.")
    run = review.steps[place]
    if person not in run.step.people:
        raise NotAllowed("not_your_step", f"The step {run.step.name} is with others.", run.step.name)
    return place, run


def pick_up(review: Review, person: str) -> Review:
    """The step is now with `person` alone. Raises RuleBroken(`step_taken`) if another has it."""
    place, run = _running_step(review, person)
    if run.taken_by not in (None, person):
        raise RuleBroken("step_taken", f"The step {run.step.name} has been picked up already.", run.step.name)
    return _with_step(review, place, replace(run, taken_by=person))


def put_down(review: Review, person: str) -> Review:
    """The step is with all of its people again."""
    place, run = _running_step(review, person)
    if run.taken_by != person:
        raise RuleBroken("step_not_yours", f"You have not picked up the step {run.step.name}.", run.step.name)
    if len(run.step.people) == 1:
        raise RuleBroken("only_candidate", f"Nobody else is named for the step {run.step.name}.", run.step.name)
    return _with_step(review, place, replace(run, taken_by=None))


def hand_in(review: Review, person: str, answers: tuple[Answer, ...], now: datetime, at: ProjectClock) -> Review:
    """The step is done and the next begins, or the review is closed. Every document needs its answer."""
    place, run = _running_step(review, person)
    if run.taken_by != person:
        raise RuleBroken("pick_up_first", f"Pick up the step {run.step.name} first, so that nobody does it twice.")
    _check_answers(review, run.step, person, answers)
    done = _with_step(review, place, replace(run, state=StepState.DONE, ended_at=now))
    if place + 1 < len(review.steps):
        return _begin(done, place + 1, now, at)
    return replace(done, state=ReviewState.CLOSED)


def _check_answers(review: Review, step: Step, person: str, answers: tuple[Answer, ...]) -> None:
    answered = [each.document_id for each in answers]
    if sorted(answered) != sorted(review.filed_by):
        raise RuleBroken("answers_incomplete", "Answer for each document of the review, once.", step.name)
    known = {each.code for each in review.verdicts}
    for each in answers:
        if step.act is StepAct.DECIDE and each.verdict not in known:
            raise RuleBroken("verdict_missing", "Every document needs a verdict.", each.document_id)
        if step.act is StepAct.COMMENT and each.verdict:
            raise RuleBroken("verdict_unasked", f"The step {step.name} comments; it gives no verdict.", step.name)
        if step.act is StepAct.DECIDE and review.filed_by[each.document_id] == person:
            raise NotAllowed("own_document", "Nobody decides on a document they filed.", each.document_id)


def cancel(review: Review, reason: str, now: datetime) -> Review:
    """The review ends without an outcome; steps not done are dropped. A reason is required."""
    if review.state is not ReviewState.RUNNING:
        raise RuleBroken("review_over", "This review is over.")
    if not reason.strip():
        raise RuleBroken("reason_missing", "Say why the review is cancelled.")
    steps = tuple(
        run if run.state is StepState.DONE else replace(run, state=StepState.DROPPED, ended_at=now)
        for run in review.steps
    )
    return replace(review, state=ReviewState.CANCELLED, steps=steps)


def forecast(review: Review, today: date, at: ProjectClock) -> tuple[date | None, ...]:
    """For each step its planned last day: the due day where it has begun, otherwise counted on from the step before.

    A step that is late pushes what follows: it is taken to end today at the earliest.
    """
    planned: list[date | None] = []
    previous = today
    for run in review.steps:
        if run.state is StepState.DONE:
            previous = max(clock.local_date(run.ended_at, at.zone), previous) if run.ended_at else previous
            planned.append(run.due_on)
        elif run.state is StepState.DROPPED:
            planned.append(run.due_on)
        else:
            due = run.due_on or clock.due_on(previous, run.step.days, run.step.counting, at.calendar)
            planned.append(due)
            previous = max(due, today)
    return tuple(planned)
