"""What is late, by company and by how much, and how long each company takes to answer (handbook §8)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.working_days import Counting
from nod.core.reviews.forecast import MOST_ANSWERS, days_taken, median_up
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context, project_clock
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, take_seat
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import STEP
from nod.services.reviews.pace import answered_by_company
from nod.store.dialects.sqlite import one_of
from nod.store.tables import CompanyRow, OpenWorkHolderRow, OpenWorkRow, PersonRow, ReviewRow


class LateStep(Answered):
    """A step that somebody should have answered. `days_late` as the step counts."""

    review_id: str
    number: str
    name: str
    step: str
    who: list[Who]
    since_at: datetime | None
    due_on: date | None
    days_late: int


class CompanyPace(Answered):
    """A company's open and late steps, and the working days that its last ten answers took, the newest last.

    `median` is rounded up, and none of fewer than three answers; `low` and `high` are the quickest and the slowest.
    """

    code: str
    name: str
    open: int
    late: int
    worst: int
    answers: list[int]
    median: int | None
    low: int | None
    high: int | None


class Lateness(Answered):
    """`longest` is the most days in any of the answers or of what is late: the end of all small plots."""

    steps: list[LateStep]
    companies: list[CompanyPace]
    longest: int


def read_lateness(context: Context, actor: Actor, project_id: str) -> Lateness:
    """For those who run the project: the latest first."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool("reviews")
        seat.need_to_run()
        late = LateBy(session, seat.project, context.clock.now())
        query = (
            select(OpenWorkRow, ReviewRow)
            .join(ReviewRow, ReviewRow.id == OpenWorkRow.thing_id)
            .where(ReviewRow.project_id == project_id, REVIEW.seen(seat), OpenWorkRow.kind == STEP.code)
            .where(~OpenWorkRow.is_coming)
            .order_by(OpenWorkRow.due_on, ReviewRow.number)
        )
        pairs = [(work, review) for work, review in session.execute(query)]
        holders = _holders(session, [work.id for work, _ in pairs])
        people = people_by_id(session, {person for each in holders.values() for person in each})
        steps = [
            LateStep(
                review_id=review.id, number=review.number, name=review.name, step=work.what,
                who=[people[each] for each in holders.get(work.id, ()) if each in people], since_at=work.since_at,
                due_on=work.due_on, days_late=late(work.due_on, Counting(work.counting)),
            )
            for work, review in pairs
        ]  # fmt: skip
        taken = {
            company: [
                days_taken(
                    each.began_on, each.answered_on, Counting.WORKING, project_clock(session, seat.project).calendar
                )
                for each in answers[-MOST_ANSWERS:]
            ]
            for company, answers in answered_by_company(session, seat.project).items()
        }
        companies = _companies(session, steps, taken)
        behind = sorted((each for each in steps if each.days_late), key=lambda each: -each.days_late)
        most = max((*(day for days in taken.values() for day in days), *(each.days_late for each in steps)), default=0)
        return Lateness(steps=behind, companies=companies, longest=most)


def _holders(session: Session, work_ids: Sequence[str]) -> dict[str, list[str]]:
    query = select(OpenWorkHolderRow.work_id, OpenWorkHolderRow.holder_id).where(
        one_of(OpenWorkHolderRow.work_id, work_ids), OpenWorkHolderRow.kind == "person"
    )
    found: dict[str, list[str]] = {}
    for work_id, holder_id in session.execute(query.order_by(OpenWorkHolderRow.place)):
        found.setdefault(work_id, []).append(holder_id)
    return found


def _companies(session: Session, steps: Sequence[LateStep], taken: dict[str, list[int]]) -> list[CompanyPace]:
    """Those that have something open or have answered something, what is latest on top."""
    codes = {who.company for step in steps for who in step.who}
    used = select(CompanyRow.id, CompanyRow.code, CompanyRow.name).join(
        PersonRow, PersonRow.company_id == CompanyRow.id
    )
    found = []
    for id, code, name in session.execute(used.distinct()):
        if code not in codes and id not in taken:
            continue
        own = [step for step in steps if any(who.company == code for who in step.who)]
        behind = [step.days_late for step in own if step.days_late]
        days = taken.get(id, [])
        found.append(
            CompanyPace(
                code=code, name=name, open=len(own), late=len(behind), worst=max(behind, default=0), answers=days,
                median=median_up(days), low=min(days, default=None), high=max(days, default=None),
            )
        )  # fmt: skip
    return sorted(found, key=lambda each: (-each.worst, -each.late, each.name))
