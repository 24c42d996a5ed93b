"""The outbox: what has to be done after an act, taken under a lease, done at least once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, delete, func, or_, select, update
from sqlalchemy.orm import Session

from nod.services.acts.context import Context
from nod.store.dialects.sqlite import later_of
from nod.store.tables import LiveEventRow, OutboxRow

MOST_TRIES = 8
MOST_LAPSES = 6
_FIRST_WAIT = timedelta(seconds=2)
_MOST_PASSED = 10
"""So many that were left are put off or given up at once, on the way to one that can be begun."""
_LIVE_EVENTS_KEPT = timedelta(days=2)
_LOADS_KEPT = timedelta(minutes=1)

Handler = Callable[["Task"], None]


@dataclass(frozen=True)
class Task:
    """One row, taken."""

    seq: int
    kind: str
    key: str
    payload: dict[str, Any]
    tries: int


def take(context: Context, worker: str, kinds: tuple[str, ...]) -> Task | None:
    """Lease the oldest open row of these kinds, also one whose lease has run out; None if there is none.

    A try is counted here. A row that was left by those who had it, dead or hung, time and again, is given up.
    """
    now = context.clock.now()
    with context.database.write() as session:
        query = select(OutboxRow).where(*_ready(kinds, now)).order_by(OutboxRow.seq)
        for row in session.scalars(query.limit(_MOST_PASSED)):
            if row.leased_until is not None:
                row.lapses += 1
                if row.lapses >= MOST_LAPSES:
                    _give_up(row, now, f"It was begun {row.lapses} times and never came to an end.")
                    continue
                if row.lapses > 1:
                    # Once is an accident. What comes after it in the queue is not to wait for it again and again.
                    row.leased_until, row.not_before = None, now + _FIRST_WAIT * 2 ** (row.lapses - 2)
                    continue
            row.leased_by = worker
            row.leased_until = now + timedelta(seconds=context.settings.lease_seconds)
            row.tries += 1
            return Task(row.seq, row.kind, row.key, dict(row.payload), row.tries)
    return None


def _give_up(row: OutboxRow, now: datetime, trouble: str) -> None:
    row.gave_up_at, row.leased_until, row.trouble = now, None, trouble


def free_leases(context: Context, alive: Callable[[str], bool]) -> None:
    """What dead processes had is free at once. `alive` is asked with the name by which a task was taken."""
    now = context.clock.now()
    with context.database.write() as session:
        leased = (OutboxRow.leased_until > now, OutboxRow.done_at.is_(None), OutboxRow.gave_up_at.is_(None))
        for row in session.scalars(select(OutboxRow).where(*leased)):
            if not alive(row.leased_by):
                row.leased_until = now - timedelta(microseconds=1)


def waiting(context: Context, kinds: tuple[str, ...]) -> bool:
    """Whether `take` could find something; asked first, and often, as reading does not queue up behind writers."""
    database = context.database
    with database.read() as session:
        ready_at = database.remember(session, ("outbox", kinds), lambda: _next_ready(session, kinds))
    return ready_at is not None and ready_at <= context.clock.now()


def _next_ready(session: Session, kinds: tuple[str, ...]) -> datetime | None:
    at = later_of(OutboxRow.not_before, func.coalesce(OutboxRow.leased_until, OutboxRow.not_before))
    ready_at: datetime | None = session.scalar(select(func.min(at)).where(*_open(kinds)))
    return ready_at


def _open(kinds: tuple[str, ...]) -> tuple[ColumnElement[bool], ...]:
    return OutboxRow.kind.in_(kinds), OutboxRow.done_at.is_(None), OutboxRow.gave_up_at.is_(None)


def _ready(kinds: tuple[str, ...], now: datetime) -> tuple[ColumnElement[bool], ...]:
    return (
        *_open(kinds),
        OutboxRow.not_before <= now,
        or_(OutboxRow.leased_until.is_(None), OutboxRow.leased_until < now),
    )


def keep_on(context: Context, key: str) -> None:
    """Renew the lease of a task that takes long and is getting on."""
    with context.database.write() as session:
        row = session.scalars(select(OutboxRow).where(OutboxRow.key == key)).one_or_none()
        if row is not None and row.leased_until is not None and row.gave_up_at is None:
            row.leased_until = context.clock.now() + timedelta(seconds=context.settings.lease_seconds)


def finish(context: Context, task: Task) -> None:
    with context.database.write() as session:
        row = session.get_one(OutboxRow, task.seq)
        row.done_at, row.leased_until, row.trouble = context.clock.now(), None, ""


def put_off(context: Context, task: Task, trouble: str) -> None:
    """Try again later, waiting twice as long each time; after `MOST_TRIES` it stays and is shown as given up."""
    now = context.clock.now()
    with context.database.write() as session:
        row = session.get_one(OutboxRow, task.seq)
        row.leased_until, row.trouble, row.lapses = None, trouble[:500], 0
        row.not_before = now + _FIRST_WAIT * 2 ** (task.tries - 1)
        if task.tries >= MOST_TRIES:
            _give_up(row, now, row.trouble)


def do_one(context: Context, task: Task, by_kind: dict[str, Handler]) -> str:
    """Do a task; returns the trouble, empty for none. Any failure of a handler is a reason to try again."""
    try:
        by_kind[task.kind](task)
    except Exception as error:  # noqa: BLE001 - whatever went wrong, the row stays and is tried again
        trouble = f"{type(error).__name__}: {error}"
        put_off(context, task, trouble)
        return trouble
    finish(context, task)
    return ""


def counts(context: Context) -> dict[str, int]:
    """How many rows are open and given up, for /healthz; what was asked for at a later time is neither yet."""
    later = (OutboxRow.tries == 0) & (OutboxRow.not_before > context.clock.now())
    with context.database.read() as session:
        still_open = select(func.count()).where(OutboxRow.done_at.is_(None), OutboxRow.gave_up_at.is_(None), ~later)
        given_up = select(func.count()).where(OutboxRow.gave_up_at.is_not(None))
        return {"open": session.scalar(still_open) or 0, "given_up": session.scalar(given_up) or 0}


def forget_old_events(context: Context) -> None:
    """Live events are kept for reconnecting clients only, and what they bring along for those who listen now."""
    now = context.clock.now()
    heard = LiveEventRow.at < now - _LOADS_KEPT
    with context.database.write() as session:
        session.execute(update(LiveEventRow).where(heard, LiveEventRow.load.is_not(None)).values(load=None))
        session.execute(delete(LiveEventRow).where(LiveEventRow.at < now - _LIVE_EVENTS_KEPT))
