"""What is shown of sessions: the log, and one of them with its sheets, people and what may be done (handbook §7)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session

from nod.core.marks.marks import MarkState
from nod.core.sessions.sessions import MAY_WORDS, Deed, SessionState, may
from nod.services.access.visibility import see_document
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.marks.kind import THREAD
from nod.services.sessions.kind import SESSION, takes_part
from nod.services.sessions.session_rows import Entered, enter, sheets_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    CompanyRow,
    DocumentRow,
    MarkRow,
    SessionPartyRow,
    SessionRecordRow,
    SessionRow,
    SessionSheetRow,
    SessionVisitRow,
    ThreadRow,
)

State = Literal["", "to come", "open", "closed"]


@dataclass(frozen=True)
class AskedSessions:
    """`words` are looked for in number and name, `document` in the numbers of its sheets; `mine`: I take part."""

    project_id: str
    words: str = ""
    document: str = ""
    state: State = ""
    mine: bool = False
    start: int = 0
    limit: int = 100


class SessionLine(Answered):
    """`open_marks` counts those that the viewer reads; `invited` people and companies, `came` who was there."""

    id: str
    number: str
    name: str
    state: Literal["to come", "open", "closed"]
    host: Who
    opens_at: datetime
    closes_at: datetime
    closed_at: datetime | None
    sheets: int
    invited: int
    came: int
    open_marks: int
    marks: int


class SessionLog(Answered):
    """The open ones first, then those to come, then the closed, the newest first; `total` counts all like that."""

    lines: list[SessionLine]
    total: int


class SessionSheet(Answered):
    """`out_why` why it is not in the session any more, `not_held_why` why it is not checked out to it.

    `seen`: whether the viewer can open it now, in the session or by their own access.
    """

    revision_id: str
    document_id: str
    number: str
    title: str
    revision: str
    open_marks: int
    marks: int
    held: bool
    out_why: str
    not_held_why: str
    seen: bool


class PartyShown(Answered):
    kind: Literal["person", "company"]
    id: str
    name: str
    company: str
    may: Literal["look", "comment", "mark"]


class VisitShown(Answered):
    """`person_id` is empty for a guest by a link."""

    person_id: str
    name: str
    company: str
    guest: bool
    came_at: datetime
    seen_at: datetime


class RecordShown(Answered):
    """`done` of `sheets` are in it; made when it has a `sha256`."""

    part: int
    opened_at: datetime
    closed_at: datetime
    sheets: int
    done: int
    sha256: str
    size_bytes: int


class OpenWith(Answered):
    """How much somebody has said that is still open."""

    name: str
    company: str
    count: int


class SessionShown(Answered):
    """`may` are the acts of `core.sessions.sessions.Deed` that the viewer may do now; `level` what they may in it.

    `hosts`: they can act as its host. `open_with` is for these.
    """

    line: SessionLine
    note: str
    version: int
    made_by: Who
    made_at: datetime
    level: Literal["", "look", "comment", "mark"]
    level_words: str
    may: list[str]
    hosts: bool
    sheets: list[SessionSheet]
    parties: list[PartyShown]
    visits: list[VisitShown]
    records: list[RecordShown]
    may_take_record: bool
    open_with: list[OpenWith]


def list_sessions(context: Context, actor: Actor, asked: AskedSessions) -> SessionLog:
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        seat.need_tool(SESSION.tool)
        kept = [SessionRow.project_id == asked.project_id, SESSION.seen(seat), *_filters(actor, asked)]
        total = session.scalar(select(func.count()).select_from(SessionRow).where(*kept)) or 0
        order = (SessionRow.state != SessionState.OPEN.value, SessionRow.state != SessionState.TO_COME.value)
        query = select(SessionRow).where(*kept).order_by(*order, SessionRow.opens_at.desc(), SessionRow.number.desc())
        rows = list(session.scalars(query.offset(asked.start).limit(asked.limit)))
        return SessionLog(lines=session_lines(session, seat, rows), total=total)


def _filters(actor: Actor, asked: AskedSessions) -> list[ColumnElement[bool]]:
    found: list[ColumnElement[bool]] = []
    if words := asked.words.strip():
        named = (column.icontains(words, autoescape=True) for column in (SessionRow.number, SessionRow.name))
        found.append(or_(*named))
    if number := asked.document.strip():
        with_it = (
            select(SessionSheetRow.session_id)
            .join(DocumentRow, DocumentRow.id == SessionSheetRow.document_id)
            .where(DocumentRow.number.contains(number, autoescape=True))
        )
        found.append(SessionRow.id.in_(with_it))
    if asked.state:
        found.append(SessionRow.state == asked.state)
    if asked.mine:
        found.append(takes_part(actor.person_id, lambda column: column == SessionRow.id))
    return found


def session_lines(session: Session, seat: Seat, rows: Sequence[SessionRow]) -> list[SessionLine]:
    """In a fixed number of queries."""
    ids = [row.id for row in rows]
    hosts = people_by_id(session, {row.host_id for row in rows})

    def counted(of: type[SessionSheetRow] | type[SessionPartyRow] | type[SessionVisitRow]) -> dict[str, int]:
        query = select(of.session_id, func.count()).where(one_of(of.session_id, ids)).group_by(of.session_id)
        return dict(session.execute(query).all())

    sheets, invited, came = counted(SessionSheetRow), counted(SessionPartyRow), counted(SessionVisitRow)
    marks = _marks_by(session, seat, ids)
    return [
        SessionLine(
            id=row.id, number=row.number, name=row.name, state=row.state, host=hosts[row.host_id],
            opens_at=row.opened_at or row.opens_at, closes_at=row.closes_at, closed_at=row.closed_at,
            sheets=sheets.get(row.id, 0), invited=invited.get(row.id, 0), came=came.get(row.id, 0),
            open_marks=sum(is_open for is_open, _ in marks.get(row.id, {}).values()),
            marks=sum(all_of for _, all_of in marks.get(row.id, {}).values()),
        )
        for row in rows
    ]  # fmt: skip


def _marks_by(session: Session, seat: Seat, ids: Sequence[str]) -> dict[str, dict[str, tuple[int, int]]]:
    """By session and revision: how much of its ink is open, and how much there is, as far as the seat reads it."""
    is_open = ThreadRow.state == MarkState.OPEN.value
    query = (
        select(ThreadRow.session_id, MarkRow.revision_id, is_open, func.count())
        .join(MarkRow, MarkRow.id == ThreadRow.id)
        .where(
            one_of(ThreadRow.session_id, ids), ThreadRow.shared_at.is_not(None), MarkRow.removed_at.is_(None),
            THREAD.seen(seat),
        )
        .group_by(ThreadRow.session_id, MarkRow.revision_id, is_open)
    )  # fmt: skip
    found: dict[str, dict[str, tuple[int, int]]] = {}
    for session_id, revision_id, still_open, count in session.execute(query):
        of = found.setdefault(session_id, {})
        before = of.get(revision_id, (0, 0))
        of[revision_id] = (before[0] + (count if still_open else 0), before[1] + count)
    return found


def read_session(context: Context, actor: Actor, session_id: str) -> SessionShown:
    with context.database.read() as session:
        return show_session(session, enter(session, actor, session_id))


def show_session(session: Session, entered: Entered) -> SessionShown:
    row, seat, taker = entered.row, entered.seat, entered.taker
    (line,) = session_lines(session, seat, [row])
    level = taker.level.code if taker.level else ""
    return SessionShown(
        line=line, note=row.note, version=row.version, made_by=people_by_id(session, {row.made_by})[row.made_by],
        made_at=row.made_at, level=level,
        level_words=MAY_WORDS.get(level, ""), may=[deed.value for deed in Deed if may(entered.state, taker, deed)],
        hosts=taker.leads, sheets=_sheets(session, entered), parties=_parties(session, row.id),
        visits=_visits(session, row.id), records=_records(session, row.id),
        may_take_record=may_take_record(session, entered),
        open_with=_open_with(session, seat, row.id) if taker.leads else [],
    )  # fmt: skip


def _sheets(session: Session, entered: Entered) -> list[SessionSheet]:
    marks = _marks_by(session, entered.seat, [entered.row.id]).get(entered.row.id, {})
    inside = may(entered.state, entered.taker, Deed.LOOK)
    shown = []
    for sheet, revision, document in sheets_of(session, entered.row.id):
        is_open, all_of = marks.get(revision.id, (0, 0))
        out = sheet.left_at is not None
        own = bool(entered.seat.at(document.folder_id))
        shown.append(
            SessionSheet(
                revision_id=revision.id, document_id=document.id, number=document.number, title=revision.title,
                revision=revision.code, open_marks=is_open, marks=all_of, held=sheet.held,
                out_why=sheet.why if out else "", not_held_why="" if out else sheet.why,
                seen=own or (inside and not out),
            )
        )  # fmt: skip
    return shown


class DocumentSessions(Answered):
    """The newest first."""

    sessions: list[SessionLine]


def list_document_sessions(context: Context, actor: Actor, document_id: str) -> DocumentSessions:
    with context.database.read() as session:
        _, seat = see_document(session, actor, document_id)
        if SESSION.tool not in seat.tools:
            return DocumentSessions(sessions=[])
        inside = select(SessionSheetRow.session_id).where(SessionSheetRow.document_id == document_id)
        query = select(SessionRow).where(SessionRow.id.in_(inside), SESSION.seen(seat))
        rows = list(session.scalars(query.order_by(SessionRow.opens_at.desc()).limit(50)))
        return DocumentSessions(sessions=session_lines(session, seat, rows))


def _parties(session: Session, session_id: str) -> list[PartyShown]:
    query = select(SessionPartyRow).where(SessionPartyRow.session_id == session_id)
    rows = list(session.scalars(query.order_by(SessionPartyRow.invited_at)))
    people = people_by_id(session, {row.party_id for row in rows if row.kind == "person"})
    companies = {
        row.id: row
        for row in session.scalars(select(CompanyRow).where(CompanyRow.id.in_([each.party_id for each in rows])))
    }
    shown = []
    for row in rows:
        who, company = people.get(row.party_id), companies.get(row.party_id)
        shown.append(
            PartyShown(
                kind=row.kind, id=row.party_id, may=row.may,
                name=who.name if who else (company.name if company else ""),
                company=who.company if who else (company.code if company else ""),
            )
        )  # fmt: skip
    return sorted(shown, key=lambda each: (each.kind, each.name))


def _visits(session: Session, session_id: str) -> list[VisitShown]:
    query = select(SessionVisitRow).where(SessionVisitRow.session_id == session_id)
    return [
        VisitShown(
            person_id="" if row.guest else row.who, name=row.name, company=row.company, guest=row.guest,
            came_at=row.came_at, seen_at=row.seen_at
        )
        for row in session.scalars(query.order_by(SessionVisitRow.came_at))
    ]  # fmt: skip


def _records(session: Session, session_id: str) -> list[RecordShown]:
    query = select(SessionRecordRow).where(SessionRecordRow.session_id == session_id)
    return [
        RecordShown(
            part=row.part, opened_at=row.opened_at, closed_at=row.closed_at, sheets=row.sheets, done=row.done,
            sha256=row.sha256, size_bytes=row.size_bytes,
        )
        for row in session.scalars(query.order_by(SessionRecordRow.part))
    ]  # fmt: skip


def may_take_record(session: Session, entered: Entered) -> bool:
    """Those who took part: who came, its host, leads and controllers (handbook §7)."""
    if entered.taker.leads:
        return True
    return session.get(SessionVisitRow, (entered.row.id, entered.seat.eyes.person_id)) is not None


def _open_with(session: Session, seat: Seat, session_id: str) -> list[OpenWith]:
    """What is still open, by who said it, the most first."""
    query = (
        select(ThreadRow)
        .join(MarkRow, MarkRow.id == ThreadRow.id)
        .where(
            ThreadRow.session_id == session_id, ThreadRow.shared_at.is_not(None), MarkRow.removed_at.is_(None),
            ThreadRow.state == MarkState.OPEN.value, THREAD.seen(seat),
        )
    )  # fmt: skip
    threads = list(session.scalars(query))
    people = people_by_id(session, {each.author_id for each in threads if each.author_id})
    counts: dict[tuple[str, str], int] = {}
    for each in threads:
        who = people.get(each.author_id or "")
        key = (who.name, who.company) if who else (each.author_name, each.author_company)
        counts[key] = counts.get(key, 0) + 1
    found = [OpenWith(name=name, company=company, count=count) for (name, company), count in counts.items()]
    return sorted(found, key=lambda each: (-each.count, each.name))
