"""What is told live: only that something changed, and only to those who may know.

What happened is read once for all who listen; what each of them may know is worked out once, and again when access has
changed (see `AccessEpochRow`).
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any, Protocol

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience, Eyes, is_seen
from nod.core.acts.refusals import NotFound
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, take_seat
from nod.store.journal import audience_from
from nod.store.tables import AccessEpochRow, LiveEventRow, MembershipRow, ProjectRow

MOST_AT_ONCE = 500
PLACE = "place"
"""The topic of a person's place in a project: that person hears of it, also when they have none any more."""


class Load(Protocol):
    """What an event brings along, so that nobody has to fetch it."""

    def seen_by(self, eyes: Eyes) -> str:
        """Members of a JSON object, as somebody may see them who hears of the event; empty where they must fetch."""


@dataclass(frozen=True)
class Event:
    """`topic` is what to fetch again, `subject_id` which one of it; `key` is its name outside."""

    seq: int
    key: str
    topic: str
    subject_id: str
    project_id: str
    by_person_id: str
    audience: Audience
    load: Load | None = None

    @cached_property
    def data(self) -> str:
        """As it goes out, the same to everybody."""
        said = {"topic": self.topic, "subject": self.subject_id, "project": self.project_id, "by": self.by_person_id}
        return json.dumps(said)

    def seen_by(self, eyes: Eyes) -> str:
        """With what it brings along, as JSON."""
        more = self.load.seen_by(eyes) if self.load else ""
        return f"{self.data[:-1]}, {more}}}" if more else self.data


Loader = Callable[[Mapping[str, Any]], Load]
"""What an event brings along, from how it is kept."""

_LOADERS: dict[str, Loader] = {}
LOAD_SECONDS = 10
"""How long after the act an event still brings it along: later somebody may not see any more what they saw then."""


def loader(topic: str) -> Callable[[Loader], Loader]:
    """Registers what the events of a topic bring along."""

    def register(load: Loader) -> Loader:
        _LOADERS[topic] = load
        return load

    return register


@dataclass(frozen=True)
class News:
    """Events in order, all up to the number `until`, and the epoch of access at that moment."""

    events: tuple[Event, ...]
    until: int
    epoch: int


@dataclass(frozen=True)
class Hearing:
    """What a listener may know, in an epoch of access: their eyes in each project that they have a part in."""

    eyes: Mapping[str, Eyes]
    epoch: int
    person_id: str = ""

    def of(self, events: Iterable[Event]) -> list[Event]:
        return [each for each in events if self.knows(each)]

    def told(self, events: Iterable[Event]) -> list[tuple[str, str]]:
        """The names of those that the person may know, and what goes out of each."""
        return [(each.key, each.seen_by(self.eyes.get(each.project_id, Eyes()))) for each in self.of(events)]

    def knows(self, event: Event) -> bool:
        if event.topic == PLACE:
            return event.subject_id == self.person_id != ""
        eyes = self.eyes.get(event.project_id)
        return eyes is not None and is_seen(event.audience, eyes)


def last_seq(context: Context) -> int:
    """The number of the newest event; 0 before the first."""
    with context.database.read() as session:
        return session.scalar(select(func.max(LiveEventRow.seq))) or 0


def seq_of(context: Context, key: str) -> int | None:
    """The number behind an event's name; None for one that has been forgotten: then all is to be fetched again."""
    with context.database.read() as session:
        return session.scalar(select(LiveEventRow.seq).where(LiveEventRow.key == key))


def key_of(context: Context, seq: int) -> str:
    """The name of an event by its number; empty for none."""
    with context.database.read() as session:
        return session.scalar(select(LiveEventRow.key).where(LiveEventRow.seq == seq)) or ""


def read_news(context: Context, after: int) -> News:
    """What happened after a number, for whomever; so much at once, and `until` says how far that reaches."""
    with context.database.read() as session:
        query = select(LiveEventRow).where(LiveEventRow.seq > after).order_by(LiveEventRow.seq).limit(MOST_AT_ONCE)
        rows = session.scalars(query).all()
        until = rows[-1].seq if rows else after
        fresh = context.clock.now() - timedelta(seconds=LOAD_SECONDS)
        return News(tuple(_event(row, fresh) for row in rows), until, epoch_of(session))


def _event(row: LiveEventRow, fresh: datetime) -> Event:
    load = _LOADERS[row.topic](row.load) if row.load and row.at >= fresh and row.topic in _LOADERS else None
    audience = audience_from(row.audience)
    return Event(row.seq, row.key, row.topic, row.subject_id, row.project_id, row.by_person_id, audience, load)


def epoch_of(session: Session) -> int:
    return session.scalar(select(AccessEpochRow.number)) or 0


def present_epoch(context: Context) -> int:
    with context.database.read() as session:
        return epoch_of(session)


def hearing_of(context: Context, actor: Actor) -> Hearing:
    """What the person may know now, in every project that they have a part in."""
    with context.database.read() as session:
        epoch = epoch_of(session)
        parts = select(MembershipRow.project_id).where(MembershipRow.person_id == actor.person_id)
        eyes: dict[str, Eyes] = {}
        for project_id in session.scalars(select(ProjectRow.id) if actor.steward else parts).all():
            try:
                eyes[project_id] = take_seat(session, actor, project_id).eyes
            except NotFound:
                continue
    # Through another's eyes one is told of neither's place.
    return Hearing(eyes, epoch, "" if actor.looker else actor.person_id)


def events_after(context: Context, actor: Actor, after: int) -> tuple[list[Event], int]:
    """Those the person may know, in order, and the number up to which all have been considered."""
    news = read_news(context, after)
    return hearing_of(context, actor).of(news.events), news.until
