"""When the steps of a review will be done: due days, and what the answers of before say (handbook §8, clock)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

from nod.core.acts import working_days as clock
from nod.core.acts.working_days import Calendar, Counting, ProjectClock
from nod.core.reviews.path import Path, Step
from nod.core.reviews.running import StepRun, StepState

LEAST_ANSWERS, MOST_ANSWERS = 3, 10


def _as_allowed(step: Step) -> int:
    return step.days


def forecast(
    steps: Sequence[StepRun], today: date, at: ProjectClock, expected: Callable[[Step], int] = _as_allowed
) -> tuple[date | None, ...]:
    """For each step its planned last day: the due day where it has begun, otherwise counted on from what is before it.

    `expected`: within how many days a step that has not begun will be answered. A step that is late pushes what
    follows: it is taken to end today at the earliest.
    """
    planned: dict[int, date | None] = {}
    before = today
    for stage in sorted({run.stage for run in steps}):
        own = [(place, run) for place, run in enumerate(steps) if run.stage == stage]
        beside = [(place, run) for place, run in own if not run.step.sums_up]
        last = [(place, run) for place, run in own if run.step.sums_up]
        for group in (beside, last):
            before = _plan(planned, group, before, today, at, expected)
    return tuple(planned[place] for place in range(len(steps)))


def _plan(
    planned: dict[int, date | None],
    group: Sequence[tuple[int, StepRun]],
    before: date,
    today: date,
    at: ProjectClock,
    expected: Callable[[Step], int],
) -> date:
    """The day on which the last of steps that begin together is done."""
    ends = [before]
    for place, run in group:
        if run.state is StepState.DONE:
            planned[place] = run.due_on
            if run.ended_at:
                ends.append(clock.local_date(run.ended_at, at.zone))
        elif run.state is StepState.DROPPED:
            planned[place] = run.due_on
        else:
            due = run.due_on or clock.due_on(before, expected(run.step), run.step.counting, at.calendar)
            planned[place] = due
            ends.append(max(due, today))
    return max(ends)


def as_planned(path: Path) -> tuple[StepRun, ...]:
    """The steps of a path that has not begun."""
    return tuple(StepRun(step, number) for number, stage in enumerate(path) for step in stage.steps)


def days_taken(began: date, answered: date, counting: Counting, calendar: Calendar) -> int:
    """How many days an answer took, counted as a step counts them; 0 on the day itself."""
    if counting is Counting.CALENDAR:
        return max(0, (answered - began).days)
    return calendar.working_days_after(began, answered)


def median_up(days: Sequence[int]) -> int | None:
    """The median of the last ten, rounded up; None of fewer than three. `days` has the newest last."""
    last = sorted(days[-MOST_ANSWERS:])
    if len(last) < LEAST_ANSWERS:
        return None
    middle = len(last) // 2
    return last[middle] if len(last) % 2 else -(-(last[middle - 1] + last[middle]) // 2)
