"""How the log does: answer times by company, rounds by kind, floats day by day (handbook §9), of what one sees."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from datetime import date

import numpy as np
from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from nod.core.acts.day_index import day_index, day_of, number
from nod.core.acts.working_days import Calendar
from nod.core.submittals.analysis import floats_on, spread_of
from nod.core.submittals.states import State
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.submittals.floats_kept import pasts_in
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.log import was_settled
from nod.services.submittals.outlooks import keep_worked_out, submittal_rules
from nod.store.tables import SubmittalRoundRow, SubmittalRow

DAYS_SHOWN = 60
"""Working days back from today of which floats are shown."""


class AnswersOf(Answered):
    """A company's answers: working days from sent in to answered. `waiting`: how many it has not answered yet."""

    company_id: str
    code: str
    name: str
    count: int
    median: float
    lower: float
    upper: float
    least: int
    most: int
    waiting: int


class RoundsCount(Answered):
    rounds: int
    count: int


class RoundsOf(Answered):
    """Submittals of a kind that were answered to proceed, by how many rounds that took."""

    kind: str
    words: str
    settled: int
    mean: float
    rounds: list[RoundsCount]


class FloatsShown(Answered):
    """Of a day: how many floats were known, how many were below 0; `median` and `least` null where none was known."""

    on: date
    known: int
    late: int
    median: float | None
    least: int | None


class SubmittalAnalysis(Answered):
    """`floats` begin with the first day that anything is kept of, and end with today."""

    answers: list[AnswersOf]
    rounds: list[RoundsOf]
    floats: list[FloatsShown]


def read_analysis(context: Context, actor: Actor, project_id: str) -> SubmittalAnalysis:
    with context.database.read() as session:
        take_seat(session, actor, project_id).need_tool(SUBMITTAL.tool)
    keep_worked_out(context, project_id)
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool(SUBMITTAL.tool)
        today = today_in(seat.project, context.clock.now())
        calendar = project_clock(session, seat.project).calendar
        return SubmittalAnalysis(
            answers=_answers(session, seat, calendar), rounds=_rounds(session, seat),
            floats=_floats(session, seat, calendar, today),
        )  # fmt: skip


def _answers(session: Session, seat: Seat, calendar: Calendar) -> list[AnswersOf]:
    """The slowest first."""
    query = (
        select(SubmittalRoundRow.approver_company_id, SubmittalRoundRow.sent_on, SubmittalRoundRow.answered_on)
        .join(SubmittalRow, SubmittalRow.id == SubmittalRoundRow.submittal_id)
        .where(
            SubmittalRow.project_id == seat.project.id, SUBMITTAL.seen(seat),
            SubmittalRoundRow.approver_company_id.is_not(None),
            or_(SubmittalRoundRow.answered_on.is_not(None), SubmittalRow.state == State.UNDER_REVIEW.value),
        )
    )  # fmt: skip
    rows = session.execute(query).all()
    now = companies_now(session, {company for company, _, _ in rows if company})
    days = day_index(calendar)
    taken: dict[str, list[int]] = {}
    waiting: Counter[str] = Counter()
    for company_id, sent, answered in rows:
        company = now[company_id or ""].id
        if answered is None:
            waiting[company] += 1
        else:
            distance = days.distance(np.int64(number(sent)), np.int64(number(answered)))
            taken.setdefault(company, []).append(int(distance))
    found = []
    for row in {each.id: each for each in now.values()}.values():
        spread = spread_of(taken.get(row.id, []))
        if spread is not None:
            found.append(
                AnswersOf(
                    company_id=row.id, code=row.code, name=row.name, count=spread.count,
                    median=spread.median, lower=spread.lower, upper=spread.upper, least=spread.least,
                    most=spread.most, waiting=waiting[row.id],
                )
            )  # fmt: skip
    return sorted(found, key=lambda each: (-each.median, each.code))


def _rounds(session: Session, seat: Seat) -> list[RoundsOf]:
    """In the order of the project's kinds."""
    query = (
        select(SubmittalRow.kind, SubmittalRow.revision, func.count())
        .where(SubmittalRow.project_id == seat.project.id, SUBMITTAL.seen(seat), was_settled())
        .group_by(SubmittalRow.kind, SubmittalRow.revision)
    )
    by_kind: dict[str, dict[int, int]] = {}
    for kind, revision, count in session.execute(query):
        by_kind.setdefault(kind, {})[revision + 1] = count
    words = {each.code: each.words for each in submittal_rules(seat.project).kinds}
    order = [*words, *(each for each in by_kind if each not in words)]
    return [_rounds_of(kind, words.get(kind, kind), by_kind[kind]) for kind in order if kind in by_kind]


def _rounds_of(kind: str, words: str, counts: Mapping[int, int]) -> RoundsOf:
    settled = sum(counts.values())
    mean = sum(rounds * count for rounds, count in counts.items()) / settled
    shown = [RoundsCount(rounds=rounds, count=count) for rounds, count in sorted(counts.items())]
    return RoundsOf(kind=kind, words=words, settled=settled, mean=round(mean, 2), rounds=shown)


def _floats(session: Session, seat: Seat, calendar: Calendar, today: date) -> list[FloatsShown]:
    shown = _working_days_to(today, calendar)
    pasts = pasts_in(session, seat.project.id, shown[0], SUBMITTAL.seen(seat))
    first = min((past[0][0] for past in pasts.values() if past), default=today)
    days = [on for on in shown if on >= first]
    return [
        FloatsShown(on=each.on, known=each.known, late=each.late, median=each.median, least=each.least)
        for each in floats_on(pasts.values(), days)
    ]


def _working_days_to(today: date, calendar: Calendar) -> list[date]:
    """The last of them, and today, worked or not."""
    index = day_index(calendar)
    back = index.before(np.int64(number(today)), np.arange(DAYS_SHOWN))
    return sorted({today, *(day_of(each) for each in back)})
