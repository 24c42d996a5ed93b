"""Working days against numpy's busday functions, and the ends of days against the zone's own rules."""

import json
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts import working_days as clock
from nod.core.acts.working_days import Calendar, Counting, NoWorkingDays

LONDON = ZoneInfo("Europe/London")
days = st.dates(date(2026, 1, 1), date(2029, 12, 31))
weekmasks = st.sets(st.integers(0, 6), min_size=1).map(frozenset)
holiday_sets = st.sets(days, max_size=40).map(frozenset)


def _numpy_calendar(calendar):
    mask = [day in calendar.working_weekdays for day in range(7)]
    return np.busdaycalendar(weekmask=mask, holidays=sorted(calendar.holidays))


@given(days, st.integers(1, 60), weekmasks, holiday_sets)
def test_adding_working_days_agrees_with_numpy(day, count, weekdays, holidays):
    calendar = Calendar(weekdays, holidays)
    expected = np.busday_offset(day, count, roll="backward", busdaycal=_numpy_calendar(calendar))
    assert calendar.add_working_days(day, count) == expected.astype(date)


@given(days, st.integers(0, 400), weekmasks, holiday_sets)
def test_counting_working_days_agrees_with_numpy(start, span, weekdays, holidays):
    calendar, end = Calendar(weekdays, holidays), start + timedelta(days=span)
    one = timedelta(days=1)
    expected = np.busday_count(start + one, end + one, busdaycal=_numpy_calendar(calendar))
    assert calendar.working_days_after(start, end) == expected


CASES = json.loads((Path(__file__).parents[3] / "frontend/src/domain/workingDays.cases.json").read_text())


@pytest.mark.parametrize(("start", "count", "end"), CASES["steps"])
def test_the_table_that_the_front_end_counts_by_too(start, count, end):
    holidays = frozenset(map(date.fromisoformat, CASES["holidays"]))
    calendar = Calendar(frozenset(CASES["weekdays"]), holidays)
    assert calendar.add_working_days(date.fromisoformat(start), count) == date.fromisoformat(end)


def test_a_step_of_three_working_days_skips_weekend_and_holiday():
    calendar = Calendar(holidays=frozenset({date(2027, 3, 29)}))
    assert clock.due_on(date(2027, 3, 25), 3, Counting.WORKING, calendar) == date(2027, 3, 31)
    assert clock.due_on(date(2027, 3, 25), 3, Counting.CALENDAR, calendar) == date(2027, 3, 28)


def test_a_step_that_begins_on_a_weekend_counts_from_the_next_working_day():
    assert clock.due_on(date(2027, 3, 6), 1, Counting.WORKING, Calendar()) == date(2027, 3, 8)


def test_no_days_at_all_are_due_on_the_day_or_the_next_one_worked():
    assert clock.due_on(date(2027, 3, 9), 0, Counting.WORKING, Calendar()) == date(2027, 3, 9)
    assert clock.due_on(date(2027, 3, 7), 0, Counting.WORKING, Calendar()) == date(2027, 3, 8)


def test_a_calendar_without_work_says_so():
    with pytest.raises(NoWorkingDays):
        Calendar(frozenset()).add_working_days(date(2027, 3, 9), 1)


@pytest.mark.parametrize(
    ("day", "over_at"),
    [
        # Summer time begins in London at 01:00 UTC on 28 March 2027 and ends on 31 October (EU rule, from memory).
        (date(2027, 3, 27), datetime(2027, 3, 28, 0, tzinfo=UTC)),
        (date(2027, 3, 28), datetime(2027, 3, 28, 23, tzinfo=UTC)),
        (date(2027, 10, 31), datetime(2027, 11, 1, 0, tzinfo=UTC)),
    ],
)
def test_a_day_is_over_at_local_midnight(day, over_at):
    assert clock.end_of_day(day, LONDON) == over_at


@pytest.mark.parametrize(
    ("today", "counting", "late"),
    [
        (date(2027, 3, 5), Counting.WORKING, 0),
        (date(2027, 3, 7), Counting.WORKING, 0),
        (date(2027, 3, 8), Counting.WORKING, 1),
        (date(2027, 3, 9), Counting.WORKING, 2),
        (date(2027, 3, 7), Counting.CALENDAR, 2),
        (date(2027, 3, 1), Counting.CALENDAR, 0),
    ],
)
def test_lateness_is_counted_as_the_step_counts(today, counting, late):
    friday = date(2027, 3, 5)
    assert clock.days_late(friday, today, counting, Calendar()) == late


@given(days, st.integers(0, 30), st.sampled_from(Counting), weekmasks, holiday_sets)
def test_nothing_is_late_on_the_day_it_is_due(began, count, counting, weekdays, holidays):
    calendar = Calendar(weekdays, holidays)
    due = clock.due_on(began, count, counting, calendar)
    assert clock.days_late(due, due, counting, calendar) == 0
