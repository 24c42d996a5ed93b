"""A log of submittals, or the days of a schedule, taken in from a spreadsheet: tried first, then kept in one act."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from datetime import date
from types import SimpleNamespace
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.arithmetic import LeadIn, Outlook
from nod.core.submittals.columns import LABELS
from nod.core.submittals.numbers import Counter, prefix
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Table, template_book
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import IN_PROJECT, Actor, Seat, take_seat
from nod.services.files.lists_in import ListAsked, ListTried, list_in
from nod.services.files.tables_out import MEDIA, Exported
from nod.services.submittals.kind import SUBMITTAL
from nod.services.submittals.list_rows import Found, SubmittalReading
from nod.services.submittals.making import Details, begun_row, change_row, told_of, values_of
from nod.services.submittals.outlooks import NEEDED_FIELDS, keep_worked_out, submittal_rules, work_out, would_be
from nod.services.submittals.submittal_rows import begin, named, state_of, want
from nod.store.dialects.sqlite import one_of
from nod.store.tables import CompanyRow, MembershipRow, PersonRow, ProjectRow, SubmittalCopiedRow, SubmittalRow

Purpose = Literal["log", "dates"]
MOST_TAKEN = 2000
_MOST_SHOWN = 300


class DetailChange(Answered):
    """`field` as a heading calls it; `before` and `after` in words."""

    field: str
    before: str
    after: str


class RowTaken(Answered):
    """What a row of the list, `at` in the spreadsheet, does. `float_before` is null for a new one, both where unknown.

    `number` is empty for one that gets its number when it is kept.
    """

    at: int
    number: str
    title: str
    company: str
    is_new: bool
    changes: list[DetailChange]
    float_before: int | None
    float_after: int | None


class SubmittalsTried(ListTried):
    """What keeping the list would do, or has done. `unmatched`: rows of a schedule that are of no submittal.

    `lines` are the first of those that are new or changed, those that lose the most float on top; `late_before` and
    `late_after` count whose float is below 0 among all of them.
    """

    new: int
    changed: int
    same: int
    unmatched: int
    lines: list[RowTaken]
    more_lines: int
    late_before: int
    late_after: int


def take_in(
    context: Context, actor: Actor, asked: ListAsked, purpose: Purpose, chunks: Iterable[bytes]
) -> SubmittalsTried:
    """Tries a list, and keeps it if asked to. Raises RuleBroken for a file that is no table, or has too many rows."""
    with context.database.read() as session:
        _enter(session, actor, asked.project_id)
    table = list_in(context, chunks, asked, whole=True)
    keep_worked_out(context, asked.project_id)
    if not asked.keep:
        with context.database.read() as session:
            seat = _enter(session, actor, asked.project_id)
            return _Trying(session, seat, asked, table, purpose).shown(session, context)
    with acting(context, actor) as act:
        seat = _enter(act.session, actor, asked.project_id)
        trying = _Trying(act.session, seat, asked, table, purpose)
        trying.check()
        # What is told is what this act found, whatever somebody else did since it was tried.
        shown = trying.shown(act.session, context)
        _keep(act, seat.project, trying.reading.found)
        return shown.model_copy(update={"kept": True})


def _enter(session: Session, actor: Actor, project_id: str) -> Seat:
    seat = take_seat(session, actor, project_id)
    seat.need_tool(SUBMITTAL.tool)
    seat.need_to_run()
    return seat


class _Trying:
    def __init__(self, session: Session, seat: Seat, asked: ListAsked, table: Table, purpose: Purpose) -> None:
        self.seat, self.purpose = seat, purpose
        self.reading = SubmittalReading(session, seat, asked, table, dates=purpose == "dates")

    def check(self) -> None:
        """Raises RuleBroken where nothing can be kept, or there is too much."""
        taken = self.reading.list.taken
        if self.purpose == "dates" and "required_on" not in taken:
            raise RuleBroken("columns_wanted", "Say which column holds the day required on site.")
        if not {"number", "title", "milestone"} & taken.keys():
            raise RuleBroken("columns_wanted", "Say which columns hold the number or the title.")
        many = len(self.reading.found)
        if not many:
            raise RuleBroken("nothing_to_keep", "No row of the list can be kept. What is wrong is said by cell.")
        if many > MOST_TAKEN:
            words = (
                f"{many:,} rows are new or changed; at most {MOST_TAKEN:,} are taken in at once. Cut the list in two."
            )
            raise RuleBroken("list_large", words)

    def shown(self, session: Session, context: Context) -> SubmittalsTried:
        found = self.reading.found
        after = would_be(session, self.seat.project, context, [self._as_it_would_be(each) for each in found])
        words = _Words(session, self.seat.project)
        lines = [_line(each, after.get(_key(each)), words) for each in found]
        lines.sort(key=lambda line: (_worse(line), line.at))
        return SubmittalsTried(
            **dict(self.reading.list.told(kept=False)), new=sum(each.row is None for each in found),
            changed=sum(each.row is not None for each in found), same=self.reading.same,
            unmatched=self.reading.unmatched, lines=lines[:_MOST_SHOWN], more_lines=max(0, len(lines) - _MOST_SHOWN),
            late_before=sum((line.float_before or 0) < 0 for line in lines),
            late_after=sum((line.float_after or 0) < 0 for line in lines),
        )  # fmt: skip

    def _as_it_would_be(self, found: Found) -> Any:
        rules = submittal_rules(self.seat.project)
        if found.row is not None:
            now = {name: getattr(found.row, name) for name in NEEDED_FIELDS}
        else:
            now = dict.fromkeys(NEEDED_FIELDS) | {
                "id": _key(found), "revision": 0, "state": "planned", "for_information": False,
                "lead_in": LeadIn.WORKING_DAYS.value, "review_days": rules.review, "rounds": 1,
                "preparation": rules.preparation, "expected": 0,
            }  # fmt: skip
        now |= {name: value for name, value in found.values.items() if name in now}
        if "kind" in found.values:
            now["for_information"] = rules.kind(found.values["kind"]).for_information
        return SimpleNamespace(**now)


def _key(found: Found) -> str:
    return found.row.id if found.row is not None else f"row {found.at}"


def _worse(line: RowTaken) -> int:
    """Below 0 where float is lost; a new one counts as one that loses what it lacks."""
    if line.float_after is None:
        return 0
    return line.float_after - line.float_before if line.float_before is not None else min(0, line.float_after)


def _line(found: Found, after: Outlook | None, words: _Words) -> RowTaken:
    row, values = found.row, found.values
    before = values_of(row) if row is not None else {}
    return RowTaken(
        at=found.at, number=row.number if row is not None else found.number,
        title=values.get("title") or (row.title if row is not None else ""),
        company=words.of("company_id", values.get("company_id") or before.get("company_id")), is_new=row is None,
        changes=[
            DetailChange(
                field=LABELS[_LABEL.get(name, name)], before=words.of(name, before.get(name)),
                after=words.of(name, value),
            )
            for name, value in values.items()
            if row is not None
        ],
        float_before=row.float_days if row is not None else None,
        float_after=after.float_days if after is not None else None,
    )  # fmt: skip


_LABEL = {"company_id": "company", "approver_id": "approver"}


class _Words:
    """Values as a person reads them."""

    def __init__(self, session: Session, project: ProjectRow) -> None:
        self._session = session
        self._kinds = {each.code: each.words for each in submittal_rules(project).kinds}
        self._named: dict[str, str] = {}

    def of(self, name: str, value: Any) -> str:
        if value is None or value == "":
            return ""
        if name in _LABEL:
            if value not in self._named:
                self._named[value] = self._name(name, value)
            return self._named[value]
        if name == "kind":
            return str(self._kinds.get(value, value))
        return f"{value:%-d %b %Y}" if isinstance(value, date) else str(value)

    def _name(self, field: str, id: str) -> str:
        if field == "company_id":
            return self._session.get_one(CompanyRow, id).code
        return self._session.get_one(PersonRow, id).name


def _keep(act: Act, project: ProjectRow, found: Sequence[Found]) -> None:
    """All of it: each new and each changed submittal is an entry of the trail."""
    new = _make(act, project, [each for each in found if each.row is None])
    facts = [_fact(row, FactKind.SUBMITTAL_MADE, told_of(act.session, row), {}, ()) for row in new]
    changed = [each for each in found if each.row is not None]
    for fact in facts + _changes(act, project, changed):
        act.record(project.id, fact)
    begin(act, project, new)
    _settle_changed(act, project, changed)
    act.tell(project.id, SUBMITTAL.topic, project.id)


def _make(act: Act, project: ProjectRow, found: Sequence[Found]) -> list[SubmittalRow]:
    rules = submittal_rules(project)
    taken = act.session.scalars(select(SubmittalRow.number).where(SubmittalRow.project_id == project.id)).all()
    numbers = Counter(rules.numbered_by, [*taken, *(each.number for each in found)])
    rows = []
    for each in found:
        company = act.session.get_one(CompanyRow, each.values["company_id"])
        start = "" if each.number else prefix(rules.numbered_by, company.code, each.values.get("section", ""))
        row = begun_row(act, project, each.number or numbers.next(start), company.id)
        rest = {name: value for name, value in each.values.items() if name != "company_id"}
        change_row(act.session, project, rules, row, Details(**rest))
        rows.append(row)
    act.session.add_all(rows)
    act.session.flush()
    return rows


def _fact(
    row: SubmittalRow, kind: FactKind, after: dict[str, Any], before: dict[str, Any],
    copied: Sequence[SubmittalCopiedRow],
) -> Fact:  # fmt: skip
    about = Subject(SUBMITTAL.code, row.id)
    return Fact(kind, about, named(row), (), before, after | {"from": "a list"}, state=state_of(row, copied))


def _changes(act: Act, project: ProjectRow, found: Sequence[Found]) -> list[Fact]:
    """Changes them; what the trail says of it."""
    rules, facts = submittal_rules(project), []
    rows = [(each.row, Details(**each.values)) for each in found if each.row is not None]
    copied: dict[str, list[SubmittalCopiedRow]] = {}
    query = select(SubmittalCopiedRow).where(one_of(SubmittalCopiedRow.submittal_id, [row.id for row, _ in rows]))
    for each in act.session.scalars(query):
        copied.setdefault(each.submittal_id, []).append(each)
    for row, details in rows:
        was = told_of(act.session, row)
        change_row(act.session, project, rules, row, details)
        now = told_of(act.session, row)
        differs = [key for key in now if was[key] != now[key]]
        after, before = ({key: told[key] for key in differs} for told in (now, was))
        facts.append(_fact(row, FactKind.SUBMITTAL_CHANGED, after, before, copied.get(row.id, ())))
    return facts


def _settle_changed(act: Act, project: ProjectRow, found: Sequence[Found]) -> None:
    """With whom one is changes only where another company is responsible for it."""
    ids = {each.row.id for each in found if each.row is not None}
    moved = [each.row.id for each in found if each.row is not None and "company_id" in each.values]
    for each in found:
        if each.row is not None:
            each.row.version += 1
    work_out(act.session, project, act.context, ids)
    for row in act.session.scalars(select(SubmittalRow).where(one_of(SubmittalRow.id, moved))):
        want(act.session, row)


def read_template(context: Context, actor: Actor, project_id: str) -> Exported:
    """A spreadsheet to fill in, with the project's kinds, companies and people to choose from."""
    with context.database.read() as session:
        seat = _enter(session, actor, project_id)
        kinds = [each.words for each in submittal_rules(seat.project).kinds]
        people = (
            select(PersonRow.name, CompanyRow.code, CompanyRow.name)
            .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
            .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
            .where(MembershipRow.project_id == project_id, MembershipRow.state.in_(IN_PROJECT))
        )
        rows = session.execute(people).all()
        choices = {
            "kind": kinds, "company": sorted({f"{code} {name}" for _, code, name in rows}),
            "approver": sorted({name for name, _, _ in rows}), "lead_in": [each.value for each in LeadIn],
        }  # fmt: skip
        stem = f"{seat.project.number} submittals template"
    out = io.BytesIO()
    offered = {LABELS[key]: words for key, words in choices.items()}
    template_book(out, "Submittals", list(LABELS.values()), offered, [LABELS["required_on"], LABELS["planned_on"]])
    return Exported(out.getvalue(), f"{stem}.xlsx", MEDIA["xlsx"])
