"""Notices of the contract: a day by which one must be served, counted from when one became aware (handbook §11)."""

from __future__ import annotations

from datetime import date, timedelta
from enum import StrEnum

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Calendar, Counting, due_on


class BarIn(StrEnum):
    """What a time bar is counted in."""

    DAYS = "days"
    WORKING = "working days"
    WEEKS = "weeks"


class ServedHow(StrEnum):
    """How a notice was served."""

    NOD = "through Nod"
    HAND = "by hand"
    POST = "by post"
    COURIER = "by courier"
    MAIL = "by e-mail outside Nod"


def bar_on(aware_on: date, count: int, unit: BarIn, calendar: Calendar) -> date:
    """The last day in time: aware on 9 Mar 2027, 28 days are 6 Apr, 8 weeks 4 May."""
    if unit is BarIn.WEEKS:
        return aware_on + timedelta(weeks=count)
    return due_on(aware_on, count, Counting.WORKING if unit is BarIn.WORKING else Counting.CALENDAR, calendar)


def days_to_spare(bar: date, served_on: date) -> int:
    """Calendar days from when it was served to the time bar; below 0 it was too late."""
    return (bar - served_on).days


def check_aware(aware_on: date | None, today: date) -> date:
    """Raises RuleBroken for a notice without the day from which its time bar counts, or with one that is to come."""
    if aware_on is None:
        raise RuleBroken("aware_missing", "Say on which day you became aware of it: the time bar counts from there.")
    if aware_on > today:
        raise RuleBroken("aware_to_come", f"{aware_on:%-d %B %Y} is still to come: nobody is aware of it yet.")
    return aware_on


def check_served(how: str, on: date | None, aware_on: date, today: date) -> tuple[ServedHow, date]:
    """Through Nod today, where nothing else is said. Raises RuleBroken for a day before one was aware, or to come."""
    day = on or today
    if how and how not in [each.value for each in ServedHow]:
        raise RuleBroken("served_how_unknown", "Say how it was served.", how)
    if not aware_on <= day <= today:
        raise RuleBroken("served_day_unfit", "It was served after you became aware of it, and not later than today.")
    return ServedHow(how) if how else ServedHow.NOD, day
