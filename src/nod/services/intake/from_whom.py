"""From whom a batch came: which company, who there, by what way, when; proposed from what the files say themselves."""

from __future__ import annotations

from collections import Counter
from datetime import date, datetime, time
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.register.came_by import WAYS
from nod.core.register.numbers import check_number
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, today_in
from nod.services.acts.projects import rules_of
from nod.store.tables import ArrivalRow, BatchRow, CompanyRow, ProjectRow

_LONGEST = 120


class CameFrom(Command):
    """`on` is the day in the project's time zone; `by` one of `WAYS`."""

    company: str
    person: str = ""
    by: str = ""
    on: date | None = Field(default=None, strict=False)


class CameShown(Answered):
    """`said` by somebody; otherwise what Nod proposes, with `why`."""

    company: str
    person: str
    by: str
    on: date
    said: bool
    why: str


def kept(batch: BatchRow) -> dict[str, str]:
    """As the trail has it."""
    return {
        "from": batch.came_from, "person": batch.came_person, "by": WAYS[batch.came_by],
        "on": batch.came_on.isoformat() if batch.came_on else "",
    }  # fmt: skip


def say(act: Act, batch: BatchRow, came: CameFrom) -> None:
    """Raises RuleBroken without a company, for a way there is not, and for a day that is still to come."""
    project = act.session.get_one(ProjectRow, batch.project_id)
    company = " ".join(came.company.split())[:_LONGEST]
    if not company:
        raise RuleBroken("came_from_missing", "Say which company the files came from.")
    if came.by not in WAYS:
        raise RuleBroken("came_by_unknown", f"Files do not come by “{came.by[:40]}”.", came.by[:40])
    if came.on and came.on > today_in(project, act.at):
        raise RuleBroken("came_on_future", "The day on which the files came is still to come.", came.on.isoformat())
    batch.came_from, batch.came_person = company, " ".join(came.person.split())[:_LONGEST]
    batch.came_by, batch.came_on, batch.came_said = came.by, came.on, True


def shown(session: Session, project: ProjectRow, batch: BatchRow) -> CameShown:
    """What was said, or what is proposed."""
    on = batch.came_on or today_in(project, batch.arrived_at)
    if batch.came_said:
        return CameShown(company=batch.came_from, person=batch.came_person, by=batch.came_by, on=on, said=True, why="")
    company, why = proposed_company(session, project, batch)
    last = _last_from(session, batch, company)
    person, by = (last.came_person, last.came_by) if last else ("", "")
    return CameShown(company=company, person=person, by=by, on=on, said=False, why=why)


def proposed_company(session: Session, project: ProjectRow, batch: BatchRow) -> tuple[str, str]:
    """The company that most of the numbers name, if more than half do; otherwise that of whoever took the files in."""
    convention = rules_of(project).convention
    rows = session.scalars(select(ArrivalRow.number).where(ArrivalRow.batch_id == batch.id, ArrivalRow.number != ""))
    kept_ones = [number for number in rows if not check_number(convention, number)]
    codes = Counter(convention.split(number).get("originator", "") for number in kept_ones)
    code, count = codes.most_common(1)[0] if codes else ("", 0)
    if not code or count * 2 <= len(kept_ones):
        return batch.came_from, ""
    name = session.scalars(select(CompanyRow.name).where(CompanyRow.code == code)).first()
    return (name, f"{count} of {len(kept_ones)} numbers are {code}’s") if name else (batch.came_from, "")


def _last_from(session: Session, batch: BatchRow, company: str) -> BatchRow | None:
    query = select(BatchRow).where(
        BatchRow.project_id == batch.project_id, BatchRow.came_from == company, BatchRow.came_said,
        BatchRow.came_person != "",
    )  # fmt: skip
    return session.scalars(query.order_by(BatchRow.arrived_at.desc()).limit(1)).first()


def settle(session: Session, project: ProjectRow, batch: BatchRow) -> datetime:
    """When the files are registered, what was proposed stands. Returns when they came.

    Of a day that was said nobody knows the hour: noon there.
    """
    if not batch.came_said:
        batch.came_from = proposed_company(session, project, batch)[0]
        batch.came_said = True
    if batch.came_on is None or batch.came_on == today_in(project, batch.arrived_at):
        return batch.arrived_at
    return datetime.combine(batch.came_on, time(12), ZoneInfo(project.time_zone))
