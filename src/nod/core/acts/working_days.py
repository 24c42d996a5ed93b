"""Working days, due times and lateness (handbook §8, clock)."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

_LOOK_AHEAD_DAYS = 3700


class Counting(StrEnum):
    """How the days of a step are counted."""

    CALENDAR = "calendar"
    WORKING = "working"


class NoWorkingDays(ValueError):
    """The calendar has no working day within ten years."""


@dataclass(frozen=True)
class Calendar:
    """Which days are worked. `working_weekdays`: 0 is Monday."""

    working_weekdays: frozenset[int] = frozenset({0, 1, 2, 3, 4})
    holidays: frozenset[date] = frozenset()

    def is_working(self, day: date) -> bool:
        return day.weekday() in self.working_weekdays and day not in self.holidays

    def add_working_days(self, day: date, count: int) -> date:
        """The `count`-th working day after `day`; `count` >= 0, and 0 is `day` or the next working day."""
        current, left = day, count
        if count == 0 and self.is_working(day):
            return day
        left = max(left, 1)
        for _ in range(_LOOK_AHEAD_DAYS):
            current += timedelta(days=1)
            left -= self.is_working(current)
            if left == 0:
                return current
        raise NoWorkingDays(f"no {count} working days within ten years of {day}")

    def working_days_after(self, start: date, end: date) -> int:
        """How many working days lie in (start, end]; 0 if end <= start."""
        span = (end - start).days
        return sum(self.is_working(start + timedelta(days=step)) for step in range(1, span + 1))


@dataclass(frozen=True)
class ProjectClock:
    """A project's calendar and zone."""

    calendar: Calendar
    zone: ZoneInfo


def due_on(began_on: date, days: int, counting: Counting, calendar: Calendar) -> date:
    """The last day on which a step that began on `began_on` is in time; `days` >= 0."""
    if counting is Counting.CALENDAR:
        return began_on + timedelta(days=days)
    return calendar.add_working_days(began_on, days)


def local_date(instant: datetime, zone: ZoneInfo) -> date:
    """The calendar day of an instant in the project's zone."""
    return instant.astimezone(zone).date()


def end_of_day(day: date, zone: ZoneInfo) -> datetime:
    """The instant (UTC) at which `day` is over in `zone`: the first moment that is late."""
    return datetime.combine(day + timedelta(days=1), time(), tzinfo=zone).astimezone(UTC)


def days_late(due: date, today: date, counting: Counting, calendar: Calendar) -> int:
    """How many days past `due`, counted as the step counts them; 0 while in time."""
    if today <= due:
        return 0
    if counting is Counting.CALENDAR:
        return (today - due).days
    return calendar.working_days_after(due, today)
