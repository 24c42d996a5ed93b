"""The record of a session: made once each time it closes, and never changed (handbook §7)."""

from __future__ import annotations

import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, and_, exists, or_, select
from sqlalchemy.orm import Session

from nod.core.acts.counted import counted
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.marks.readers import EVERYBODY
from nod.core.trail.entries import FactKind, Subject
from nod.formats.files.spreadsheet import BookSheet, Value, write_book
from nod.services.acts.answers import people_by_id
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import NOBODY, Actor
from nod.services.acts.work import Job, Lane, work
from nod.services.files.files_to_send import FileToSend
from nod.services.files.new_files import keep_made
from nod.services.marks.mark_files import MARK_HEADS, MARK_WIDTHS, marked_copies
from nod.services.marks.readers import SESSION_GROUP
from nod.services.notices.notices import Notice, tell_person
from nod.services.register.documents import sendable_name
from nod.services.sessions.opening import session_concerns
from nod.services.sessions.session_rows import Entered, enter, record, sheets_of, tell
from nod.services.sessions.sessions_view import may_take_record
from nod.store.blobs import StoredBlob
from nod.store.tables import (
    ProjectRow,
    SessionRecordRow,
    SessionRow,
    SessionVisitRow,
    ThreadReaderRow,
    ThreadRow,
)

_TELL_EVERY = 5
"""Sheets."""
_ZIP = "application/zip"


def in_the_record(session_id: str) -> ColumnElement[bool]:
    """Of threads: ink of the session that all its people read; what is for some of them alone stays out."""
    theirs = exists().where(
        ThreadReaderRow.thread_id == ThreadRow.id, ThreadReaderRow.kind == SESSION_GROUP,
        ThreadReaderRow.group_id == session_id,
    )  # fmt: skip
    return and_(ThreadRow.session_id == session_id, or_(ThreadRow.readers == EVERYBODY, theirs))


@dataclass(frozen=True)
class _Sheet:
    revision_id: str
    about: str
    stem: str
    title: str


@dataclass(frozen=True)
class _Part:
    """What the record of one closing is made of, read once."""

    project: ProjectRow
    row: SessionRow
    part: SessionRecordRow
    sheets: Sequence[_Sheet]
    host: str
    visits: Sequence[SessionVisitRow]


@work("session_record", Lane.REST, "making the record of a session", session_concerns)
def make_record(job: Job, payload: dict[str, Any]) -> None:
    """Harmless when done twice: what was made stays."""
    with job.context.database.read() as session:
        part = session.get_one(SessionRecordRow, (payload["session_id"], payload["part"]))
        if part.sha256:
            return
        found = _read(session, part)
    with TemporaryDirectory(dir=job.context.settings.data_dir) as aside, job.context.blobs.made() as (target, keep):
        _write_zip(job, found, Path(aside), target)
        stored = keep()
    _keep(job.context, found, stored)


def _read(session: Session, part: SessionRecordRow) -> _Part:
    row = session.get_one(SessionRow, part.session_id)
    project = session.get_one(ProjectRow, row.project_id)
    sheets = [
        _Sheet(
            revision.id, f"{document.number} {revision.code}",
            sendable_name(document.number, revision.code, revision.status, "x.pdf").removesuffix(".pdf"),
            revision.title,
        )
        for sheet, revision, document in sheets_of(session, row.id)
        if sheet.left_at is None
    ]  # fmt: skip
    host = people_by_id(session, {row.host_id})[row.host_id]
    visits = session.scalars(
        select(SessionVisitRow).where(SessionVisitRow.session_id == row.id).order_by(SessionVisitRow.came_at)
    ).all()
    return _Part(project, row, part, sheets, f"{host.name} ({host.company})", visits)


def _write_zip(job: Job, found: _Part, aside: Path, target: Path) -> None:
    at = found.part.closed_at
    marks: list[list[Value]] = []
    faults: list[list[Value]] = []
    with zipfile.ZipFile(target, "w") as archive:

        def put(name: str, content: bytes, how: int) -> None:
            # The time of the closing, so that the same record has the same bytes.
            entry = zipfile.ZipInfo(f"{record_name(found.row, found.part.part)}/{name}", at.timetuple()[:6])
            entry.compress_type = how
            archive.writestr(entry, content)

        for place, sheet in enumerate(found.sheets):
            copies = marked_copies(
                job.context, job.press, found.project, sheet.revision_id, sheet.about, in_the_record(found.row.id)
            )
            if copies.pdf:
                put(f"sheets/{sheet.stem}_marks.pdf", copies.pdf, zipfile.ZIP_STORED)
            put(f"xfdf/{sheet.stem}_marks.xfdf", copies.xfdf, zipfile.ZIP_DEFLATED)
            marks += [[sheet.about, sheet.title, *line] for line in copies.table]
            faults += [[sheet.about, copies.fault]] if copies.fault else []
            _note_done(job, found, place + 1)
        book = aside / "record.xlsx"
        write_book(book, _book(found, marks, faults))
        put(f"{found.row.number}.xlsx", book.read_bytes(), zipfile.ZIP_DEFLATED)


def record_name(row: SessionRow, part: int) -> str:
    return f"{row.number}_record" + (f"_{part}" if part > 1 else "")


def _book(found: _Part, marks: list[list[Value]], faults: list[list[Value]]) -> Iterator[BookSheet]:
    row, part, zone = found.row, found.part, ZoneInfo(found.project.time_zone)

    def local(at: datetime) -> datetime:
        return at.astimezone(zone)

    facts: list[list[Value]] = [
        ["Project", f"{found.project.number} {found.project.name}"], ["Session", row.number], ["Name", row.name],
        ["Part", part.part], ["Host", found.host], ["Opened", local(part.opened_at)], ["Closed", local(part.closed_at)],
        ["Times are of", str(zone)], ["Sheets", len(found.sheets)], ["Marks", len(marks)],
        ["Note", row.note or None],
        *([f"Not as PDF: {about}", why] for about, why in faults),
    ]  # fmt: skip
    yield BookSheet("Session", ("What", "Which"), (220, 420), facts)
    yield BookSheet("Marks", ("Sheet", "Title", *MARK_HEADS), (200, 260, *MARK_WIDTHS), marks)
    people: list[list[Value]] = [
        [each.name, each.company, "guest" if each.guest else "", local(each.came_at), local(each.seen_at)]
        for each in found.visits
    ]
    heads = ("Who was there", "Company", "", "Came", "Last seen")
    yield BookSheet("People", heads, (220, 160, 70, 140, 140), people)


def _note_done(job: Job, found: _Part, done: int) -> None:
    if done % _TELL_EVERY and done != len(found.sheets):
        return
    with job.context.database.write() as session:
        session.get_one(SessionRecordRow, (found.row.id, found.part.part)).done = done
        act = Act(job.context, session, NOBODY, job.context.clock.now())
        tell(act, session.get_one(SessionRow, found.row.id))
    job.go_on()


def _keep(context: Context, found: _Part, stored: StoredBlob) -> None:
    now = context.clock.now()
    with context.database.write() as session:
        part = session.get_one(SessionRecordRow, (found.row.id, found.part.part))
        if part.sha256:
            return
        act = Act(context, session, NOBODY, now)
        row = session.get_one(SessionRow, found.row.id)
        keep_made(context, session, stored, _ZIP)
        part.sha256, part.size_bytes, part.made_at, part.done = stored.sha256, stored.size_bytes, now, part.sheets
        record(
            act, row, FactKind.SESSION_RECORD_MADE,
            {"part": part.part, "sha256": stored.sha256, "bytes": stored.size_bytes, "sheets": part.sheets},
        )  # fmt: skip
        tell(act, row)
        _tell_those_who_came(act, row, part)


def _tell_those_who_came(act: Act, row: SessionRow, part: SessionRecordRow) -> None:
    project = act.session.get_one(ProjectRow, row.project_id)
    act.session.flush()
    people = select(SessionVisitRow.who).where(SessionVisitRow.session_id == row.id, ~SessionVisitRow.guest)
    words = f"the record of {row.number}, {row.name}, is there"
    lines = [
        f"The session {row.number}, {row.name}, has closed.",
        f"Its record has {counted(part.sheets, 'sheet')} with their marks.",
        f"SHA-256 {part.sha256}",
    ]
    for person_id in {row.host_id, *act.session.scalars(people)}:
        notice = Notice(
            f"session_record:{row.id}:{part.part}:{person_id}", f"{project.number}: {words}", lines,
            f"/sessions/{row.id}", [Subject("session", row.id)],
            "host it" if person_id == row.host_id else "took part in it",
        )  # fmt: skip
        tell_person(act, project, "session", person_id, notice)


@dataclass(frozen=True)
class RecordToSend:
    """A record as a file, with the session's number and the sheets that were in it."""

    number: str
    name: str
    sha256: str
    size_bytes: int
    revisions: frozenset[str]


def record_to_send(session: Session, actor: Actor, session_id: str, part: int) -> RecordToSend:
    """Raises as `download_record` does."""
    entered, found = _record_of(session, actor, session_id, part)
    revisions = frozenset(revision.id for _, revision, _ in sheets_of(session, session_id))
    name = f"{record_name(entered.row, part)}.zip"
    return RecordToSend(entered.row.number, name, found.sha256, found.size_bytes, revisions)


def sent_record(session: Session, sha256: str) -> tuple[str, str, int]:
    """Number and id of the session, and the part, of a record that was made."""
    query = select(SessionRow.number, SessionRow.id, SessionRecordRow.part)
    of = query.join(SessionRecordRow, SessionRecordRow.session_id == SessionRow.id)
    number, session_id, part = session.execute(of.where(SessionRecordRow.sha256 == sha256).limit(1)).one()
    return number, session_id, part


def _record_of(session: Session, actor: Actor, session_id: str, part: int) -> tuple[Entered, SessionRecordRow]:
    entered = enter(session, actor, session_id)
    found = session.get(SessionRecordRow, (session_id, part))
    if found is None:
        raise NotFound(session_id)
    if not may_take_record(session, entered):
        raise NotAllowed("not_there", "The record is for those who took part.", entered.row.number)
    if not found.sha256:
        raise RuleBroken("record_not_made", "The record is still being made.", entered.row.number)
    return entered, found


def download_record(context: Context, actor: Actor, session_id: str, part: int) -> FileToSend:
    """For those who took part. An entry of the trail. Raises RuleBroken while it is being made."""
    with acting(context, actor) as act:
        entered, found = _record_of(act.session, actor, session_id, part)
        record(act, entered.row, FactKind.SESSION_RECORD_TAKEN, {"part": part, "sha256": found.sha256})
        name = f"{record_name(entered.row, part)}.zip"
        return FileToSend(context.blobs.local(found.sha256), name, _ZIP)
