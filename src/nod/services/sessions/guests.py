"""Guests of a session: they come by a link, see its sheets while it is open, and mark as the link allows (handbook §7).

Every act asks anew whether the link still opens. What they draw is ink, in the name they typed.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.audiences import Eyes
from nod.core.acts.once import Once
from nod.core.acts.refusals import NotFound
from nod.core.marks.marks import MarkState
from nod.core.marks.readers import for_group
from nod.core.sessions.sessions import Deed, May, SessionState, Taker, check
from nod.core.threads.threads import Way, check_text
from nod.core.trail.entries import FactKind
from nod.services.acts.answers import Answered, Command, named, people_by_id
from nod.services.acts.context import Context, check_version
from nod.services.acts.live import Event, Hearing
from nod.services.acts.once import take_key
from nod.services.acts.tries import key_of, take_one
from nod.services.links.rooms import LinkRoom, link_room
from nod.services.links.visits import Guest, guest_of
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_files import ink_on
from nod.services.marks.mark_notices import tell_of_reply
from nod.services.marks.mark_rows import places_of
from nod.services.marks.mark_threads import ink, set_state
from nod.services.marks.marks import NewMark, check_own, put_marks_of_guest, record, take_away
from nod.services.marks.marks_view import Mark, show_to_nobody
from nod.services.press.press import Press
from nod.services.register.guest_files import GuestFile, guest_file
from nod.services.sessions.kind import SESSION
from nod.services.sessions.marking import need_sheet
from nod.services.sessions.presence import Here, must_note_visit, note_visit, room_of, say_where
from nod.services.sessions.records import in_the_record
from nod.services.sessions.session_rows import sheets_of
from nod.services.sheet.page_pictures import draw_tile, draw_whole
from nod.services.sheet.sheets import DRAWN_WITH, DrawnWith
from nod.services.threads.said import Outside, add_outside_reply
from nod.store.tables import DocumentRow, MarkRow, RevisionRow, SessionRow

_MOST_ACTS = 2000
"""In the time in which tries by one link are counted."""

ROOM = link_room(
    LinkRoom(
        SESSION.code, ("look", "reply", "mark"),
        lambda seat, row: seat.runs or row.host_id == seat.eyes.person_id,
    )
)  # fmt: skip
"""Links to it are given by its host, and by leads and controllers."""


class GuestSession(Answered):
    """A session as its guest sees it: its sheets while it is open, none before and after."""

    project: str
    number: str
    name: str
    note: str
    host: str
    state: Literal["to come", "open", "closed"]
    opens_at: datetime
    closes_at: datetime
    me: str
    company: str
    allows: list[str]
    sheets: list[GuestFile]
    drawn_with: DrawnWith
    live_port: int
    live_url: str
    now: datetime


class GuestMark(Answered):
    """`mine`: drawn in this visit, and not answered yet: it can be taken away."""

    mark: Mark
    mine: bool


class GuestSheetMarks(Answered):
    marks: list[GuestMark]


class DrawAsGuest(Command):
    marks: list[NewMark] = Field(min_length=1, max_length=50)


class ReplyAsGuest(Command):
    text: str


class StateAsGuest(Command):
    version: int
    state: Literal["open", "agreed", "declined", "done", "dropped"]


class SeenMark(Command):
    version: int


@dataclass(frozen=True)
class _Visit:
    guest: Guest
    row: SessionRow
    id: str

    @property
    def session(self) -> Session:
        return self.guest.act.session

    def check(self, deed: Deed) -> None:
        allows = self.guest.link.allows
        level = May.MARK if "mark" in allows else May.COMMENT if "reply" in allows else May.LOOK
        check(SessionState(self.row.state), Taker(level), deed)


def _visit(context: Context, session: Session, secret: str) -> _Visit:
    """Raises NotFound for a visit that is none, or by a link to something else."""
    guest = guest_of(context, session, secret)
    if guest.kind.code != SESSION.code:
        raise NotFound
    return _Visit(guest, guest.row, guest.visit_id)


def _on_sheet(context: Context, session: Session, secret: str, revision_id: str, deed: Deed) -> _Visit:
    visit = _visit(context, session, secret)
    need_sheet(session, visit.row.id, revision_id)
    visit.check(deed)
    return visit


def read_as_guest(context: Context, secret: str) -> GuestSession:
    with context.database.read() as session:
        visit = _visit(context, session, secret)
        row, guest = visit.row, visit.guest
        sheets = [each for each in sheets_of(session, row.id) if each[0].left_at is None]
        is_open = row.state == SessionState.OPEN.value
        host = _host(session, row)
        return GuestSession(
            project=f"{guest.project.number} {guest.project.name}", number=row.number, name=row.name, note=row.note,
            host=host, state=row.state, opens_at=row.opened_at or row.opens_at,
            closes_at=row.closed_at or row.closes_at, me=guest.name, company=guest.act.actor.company_code,
            allows=guest.link.allows, drawn_with=DRAWN_WITH, live_port=context.settings.resolved_live_port,
            live_url=context.settings.live_url, now=context.clock.now(),
            sheets=[guest_file(session, revision, document.number, "") for _, revision, document in sheets]
            if is_open
            else [],
        )  # fmt: skip


def _host(session: Session, row: SessionRow) -> str:
    return named(people_by_id(session, {row.host_id})[row.host_id])


def read_marks(context: Context, secret: str, revision_id: str) -> GuestSheetMarks:
    """The ink of the session that all its people read."""
    with context.database.read() as session:
        visit = _on_sheet(context, session, secret, revision_id, Deed.LOOK)
        rows = list(session.scalars(ink_on(revision_id, in_the_record(visit.row.id))))
        return GuestSheetMarks(marks=_shown(visit, rows))


def _shown(visit: _Visit, rows: list[MarkRow]) -> list[GuestMark]:
    shown = show_to_nobody(visit.session, rows)
    return [
        GuestMark(mark=mark, mine=row.thread.guest_id == visit.id and not mark.replies)
        for row, mark in zip(rows, shown, strict=True)
    ]


def draw_as_guest(
    context: Context, secret: str, revision_id: str, command: DrawAsGuest, once: Once | None = None
) -> GuestSheetMarks:  # fmt: skip
    """In ink, for the session's people and whoever sees the sheet."""
    with context.database.write() as session:
        visit = _on_sheet(context, session, secret, revision_id, Deed.MARK)
        act = visit.guest.act
        _count(visit, once)
        revision, document = _sheet(session, revision_id)
        rows = put_marks_of_guest(act, document, revision, command.marks, (visit.row.id, visit.id))
        ink(act, document, rows, for_group(None))
        tell(act, document, rows)
        _note(visit)
        return GuestSheetMarks(marks=_shown(visit, rows))


def _sheet(session: Session, revision_id: str) -> tuple[RevisionRow, DocumentRow]:
    revision = session.get_one(RevisionRow, revision_id)
    return revision, session.scalars(select(DocumentRow).where(DocumentRow.id == revision.document_id)).one()


def _count(visit: _Visit, once: Once | None) -> None:
    """Raises DoneAlready, TooMany."""
    if once:
        take_key(visit.session, visit.id, once, visit.guest.act.at)
    take_one(visit.session, key_of("guest in session", visit.guest.link.id), _MOST_ACTS, visit.guest.act.at)


def _note(visit: _Visit) -> None:
    actor = visit.guest.act.actor
    note_visit(visit.guest.act, visit.row, visit.id, actor.name, actor.company_code, guest=True)


def _mark(visit: _Visit, mark_id: str) -> tuple[MarkRow, DocumentRow]:
    """Raises NotFound for what is no ink of the session that all its people read."""
    session = visit.session
    row = session.scalars(select(MarkRow).where(MarkRow.id == mark_id)).one_or_none()
    if row is None:
        raise NotFound(mark_id)
    need_sheet(session, visit.row.id, row.revision_id)
    if mark_id not in {each.id for each in session.scalars(ink_on(row.revision_id, in_the_record(visit.row.id)))}:
        raise NotFound(mark_id)
    return row, _sheet(session, row.revision_id)[1]


def reply_as_guest(
    context: Context, secret: str, mark_id: str, command: ReplyAsGuest, once: Once | None = None
) -> GuestSheetMarks:  # fmt: skip
    text = check_text(command.text, required=True)
    with context.database.write() as session:
        visit = _visit(context, session, secret)
        row, document = _mark(visit, mark_id)
        visit.check(Deed.COMMENT)
        _count(visit, once)
        act = visit.guest.act
        said = Outside(Way.LINK, act.actor.name, act.at, act.actor.company_code)
        reply = add_outside_reply(act, row.thread, act.actor.person_id, text, said, row.revision_id)
        session.flush()
        record(act, document, row, FactKind.MARK_ANSWERED, after={"text": text})
        tell_of_reply(act, document, row, reply)
        tell(act, document, places_of(session, row))
        _note(visit)
        return GuestSheetMarks(marks=_shown(visit, [row]))


def set_state_as_guest(
    context: Context, secret: str, mark_id: str, command: StateAsGuest, once: Once | None = None
) -> GuestSheetMarks:  # fmt: skip
    with context.database.write() as session:
        visit = _visit(context, session, secret)
        row, document = _mark(visit, mark_id)
        visit.check(Deed.COMMENT)
        _count(visit, once)
        check_version(command.version, row.seen_version, document.number)
        before = row.thread.state
        carried = set_state(session, row, MarkState(command.state), visit.guest.act.actor.person_id, visit.guest.act.at)
        record(visit.guest.act, document, row, FactKind.MARK_STATE_SET, {"state": before}, {"state": row.thread.state})
        tell(visit.guest.act, document, carried)
        _note(visit)
        return GuestSheetMarks(marks=_shown(visit, [row]))


def remove_as_guest(context: Context, secret: str, mark_id: str, command: SeenMark) -> None:
    """Takes away what was drawn in this visit, until somebody has answered it."""
    with context.database.write() as session:
        visit = _visit(context, session, secret)
        row, document = _mark(visit, mark_id)
        visit.check(Deed.MARK)
        act = visit.guest.act
        check_own(act, document, row, command.version, (row.thread.guest_id, visit.id))
        take_away(act, document, row)
        tell(act, document, [row])


def _content(context: Context, secret: str, revision_id: str) -> str:
    with context.database.read() as session:
        _on_sheet(context, session, secret, revision_id, Deed.LOOK)
        return session.get_one(RevisionRow, revision_id).sha256


def read_tile(
    context: Context, press: Press, secret: str, revision_id: str, tile: tuple[int, int, int, int]
) -> Path:  # fmt: skip
    """`tile` is page, level, column and row. Raises NotFound outside the page."""
    sha256 = _content(context, secret, revision_id)
    return draw_tile(context, press, sha256, context.blobs.local_sheet(sha256), tile, revision_id)


def read_page(context: Context, press: Press, secret: str, revision_id: str, leaf: tuple[int, int]) -> Path:
    """The whole page; `leaf` is page and level."""
    sha256 = _content(context, secret, revision_id)
    return draw_whole(context, press, sha256, context.blobs.local_sheet(sha256), leaf, revision_id)


def be_here_as_guest(context: Context, secret: str, command: Here) -> None:
    """Told to those who are there. A guest calls nobody."""
    with context.database.read() as session:
        visit = _visit(context, session, secret)
        visit.check(Deed.LOOK)
        if not command.leaves:
            need_sheet(session, visit.row.id, command.revision_id)
        actor, row = visit.guest.act.actor, visit.row
        who = {"who": visit.id, "name": actor.name, "company": actor.company_code, "guest": True}
        say_where(context, room_of(session, row), who, command.model_copy(update={"calls": False}))
        must_note = must_note_visit(session, row.id, visit.id, context.clock.now(), leaves=command.leaves)
    if not must_note:
        return
    with context.database.write() as session:
        _note(_visit(context, session, secret))


@dataclass(frozen=True)
class GuestHearing(Hearing):
    """A guest hears of the session's marks and of the session itself, and of nothing that is there for everybody."""

    def knows(self, event: Event) -> bool:
        (eyes,) = self.eyes.values()
        named = eyes.person_id in event.audience.people
        return event.topic in ("marks", SESSION.topic) and named and super().knows(event)


def guest_eyes(context: Context, secret: str) -> tuple[str, Eyes, datetime]:
    """What a guest of a session hears live: its project, their eyes, and until when the session goes on."""
    with context.database.read() as session:
        visit = _visit(context, session, secret)
        visit.check(Deed.LOOK)
        return visit.row.project_id, Eyes(person_id=visit.row.id), visit.row.closes_at
