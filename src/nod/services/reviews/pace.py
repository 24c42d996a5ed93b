"""How long each company took to answer its last steps in a project (handbook §8, forecast)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.working_days import Calendar, Counting, ProjectClock, local_date
from nod.core.reviews.forecast import MOST_ANSWERS, days_taken, forecast, median_up
from nod.core.reviews.path import Step
from nod.core.reviews.running import PlaceState, ReviewState
from nod.services.acts.context import project_clock
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.roster import ProjectRoster
from nod.services.reviews.route_checks import people_of
from nod.store.tables import PersonRow, ProjectRow, ReviewRow, ReviewStepRow, StepPlaceRow


@dataclass(frozen=True)
class Answered:
    """A step that somebody of a company answered: the days on which it began for them and was handed in."""

    began_on: date
    answered_on: date


def answered_by_company(session: Session, project: ProjectRow) -> dict[str, list[Answered]]:
    """By id of the company, the newest last."""
    zone = ZoneInfo(project.time_zone)
    query = (
        select(PersonRow.company_id, ReviewStepRow.began_at, StepPlaceRow.at)
        .join(StepPlaceRow, StepPlaceRow.person_id == PersonRow.id)
        .join(ReviewStepRow, ReviewStepRow.id == StepPlaceRow.step_id)
        .join(ReviewRow, ReviewRow.id == ReviewStepRow.review_id)
        .where(
            ReviewRow.project_id == project.id, StepPlaceRow.state == PlaceState.HANDED_IN.value,
            StepPlaceRow.at.is_not(None), ReviewStepRow.began_at.is_not(None),
        )
        .order_by(StepPlaceRow.at)
    )  # fmt: skip
    found: dict[str, list[Answered]] = {}
    for company_id, began_at, at in session.execute(query):
        if began_at and at:
            found.setdefault(company_id, []).append(Answered(local_date(began_at, zone), local_date(at, zone)))
    return found


def expected_days(session: Session, project: ProjectRow) -> Callable[[Step], int]:
    """Within how many days a step that has not begun will be answered, in the days it counts in.

    The median of the last ten answers of the company asked; of several companies the slowest counts. A company with
    fewer than three answers is taken at its word: the days allowed.
    """
    taken = answered_by_company(session, project)
    if not taken:
        return lambda step: step.days
    calendar = project_clock(session, project).calendar
    roster = ProjectRoster(session, project)
    people = [*roster.everybody(), *roster.contacts()]
    theirs = select(PersonRow.id, PersonRow.company_id).where(PersonRow.id.in_(people))
    companies: Mapping[str, str] = dict(session.execute(theirs).all())

    def expected(step: Step) -> int:
        asked = {companies[person] for person in people_of(roster, step.whom) if person in companies}
        paces = [pace_of(taken.get(each, []), step.counting, calendar) for each in asked]
        return max((step.days if pace is None else pace for pace in paces), default=step.days)

    return expected


def pace_of(answers: list[Answered], counting: Counting, calendar: Calendar) -> int | None:
    """The median of a company's last ten answers, rounded up; None of fewer than three."""
    last = answers[-MOST_ANSWERS:]
    return median_up([days_taken(each.began_on, each.answered_on, counting, calendar) for each in last])


def expected_end(
    session: Session, project: ProjectRow, loaded: LoadedReview, today: date, at: ProjectClock
) -> date | None:
    """When a running review is expected to end, as fast as those it asks have been; None for others."""
    if loaded.value.state is not ReviewState.RUNNING:
        return None
    days = forecast(loaded.value.steps, today, at, expected_days(session, project))
    return max((day for day in days if day), default=None)
