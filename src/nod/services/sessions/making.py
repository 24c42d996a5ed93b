"""Making a session from documents at fixed revisions; what stands in the way, and who will see more (handbook §7)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import AwareDatetime, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import RUNNING_ROLES, Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.sessions.sessions import (
    MOST_PARTIES,
    MOST_SHEETS,
    Deed,
    SessionState,
    check_name,
    check_times,
    session_number,
)
from nod.core.trail.entries import FactKind, Subject
from nod.services.access.visibility import refuse_copy
from nod.services.acts.answers import Answered, Command, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import next_running
from nod.services.acts.seats import IN_PROJECT, Actor, Seat, can_see_all, reach, take_seat, too_low
from nod.services.sessions.invitations import Party, invite, parties_of, persons_of, widened_words, write_to
from nod.services.sessions.kind import SESSION
from nod.services.sessions.opening import ask_for_its_time, open_session
from nod.services.sessions.session_rows import enter, held_by_sessions, record, sheets_of, tell
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    RevisionRow,
    SessionRow,
    SessionSheetRow,
)

_LONGEST_NOTE = 2000


class CheckSession(Command):
    """What is to be in it, and who is to come; `opens_now` or later."""

    project_id: str
    opens_now: bool = True
    revisions: list[str] = Field(max_length=MOST_SHEETS)
    parties: list[Party] = Field(default_factory=list, max_length=MOST_PARTIES)


class MakeSession(Command):
    """It opens at once without `opens_at`, or where that is over. Times are instants."""

    project_id: str
    name: str
    note: str = ""
    opens_at: AwareDatetime | None = Field(default=None, strict=False)
    closes_at: AwareDatetime = Field(strict=False)
    revisions: list[str] = Field(min_length=1, max_length=MOST_SHEETS)
    parties: list[Party] = Field(default_factory=list, max_length=MOST_PARTIES)


class ChangeSession(Command):
    """What is left out stays. `host_id` hands it over."""

    version: int
    name: str | None = None
    note: str | None = None
    opens_at: AwareDatetime | None = Field(default=None, strict=False)
    closes_at: AwareDatetime | None = Field(default=None, strict=False)
    host_id: str | None = None


class SheetToMeetOn(Answered):
    """A document as it is proposed. `stop` says why it cannot be in a session, `warn` what one should know."""

    revision_id: str
    document_id: str
    number: str
    title: str
    revision: str
    stop: str
    warn: str


class SessionCheck(Answered):
    """`widened` is a sentence that says who will see what they could not otherwise, empty for nobody."""

    sheets: list[SheetToMeetOn]
    widened: str


class MadeSession(Answered):
    id: str
    number: str


@dataclass(frozen=True)
class _Proposed:
    revision: RevisionRow
    document: DocumentRow
    pages: int


def check_session(context: Context, actor: Actor, command: CheckSession) -> SessionCheck:
    """Changes nothing."""
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        seat.need_tool(SESSION.tool)
        proposed = _proposed(session, seat, command.revisions)
        around = _Around(session, proposed)
        sheets = [
            SheetToMeetOn(
                revision_id=each.revision.id, document_id=each.document.id, number=each.document.number,
                title=each.revision.title, revision=each.revision.code,
                stop=_stop(seat, each) or (around.held(each) if command.opens_now else ""), warn=around.warn(each),
            )
            for each in proposed
        ]  # fmt: skip
        documents = [each.document for each in proposed]
        return SessionCheck(sheets=sheets, widened=widened_words(session, seat.project, documents, command.parties))


def _proposed(session: Session, seat: Seat, revisions: Sequence[str]) -> list[_Proposed]:
    """In the order asked for. Raises NotFound for the first that is not there for the seat."""
    query = (
        select(RevisionRow, DocumentRow, BlobRow.page_count)
        .join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        .join(BlobRow, BlobRow.sha256 == RevisionRow.sha256)
        .where(one_of(RevisionRow.id, list(revisions)))
    )
    found = {revision.id: _Proposed(revision, document, pages) for revision, document, pages in session.execute(query)}
    for id in revisions:
        each = found.get(id)
        if (
            each is None
            or each.document.project_id != seat.project.id
            or seat.at(each.document.folder_id) is Level.NONE
        ):
            raise NotFound(id)
    return [found[id] for id in dict.fromkeys(revisions)]


def _stop(seat: Seat, each: _Proposed) -> str:
    document = each.document
    if document.copy_of:
        return "It is a copy in a folder. Take the document that it came from."
    if seat.at(document.folder_id) < Level.FILE:
        return "You may not file here, so you cannot have it checked out to a session."
    if document.withdrawn:
        return "It is withdrawn."
    if not each.pages:
        return "It has no pages that could be marked."
    return ""


class _Around:
    """What stands around the documents of a session, in a fixed number of queries."""

    def __init__(self, session: Session, proposed: Sequence[_Proposed]) -> None:
        self._people = people_by_id(session, {each.document.checked_out_by for each in proposed})
        self._held = held_by_sessions(session, [each.document.id for each in proposed])

    def held(self, each: _Proposed) -> str:
        number = self._held.get(each.document.id)
        return f"It is in session {number} now, and can be in one open session at a time." if number else ""

    def warn(self, each: _Proposed) -> str:
        document = each.document
        if held := self.held(each):
            return held
        if holder := self._people.get(document.checked_out_by):
            return f"{holder.name} has it checked out; it is not checked out to the session."
        if document.revision_id != each.revision.id:
            return f"The latest is {document.revision}; this revision is not checked out to the session."
        return ""


def make_session(context: Context, actor: Actor, command: MakeSession) -> MadeSession:
    """Raises RuleBroken for what makes no sense, NotAllowed where the actor may not file its documents."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, tool=SESSION.tool)
        proposed = _proposed(act.session, seat, command.revisions)
        for each in proposed:
            _need(seat, each)
        if opens_at_once := command.opens_at is None or command.opens_at <= act.at:
            _need_free(act.session, proposed)
        name = check_name(command.name)
        opens_at = max(command.opens_at, act.at) if command.opens_at else act.at
        check_times(opens_at, command.closes_at, act.at)
        row = SessionRow(
            id=new_id(), project_id=seat.project.id, name=name, note=command.note.strip()[:_LONGEST_NOTE],
            number=session_number(next_running(act.session, seat.project.id, SESSION.code)),
            host_id=actor.person_id, made_by=actor.person_id, made_at=act.at, opens_at=opens_at,
            closes_at=command.closes_at, state=SessionState.TO_COME.value, parts=0, version=1,
        )  # fmt: skip
        act.session.add(row)
        act.session.flush()
        act.session.add_all(
            SessionSheetRow(
                session_id=row.id, revision_id=each.revision.id, document_id=each.document.id, place=place, held=False
            )
            for place, each in enumerate(proposed)
        )
        act.session.flush()
        _record_made(act, row, proposed)
        if opens_at_once:
            open_session(act, row)
        else:
            ask_for_its_time(act, row)
        invite(act, row, command.parties)
        tell(act, row)
        return MadeSession(id=row.id, number=row.number)


def _need(seat: Seat, each: _Proposed) -> None:
    refuse_copy(each.document)
    if seat.at(each.document.folder_id) < Level.FILE:
        raise too_low(Level.FILE, each.document.number)
    if stop := _stop(seat, each):
        raise RuleBroken("session_sheet", f"{each.document.number}: {stop}", each.document.number)


def _need_free(session: Session, proposed: Sequence[_Proposed]) -> None:
    """Raises RuleBroken for the first that another open session holds."""
    around = _Around(session, proposed)
    for each in proposed:
        if held := around.held(each):
            raise RuleBroken("session_sheet", f"{each.document.number}: {held}", each.document.number)


def _record_made(act: Act, row: SessionRow, proposed: Sequence[_Proposed]) -> None:
    documents = [f"{each.document.number} {each.revision.code}" for each in proposed]
    record(
        act, row, FactKind.SESSION_MADE,
        {
            "documents": documents, "opens": row.opens_at.isoformat(), "closes": row.closes_at.isoformat(),
            "host": act.actor.name, **({"note": row.note} if row.note else {}),
        },
        others=[Subject("revision", each.revision.id) for each in proposed],
        state={"host": row.host_id},
    )  # fmt: skip


def change_session(context: Context, actor: Actor, session_id: str, command: ChangeSession) -> None:
    """Its name, note and times; its host. Those who are invited get the new times."""
    with acting(context, actor) as act:
        entered = enter(act.session, actor, session_id)
        row = entered.row
        entered.check(Deed.HAND_OVER if _only_host(command) else Deed.CHANGE)
        check_version(command.version, row.version, row.number)
        before = _told(act.session, row)
        times = (row.opens_at, row.closes_at)
        _change(act, row, entered.state, command)
        row.version += 1
        after = _told(act.session, row)
        if before == after:
            return
        differs = [key for key in after if before[key] != after[key]]
        record(
            act, row, FactKind.SESSION_CHANGED, {key: after[key] for key in differs},
            before={key: before[key] for key in differs}, state={"host": row.host_id},
        )  # fmt: skip
        if times != (row.opens_at, row.closes_at):
            ask_for_its_time(act, row)
            people = persons_of(act.session, parties_of(act.session, row.id), row.project_id)
            write_to(act, row, people, moved=True)
        tell(act, row)


def _only_host(command: ChangeSession) -> bool:
    others = (command.name, command.note, command.opens_at, command.closes_at)
    return command.host_id is not None and all(each is None for each in others)


def _told(session: Session, row: SessionRow) -> dict[str, str]:
    return {
        "name": row.name, "note": row.note, "opens": row.opens_at.isoformat(), "closes": row.closes_at.isoformat(),
        "host": session.get_one(PersonRow, row.host_id).name,
    }  # fmt: skip


def _change(act: Act, row: SessionRow, state: SessionState, command: ChangeSession) -> None:
    if command.name is not None:
        row.name = check_name(command.name)
    if command.note is not None:
        row.note = command.note.strip()[:_LONGEST_NOTE]
    if command.opens_at is not None and state is SessionState.TO_COME:
        row.opens_at = command.opens_at
    if command.closes_at is not None:
        row.closes_at = command.closes_at
    if command.opens_at is not None or command.closes_at is not None:
        check_times(row.opens_at, row.closes_at, act.at)
    if command.host_id is not None:
        _hand_over(act, row, command.host_id)


def _hand_over(act: Act, row: SessionRow, host_id: str) -> None:
    """Raises NotFound for nobody of the project, RuleBroken for who may not file the documents."""
    member = act.session.get(MembershipRow, (row.project_id, host_id))
    if member is None or member.state not in IN_PROJECT:
        raise NotFound(host_id)
    project = act.session.get_one(ProjectRow, row.project_id)
    documents = [document for sheet, _, document in sheets_of(act.session, row.id) if sheet.left_at is None]
    found = reach(act.session, project, host_id)
    runs = RUNNING_ROLES & set(member.roles)
    if not runs and not can_see_all(found, [each.folder_id for each in documents], Level.FILE):
        name = act.session.get_one(PersonRow, host_id).name
        raise RuleBroken("host_cannot", f"{name} may not file all its documents, so they cannot host it.", name)
    row.host_id = host_id
    for document in documents:
        if document.checked_out_session == row.id:
            document.checked_out_by = host_id
            document.version += 1
    act.session.flush()
