"""Who is in a session, and where they look (handbook §7): kept nowhere but for first coming and last leaving."""

from __future__ import annotations

import json
import threading
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Annotated, Any

from pydantic import Field, Strict
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience, Eyes, is_seen
from nod.core.sessions.sessions import Deed
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Command, people_by_id
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import Actor
from nod.services.sessions.kind import SESSION
from nod.services.sessions.marking import need_sheet
from nod.services.sessions.session_rows import enter, record, tell
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
        entered = enter(session, actor, session_id)
        entered.check(Deed.LOOK)
        if command.calls:
            entered.check(Deed.CLOSE)
        if not command.leaves:
            need_sheet(session, session_id, command.revision_id)
        who = people_by_id(session, {actor.person_id})[actor.person_id]
        must_note = must_note_visit(session, session_id, actor.person_id, context.clock.now(), leaves=command.leaves)
        said = {"who": who.id, "name": who.name, "company": who.company, "guest": False}
        say_where(context, session, entered.row, said, command)
    if must_note:
        _note(context, actor, session_id, who.company)


def say_where(context: Context, session: Session, row: SessionRow, who: dict[str, Any], command: Here) -> None:
    """To the live process, with those who may hear it."""
    audience = audience_of(session, SESSION.audience, row.id)
    called_at = context.clock.now().isoformat() if command.calls else ""
    person = {
        **who, "revision": command.revision_id, "page": command.page, "box": command.box, "left": command.leaves,
        "called_at": called_at,
    }  # fmt: skip
    said = {"session": row.id, "project": row.project_id, "audience": audience_kept(audience), "person": person}
    context.knocker.say(said)


def must_note_visit(session: Session, session_id: str, who: str, now: datetime, *, leaves: bool) -> bool:
    visit = session.get(SessionVisitRow, (session_id, who))
    return visit is None or leaves or now - visit.seen_at >= _NOTED_EVERY


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
    """Somebody in a session, as they were said to be last; `version` grows with each saying in the whole of Nod."""

    session_id: str
    project_id: str
    audience: Audience
    person: Mapping[str, Any]
    version: int
    at: float


@dataclass
class Presence:
    """Of all sessions, in the live process. `hear` and `since` are called from many threads."""

    version: int = 0
    _present: dict[tuple[str, str], Present] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def hear(self, said: Mapping[str, Any], now: float) -> None:
        """As `be_here` says it; `now` in seconds of a clock that only goes on."""
        with self._lock:
            self.version += 1
            who = str(said["person"]["who"])
            key = (str(said["session"]), who)
            person = _with_call(said["person"], self._present.get(key))
            self._present[key] = Present(
                key[0], said["project"], audience_from(said["audience"]), person, self.version, now
            )
            for key in [key for key, each in self._present.items() if now - each.at > 2 * GONE_SECONDS]:
                del self._present[key]

    def since(self, version: int, eyes: Mapping[str, Eyes]) -> tuple[str, int]:
        """What was said after a version and is for these eyes, by project; as JSON, empty for nothing."""
        with self._lock:
            now = self.version
            newer = [each for each in self._present.values() if each.version > version]
        told: dict[str, list[Mapping[str, Any]]] = {}
        for each in newer:
            sees = eyes.get(each.project_id)
            if sees is not None and is_seen(each.audience, sees):
                told.setdefault(each.session_id, []).append(each.person)
        return (json.dumps(told) if told else ""), now


def _with_call(person: Mapping[str, Any], before: Present | None) -> Mapping[str, Any]:
    """A call stays until the next, with the place that it was to: what is said after it must not take it away."""
    call = {key: person[key] for key in ("called_at", "revision", "page", "box")} if person["called_at"] else None
    if call is None and before is not None:
        call = before.person["call"]
    return {**{key: value for key, value in person.items() if key != "called_at"}, "call": call}
