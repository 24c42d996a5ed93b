"""A list of planned documents out of a spreadsheet: its columns matched, tried cell by cell, then kept."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.register import planned as rules
from nod.core.register.numbers import check_number
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Table, Value
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.files.lists_in import ListAsked, ListReading, ListTried, list_in
from nod.store.tables import CompanyRow, PlannedDocumentRow


class ListRead(ListTried):
    """What keeping the list would do, or has done."""

    new: int
    changed: int
    same: int


def read_list(context: Context, actor: Actor, asked: ListAsked, chunks: Iterable[bytes]) -> ListRead:
    """Tries a list, and keeps it if asked to. Raises RuleBroken for a file that is no table."""
    with context.database.read() as session:
        take_seat(session, actor, asked.project_id).need_to_run()
    table = list_in(context, chunks, asked)
    if not asked.keep:
        with context.database.read() as session:
            seat = take_seat(session, actor, asked.project_id)
            return _Reading(session, seat, asked, table).answer(kept=False)
    with acting(context, actor) as act:
        seat = act.enter(asked.project_id)
        seat.need_to_run()
        reading = _Reading(act.session, seat, asked, table)
        if {"number", "planned_on"} - set(reading.list.taken):
            raise RuleBroken("columns_wanted", "Say which columns hold the number and the planned day.")
        if not reading.found:
            raise RuleBroken("nothing_to_keep", "No row of the list can be kept. What is wrong is said by cell.")
        reading.keep(act)
        return reading.answer(kept=True)


class _Reading:
    """One list against the project: what is new, what changes, what is wrong cell by cell."""

    def __init__(self, session: Session, seat: Seat, asked: ListAsked, table: Table) -> None:
        self.seat, self.list = seat, ListReading(table, asked, rules.HEADS)
        project = seat.project
        self.convention = rules_of(project).convention
        self.disciplines: dict[str, str] = project.rules["disciplines"]
        companies = session.execute(select(CompanyRow.code, CompanyRow.name)).all()
        self.companies = {said.casefold(): code for code, name in companies for said in (code, name)}
        query = select(PlannedDocumentRow).where(PlannedDocumentRow.project_id == project.id)
        self.there = {row.number: row for row in session.scalars(query)}
        self.found: dict[str, dict[str, Any]] = {}
        for at, row in self.list.rows():
            self._row(at, row)

    def _row(self, at: int, row: Sequence[Value]) -> None:
        before = len(self.list.troubles)
        number = self.list.said(row, "number")
        faults = check_number(self.convention, number)
        if faults:
            self.list.trouble("number", at, number, faults[0].words)
        elif number in self.found:
            self.list.trouble("number", at, number, f"{number} is in the list twice.")
        fields = self.convention.split(number) if not faults else {}
        company = self._company(at, row, fields.get("originator", ""))
        discipline = self._discipline(at, row, fields.get("discipline", ""))
        on = self.list.day(at, row, "planned_on")
        if len(self.list.troubles) == before and on:
            self.found[number] = {
                "title": self.list.said(row, "title"), "company": company, "discipline": discipline, "planned_on": on,
            }  # fmt: skip

    def _company(self, at: int, row: Sequence[Value], by_number: str) -> str:
        said = self.list.said(row, "company")
        if not said:
            return by_number
        if said.casefold() not in self.companies:
            self.list.trouble("company", at, said, f"There is no company “{said}” in the directory.")
        return self.companies.get(said.casefold(), "")

    def _discipline(self, at: int, row: Sequence[Value], by_number: str) -> str:
        said = self.list.said(row, "discipline")
        known = {each.casefold(): code for code, words in self.disciplines.items() for each in (code, words)}
        if said and known and said.casefold() not in known:
            self.list.trouble("discipline", at, said, f"“{said}” is no discipline of this project.")
        return known.get(said.casefold(), said) if said else by_number

    def _changes(self, number: str) -> dict[str, Any]:
        row = self.there.get(number)
        return {k: v for k, v in self.found[number].items() if row is None or getattr(row, k) != v}

    def keep(self, act: Act) -> None:
        project_id = self.seat.project.id
        self.counts = self._counts()
        listed = {}
        for number, values in self.found.items():
            row = self.there.get(number)
            if not self._changes(number):
                continue
            listed[number] = values["planned_on"].isoformat()
            if row is None:
                act.session.add(PlannedDocumentRow(project_id=project_id, number=number, version=1, **values))
                continue
            for key, value in values.items():
                setattr(row, key, value)
            row.version += 1
        after = {
            "new": self.counts[0],
            "changed": self.counts[1],
            "left out": len(self.list.troubles),
            "planned": listed,
        }
        project = self.seat.project
        act.record(project_id, Fact(FactKind.PLANNED_SET, Subject("project", project_id), project.name, after=after))
        act.tell(project_id, "planned", project_id)

    def _counts(self) -> tuple[int, int, int]:
        new = sum(1 for number in self.found if number not in self.there)
        changing = sum(1 for number in self.found if number in self.there and self._changes(number))
        return new, changing, len(self.found) - new - changing

    def answer(self, *, kept: bool) -> ListRead:
        new, changed, same = self.counts if kept else self._counts()
        return ListRead(**dict(self.list.told(kept=kept)), new=new, changed=changed, same=same)
