"""A list of planned documents out of a spreadsheet: its columns matched, tried cell by cell, then kept."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.register import planned as rules
from nod.core.register.numbers import check_number
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Table, Value, cell_name
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.files.tables_in import table_in
from nod.store.tables import CompanyRow, PlannedDocumentRow

_LARGEST_BYTES = 20 * 1024**2
_MOST_FAULTS = 500
_SAMPLES, _MOST_BEFORE = 3, 12


@dataclass(frozen=True)
class ListAsked:
    """How a list is to be read: the place of each field's column from 0, -1 where it has none, None to be guessed.

    `sheet` of a book, empty for the first with something in it. `heads` is the row that names the columns, counted from
    1; 0 to have it found.
    """

    project_id: str
    columns: dict[str, int] | None
    day_first: bool
    keep: bool
    sheet: str = ""
    heads: int = 0


class ListColumn(Answered):
    letter: str
    head: str
    samples: list[str]


class CellTrouble(Answered):
    """`cell` like B7, as the spreadsheet calls it."""

    cell: str
    value: str
    words: str


class ListRead(Answered):
    """What keeping the list would do, or has done. Rows with a trouble are left out. `either_way` counts the days

    whose day and month could be taken for each other. `heads` is the row that names the columns, counted from 1, and
    `before` what stands in each row that it could be.
    """

    sheet: str
    sheets: list[str]
    heads: int
    before: list[str]

    columns: list[ListColumn]
    taken: dict[str, int]
    rows: int
    new: int
    changed: int
    same: int
    troubles: list[CellTrouble]
    more_troubles: int
    either_way: int
    kept: bool


def read_list(context: Context, actor: Actor, asked: ListAsked, chunks: Iterable[bytes]) -> ListRead:
    """Tries a list, and keeps it if asked to. Raises RuleBroken for a file that is no table."""
    with context.database.read() as session:
        take_seat(session, actor, asked.project_id).need_to_run()
    table = table_in(context, chunks, sheet=asked.sheet)
    heads = asked.heads - 1 if 0 < asked.heads <= len(table.rows) else rules.find_heads(table.rows)
    columns = asked.columns if asked.columns is not None else rules.guess_columns(table.rows[heads])
    taken = {field: at for field, at in columns.items() if 0 <= at < table.columns and field in rules.FIELDS}
    if not asked.keep:
        with context.database.read() as session:
            seat = take_seat(session, actor, asked.project_id)
            return _Reading(session, seat, asked, table, taken, heads).answer(kept=False)
    with acting(context, actor) as act:
        seat = act.enter(asked.project_id)
        seat.need_to_run()
        reading = _Reading(act.session, seat, asked, table, taken, heads)
        if set(rules.FIELDS) - {"title", "discipline", "company"} - set(taken):
            raise RuleBroken("columns_wanted", "Say which columns hold the number and the planned day.")
        if not reading.found:
            raise RuleBroken("nothing_to_keep", "No row of the list can be kept. What is wrong is said by cell.")
        reading.keep(act)
        return reading.answer(kept=True)


class _Reading:
    """One list against the project: what is new, what changes, what is wrong cell by cell."""

    def __init__(
        self, session: Session, seat: Seat, asked: ListAsked, table: Table, taken: dict[str, int], heads: int
    ) -> None:
        self.seat, self.asked, self.table, self.taken, self.heads = seat, asked, table, taken, heads
        project = seat.project
        self.convention = rules_of(project).convention
        self.disciplines: dict[str, str] = project.rules["disciplines"]
        companies = session.execute(select(CompanyRow.code, CompanyRow.name)).all()
        self.companies = {said.casefold(): code for code, name in companies for said in (code, name)}
        query = select(PlannedDocumentRow).where(PlannedDocumentRow.project_id == project.id)
        self.there = {row.number: row for row in session.scalars(query)}
        self.troubles: list[CellTrouble] = []
        self.either_way = 0
        self.found: dict[str, dict[str, Any]] = {}
        for at, row in enumerate(table.rows[heads + 1 :], start=heads + 2):
            if any(value not in (None, "") for value in row):
                self._row(at, row)

    def _row(self, at: int, row: Sequence[Value]) -> None:
        before = len(self.troubles)
        number = self._said(row, "number")
        faults = check_number(self.convention, number)
        if faults:
            self._trouble("number", at, number, faults[0].words)
        elif number in self.found:
            self._trouble("number", at, number, f"{number} is in the list twice.")
        fields = self.convention.split(number) if not faults else {}
        company = self._company(at, row, fields.get("originator", ""))
        discipline = self._discipline(at, row, fields.get("discipline", ""))
        on = self._day(at, row)
        if len(self.troubles) == before and on:
            self.found[number] = {
                "title": self._said(row, "title"), "company": company, "discipline": discipline, "planned_on": on,
            }  # fmt: skip

    def _said(self, row: Sequence[Value], field: str) -> str:
        value = row[self.taken[field]] if field in self.taken else None
        return "" if value is None else str(value).strip()[:300]

    def _trouble(self, field: str, at: int, value: str, words: str) -> None:
        cell = cell_name(self.taken[field], at) if field in self.taken else f"row {at}"
        self.troubles.append(CellTrouble(cell=cell, value=value[:80], words=words))

    def _company(self, at: int, row: Sequence[Value], by_number: str) -> str:
        said = self._said(row, "company")
        if not said:
            return by_number
        if said.casefold() not in self.companies:
            self._trouble("company", at, said, f"There is no company “{said}” in the directory.")
        return self.companies.get(said.casefold(), "")

    def _discipline(self, at: int, row: Sequence[Value], by_number: str) -> str:
        said = self._said(row, "discipline")
        known = {each.casefold(): code for code, words in self.disciplines.items() for each in (code, words)}
        if said and known and said.casefold() not in known:
            self._trouble("discipline", at, said, f"“{said}” is no discipline of this project.")
        return known.get(said.casefold(), said) if said else by_number

    def _day(self, at: int, row: Sequence[Value]) -> date | None:
        value = row[self.taken["planned_on"]] if "planned_on" in self.taken else None
        on = rules.read_day(value, day_first=self.asked.day_first)
        if on is None:
            words = "No day is given." if value in (None, "") else f"“{value}” is no day."
            self._trouble("planned_on", at, "" if value is None else str(value), words)
        self.either_way += rules.is_either_way(value)
        return on

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
        after = {"new": self.counts[0], "changed": self.counts[1], "left out": len(self.troubles), "planned": listed}
        project = self.seat.project
        act.record(project_id, Fact(FactKind.PLANNED_SET, Subject("project", project_id), project.name, after=after))
        act.tell(project_id, "planned", project_id)

    def _counts(self) -> tuple[int, int, int]:
        new = sum(1 for number in self.found if number not in self.there)
        changing = sum(1 for number in self.found if number in self.there and self._changes(number))
        return new, changing, len(self.found) - new - changing

    def answer(self, *, kept: bool) -> ListRead:
        new, changing, same = self.counts if kept else self._counts()
        return ListRead(
            sheet=self.table.sheet, sheets=list(self.table.sheets), heads=self.heads + 1,
            before=[_row_words(row) for row in self.table.rows[: max(self.heads + 3, _MOST_BEFORE)]],
            columns=[self._column(at) for at in range(self.table.columns)], taken=self.taken,
            rows=len(self.table.rows) - self.heads - 1, new=new, changed=changing, same=same,
            troubles=self.troubles[:_MOST_FAULTS], more_troubles=max(0, len(self.troubles) - _MOST_FAULTS),
            either_way=self.either_way, kept=kept,
        )  # fmt: skip

    def _column(self, at: int) -> ListColumn:
        samples = [
            str(row[at]) for row in self.table.rows[self.heads + 1 : self.heads + 40] if row[at] not in (None, "")
        ]
        head = str(self.table.rows[self.heads][at] or "")
        return ListColumn(
            letter=cell_name(at, 1)[:-1], head=head[:80], samples=[each[:60] for each in samples[:_SAMPLES]]
        )


def _row_words(row: Sequence[Value]) -> str:
    return ", ".join(str(each) for each in row if each not in (None, ""))[:80]
