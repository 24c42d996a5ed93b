"""The contract's clock: the handbook's example, and numpy's busday functions on 30 calendars."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nod.core.acts.answer_times import Term, answer_by, check_terms, received_on, term_for, term_words
from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Calendar, Counting, ProjectClock, due_on

EASTER = Calendar(holidays=frozenset({date(2027, 3, 26), date(2027, 3, 29)}))
LONDON = ProjectClock(EASTER, ZoneInfo("Europe/London"))


def _term(days=14, counting=Counting.CALENDAR, **more):
    return Term("review", "", days, counting, **more)


def test_the_handbooks_example():
    """Received Fri 12 Mar 2027, 14 calendar days: Fri 26 Mar; three steps of 5 working days end on 6 Apr."""
    assert answer_by(date(2027, 3, 12), _term(), EASTER) == date(2027, 3, 26)
    day = date(2027, 3, 12)
    for _ in range(3):
        day = due_on(day, 5, Counting.WORKING, EASTER)
    assert day == date(2027, 4, 6)


def test_a_last_day_off_moves_if_the_contract_says_so():
    assert answer_by(date(2027, 3, 12), _term(moves=True), EASTER) == date(2027, 3, 30)
    assert answer_by(date(2027, 3, 11), _term(moves=True), EASTER) == date(2027, 3, 25)


@pytest.mark.parametrize(
    ("at", "day"),
    [
        (datetime(2027, 3, 25, 15, 59, tzinfo=UTC), date(2027, 3, 25)),
        (datetime(2027, 3, 25, 16, 0, tzinfo=UTC), date(2027, 3, 30)),
        # Summer time began on 28 March 2027: 15:00 UTC is 16:00 there.
        (datetime(2027, 3, 30, 15, 0, tzinfo=UTC), date(2027, 3, 31)),
    ],
)
def test_from_an_hour_on_receipt_counts_as_the_next_working_day(at, day):
    assert received_on(at, _term(from_hour=16), LONDON) == day
    assert received_on(at, _term(), LONDON) == at.date()


@settings(max_examples=30)
@given(
    weekdays=st.sets(st.integers(0, 6), min_size=1),
    holidays=st.sets(st.integers(0, 400), max_size=25),
    start=st.integers(0, 100),
    days=st.integers(1, 60),
    moves=st.booleans(),
)
def test_against_numpy(weekdays, holidays, start, days, moves):
    """numpy.busday_offset is the second opinion."""
    first = date(2027, 1, 1)
    off = [first + timedelta(days=each) for each in holidays]
    calendar = Calendar(frozenset(weekdays), frozenset(off))
    bus = np.busdaycalendar("".join("1" if day in weekdays else "0" for day in range(7)), off)
    received = first + timedelta(days=start)
    working = np.busday_offset(np.datetime64(received), 0, roll="backward", busdaycal=bus)
    expected = np.busday_offset(working, days, busdaycal=bus).astype(date)
    assert answer_by(received, _term(days, Counting.WORKING, moves=moves), calendar) == expected
    plain = received + timedelta(days=days)
    rolled = np.busday_offset(np.datetime64(plain), 0, roll="forward", busdaycal=bus).astype(date)
    assert answer_by(received, _term(days, moves=moves), calendar) == (rolled if moves else plain)


def test_a_companys_own_line_comes_before_the_one_for_all():
    general, own = _term(), Term("review", "c1", 10, Counting.WORKING)
    assert term_for((general, own), "review", "c1") is own
    assert term_for((general, own), "review", "c2") is general
    assert term_for((own,), "review", "c2") is None
    assert term_for((general,), "rfi", "c1") is None


@pytest.mark.parametrize(
    "terms",
    [
        (Term("dance", "", 1, Counting.WORKING),),
        (_term(0),),
        (_term(366),),
        (_term(from_hour=24),),
        (_term(silence="consent"),),
        (_term(), _term(10)),
    ],
)
def test_what_cannot_be_is_refused(terms):
    with pytest.raises(RuleBroken):
        check_terms(terms)


def test_a_line_in_words():
    assert term_words(_term(1)) == "1 day from receipt"
    assert term_words(_term(10, Counting.WORKING, moves=True, from_hour=16)) == (
        "10 working days from receipt; a last day off moves to the next working day;"
        " received from 16:00 on counts as the next working day"
    )
