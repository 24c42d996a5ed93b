"""Reading the audit trail: the log of a project, the timeline of a thing (handbook §14)."""

from __future__ import annotations

import csv
import io
import json
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, True_, and_, exists, or_, select, true
from sqlalchemy.orm import Session, aliased

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import end_of_day
from nod.core.trail.entries import OBJECT_WORDS, Fact, FactKind, Subject, instant_text
from nod.services.acts.answers import Answered, FromOutside
from nod.services.acts.context import Context, acting, project_clock
from nod.services.acts.projects import companies_of
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.things.kinds import thing_kinds
from nod.store import journal
from nod.store.tables import AuditEntryRow, AuditSubjectRow, CompanyRow, MembershipRow, PersonRow

_WORDS = {each.value: each.words for each in FactKind}

_PAGE = 200


class TrailView(FromOutside):
    """Which entries: by subject, person, company, object, kind and days; `before` is the leaf to page on from."""

    project_id: str
    subject_id: str = ""
    person_id: str = ""
    company: str = ""
    object_kind: str = ""
    kind: str = ""
    from_on: date | None = None
    until_on: date | None = None
    before: str = ""


class Entry(Answered):
    """One act. `leaf` is its hash in the tree, `words` says the kind.

    `seq` is its number in the whole workspace's trail, for those alone who see the whole of the project: from gaps
    between numbers, others could tell how much they are not shown.
    """

    seq: int | None
    at: datetime
    who: str
    company: str
    came_from: str
    kind: str
    words: str
    subject_kind: str
    subject_id: str
    about: str
    before: dict[str, Any]
    after: dict[str, Any]
    why: str
    private: bool
    leaf: str


class Choice(Answered):
    code: str
    words: str


class TrailPage(Answered):
    """Newest first. `size` and `root` are the whole tree's, for those who see the whole of the project."""

    entries: list[Entry]
    more: bool
    size: int | None
    root: str
    people: list[Choice]
    companies: list[Choice]
    kinds: list[Choice]
    object_kinds: list[Choice]


def read_log(context: Context, actor: Actor, view: TrailView) -> TrailPage:
    """A page of what the viewer may see of the project's log, or of one subject's timeline."""
    with context.database.read() as session:
        seat = take_seat(session, actor, view.project_id)
        rows = list(session.scalars(_query(session, actor, seat, view).limit(_PAGE + 1)))
        head = journal.trail_head(session)
        return TrailPage(
            entries=[_entry(row, whole=seat.runs) for row in rows[:_PAGE]],
            more=len(rows) > _PAGE,
            size=head.size if seat.runs else None,
            root=head.root().hex() if seat.runs else "",
            people=_people(session, view.project_id),
            companies=[Choice(code=code, words=name) for code, name in companies_of(session, view.project_id).items()],
            kinds=[Choice(code=each.value, words=each.words) for each in sorted(FactKind, key=lambda each: each.words)],
            object_kinds=[Choice(code=code, words=words) for code, words in _objects().items()],
        )


def export_log(context: Context, actor: Actor, view: TrailView) -> str:
    """All that the filters leave, as CSV with a heading line, oldest first; times in UTC. The export is recorded."""
    with acting(context, actor) as act:
        seat = act.enter(view.project_id)
        query = _query(act.session, actor, seat, view).order_by(None).order_by(AuditEntryRow.seq)
        out = io.StringIO()
        table = csv.writer(out)
        table.writerow(("at", "who", "company", "from", "act", "object", "about", "before", "after", "why", "leaf"))
        count = 0
        for row in act.session.scalars(query):
            table.writerow([_safe(each) for each in _cells(_entry(row, whole=False))])
            count += 1
        subject = Subject("project", view.project_id)
        after = {"entries": count, **view.model_dump(mode="json", exclude_defaults=True, exclude={"project_id"})}
        act.record(view.project_id, Fact(FactKind.ACTIVITY_EXPORTED, subject, seat.project.name, after=after))
        return out.getvalue()


def _cells(entry: Entry) -> tuple[str, ...]:
    before, after = (json.dumps(each, ensure_ascii=False) if each else "" for each in (entry.before, entry.after))
    at = instant_text(entry.at)
    return (
        at, entry.who, entry.company, entry.came_from, entry.words, _objects().get(entry.subject_kind, ""),
        entry.about, before, after, entry.why, entry.leaf,
    )  # fmt: skip


def _objects() -> dict[str, str]:
    """What an entry can be about, in words."""
    return {each.code: each.words for each in thing_kinds() if not each.part_of} | OBJECT_WORDS


def _safe(cell: str) -> str:
    """Spreadsheets take a cell that begins so for a formula (OWASP, CSV injection)."""
    return f"'{cell}" if cell[:1] in "=+-@\t\r" and cell else cell


def _query(session: Session, actor: Actor, seat: Seat, view: TrailView) -> Any:
    """What a viewer may not see is left out by the query: hidden documents, another's pencil and sign-ins."""
    query = seen_entries(actor, seat).where(
        *_conditions(view), *_between(view, project_clock(session, seat.project).zone)
    )
    if view.before:
        beyond = select(AuditEntryRow.seq).where(AuditEntryRow.leaf_sha256 == leaf_of(view.before)).scalar_subquery()
        query = query.where(AuditEntryRow.seq < beyond)
    return query.order_by(AuditEntryRow.seq.desc())


def seen_entries(actor: Actor, seat: Seat) -> Select[AuditEntryRow]:
    """Those of the seat's project that the actor may see."""
    return select(AuditEntryRow).where(
        AuditEntryRow.project_id == seat.project.id,
        or_(AuditEntryRow.private_to == "", AuditEntryRow.private_to == (actor.private_id or "-")),
        entries_seen(seat, actor),
    )


def entries_seen(seat: Seat, actor: Actor) -> ColumnElement[bool]:
    """Entries about things that are there for the seat, none of which is hidden; and one's own.

    Entries about nothing but the project itself are for those who run it.
    """
    about, hidden = [], []
    for kind in thing_kinds():
        subject, row = aliased(AuditSubjectRow), aliased(kind.row)
        of_kind = exists().where(
            subject.seq == AuditEntryRow.seq, subject.kind == kind.code, row.id == subject.subject_id
        )
        about.append(of_kind)
        seen = kind.seen(seat, row.id)
        if not isinstance(seen, True_):
            hidden.append(of_kind.where(~seen))
    nothing_hidden = and_(true(), *(~each for each in hidden))
    if seat.runs:
        return nothing_hidden
    return nothing_hidden & or_(AuditEntryRow.person_id == actor.private_id, *about)


def leaf_of(text: str) -> bytes:
    """Raises RuleBroken for what is no hash."""
    try:
        return bytes.fromhex(text)
    except ValueError as error:
        raise RuleBroken("view_unknown", "This place in the log is not known.", text[:80]) from error


def _conditions(view: TrailView) -> list[ColumnElement[bool]]:
    found: list[ColumnElement[bool]] = []
    about = select(AuditSubjectRow.seq)
    if view.subject_id:
        found.append(AuditEntryRow.seq.in_(about.where(AuditSubjectRow.subject_id == view.subject_id)))
    if view.object_kind:
        found.append(AuditEntryRow.seq.in_(about.where(AuditSubjectRow.kind == view.object_kind)))
    if view.person_id:
        found.append(AuditEntryRow.person_id == view.person_id)
    if view.company:
        people = select(PersonRow.id).join(CompanyRow, CompanyRow.id == PersonRow.company_id)
        found.append(AuditEntryRow.person_id.in_(people.where(CompanyRow.code == view.company)))
    if view.kind:
        found.append(AuditEntryRow.kind == view.kind)
    return found


def _between(view: TrailView, zone: ZoneInfo) -> list[ColumnElement[bool]]:
    """Whole days of the project's zone, both ends with them."""
    found: list[ColumnElement[bool]] = []
    if view.from_on:
        found.append(AuditEntryRow.at >= end_of_day(view.from_on - timedelta(days=1), zone))
    if view.until_on:
        found.append(AuditEntryRow.at < end_of_day(view.until_on, zone))
    return found


def _people(session: Session, project_id: str) -> list[Choice]:
    query = (
        select(PersonRow.id, PersonRow.name)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(MembershipRow.project_id == project_id)
        .order_by(PersonRow.name)
    )
    return [Choice(code=row.id, words=row.name) for row in session.execute(query)]


def _entry(row: AuditEntryRow, *, whole: bool) -> Entry:
    body = json.loads(row.body)
    return Entry(
        seq=row.seq if whole else None,
        at=row.at,
        who=body["who"]["name"],
        company=body["who"]["company"],
        came_from=body["from"],
        kind=row.kind,
        words=_WORDS.get(row.kind, row.kind),
        subject_kind=body["subject"]["kind"],
        subject_id=body["subject"]["id"],
        about=body["about"],
        before=body["before"],
        after=body["after"],
        why=body["why"],
        private=bool(row.private_to),
        leaf=row.leaf_sha256.hex(),
    )
