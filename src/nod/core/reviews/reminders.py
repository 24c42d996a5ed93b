"""When whoever has a step is reminded, and when a lead is told that it is late (handbook §8, clock of a step)."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from nod.core.acts.working_days import Calendar, Counting, days_late

MOST_DAYS = 30


@dataclass(frozen=True)
class Remind:
    """So many days before the due day; every so many days after it; after how many days late a lead is told. 0: never.

    On the due day itself they are always reminded. Days are counted as the step's own.
    """

    before: int = 1
    every: int = 2
    lead_after: int = 3


@dataclass(frozen=True)
class Due:
    """What is to be said on a day: `left` days before (0: today), or `late` days after; and whether to a lead too."""

    left: int = 0
    late: int = 0
    lead: bool = False


def due_today(remind: Remind, due_on: date, today: date, counting: Counting, calendar: Calendar) -> Due | None:
    """None where nobody is told anything today; never on a day that the step does not count."""
    if counting is Counting.WORKING and not calendar.is_working(today):
        return None
    if today < due_on:
        left = days_between(today, due_on, counting, calendar)
        return Due(left=left) if remind.before and left == remind.before else None
    late = days_late(due_on, today, counting, calendar)
    if late == 0:
        return Due()
    lead = bool(remind.lead_after) and late >= remind.lead_after
    again = bool(remind.every) and late % remind.every == 0
    return Due(late=late, lead=lead) if again or lead else None


def days_between(start: date, end: date, counting: Counting, calendar: Calendar) -> int:
    if counting is Counting.CALENDAR:
        return (end - start).days
    return calendar.working_days_after(start, end)


def words(due: Due) -> str:
    """`due tomorrow`, `due today`, `3 days late`."""
    if due.late:
        return f"{due.late} day{'' if due.late == 1 else 's'} late"
    if due.left:
        return "due on the next day" if due.left == 1 else f"due in {due.left} days"
    return "due today"
