"""Spreads against numpy; floats kept by day, and read back as they were."""

from datetime import date, timedelta

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from nod.core.submittals.analysis import MOST_POINTS, as_of, floats_on, kept_with, read_kept, spread_of

MAR9 = date(2027, 3, 9)


@given(st.lists(st.integers(0, 400), min_size=1, max_size=60))
def test_spreads_are_those_of_numpy(days):
    found = spread_of(days)
    assert np.allclose((found.lower, found.median, found.upper), np.percentile(days, [25, 50, 75]))
    assert (found.count, found.least, found.most) == (len(days), min(days), max(days))


def test_nothing_has_no_spread():
    assert spread_of([]) is None


@given(st.lists(st.tuples(st.integers(0, 3), st.none() | st.integers(-300, 300)), max_size=80))
def test_what_is_kept_says_what_each_day_ended_with(steps):
    """Against a plain dictionary of days."""
    kept, on, said = "", MAR9, {}
    for days, value in steps:
        on += timedelta(days=days)
        kept, said[on] = kept_with(kept, on, value), value
    points, last = read_kept(kept), None
    assert [day for day, _ in points] == sorted({day for day, _ in points})
    for offset in range((on - MAR9).days + 2):
        day = MAR9 + timedelta(days=offset)
        last = said.get(day, last)
        assert as_of(points, day) == last


@given(st.lists(st.none() | st.integers(-300, 300), min_size=1, max_size=80), st.integers(-5, 90))
def test_only_what_tells_the_days_since_one_is_read_of_a_past(values, back):
    kept = ""
    for place, value in enumerate(values):
        kept = kept_with(kept, MAR9 + timedelta(days=place), value)
    since = MAR9 + timedelta(days=back)
    whole, some = read_kept(kept), read_kept(kept, since)
    assert whole[len(whole) - len(some) :] == some
    for offset in range(100):
        assert as_of(some, since + timedelta(days=offset)) == as_of(whole, since + timedelta(days=offset))


def test_of_a_long_past_the_latest_is_kept():
    kept = ""
    for day in range(MOST_POINTS + 50):
        kept = kept_with(kept, MAR9 + timedelta(days=day), -day)
    points = read_kept(kept)
    assert len(points) == MOST_POINTS
    assert points[-1] == (MAR9 + timedelta(days=MOST_POINTS + 49), -(MOST_POINTS + 49))


def test_of_many_each_day_says_how_many_are_late_and_the_least():
    first = read_kept(kept_with(kept_with("", MAR9, 3), MAR9 + timedelta(days=1), -2))
    second = read_kept(kept_with(kept_with("", MAR9, 10), MAR9 + timedelta(days=2), None))
    days = [MAR9 - timedelta(days=1), MAR9, MAR9 + timedelta(days=1), MAR9 + timedelta(days=2)]
    found = [(each.known, each.late, each.median, each.least) for each in floats_on([first, second], days)]
    assert found == [(0, 0, None, None), (2, 0, 6.5, 3), (2, 1, 4.0, -2), (1, 1, -2.0, -2)]
