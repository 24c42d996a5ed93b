"""What a service needs besides its command: the stores, the clock, the settings; and the frame of one act."""

from __future__ import annotations

import os
import secrets
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import structlog
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.clock import Clock
from nod.core.access.audiences import Audience, only_for
from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, Stale
from nod.core.acts.working_days import Calendar, ProjectClock, local_date
from nod.core.trail.entries import Fact
from nod.services.acts.bell import Knocker
from nod.services.acts.once import take_key
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.settings import Settings
from nod.store import journal
from nod.store.blobs import Blobs
from nod.store.database import Database
from nod.store.tables import HolidayRow, ProjectRow
from nod.store.tiles import Tiles

log = structlog.get_logger()


@dataclass(frozen=True)
class Context:
    """Opened once a process."""

    database: Database
    blobs: Blobs
    tiles: Tiles
    clock: Clock
    settings: Settings
    secret: bytes
    knocker: Knocker


def open_context(settings: Settings, clock: Clock | None = None) -> Context:
    """Opens the stores under the data directory, making what is not there yet."""
    root = settings.data_dir
    root.mkdir(parents=True, exist_ok=True)
    database = Database(settings.resolved_database_url)
    secret = read_key(root / "secret.key")
    database.on_told = knocker = Knocker(settings.resolved_live_port, secret)
    return Context(
        database=database,
        blobs=Blobs(root / "blobs"),
        tiles=Tiles(root / "tiles"),
        clock=clock or settings.clock,
        settings=settings,
        secret=secret,
        knocker=knocker,
    )


KEY_BYTES = 32


def read_key(path: Path) -> bytes:
    """A secret of 32 bytes, made once, readable to the owner only; whole or not there, whenever Nod is stopped.

    A file that is shorter is none, left by a crash: what is signed with nothing, anybody could sign.
    """
    found = path.read_bytes() if path.is_file() else b""
    if len(found) >= KEY_BYTES:
        return found
    if path.is_file():
        log.warning("a key was broken and is made anew; links made with it before work no more", file=path.name)
    descriptor, name = tempfile.mkstemp(dir=path.parent)
    with os.fdopen(descriptor, "wb") as file:
        file.write(secrets.token_bytes(KEY_BYTES))
        file.flush()
        os.fsync(file.fileno())
    os.replace(name, path)
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
    return path.read_bytes()


@dataclass(frozen=True)
class Act:
    """One write transaction by one person at one instant."""

    context: Context
    session: Session
    actor: Actor
    at: datetime

    def enter(self, project_id: str, level: Level = Level.NONE, tool: str = "") -> Seat:
        """Raises NotFound without a part in the project; NotAllowed below the level or without the tool."""
        seat = take_seat(self.session, self.actor, project_id)
        if tool:
            seat.need_tool(tool)
        seat.need(level)
        return seat

    def record(self, project_id: str, fact: Fact) -> None:
        journal.record(self.session, self.at, self.actor.witness(), project_id, fact)

    def tell(
        self,
        project_id: str,
        topic: str,
        subject_id: str,
        folders: Iterable[str] = (),
        *,
        only: str = "",
        load: dict[str, Any] | None = None,
    ) -> None:
        """Tells those who see all `folders`, or one person alone, that something has changed."""
        audience = only_for(only) if only else Audience(frozenset(folders))
        self.tell_audience(project_id, topic, subject_id, audience, load)

    def tell_audience(
        self, project_id: str, topic: str, subject_id: str, audience: Audience, load: dict[str, Any] | None = None
    ) -> None:
        by = self.actor.person_id
        journal.tell(self.session, self.at, project_id, topic, subject_id, audience, by=by, load=load)

    def ask(self, kind: str, key: str, payload: dict[str, Any], not_before: datetime | None = None) -> None:
        journal.ask(self.session, self.at, kind, key, payload, not_before)


@contextmanager
def acting(context: Context, actor: Actor) -> Iterator[Act]:
    """Everything inside is committed together, or nothing. Raises NotAllowed through another's eyes."""
    if actor.looker:
        raise NotAllowed("seeing_as", f"You see as {actor.name}. Nothing can be changed or taken away like this.")
    with context.database.write() as session:
        now = context.clock.now()
        if actor.once and not actor.once.taken:
            take_key(session, actor.person_id, actor.once, now)
        yield Act(context, session, actor, now)


def check_version(seen: int, now: int, about: str) -> None:
    """Raises Stale unless the version seen is the present one."""
    if seen != now:
        raise Stale(about)


def project_clock(session: Session, project: ProjectRow) -> ProjectClock:
    days = session.scalars(select(HolidayRow.on).where(HolidayRow.project_id == project.id))
    weekdays = frozenset(project.rules["working_weekdays"])
    return ProjectClock(Calendar(weekdays, frozenset(days)), ZoneInfo(project.time_zone))


def today_in(project: ProjectRow, now: datetime) -> date:
    return local_date(now, ZoneInfo(project.time_zone))
