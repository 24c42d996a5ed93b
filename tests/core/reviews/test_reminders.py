"""When somebody is reminded, against numpy's busday on 30 random calendars, and by the handbook's words."""

from datetime import date, timedelta
from random import Random

import numpy
import pytest

from nod.core.acts.working_days import Calendar, Counting
from nod.core.reviews.reminders import Due, Remind, due_today, words

DUE = date(2027, 3, 12)


@pytest.mark.parametrize("seed", range(30))
def test_reminders_are_on_the_working_days_that_numpy_counts(seed):
    random = Random(seed)  # noqa: S311 - any calendars will do
    weekdays = sorted(random.sample(range(7), random.randint(1, 6)))
    off = [DUE + timedelta(days=random.randint(-40, 60)) for _ in range(random.randint(0, 12))]
    calendar = Calendar(frozenset(weekdays), frozenset(off))
    mask = [day in weekdays for day in range(7)]
    busy = numpy.busdaycalendar(mask, off)
    due_on = numpy.busday_offset(DUE, 0, roll="forward", busdaycal=busy).astype(date)
    remind = Remind(random.randint(0, 5), random.randint(0, 4), random.randint(0, 6))
    for offset in range(-30, 50):
        today = due_on + timedelta(days=offset)
        expected = None
        if numpy.is_busday(today, busdaycal=busy):
            # busday_count counts [begin, end); of (begin, end] between working days it is the same number.
            count = int(numpy.busday_count(min(today, due_on), max(today, due_on), busdaycal=busy))
            if today == due_on:
                expected = Due()
            elif today < due_on:
                expected = Due(left=count) if remind.before == count else None
            else:
                lead = bool(remind.lead_after) and count >= remind.lead_after
                again = bool(remind.every) and count % remind.every == 0
                expected = Due(late=count, lead=lead) if lead or again else None
        assert due_today(remind, due_on, today, Counting.WORKING, calendar) == expected


def test_calendar_days_count_every_day():
    assert due_today(Remind(), DUE, DUE - timedelta(days=1), Counting.CALENDAR, Calendar()) == Due(left=1)
    sunday = date(2027, 3, 14)
    assert due_today(Remind(), DUE, sunday, Counting.CALENDAR, Calendar()) == Due(late=2)
    assert due_today(Remind(), DUE, sunday, Counting.WORKING, Calendar()) is None
    assert due_today(Remind(0, 0, 0), DUE, sunday, Counting.CALENDAR, Calendar()) is None


@pytest.mark.parametrize(
    ("due", "said"),
    [
        (Due(), "due today"),
        (Due(left=1), "due on the next day"),
        (Due(left=3), "due in 3 days"),
        (Due(late=1), "1 day late"),
        (Due(late=4), "4 days late"),
    ],
)
def test_it_is_said_in_words(due, said):
    assert words(due) == said
