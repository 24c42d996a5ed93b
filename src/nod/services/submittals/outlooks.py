"""What is worked out of submittals, kept with what it was worked out from (decision 0061).

The log is sorted by float, so floats are columns. They depend on the day, the calendar and the project's buffer, which
`worked_from` names, and on the row itself and its company's pace: whatever changes these works them out anew.
"""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np
from sqlalchemy import Connection, bindparam, select, update
from sqlalchemy.orm import Session

from nod.core.acts.day_index import day_index, number
from nod.core.acts.working_days import Calendar
from nod.core.submittals.arithmetic import (
    MOST_ANSWERS,
    Case,
    LeadIn,
    Outlook,
    Stage,
    Standing,
    Times,
    columns_of,
    expected_days,
    outlooks,
)
from nod.core.submittals.rules import SubmittalRules, rules_read
from nod.core.submittals.states import NOT_SENT, OVER, State
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.submittals.floats_kept import keep_floats
from nod.services.submittals.part_rows import lots_of
from nod.services.submittals.work_kinds import PREPARE
from nod.store.bulk import rows_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import Base, OpenWorkRow, PersonRow, ProjectRow, SubmittalLotRow, SubmittalRoundRow, SubmittalRow

_TABLE = Base.metadata.tables[SubmittalRow.__tablename__]
_ROUNDS = Base.metadata.tables[SubmittalRoundRow.__tablename__]


def submittal_rules(project: ProjectRow) -> SubmittalRules:
    return rules_read(project.rules.get("submittals", {}))


@dataclass(frozen=True)
class Ground:
    """What all floats of a project are worked out from: the day, the calendar, the buffer."""

    today: date
    calendar: Calendar
    buffer: int

    @property
    def name(self) -> str:
        days = ",".join(map(str, sorted(self.calendar.working_weekdays)))
        free = ",".join(each.isoformat() for each in sorted(self.calendar.holidays))
        digest = hashlib.sha256(f"{days} {free} {self.buffer}".encode()).hexdigest()[:12]
        return f"{self.today.isoformat()} {digest}"


def ground_of(session: Session, project: ProjectRow, context: Context) -> Ground:
    today = today_in(project, context.clock.now())
    return Ground(today, project_clock(session, project).calendar, submittal_rules(project).buffer)


def keep_worked_out(context: Context, project_id: str) -> None:
    """Before a log is read: what was worked out on another day, or from another set-up, is worked out anew.

    So many at a time, so that nobody who writes waits long meanwhile.
    """
    while stale := _stale(context, project_id):
        with context.database.write() as session:
            work_out(session, session.get_one(ProjectRow, project_id), context, stale)


_AT_ONCE = 1000


def _stale(context: Context, project_id: str) -> list[str]:
    with context.database.read() as session:
        project = session.get(ProjectRow, project_id)
        if project is None:
            return []
        name = ground_of(session, project, context).name
        query = select(SubmittalRow.id).where(SubmittalRow.project_id == project_id).limit(_AT_ONCE)
        # Two ranges of an index, where "other than" would look at every row.
        before = list(session.scalars(query.where(SubmittalRow.worked_from < name)))
        return before or list(session.scalars(query.where(SubmittalRow.worked_from > name)))


def work_out(session: Session, project: ProjectRow, context: Context, ids: Collection[str] | None = None) -> None:
    """All of a project, or some of it."""
    session.flush()
    ground = ground_of(session, project, context)
    here = _TABLE.c.project_id == project.id
    if ids is not None:
        here &= one_of(_TABLE.c.id, list(ids))
    rows = rows_of(session, select(*_NEEDED).where(here))
    expected, seen = _figured(session, project.id, ground, rows)
    connection = session.connection()
    connection.execute(update(_TABLE).where(here).values(worked_from=ground.name))
    _keep(connection, rows, expected, seen)
    keep_floats(session, ground.today, {row.id: _moving(row, seen.get(row.id)) for row in rows})
    session.expire_all()


def _moving(row: Any, found: Outlook | None) -> int | None:
    """Its float; None where it is not known, or nothing moves any more."""
    if found is None or State(row.state) in OVER or row.delivered_on is not None:
        return None
    return found.float_days


def work_out_daily(context: Context) -> None:
    """All projects, so that floats are kept of days on which nobody looked. Costs next to nothing until a day ends."""
    with context.database.read() as session:
        projects = list(session.scalars(select(SubmittalRow.project_id).distinct()))
    for each in projects:
        keep_worked_out(context, each)


def would_be(session: Session, project: ProjectRow, context: Context, rows: Sequence[Any]) -> dict[str, Outlook]:
    """By id, what would follow if submittals were as these say, who have all that `NEEDED_FIELDS` name."""
    return _figured(session, project.id, ground_of(session, project, context), rows)[1]


def _figured(
    session: Session, project_id: str, ground: Ground, rows: Sequence[Any]
) -> tuple[dict[str, int], dict[str, Outlook]]:
    """By id, the answer time to expect, and what follows where that is known."""
    paces = _paces(session, project_id, ground.calendar, {row.approver_id for row in rows if row.approver_id})
    expected = {row.id: expected_days(paces.get(row.approver_id, ()), row.review_days) for row in rows}
    standings = _standings(session, rows)
    lots = lots_of(session, [row.id for row in rows])
    known = [
        (row.id, case)
        for row, standing in zip(rows, standings, strict=True)
        for case in cases_of(row, expected[row.id], standing, ground.buffer, lots.get(row.id, ()))
    ]
    found = outlooks(columns_of([case for _, case in known]), ground.today, ground.calendar)
    least: dict[str, Outlook] = {}
    for place, (id, _) in enumerate(known):
        if id not in least or found.float_days[place] < least[id].float_days:
            least[id] = found[place]
    return expected, least


NEEDED_FIELDS = (
    "id", "revision", "state", "for_information", "approver_id", "required_on", "planned_on", "delivered_on",
    "lead", "lead_in", "review_days", "rounds", "preparation", "expected", "latest_on", "forecast_on", "answer_on",
    "float_days",
)  # fmt: skip
_NEEDED = [_TABLE.c[each] for each in NEEDED_FIELDS]
_SET = update(_TABLE).where(_TABLE.c.id == bindparam("of")).values(
    {each: bindparam(f"now_{each}") for each in ("expected", "latest_on", "forecast_on", "answer_on", "float_days")}
)  # fmt: skip
_WORK = Base.metadata.tables[OpenWorkRow.__tablename__]
_SET_DUE = (
    update(_WORK)
    .where(_WORK.c.thing_id == bindparam("of"), _WORK.c.kind == PREPARE.code)
    .values(due_on=bindparam("now"))
)


def _keep(connection: Connection, rows: Sequence[Any], expected: dict[str, int], seen: dict[str, Outlook]) -> None:
    """What differs from what was kept, all at once. Whoever is asked is to send in by the latest day."""
    changed, due = [], []
    for row in rows:
        found = seen.get(row.id)
        now = (expected[row.id], *(_figures(found) if found else _NOTHING))
        if now != (row.expected, row.latest_on, row.forecast_on, row.answer_on, row.float_days):
            changed.append(dict(zip(_KEPT, (row.id, *now), strict=True)))
            if row.latest_on != now[1] and State(row.state) in NOT_SENT:
                due.append({"of": row.id, "now": now[1]})
    if changed:
        connection.execute(_SET, changed)
    if due:
        connection.execute(_SET_DUE, due)


_KEPT = ("of", "now_expected", "now_latest_on", "now_forecast_on", "now_answer_on", "now_float_days")
_NOTHING = (None, None, None, None)


def _figures(found: Outlook) -> tuple[date, date, date | None, int]:
    return found.latest, found.forecast, found.answer, found.float_days


def cases_of(
    row: Any, expected: int, standing: Standing, buffer: int, lots: Sequence[SubmittalLotRow] = ()
) -> list[Case]:
    """One for each lot that has not come, or for the whole. None where the day on site or the lead time is missing, or
    where it is void."""
    coming = [each for each in lots if each.delivered_on is None]
    each_of: Sequence[SubmittalLotRow | None] = coming or lots[-1:] or [None]
    found = [case_of(row, expected, standing, buffer, lot) for lot in each_of]
    return [each for each in found if each is not None]


def case_of(
    row: Any, expected: int, standing: Standing, buffer: int, lot: SubmittalLotRow | None = None
) -> Case | None:
    """Of a lot, or of the whole; what a lot does not say is as the submittal has it."""
    required = (lot.required_on if lot else None) or row.required_on
    lead, lead_in = (lot.lead, lot.lead_in) if lot and lot.lead is not None else (row.lead, row.lead_in)
    if required is None or lead is None or row.state == State.VOID.value:
        return None
    review, rounds = (0, 1) if row.for_information else (row.review_days, row.rounds)
    times = Times(lead, review, rounds, row.preparation, buffer, LeadIn(lead_in))
    return Case(required, times, 0 if row.for_information else expected, standing)


def deciding(cases: Sequence[Case], today: date, calendar: Calendar) -> Case | None:
    """The one with the least float, which is the submittal's (handbook §9)."""
    if len(cases) < 2:
        return next(iter(cases), None)
    found = outlooks(columns_of(cases), today, calendar)
    return cases[int(np.argmin(found.float_days))]


def _standings(session: Session, rows: Sequence[Any]) -> list[Standing]:
    """Where each stands, by its last round."""
    ids = [row.id for row in rows if State(row.state) not in NOT_SENT or row.revision]
    rounds = rows_of(session, select(_ROUNDS).where(one_of(_ROUNDS.c.submittal_id, ids)).order_by(_ROUNDS.c.revision))
    last = {each.submittal_id: each for each in rounds}
    return [standing_of(row, last.get(row.id)) for row in rows]


def standing_of(row: Any, last: Any | None) -> Standing:
    """What the forecast of a submittal starts from, by its last round."""
    if row.delivered_on is not None:
        return Standing(Stage.DELIVERED, 1, row.delivered_on)
    if last is None:
        return Standing(Stage.NOT_SENT, 1, row.planned_on)
    again = State(row.state) in NOT_SENT
    if last.answered_on is None:
        # What is for information is not answered: its way goes on from the day it came.
        stage = Stage.PROCEED if row.for_information else Stage.SENT
        return Standing(stage, last.revision + 1, last.sent_on)
    return Standing(Stage.REVISE if again else Stage.PROCEED, last.revision + 1, last.answered_on)


def _paces(session: Session, project_id: str, calendar: Calendar, people: Collection[str]) -> dict[str, list[int]]:
    """By approver: how many working days the last answers of their company took, the newest first."""
    company_of = dict(
        session.execute(select(PersonRow.id, PersonRow.company_id).where(one_of(PersonRow.id, list(people)))).all()
    )
    days, by_company = day_index(calendar), {}
    for company_id in set(company_of.values()):
        query = (
            select(SubmittalRoundRow.sent_on, SubmittalRoundRow.answered_on)
            .join(SubmittalRow, SubmittalRow.id == SubmittalRoundRow.submittal_id)
            .where(
                SubmittalRow.project_id == project_id, SubmittalRoundRow.approver_company_id == company_id,
                SubmittalRoundRow.answered_at.is_not(None),
            )
            .order_by(SubmittalRoundRow.answered_at.desc())
            .limit(MOST_ANSWERS)
        )  # fmt: skip
        by_company[company_id] = [
            int(days.distance(np.int64(number(sent)), np.int64(number(answered))))
            for sent, answered in session.execute(query)
            if answered is not None
        ]
    return {person: by_company[company] for person, company in company_of.items()}


def same_pace(session: Session, project_id: str, company_id: str) -> list[str]:
    """Ids of the submittals that are answered by a company, and so expect an answer at its pace."""
    query = select(SubmittalRow.id).join(PersonRow, PersonRow.id == SubmittalRow.approver_id)
    return list(session.scalars(query.where(SubmittalRow.project_id == project_id, PersonRow.company_id == company_id)))
