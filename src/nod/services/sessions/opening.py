"""A session opens and closes, by hand and by its time; its documents are checked out to it meanwhile (handbook §7)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import AwareDatetime, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.counted import counted
from nod.core.acts.refusals import RuleBroken
from nod.core.marks.marks import MarkState
from nod.core.sessions.sessions import Deed, SessionState, check_times
from nod.core.trail.entries import Fact, FactKind, Subject, instant_text
from nod.services.acts.answers import Command, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import NOBODY, Actor, Seat
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.marks.kind import THREAD
from nod.services.marks.live_marks import tell as tell_marks
from nod.services.marks.mark_rows import marks_with_threads
from nod.services.marks.mark_threads import set_state
from nod.services.marks.marks import record as record_mark
from nod.services.notices.notices import Notice, tell_person
from nod.services.register import standing
from nod.services.sessions.session_rows import enter, held_by_sessions, record, sheets_of, tell
from nod.store.tables import (
    DocumentRow,
    MarkRow,
    ProjectRow,
    RevisionRow,
    SessionRecordRow,
    SessionRow,
    SessionSheetRow,
    SessionVisitRow,
    ThreadRow,
)


class SeenSession(Command):
    version: int


class CloseSession(Command):
    """`open_becomes`: the state that all which is still open is given; empty leaves it open."""

    version: int
    open_becomes: Literal["", "agreed", "declined", "done", "dropped"] = ""


class OpenAgain(Command):
    version: int
    closes_at: AwareDatetime = Field(strict=False)


class TakeSheetOut(Command):
    """`reason` is wanted where it is not the host who does it."""

    version: int
    reason: str = ""


_Sheet = tuple[SessionSheetRow, RevisionRow, DocumentRow]


def ask_for_its_time(act: Act, row: SessionRow) -> None:
    """The worker opens and closes it; a time that was put off leaves a task that finds nothing to do."""
    at = row.closes_at if row.state == SessionState.OPEN.value else row.opens_at
    key = f"session_time:{row.id}:{at.isoformat()}:{row.parts}"
    act.ask("session_time", key, {"session_id": row.id}, not_before=max(at, act.at))


def session_concerns(session: Session, payload: Payload) -> list[Concern]:
    row = session.get(SessionRow, payload["session_id"])
    if row is None:
        return []
    about = f"{row.number} {row.name}"
    return [Concern(row.project_id, Subject("session", row.id), about, f"/sessions/{row.id}", person_id=row.host_id)]


@work("session_time", Lane.SEND, "opening or closing a session", session_concerns)
def keep_time(job: Job, payload: dict[str, Any]) -> None:
    """Harmless when done twice, or at another time than it was asked for."""
    now = job.context.clock.now()
    with job.context.database.write() as session:
        row = session.get_one(SessionRow, payload["session_id"])
        act = Act(job.context, session, NOBODY, now)
        if row.state == SessionState.TO_COME.value and row.opens_at <= now:
            open_session(act, row)
            row.version += 1
            tell(act, row)
        if row.state == SessionState.OPEN.value and row.closes_at <= now:
            _close(act, row)
            row.version += 1
            tell(act, row)


def open_now(context: Context, actor: Actor, session_id: str, command: SeenSession) -> None:
    """Before its time."""
    with acting(context, actor) as act:
        entered = enter(act.session, actor, session_id)
        entered.check(Deed.OPEN)
        check_version(command.version, entered.row.version, entered.row.number)
        open_session(act, entered.row)
        entered.row.version += 1
        tell(act, entered.row)


def open_again(context: Context, actor: Actor, session_id: str, command: OpenAgain) -> None:
    """Checks out what has no newer revision, and says of the rest why not."""
    with acting(context, actor) as act:
        entered = enter(act.session, actor, session_id)
        entered.check(Deed.OPEN_AGAIN)
        check_version(command.version, entered.row.version, entered.row.number)
        check_times(act.at, command.closes_at, act.at)
        entered.row.closes_at = command.closes_at
        open_session(act, entered.row, FactKind.SESSION_OPENED_AGAIN)
        entered.row.version += 1
        tell(act, entered.row)


def open_session(act: Act, row: SessionRow, kind: FactKind = FactKind.SESSION_OPENED) -> None:
    """Checks out what can be. A document that another open session holds is left out of this one, with why."""
    row.state, row.opened_at, row.closed_at = SessionState.OPEN.value, act.at, None
    act.session.flush()
    sheets = [each for each in sheets_of(act.session, row.id) if each[0].left_at is None]
    held = held_by_sessions(act.session, [document.id for _, _, document in sheets])
    people = people_by_id(act.session, {document.checked_out_by for _, _, document in sheets})
    out: list[DocumentRow] = []
    for sheet, revision, document in sheets:
        sheet.why = ""
        if number := held.get(document.id):
            sheet.left_at, sheet.why = act.at, f"It was in session {number} when this one opened."
        elif why := _not_held(document, revision, people.get(document.checked_out_by)):
            sheet.why = why
        else:
            sheet.held = True
            out.append(document)
    _check_out(act, row, out)
    others = [Subject("revision", revision.id) for sheet, revision, _ in sheets if sheet.left_at is None]
    apart = {f"{document.number} {revision.code}": sheet.why for sheet, revision, document in sheets if sheet.why}
    after = {"checked out": len(out), "closes": row.closes_at.isoformat()} | ({"not": apart} if apart else {})
    record(act, row, kind, after, others=others)
    ask_for_its_time(act, row)


def _not_held(document: DocumentRow, revision: RevisionRow, holder: Any) -> str:
    if document.withdrawn:
        return "It is withdrawn."
    if holder is not None:
        return f"{holder.name} has it checked out."
    if document.revision_id != revision.id:
        return f"There is a newer revision, {document.revision}."
    return ""


def _check_out(act: Act, row: SessionRow, documents: Sequence[DocumentRow]) -> None:
    for document in documents:
        document.checked_out_by, document.checked_out_at, document.checked_out_session = row.host_id, act.at, row.id
        document.checked_out_note = f"In session {row.number}, {row.name}"
        document.version += 1
        _record_out(act, document, FactKind.DOCUMENT_CHECKED_OUT, {"session": row.number}, row)
    _refresh(act, row, documents)


def _check_in(act: Act, row: SessionRow, documents: Sequence[DocumentRow], kind: FactKind, why: str = "") -> None:
    for document in documents:
        document.checked_out_by, document.checked_out_at, document.checked_out_session = "", None, ""
        document.checked_out_note = ""
        document.version += 1
        _record_out(act, document, kind, {"session": row.number}, row, why)
    _refresh(act, row, documents)


def _record_out(
    act: Act, document: DocumentRow, kind: FactKind, after: dict[str, str], row: SessionRow, why: str = ""
) -> None:  # fmt: skip
    # The session is named, and no thing of the entry: whoever sees the document may read it.
    others = (Subject("revision", document.revision_id),)
    act.record(
        row.project_id, Fact(kind, Subject("document", document.id), document.number, others, after=after, why=why)
    )


def _refresh(act: Act, row: SessionRow, documents: Sequence[DocumentRow]) -> None:
    if not documents:
        return
    standing.refresh(act.session, {each.id for each in documents})
    for folder in sorted({each.folder_id for each in documents}):
        act.tell(row.project_id, "register", folder, {folder})


def close_session(context: Context, actor: Actor, session_id: str, command: CloseSession) -> None:
    """With what is still open set to a state, if that is asked for; then the record is made."""
    with acting(context, actor) as act:
        entered = enter(act.session, actor, session_id)
        row = entered.row
        entered.check(Deed.CLOSE)
        check_version(command.version, row.version, row.number)
        if command.open_becomes:
            _settle(act, row, entered.seat, MarkState(command.open_becomes))
        _close(act, row)
        row.version += 1
        tell(act, row)


def _settle(act: Act, row: SessionRow, seat: Seat, state: MarkState) -> None:
    """All that is open in it, as far as whoever closes it reads it."""
    query = (
        marks_with_threads()
        .join(DocumentRow, DocumentRow.id == MarkRow.document_id)
        .add_columns(DocumentRow)
        .where(
            ThreadRow.session_id == row.id, ThreadRow.shared_at.is_not(None),
            ThreadRow.state == MarkState.OPEN.value, MarkRow.removed_at.is_(None),
            MarkRow.id == ThreadRow.id, THREAD.seen(seat),
        )
    )  # fmt: skip
    for mark, document in act.session.execute(query).all():
        before = mark.thread.state
        changed = set_state(act.session, mark, state, act.actor.person_id, act.at)
        record_mark(act, document, mark, FactKind.MARK_STATE_SET, {"state": before}, {"state": mark.thread.state})
        tell_marks(act, document, changed)


def open_count(session: Session, session_id: str) -> int:
    """How much ink of a session is open, whoever reads it."""
    query = select(ThreadRow.id).where(
        ThreadRow.session_id == session_id, ThreadRow.shared_at.is_not(None), ThreadRow.state == MarkState.OPEN.value,
        select(MarkRow.id).where(MarkRow.thread_id == ThreadRow.id, MarkRow.removed_at.is_(None)).exists(),
    )  # fmt: skip
    return len(session.scalars(query).all())


def _close(act: Act, row: SessionRow) -> None:
    row.state, row.closed_at = SessionState.CLOSED.value, act.at
    row.parts += 1
    sheets = sheets_of(act.session, row.id)
    held = [document for sheet, _, document in sheets if sheet.held]
    for sheet, _, _ in sheets:
        sheet.held = False
    act.session.flush()
    _check_in(act, row, held, FactKind.CHECK_OUT_PUT_BACK)
    here = [each for each in sheets if each[0].left_at is None]
    act.session.add(
        SessionRecordRow(
            session_id=row.id, part=row.parts, opened_at=row.opened_at or act.at, closed_at=act.at, sheets=len(here)
        )
    )
    query = select(SessionVisitRow).where(SessionVisitRow.session_id == row.id)
    visits = act.session.scalars(query.order_by(SessionVisitRow.came_at, SessionVisitRow.who)).all()
    there = [
        f"{each.name} ({each.company}), {instant_text(each.came_at)} to {instant_text(each.seen_at)}" for each in visits
    ]
    open_marks = open_count(act.session, row.id)
    record(
        act, row, FactKind.SESSION_CLOSED,
        {"part": row.parts, "still open": open_marks, "who was there": there},
        others=[Subject("revision", revision.id) for _, revision, _ in here], state={"parts": row.parts},
    )  # fmt: skip
    act.ask("session_record", f"session_record:{row.id}:{row.parts}", {"session_id": row.id, "part": row.parts})
    if act.actor.person_id != row.host_id:
        _tell_host(act, row, f"{row.number} has closed", f"{counted(open_marks, 'mark')} of it are still open.")


def take_sheet_out(context: Context, actor: Actor, session_id: str, revision_id: str, command: TakeSheetOut) -> None:
    """The session goes on without it, and it is checked in.

    Raises RuleBroken where it is out already, or where a lead breaks it without a reason, which the host reads.
    """
    with acting(context, actor) as act:
        entered = enter(act.session, actor, session_id)
        row = entered.row
        entered.check(Deed.TAKE_OUT)
        check_version(command.version, row.version, row.number)
        found = next((each for each in sheets_of(act.session, row.id) if each[1].id == revision_id), None)
        if found is None or found[0].left_at is not None:
            raise RuleBroken("session_sheet_out", "This sheet is not in the session.", row.number)
        sheet, revision, document = found
        reason = " ".join(command.reason.split())[:500]
        if not entered.taker.host:
            entered.seat.need_at(document.folder_id, Level.KEEP, document.number)
            if not reason:
                raise RuleBroken("reason_missing", "Say why it is taken out; the session's host reads it.", row.number)
        was_held, sheet.held, sheet.left_at = sheet.held, False, act.at
        sheet.why = reason or "The host took it out."
        act.session.flush()
        about = f"{document.number} {revision.code}"
        record(
            act, row, FactKind.SESSION_SHEET_TAKEN_OUT, {"sheet": about}, why=reason,
            others=[Subject("revision", revision.id)],
        )  # fmt: skip
        if was_held:
            kind = FactKind.CHECK_OUT_PUT_BACK if entered.taker.host else FactKind.CHECK_OUT_BROKEN
            _check_in(act, row, [document], kind, reason)
        row.version += 1
        if not entered.taker.host:
            words = f"{act.actor.name} took {about} out of {row.number}"
            _tell_host(act, row, words, f"Reason: {reason}")
        tell(act, row)


def _tell_host(act: Act, row: SessionRow, words: str, more: str) -> None:
    project = act.session.get_one(ProjectRow, row.project_id)
    act.session.flush()
    notice = Notice(
        f"session:{row.id}:{row.version}:{act.at.isoformat()}", f"{project.number}: {words}", [f"{words}.", "", more],
        f"/sessions/{row.id}", [Subject("session", row.id)], "host it",
    )  # fmt: skip
    tell_person(act, project, "session", row.host_id, notice)
