"""What a service needs besides its command: the stores, the clock, the settings; and the frame of one act."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.clock import Clock
from nod.core.access import Level
from nod.core.calendar import Calendar, local_date
from nod.core.refusals import NotAllowed, NotFound, Stale
from nod.core.routing import ProjectClock
from nod.core.trail import Fact
from nod.settings import Settings
from nod.store import journal
from nod.store.blobs import Blobs
from nod.store.database import Database
from nod.store.journal import Witness
from nod.store.tables import CompanyRow, HolidayRow, MembershipRow, PersonRow, ProjectRow
from nod.store.tiles import Tiles


@dataclass(frozen=True)
class Context:
    """Opened once a process."""

    database: Database
    blobs: Blobs
    tiles: Tiles
    clock: Clock
    settings: Settings
    secret: bytes


def open_context(settings: Settings, clock: Clock | None = None) -> Context:
    """Opens the stores under the data directory, making what is not there yet."""
    root = settings.data_dir
    root.mkdir(parents=True, exist_ok=True)
    return Context(
        database=Database(settings.resolved_database_url),
        blobs=Blobs(root / "blobs"),
        tiles=Tiles(root / "tiles"),
        clock=clock or settings.clock,
        settings=settings,
        secret=_secret(settings),
    )


def _secret(settings: Settings) -> bytes:
    """The key that guest links are made with; made once, readable to the owner only."""
    path = settings.data_dir / "secret.key"
    if not path.is_file():
        path.touch(mode=0o600, exist_ok=True)
        path.write_bytes(secrets.token_bytes(32))
    return path.read_bytes()


@dataclass(frozen=True)
class Actor:
    """The person who acts, and from where."""

    person_id: str
    name: str
    company_id: str
    company_code: str
    came_from: str = "browser"

    def witness(self) -> Witness:
        return Witness(self.person_id, self.name, self.company_code, self.came_from)


NOBODY = Actor("", "Nod", "", "", "the worker")
SYSTEM = NOBODY.witness()


@dataclass(frozen=True)
class Seat:
    """A person's place in a project."""

    project: ProjectRow
    level: Level
    roles: tuple[str, ...]

    def need(self, level: Level) -> None:
        """Raises NotAllowed below `level`."""
        if self.level < level:
            raise NotAllowed("level_too_low", f"This needs the access level {level.name.lower()}.", self.project.name)


@dataclass(frozen=True)
class Act:
    """One write transaction by one person at one instant."""

    context: Context
    session: Session
    actor: Actor
    at: datetime

    def enter(self, project_id: str, level: Level) -> Seat:
        seat = take_seat(self.session, self.actor, project_id)
        seat.need(level)
        return seat

    def record(self, project_id: str, fact: Fact) -> None:
        journal.record(self.session, self.at, self.actor.witness(), project_id, fact)

    def tell(self, project_id: str, topic: str, subject_id: str, only: str = "") -> None:
        journal.tell(self.session, self.at, project_id, topic, subject_id, by=self.actor.person_id, only=only)

    def ask(self, kind: str, key: str, payload: dict[str, Any]) -> None:
        journal.ask(self.session, self.at, kind, key, payload)


@contextmanager
def acting(context: Context, actor: Actor) -> Iterator[Act]:
    """Everything inside is committed together, or nothing."""
    with context.database.write() as session:
        yield Act(context, session, actor, context.clock.now())


def take_seat(session: Session, actor: Actor, project_id: str) -> Seat:
    """Raises NotFound for a project that is not there or whose member the person is not."""
    row = session.get(MembershipRow, (project_id, actor.person_id))
    if row is None or row.level <= Level.NONE:
        raise NotFound(project_id)
    return Seat(session.get_one(ProjectRow, project_id), Level(row.level), tuple(row.roles))


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


def actor_of(session: Session, person_id: str, came_from: str = "browser") -> Actor:
    """Raises NotFound for nobody."""
    person = session.get(PersonRow, person_id)
    if person is None:
        raise NotFound(person_id)
    company = session.get_one(CompanyRow, person.company_id)
    return Actor(person.id, person.name, company.id, company.code, came_from)
