"""The demo's past, lived through the services on a clock that is set forward day by day."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

from sqlalchemy import select

from nod.clock import SetClock
from nod.core.acts.working_days import Calendar
from nod.demo import (
    circulating,
    commented,
    held,
    letters,
    lists,
    marked,
    meetings,
    other_files,
    outside,
    papers,
    released,
    scenario,
    submittals,
)
from nod.demo.people import set_up
from nod.demo.story import EVENTS, Stage
from nod.services.acts.context import Context
from nod.services.acts.work import Lane
from nod.services.press.press import Press
from nod.services.trail.seals import make_seal
from nod.standins.post_room import open_post_room
from nod.store.tables import ProjectRow
from nod.worker import drain, handlers_with

_HANDS = 2
CHAPTERS = (
    circulating,
    commented,
    held,
    letters,
    lists,
    marked,
    meetings,
    other_files,
    outside,
    papers,
    released,
    submittals,
)
"""Beside the story itself; to import a chapter is to plan its events."""


class HalfBuilt(Exception):
    """The making of the demo was broken off, or the data directory holds other projects."""


def is_built(context: Context) -> bool:
    """Raises HalfBuilt for data that are not a whole demo."""
    if _mark(context).is_file():
        return True
    with context.database.read() as session:
        if session.scalars(select(ProjectRow.id)).first() is not None:
            raise HalfBuilt(f"{context.settings.data_dir} holds no whole demo. Start anew with: make demo-reset")
    return False


def _mark(context: Context) -> Path:
    return context.settings.data_dir / "demo-is-whole"


def build_demo(context: Context) -> None:
    """Makes everything; the last act lies shortly before the context's present."""
    present = context.clock.now()
    clock = SetClock(present)
    mail_port = context.settings.resolved_smtp_port
    room = open_post_room(context.settings.mail_dir, clock, context.settings.smtp_host, mail_port)
    press = Press(_HANDS, context.settings.page_timeout_seconds)
    acting_context = replace(context, clock=clock)
    by_kind = handlers_with(acting_context, press)

    def settle() -> None:
        """Files are looked at by as many hands as the press has; the rest goes in its order."""
        with ThreadPoolExecutor(_HANDS) as hands:
            looks = [
                hands.submit(drain, acting_context, by_kind, f"demo {hand}", Lane.LOOK, Lane.SCAN)
                for hand in range(_HANDS)
            ]
            for look in looks:
                look.result()
        while drain(acting_context, by_kind, "demo", Lane.SEND, Lane.REST):
            pass

    try:
        with tempfile.TemporaryDirectory() as aside:
            _live(acting_context, clock, present, Path(aside), settle)
        make_seal(acting_context)
        _mark(context).touch()
    finally:
        room.stop()
        press.close()


def _live(context: Context, clock: SetClock, present: datetime, aside: Path, settle: Callable[[], None]) -> None:
    zone = ZoneInfo(scenario.TIME_ZONE)
    today = present.astimezone(zone).date()
    holidays = ((_working_day(today, -8), "Harbour day"), (today + timedelta(days=23), "Spring holiday"))
    calendar = Calendar(holidays=frozenset(on for on, _ in holidays))

    def instant(days: int, hour: int, minute: int) -> datetime:
        """`days` working days from today (0 or before); never past the present."""
        day = _working_day(today, days, calendar)
        return min(
            datetime.combine(day, time(hour, minute), tzinfo=zone).astimezone(UTC), present - timedelta(minutes=5)
        )

    clock.set(instant(-16, 9, 0))
    stage = Stage(context, set_up(context, holidays), aside, settle, today)
    for (days, hour, minute), event in sorted(EVENTS, key=lambda each: each[0]):
        clock.set(instant(days, hour, minute))
        event(stage)
        settle()


def _working_day(today: date, days: int, calendar: Calendar | None = None) -> date:
    """The working day `-days` before today; today itself for 0."""
    calendar = calendar or Calendar()
    day, left = today, -days
    while left:
        day -= timedelta(days=1)
        left -= calendar.is_working(day)
    return day
