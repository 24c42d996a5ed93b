"""Who is in a session, and where they look (handbook §7): kept nowhere but for first coming and last leaving."""

from __future__ import annotations

import json
import threading
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Annotated, Any

from pydantic import Field, Strict
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience, Eyes, is_seen
from nod.core.acts.refusals import NotFound
from nod.core.sessions.sessions import Deed, SessionState, Taker, check
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Command, people_by_id
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import Actor
from nod.services.sessions.kind import SESSION
from nod.services.sessions.session_rows import enter, record, sheets_of, tell
from nod.services.things.audiences import audience_of
from nod.store.journal import audience_from, audience_kept
from nod.store.tables import SessionRow, SessionVisitRow

_NOTED_EVERY = timedelta(seconds=60)
GONE_SECONDS = 45
"""Who has said nothing for so long is not there any more."""

Box = Annotated[tuple[float, float, float, float], Strict(False)]


class Here(Command):
    """Where somebody looks: a page from 0, and what of it they see, in PDF points (left, low, right, high).

    `calls` all who are there to this place, which the host does. `leaves`: they are not there any more.
    """

    revision_id: str
    page: int = Field(default=0, ge=0, le=100_000)
    box: Box | None = None
    calls: bool = False
    leaves: bool = False


def be_here(context: Context, actor: Actor, session_id: str, command: Here) -> None:
    """Told to those who are there; the first time it is an entry of the trail."""
    with context.database.read() as session:
        key = ("place in session", session_id, actor.person_id, actor.looker is None)
        # Fifty people say it twice a second: what follows from who is who is not asked anew each time.
        place = context.database.remember_people(session, key, lambda: _place(session, actor, session_id))
        check(place.state, place.taker, Deed.LOOK)
        if command.calls:
            check(place.state, place.taker, Deed.CLOSE)
        if not command.leaves and command.revision_id not in place.sheets:
            raise NotFound(command.revision_id)
        must_note = must_note_visit(session, session_id, actor.person_id, context.clock.now(), leaves=command.leaves)
    say_where(context, place.room, place.who, command)
    if must_note:
        _note(context, actor, session_id, place.who["company"])


@dataclass(frozen=True)
class Room:
    """A session as the live process is told of it."""

    session_id: str
    project_id: str
    audience: dict[str, Any]


@dataclass(frozen=True)
class _Place:
    """Somebody's in a session, as long as nobody's access changes."""

    room: Room
    state: SessionState
    taker: Taker
    sheets: frozenset[str]
    who: dict[str, Any]


def room_of(session: Session, row: SessionRow) -> Room:
    return Room(row.id, row.project_id, audience_kept(audience_of(session, SESSION.audience, row.id)))


def _place(session: Session, actor: Actor, session_id: str) -> _Place:
    entered = enter(session, actor, session_id)
    who = people_by_id(session, {actor.person_id})[actor.person_id]
    sheets = frozenset(revision.id for sheet, revision, _ in sheets_of(session, session_id) if sheet.left_at is None)
    said = {"who": who.id, "name": who.name, "company": who.company, "guest": False}
    return _Place(room_of(session, entered.row), entered.state, entered.taker, sheets, said)


def say_where(context: Context, room: Room, who: dict[str, Any], command: Here) -> None:
    """To the live process, with those who may hear it."""
    called_at = context.clock.now().isoformat() if command.calls else ""
    person = {
        **who, "revision": command.revision_id, "page": command.page, "box": command.box, "left": command.leaves,
        "called_at": called_at,
    }  # fmt: skip
    said = {"session": room.session_id, "project": room.project_id, "audience": room.audience, "person": person}
    context.knocker.say(said)


def must_note_visit(session: Session, session_id: str, who: str, now: datetime, *, leaves: bool) -> bool:
    here = (SessionVisitRow.session_id == session_id, SessionVisitRow.who == who)
    seen_at = session.scalar(select(SessionVisitRow.seen_at).where(*here))
    return seen_at is None or leaves or now - seen_at >= _NOTED_EVERY


def _note(context: Context, actor: Actor, session_id: str, company: str) -> None:
    with context.database.write() as session:
        act = Act(context, session, actor, context.clock.now())
        row = session.get_one(SessionRow, session_id)
        note_visit(act, row, actor.person_id, actor.name, company)


def note_visit(act: Act, row: SessionRow, who: str, name: str, company: str, *, guest: bool = False) -> None:
    """First coming is an entry; when they were seen last is told with the closing."""
    visit = act.session.get(SessionVisitRow, (row.id, who))
    if visit is not None:
        visit.seen_at = max(visit.seen_at, act.at)
        return
    act.session.add(
        SessionVisitRow(
            session_id=row.id, who=who, guest=guest, name=name, company=company, came_at=act.at, seen_at=act.at
        )
    )
    act.session.flush()
    record(act, row, FactKind.SESSION_JOINED, {"name": name, "company": company}, others=_persons(who, guest=guest))
    tell(act, row)


def _persons(who: str, *, guest: bool) -> list[Subject]:
    return [] if guest else [Subject("person", who)]


@dataclass(frozen=True)
class Present:
    """Somebody in a session, as they were said to be last; `version` grows with each saying in the whole of Nod.

    `text` is the person as JSON: it goes out to each who listens.
    """

    person: Mapping[str, Any]
    text: str
    version: int
    at: float


@dataclass
class _Meeting:
    """Those in a session; who may hear of them was said with the last word of any of them."""

    project_id: str
    audience: Audience
    people: dict[str, Present] = field(default_factory=dict)
    version: int = 0


@dataclass
class Presence:
    """Of all sessions, in the live process. `hear` and `since` are called from many threads."""

    version: int = 0
    _meetings: dict[str, _Meeting] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def hear(self, said: Mapping[str, Any], now: float) -> None:
        """As `be_here` says it; `now` in seconds of a clock that only goes on."""
        who, audience = str(said["person"]["who"]), audience_from(said["audience"])
        with self._lock:
            self.version += 1
            meeting = self._meetings.setdefault(str(said["session"]), _Meeting(str(said["project"]), audience))
            meeting.audience, meeting.version = audience, self.version
            person = _with_call(said["person"], meeting.people.get(who))
            meeting.people[who] = Present(person, json.dumps(person), self.version, now)
            self._forget(now)

    def _forget(self, now: float) -> None:
        for key, meeting in list(self._meetings.items()):
            for who in [who for who, each in meeting.people.items() if now - each.at > 2 * GONE_SECONDS]:
                del meeting.people[who]
            if not meeting.people:
                del self._meetings[key]

    def since(self, version: int, eyes: Mapping[str, Eyes]) -> tuple[str, int]:
        """What was said after a version and is for these eyes, by session; as JSON, empty for nothing."""
        with self._lock:
            now = self.version
            newer = [(key, each, list(each.people.values())) for key, each in self._meetings.items()
                     if each.version > version]  # fmt: skip
        told = []
        for key, meeting, people in newer:
            sees = eyes.get(meeting.project_id)
            if sees is not None and is_seen(meeting.audience, sees):
                told.append(f"{json.dumps(key)}: [{', '.join(each.text for each in people if each.version > version)}]")
        return (f"{{{', '.join(told)}}}" if told else ""), now


def _with_call(person: Mapping[str, Any], before: Present | None) -> Mapping[str, Any]:
    """A call stays until the next, with the place that it was to: what is said after it must not take it away."""
    call = {key: person[key] for key in ("called_at", "revision", "page", "box")} if person["called_at"] else None
    if call is None and before is not None:
        call = before.person["call"]
    return {**{key: value for key, value in person.items() if key != "called_at"}, "call": call}
