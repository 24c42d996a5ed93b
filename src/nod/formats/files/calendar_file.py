"""A calendar file that any calendar takes (RFC 5545), by the package icalendar."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from icalendar import Calendar, Event

MEDIA_TYPE = "text/calendar; charset=utf-8"


@dataclass(frozen=True)
class Meeting:
    """`uid` stays the same for as long as it is the same meeting; a later `sequence` replaces an earlier one."""

    uid: str
    sequence: int
    name: str
    words: str
    address: str
    begins_at: datetime
    ends_at: datetime
    stamped_at: datetime
    cancelled: bool = False


def write_meeting(meeting: Meeting) -> bytes:
    """With its times in UTC, which every calendar shows in its own zone (RFC 5545, 3.3.5, form 2)."""
    calendar = Calendar()
    calendar.add("prodid", "-//Nod//Sessions//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "CANCEL" if meeting.cancelled else "PUBLISH")
    event = Event()
    event.add("uid", meeting.uid)
    event.add("sequence", meeting.sequence)
    event.add("dtstamp", meeting.stamped_at)
    event.add("dtstart", meeting.begins_at)
    event.add("dtend", meeting.ends_at)
    event.add("summary", meeting.name)
    event.add("description", meeting.words)
    event.add("url", meeting.address)
    event.add("status", "CANCELLED" if meeting.cancelled else "CONFIRMED")
    calendar.add_component(event)
    return bytes(calendar.to_ical())


@dataclass(frozen=True)
class DayEvent:
    """Something on a whole day. `uid` and `sequence` as of a meeting."""

    uid: str
    sequence: int
    on: date
    name: str
    words: str
    address: str


def write_days(name: str, events: Iterable[DayEvent], stamped_at: datetime) -> bytes:
    """A calendar that is read again and again; what is in it no more is gone (RFC 5545; RFC 7986 for its name)."""
    calendar = Calendar()
    calendar.add("prodid", "-//Nod//Submittals//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("name", name)
    calendar.add("x-wr-calname", name)
    calendar.add("refresh-interval", timedelta(hours=1), parameters={"VALUE": "DURATION"})
    for each in events:
        event = Event()
        event.add("uid", each.uid)
        event.add("sequence", each.sequence)
        event.add("dtstamp", stamped_at)
        event.add("dtstart", each.on)
        event.add("dtend", each.on + timedelta(days=1))
        event.add("summary", each.name)
        event.add("description", each.words)
        event.add("url", each.address)
        # It takes nobody's time: the day is a limit, no meeting.
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
