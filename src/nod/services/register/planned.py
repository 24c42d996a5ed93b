"""Planned documents: what each company has promised, and what of it is received or late (handbook §5)."""

from __future__ import annotations

from datetime import date
from typing import Any

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.working_days import Counting
from nod.core.register import planned as rules
from nod.core.register.numbers import check_number
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting, check_version
from nod.services.acts.late import LateBy
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, take_seat
from nod.store.tables import NO_COPY, DocumentRow, PlannedDocumentRow, RevisionRow


class PlannedLine(Answered):
    """`state` is planned, received or late; `document_id` where it has come."""

    number: str
    title: str
    company: str
    discipline: str
    planned_on: date
    state: str
    days_late: int
    document_id: str
    revision: str
    received_on: date | None
    version: int


class PlannedCount(Answered):
    company: str
    discipline: str
    all: int
    received: int
    late: int
    planned: int
    percent: int


class PlannedList(Answered):
    """`counts` by company and discipline, over all that one may see; `total` has empty company and discipline."""

    lines: list[PlannedLine]
    counts: list[PlannedCount]
    total: PlannedCount
    may_change: bool


class PutPlanned(Command):
    """A promise as it is to stand; `version` 0 for one that is not there yet."""

    project_id: str
    number: str
    title: str
    company: str
    discipline: str
    planned_on: date = Field(strict=False)
    version: int


class RemovePlanned(Command):
    project_id: str
    number: str
    version: int


def list_planned(context: Context, actor: Actor, project_id: str) -> PlannedList:
    """Those who run the project see all; others what their company has promised. The late first, by day."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        late = LateBy(session, seat.project, context.clock.now())
        query = select(PlannedDocumentRow).where(PlannedDocumentRow.project_id == project_id)
        if not seat.runs:
            query = query.where(PlannedDocumentRow.company == actor.company_code)
        rows = list(session.scalars(query.order_by(PlannedDocumentRow.planned_on, PlannedDocumentRow.number)))
        come = _received(session, project_id)
        lines = []
        for row in rows:
            document = come.get(row.number)
            if document and seat.at(document.folder_id) is Level.NONE:
                continue
            lines.append(_line(row, document, late))
        return PlannedList(
            lines=sorted(lines, key=lambda line: rules.STATES.index(line.state)), counts=_counts(lines),
            total=_count("", "", [line.state for line in lines]),
            may_change=seat.runs,
        )  # fmt: skip


def _received(session: Session, project_id: str) -> dict[str, Any]:
    """By number: the document and when its first revision was filed."""
    first = select(RevisionRow.document_id, func.min(RevisionRow.filed_at).label("first"))
    first_filed = first.group_by(RevisionRow.document_id).subquery()
    planned = PlannedDocumentRow
    same = (planned.project_id == DocumentRow.project_id) & (planned.number == DocumentRow.number)
    query = (
        select(
            DocumentRow.number, DocumentRow.id, DocumentRow.folder_id, DocumentRow.revision, first_filed.c.first
        )
        .join(PlannedDocumentRow, same)
        .join(first_filed, first_filed.c.document_id == DocumentRow.id)
        .where(DocumentRow.project_id == project_id, DocumentRow.copy_of == NO_COPY)
    )  # fmt: skip
    return {row.number: row for row in session.execute(query)}


def _line(row: PlannedDocumentRow, document: Any, late: LateBy) -> PlannedLine:
    state = rules.state_of(row.planned_on, document is not None, late.today)
    return PlannedLine(
        number=row.number, title=row.title, company=row.company, discipline=row.discipline, planned_on=row.planned_on,
        state=state, days_late=late(row.planned_on, Counting.WORKING) if state == "late" else 0,
        document_id=document.id if document else "", revision=document.revision if document else "",
        received_on=document.first.astimezone(late.zone).date() if document else None, version=row.version,
    )  # fmt: skip


def _counts(lines: list[PlannedLine]) -> list[PlannedCount]:
    by_pair: dict[tuple[str, str], list[str]] = {}
    for line in lines:
        by_pair.setdefault((line.company, line.discipline), []).append(line.state)
    return [_count(*pair, states) for pair, states in sorted(by_pair.items())]


def _count(company: str, discipline: str, states: list[str]) -> PlannedCount:
    received = states.count("received")
    return PlannedCount(
        company=company, discipline=discipline, all=len(states), received=received, late=states.count("late"),
        planned=states.count("planned"), percent=rules.percent(received, len(states)),
    )  # fmt: skip


def put_planned(context: Context, actor: Actor, command: PutPlanned) -> None:
    """One promise made, or changed. Raises RuleBroken for a number that breaks the convention."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id)
        seat.need_to_run()
        row = act.session.get(PlannedDocumentRow, (command.project_id, command.number))
        check_version(command.version, row.version if row else 0, command.number)
        faults = check_number(rules_of(seat.project).convention, command.number)
        if faults:
            raise RuleBroken("number_breaks_convention", faults[0].words, command.number)
        before = {"planned": row.planned_on.isoformat(), "title": row.title} if row else {}
        if row is None:
            row = PlannedDocumentRow(project_id=command.project_id, number=command.number, version=0)
            act.session.add(row)
        row.title, row.company = command.title.strip()[:300], command.company.strip()[:20]
        row.discipline, row.planned_on = command.discipline.strip()[:20], command.planned_on
        row.version += 1
        after = {"planned": row.planned_on.isoformat(), "title": row.title}
        subject = Subject("project", command.project_id)
        act.record(command.project_id, Fact(FactKind.PLANNED_SET, subject, row.number, before=before, after=after))
        act.tell(command.project_id, "planned", command.project_id)


def remove_planned(context: Context, actor: Actor, command: RemovePlanned) -> None:
    """A promise that was taken back."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id)
        seat.need_to_run()
        row = act.session.get(PlannedDocumentRow, (command.project_id, command.number))
        if row is None:
            raise NotFound(command.number)
        check_version(command.version, row.version, row.number)
        act.session.delete(row)
        before = {"planned": row.planned_on.isoformat(), "company": row.company}
        subject = Subject("project", command.project_id)
        act.record(command.project_id, Fact(FactKind.PLANNED_REMOVED, subject, row.number, before=before))
        act.tell(command.project_id, "planned", command.project_id)
