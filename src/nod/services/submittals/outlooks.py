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
from sqlalchemy import exists, select, update
from sqlalchemy.orm import Session

from nod.core.acts.day_index import day_index, number
from nod.core.acts.working_days import Calendar
from nod.core.submittals.arithmetic import (
    MOST_ANSWERS,
    Case,
    LeadIn,
    Stage,
    Standing,
    Times,
    columns_of,
    expected_days,
    outlooks,
)
from nod.core.submittals.rules import SubmittalRules, rules_read
from nod.core.submittals.states import NOT_SENT, State
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.submittals.work_kinds import PREPARE
from nod.store.bulk import rows_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import Base, OpenWorkRow, PersonRow, ProjectRow, SubmittalRoundRow, SubmittalRow

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
    """Before a log is read: what was worked out on another day, or from another set-up, is worked out anew."""
    with context.database.read() as session:
        project = session.get(ProjectRow, project_id)
        if project is None or not _is_stale(session, project, context):
            return
    with context.database.write() as session:
        work_out(session, session.get_one(ProjectRow, project_id), context)


def _is_stale(session: Session, project: ProjectRow, context: Context) -> bool:
    name = ground_of(session, project, context).name
    other = exists().where(SubmittalRow.project_id == project.id, SubmittalRow.worked_from != name)
    return bool(session.scalar(select(other)))


def work_out(session: Session, project: ProjectRow, context: Context, ids: Collection[str] | None = None) -> None:
    """All of a project, or some of it."""
    session.flush()
    ground = ground_of(session, project, context)
    query = select(_TABLE).where(_TABLE.c.project_id == project.id)
    if ids is not None:
        query = query.where(one_of(_TABLE.c.id, list(ids)))
    rows = rows_of(session, query)
    paces = _paces(session, project.id, ground.calendar, {row.approver_id for row in rows if row.approver_id})
    expected = [paces.get(row.approver_id, ()) for row in rows]
    standings = _standings(session, rows)
    cases = [
        case_of(row, expected_days(pace, row.review_days), standing, ground.buffer)
        for row, pace, standing in zip(rows, expected, standings, strict=True)
    ]
    known = [(row, case) for row, case in zip(rows, cases, strict=True) if case is not None]
    found = outlooks(columns_of([case for _, case in known]), ground.today, ground.calendar)
    values = {row.id: (case, found[place]) for place, (row, case) in enumerate(known)}
    changed = []
    for row, pace in zip(rows, expected, strict=True):
        case, seen = values.get(row.id, (None, None))
        changed.append(
            {
                "id": row.id, "worked_from": ground.name,
                "expected": case.expected if case else expected_days(pace, row.review_days),
                "latest_on": seen.latest if seen else None, "forecast_on": seen.forecast if seen else None,
                "answer_on": seen.answer if seen else None, "float_days": seen.float_days if seen else None,
            }
        )  # fmt: skip
    if changed:
        session.execute(update(SubmittalRow), changed)
        _move_due(session, rows, changed)
        session.expire_all()


def _move_due(session: Session, rows: Sequence[Any], changed: Sequence[dict[str, Any]]) -> None:
    """Whoever is asked for one is to send it in by the latest day, wherever that moves."""
    for row, now in zip(rows, changed, strict=True):
        if row.latest_on != now["latest_on"] and State(row.state) in NOT_SENT:
            its = (OpenWorkRow.thing_id == row.id, OpenWorkRow.kind == PREPARE.code)
            session.execute(update(OpenWorkRow).where(*its).values(due_on=now["latest_on"]))


def case_of(row: Any, expected: int, standing: Standing, buffer: int) -> Case | None:
    """None where the day on site or the lead time is missing, or where it is void."""
    if row.required_on is None or row.lead is None or row.state == State.VOID.value:
        return None
    review, rounds = (0, 1) if row.for_information else (row.review_days, row.rounds)
    times = Times(row.lead, review, rounds, row.preparation, buffer, LeadIn(row.lead_in))
    return Case(row.required_on, times, 0 if row.for_information else expected, standing)


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
