"""A list of submittals read against the log: what each row is of, what it changes, what is wrong with which cell."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.submittals import columns
from nod.core.submittals.arithmetic import LeadIn
from nod.core.submittals.numbers import NumberedBy, check_number, check_section
from nod.core.submittals.rules import check_days, check_rounds
from nod.core.submittals.states import Deed, Party, State, refusal
from nod.formats.files.spreadsheet import Table, Value
from nod.services.acts.seats import Seat
from nod.services.files.lists_in import ListAsked, ListReading
from nod.services.submittals.making import TEXTS, check_approver_free, check_company_free, tidy_text, values_of
from nod.services.submittals.outlooks import submittal_rules
from nod.store.tables import CompanyRow, MembershipRow, PersonRow, SubmittalRow


@dataclass
class Found:
    """One row of the list. `at`: its number in the spreadsheet. `row`: the submittal that it is of; None for a new one.

    `values`: what it changes, or what the new one begins with, by field of `Details`.
    """

    at: int
    number: str
    row: SubmittalRow | None
    values: dict[str, Any] = field(default_factory=dict)


class SubmittalReading:
    """`dates`: a schedule, which moves days on site and makes nothing."""

    def __init__(self, session: Session, seat: Seat, asked: ListAsked, table: Table, *, dates: bool) -> None:
        named = {key: columns.HEADS[key] for key in columns.DATE_FIELDS} if dates else columns.HEADS
        self.list = ListReading(table, asked, named)
        self.dates = dates
        self.found: list[Found] = []
        self.same = self.unmatched = 0
        self._known = _Known(session, seat)
        self._readers: dict[str, Callable[[Value], Any]] = self._all_readers()
        self._taken: dict[str, int] = {}
        for at, row in self.list.rows():
            self._read(at, row)

    def _all_readers(self) -> dict[str, Callable[[Value], Any]]:
        known = self._known
        texts = {name: _text_reader(name) for name in TEXTS}
        return texts | {
            "kind": known.kind, "section": lambda value: check_section(str(value)), "company_id": known.company,
            "approver_id": known.approver, "review_days": lambda value: check_days(columns.read_count(value), 1),
            "rounds": lambda value: check_rounds(columns.read_count(value)),
            "preparation": lambda value: check_days(columns.read_count(value)),
        }  # fmt: skip

    def _read(self, at: int, row: Sequence[Value]) -> None:
        troubles = len(self.list.troubles)
        matched, number = self._match(at, row)
        found = Found(at, number, matched)
        if len(self.list.troubles) > troubles:
            return
        if self.dates and matched is None:
            self.unmatched += 1
            return
        found.values = self._values(at, row)
        if len(self.list.troubles) == troubles:
            self._compare(found)

    def _compare(self, found: Found) -> None:
        """Keeps what is new or changes something, and can."""
        if found.row is None:
            if self._is_whole(found):
                self.found.append(found)
            return
        there = values_of(found.row)
        found.values = {name: value for name, value in found.values.items() if there[name] != value}
        if not found.values:
            self.same += 1
        elif (why := _locked(found)) is None:
            self.found.append(found)
        else:
            name, words = why
            self.list.trouble(_COLUMN.get(name, name), found.at, found.row.number, words)

    def _is_whole(self, found: Found) -> bool:
        """A new one has a title, a kind, a company, and what its number is made of."""
        by_section = self._known.rules.numbered_by is NumberedBy.SECTION and not found.number
        needed = ("title", "kind", "company_id", *(["section"] if by_section else []))
        missing = [name for name in needed if not found.values.get(name)]
        for name in missing:
            column = _COLUMN.get(name, name)
            label = columns.LABELS[column].lower()
            self.list.trouble(column, found.at, "", f"A new submittal needs its {label}, and none is given.")
        return not missing

    def _match(self, at: int, row: Sequence[Value]) -> tuple[SubmittalRow | None, str]:
        """By number; a schedule by its milestone, too, and by title."""
        said = self.list.said(row, "number")
        if said:
            try:
                number = check_number(said)
            except RuleBroken as error:
                self.list.trouble("number", at, said, error.words)
                return None, ""
            self._once(at, "number", number.casefold(), f"{number} is in the list twice.")
            return self._known.by_number.get(number.casefold()), number
        if self.dates:
            return self._by_words(at, row), ""
        return None, self._unnumbered(at, row)

    def _by_words(self, at: int, row: Sequence[Value]) -> SubmittalRow | None:
        for name in ("milestone", "title"):
            said = " ".join(self.list.said(row, name).casefold().split())
            named = self._known.by_words[name].get(said, []) if said else []
            if len(named) > 1 and name == "title":
                words = f"{len(named)} submittals are called so. Give the number of the one that is meant."
                self.list.trouble(name, at, self.list.said(row, name), words)
            if len(named) == 1:
                self._once(at, name, named[0].id, f"{named[0].number} is in the list twice.")
                return named[0]
        return None

    def _unnumbered(self, at: int, row: Sequence[Value]) -> str:
        """A row without a number is new, unless it says what there is already; a sample of it is another submittal."""
        said = [" ".join(self.list.said(row, each).casefold().split()) for each in ("title", "section", "company")]
        kind = self._known.kind_said(self.list.value(row, "kind"))
        there = [
            each
            for each in self._known.by_words["title"].get(said[0], [])
            if (_plain(each.section), each.kind) == (_plain(said[1]), kind)
        ]
        if said[0] and there:
            words = f"There is {there[0].number} with this title, section and kind. Give the row that number."
            self.list.trouble("title", at, self.list.said(row, "title"), words)
        self._once(at, "title", f"{said} {kind}", "The same stands further up in the list, without a number too.")
        return ""

    def _once(self, at: int, name: str, key: str, words: str) -> None:
        before = self._taken.setdefault(f"{name} {key}", at)
        if before != at:
            self.list.trouble(name, at, f"also in row {before}", words)

    def _values(self, at: int, row: Sequence[Value]) -> dict[str, Any]:
        """By field, what the cells say; an empty cell says nothing."""
        found: dict[str, Any] = {}
        for column in self.list.taken:
            value = self.list.value(row, column)
            if column == "number" or value is None or not str(value).strip():
                continue
            if self.dates and column == "title":
                continue
            try:
                self._one(found, at, row, column, value)
            except RuleBroken as error:
                self.list.trouble(column, at, value, error.words)
        return found

    def _one(self, found: dict[str, Any], at: int, row: Sequence[Value], column: str, value: Value) -> None:
        if column in ("required_on", "planned_on"):
            if (on := self.list.day(at, row, column)) is not None:
                found[column] = on
        elif column == "lead":
            self._lead(found, value)
        elif column == "lead_in":
            found["lead_in"] = columns.read_unit(value).value
        else:
            name = _FIELD.get(column, column)
            found[name] = self._readers[name](value)

    def _lead(self, found: dict[str, Any], value: Value) -> None:
        count, unit = columns.read_time(value)
        found["lead"] = check_days(count)
        head = str(self.list.table.rows[self.list.heads][self.list.taken["lead"]] or "").casefold()
        if unit is None and "week" in head:
            unit = LeadIn.WEEKS
        if unit is not None and "lead_in" not in found:
            found["lead_in"] = unit.value


_FIELD = {"company": "company_id", "approver": "approver_id"}
_COLUMN = {field: column for column, field in _FIELD.items()}


def _text_reader(name: str) -> Callable[[Value], str]:
    return lambda value: tidy_text(name, str(value), TEXTS[name])


def _plain(section: str) -> str:
    return "".join(each for each in section if each.isdigit())


def _locked(found: Found) -> tuple[str, str] | None:
    """Why a submittal cannot be changed like this, with the field; None where it can."""
    row = found.row
    if row is None:
        return None
    state = State(row.state)
    if (refused := refusal(state, Party(runs=True), Deed.EDIT)) is not None:
        return "number", refused.words
    try:
        if "company_id" in found.values:
            check_company_free(row)
        if "approver_id" in found.values:
            check_approver_free(row)
    except RuleBroken as error:
        return ("company_id" if "company_id" in found.values else "approver_id"), error.words
    return None


class _Known:
    """What the cells of a list can name: the project's submittals, kinds, companies and people."""

    def __init__(self, session: Session, seat: Seat) -> None:
        project_id = seat.project.id
        rows = list(session.scalars(select(SubmittalRow).where(SubmittalRow.project_id == project_id)))
        self.by_number = {row.number.casefold(): row for row in rows}
        self.by_words: dict[str, dict[str, list[SubmittalRow]]] = {"title": {}, "milestone": {}}
        for row in rows:
            for name, named in self.by_words.items():
                if words := " ".join(getattr(row, name).casefold().split()):
                    named.setdefault(words, []).append(row)
        self.rules = submittal_rules(seat.project)
        self._kinds = self.rules.kinds
        self._people = _people(session, project_id)
        self._companies, self._elsewhere = _companies(session, project_id)

    def kind_said(self, value: Value) -> str:
        """Its code; empty for what is none."""
        said = " ".join(str(value).casefold().split())
        named = (each.code for each in self._kinds if said in (each.code.casefold(), each.words.casefold()))
        return next(named, "")

    def kind(self, value: Value) -> str:
        """Raises RuleBroken for what is none."""
        if code := self.kind_said(value):
            return code
        known = ", ".join(each.words for each in self._kinds)
        raise RuleBroken("submittal_kind", f"This is no kind of submittal here. There are {known}.")

    def company(self, value: Value) -> str:
        said = " ".join(str(value).casefold().split())
        if said in self._companies:
            return self._companies[said]
        if said in self._elsewhere:
            raise RuleBroken("company_missing", "This company has nobody in the project. Add somebody of theirs first.")
        raise RuleBroken("company_missing", "There is no company with this code or name in the directory.")

    def approver(self, value: Value) -> str:
        named = self._people.get(" ".join(str(value).casefold().split()), [])
        if len(named) == 1:
            return named[0]
        if named:
            raise RuleBroken("no_account", "Several in the project are called so. Give their e-mail address.")
        raise RuleBroken("no_account", "Nobody in the project has this name or e-mail address.")


def _people(session: Session, project_id: str) -> dict[str, list[str]]:
    """Ids of those in it, outside contacts with them, by name and by e-mail address."""
    query = (
        select(PersonRow.id, PersonRow.name, PersonRow.email)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(MembershipRow.project_id == project_id, MembershipRow.state != "removed")
    )
    found: dict[str, list[str]] = {}
    for id, name, email in session.execute(query):
        for said in {name.casefold(), email.casefold()}:
            found.setdefault(said, []).append(id)
    return found


def _companies(session: Session, project_id: str) -> tuple[dict[str, str], set[str]]:
    """By code, name and both: ids of those with somebody in the project; and how the others are called."""
    here = select(PersonRow.company_id).join(MembershipRow, MembershipRow.person_id == PersonRow.id)
    ids = set(session.scalars(here.where(MembershipRow.project_id == project_id)))
    found: dict[str, str] = {}
    elsewhere: set[str] = set()
    for row in session.scalars(select(CompanyRow).where(CompanyRow.merged_into.is_(None))):
        for said in (row.code, row.name, f"{row.code} {row.name}"):
            if row.id in ids:
                found[said.casefold()] = row.id
            else:
                elsewhere.add(said.casefold())
    return found, elsewhere
