"""The arithmetic of submittals: the handbook's own table (§9), and numpy's busday functions as a second reading."""

from datetime import date
from statistics import median

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.day_index import day_index, day_of, number
from nod.core.acts.working_days import Calendar, NoWorkingDays
from nod.core.submittals.arithmetic import (
    Case,
    LeadIn,
    Stage,
    Standing,
    Times,
    columns_of,
    days_overdue,
    expected_days,
    outlook,
    outlooks,
)

PLAIN = Calendar()
H = Calendar(holidays=frozenset({date(2027, 3, 26), date(2027, 3, 29), date(2027, 5, 3), date(2027, 5, 31)}))
JUL30 = date(2027, 7, 30)
MAR9 = date(2027, 3, 9)
STEEL = Times(lead=30, review=10, rounds=2, preparation=10, buffer=5)


def test_by_when_it_must_be_sent_in():
    found = outlook(Case(JUL30, STEEL, 10), MAR9, PLAIN)
    assert (found.latest, found.to_latest) == (date(2027, 4, 30), 38)


def test_by_when_with_holidays():
    found = outlook(Case(JUL30, STEEL, 10), MAR9, H)
    assert (found.latest, found.to_latest) == (date(2027, 4, 28), 34)


@pytest.mark.parametrize("calendar", [PLAIN, H])
def test_required_on_a_saturday_is_the_friday(calendar):
    friday, saturday = (outlook(Case(day, STEEL, 10), MAR9, calendar) for day in (JUL30, date(2027, 7, 31)))
    assert friday == saturday


def test_a_slow_company_makes_the_forecast_late_on_the_last_day():
    found = outlook(Case(JUL30, STEEL, 18), date(2027, 4, 30), PLAIN)
    assert (found.to_latest, found.forecast, found.float_days) == (0, date(2027, 8, 16), -16)


def test_sent_in_and_awaited():
    case = Case(JUL30, Times(30, 10, 1, 10, 5), 12, Standing(Stage.SENT, 1, date(2027, 5, 10)))
    found = outlook(case, date(2027, 5, 11), PLAIN)
    assert (found.answer, found.forecast, found.float_days) == (date(2027, 5, 26), date(2027, 7, 7), 12)
    assert found.to_latest is None


def test_an_answer_that_is_late():
    case = Case(JUL30, Times(30, 10, 1, 10, 0), 12, Standing(Stage.SENT, 1, date(2027, 5, 10)))
    today = date(2027, 6, 2)
    found = outlook(case, today, PLAIN)
    assert days_overdue(case, today, PLAIN) == 5
    assert (found.forecast, found.float_days) == (date(2027, 7, 14), 12)


def test_revise_in_the_first_of_three_rounds():
    case = Case(JUL30, Times(30, 10, 3, 10, 0), 10, Standing(Stage.REVISE, 1, date(2027, 5, 28)))
    found = outlook(case, date(2027, 5, 31), PLAIN)
    assert (found.forecast, found.float_days) == (date(2027, 9, 3), -25)


def test_what_should_have_been_sent_in_long_ago():
    found = outlook(Case(date(2027, 3, 1), Times(30, 10, 1, 10, 5), 10), MAR9, PLAIN)
    assert (found.latest, found.forecast, found.float_days) == (date(2026, 12, 28), date(2027, 5, 4), -51)


def test_what_is_delivered_moves_no_more():
    case = Case(JUL30, STEEL, 10, Standing(Stage.DELIVERED, 1, date(2027, 7, 20)))
    early, later = (outlook(case, day, PLAIN) for day in (date(2027, 7, 21), date(2028, 1, 3)))
    assert early == later
    assert (early.forecast, early.float_days) == (date(2027, 7, 20), 3)


def test_answered_to_proceed_only_the_lead_is_left():
    case = Case(JUL30, STEEL, 10, Standing(Stage.PROCEED, 1, date(2027, 5, 28)))
    assert outlook(case, date(2027, 6, 30), PLAIN).forecast == date(2027, 7, 9)


def test_what_is_planned_for_later_counts_from_then():
    case = Case(JUL30, Times(5, 5), 5, Standing(since=date(2027, 4, 3)))
    assert outlook(case, MAR9, PLAIN).forecast == date(2027, 4, 19)


def test_a_lead_in_weeks_goes_on_through_holidays():
    case = Case(date(2027, 6, 4), Times(2, 5, lead_in=LeadIn.WEEKS), 5, Standing(Stage.PROCEED, 1, date(2027, 5, 17)))
    # Two weeks after 17 May is Monday 31 May, which is not worked.
    assert outlook(case, date(2027, 5, 17), H).forecast == date(2027, 6, 1)
    # Two weeks before 4 June is Friday 21 May, and 5 working days before that the 14th.
    assert outlook(case, date(2027, 5, 17), H).latest == date(2027, 5, 14)


@pytest.mark.parametrize(
    ("answers", "days"),
    [([], 10), ([4, 6], 10), ([4, 6, 8], 6), ([4, 6, 7, 8], 7), ([3] * 10 + [90], 3), ([90] + [3] * 10, 3)],
)
def test_what_answer_time_to_expect(answers, days):
    assert expected_days(answers, 10) == days


@given(st.lists(st.integers(0, 400), min_size=3, max_size=30))
def test_the_median_is_that_of_the_last_ten_rounded_up(answers):
    assert expected_days(answers, 1) == int(np.ceil(median(answers[:10])))


@pytest.mark.parametrize("required", [date(1850, 1, 1), date(2500, 1, 1), date(1900, 1, 10)])
def test_days_out_of_reach_are_said(required):
    with pytest.raises(NoWorkingDays):
        outlook(Case(required, STEEL, 10), MAR9, PLAIN)


def test_an_empty_log():
    assert len(outlooks(columns_of([]), MAR9, PLAIN).float_days) == 0


# The same once more, in other words: handbook §9 read sentence by sentence, on numpy's busday functions.

dates = st.dates(date(2026, 1, 1), date(2029, 12, 31))
calendars = st.builds(
    Calendar, st.sets(st.integers(0, 6), min_size=1).map(frozenset), st.sets(dates, max_size=60).map(frozenset)
)
times = st.builds(
    Times, st.integers(0, 60), st.integers(0, 30), st.integers(1, 5), st.integers(0, 20), st.integers(0, 15),
    st.sampled_from(LeadIn),
)  # fmt: skip
standings = st.one_of(
    st.builds(Standing, st.just(Stage.NOT_SENT), st.just(1), st.none() | dates),
    st.builds(Standing, st.sampled_from([Stage.SENT, Stage.PROCEED, Stage.REVISE]), st.integers(1, 5), dates),
    st.builds(Standing, st.just(Stage.DELIVERED), st.integers(1, 5), dates),
)
cases = st.builds(Case, dates, times, st.integers(0, 40), standings)


class ByNumpy:
    def __init__(self, calendar):
        mask = [day in calendar.working_weekdays for day in range(7)]
        self._days = np.busdaycalendar(weekmask=mask, holidays=sorted(calendar.holidays))

    def plus(self, day, count):
        if count == 0:
            return np.busday_offset(day, 0, roll="forward", busdaycal=self._days)
        return np.busday_offset(day, count, roll="backward", busdaycal=self._days)

    def minus(self, day, count):
        return np.busday_offset(day, -count, roll="backward", busdaycal=self._days)

    def way(self, start, end):
        start, end = np.datetime64(start), np.datetime64(end)
        if end < start:
            return -self.way(end, start)
        return int(np.busday_count(start + 1, end + 1, busdaycal=self._days))

    def lead_after(self, day, given):
        if given.lead_in is LeadIn.WEEKS:
            return self.plus(np.datetime64(day) + given.lead * 7, 0)
        return self.plus(day, given.lead)

    def forecast(self, case, today):
        given, at = case.times, case.standing
        another = given.preparation + case.expected
        if at.stage is Stage.DELIVERED:
            return np.datetime64(at.since)
        if at.stage is Stage.NOT_SENT:
            start = self.plus(max(today, at.since or today), 0)
            rest = case.expected * given.rounds + given.preparation * (given.rounds - 1)
        elif at.stage is Stage.SENT:
            start = self.plus(max(np.datetime64(today), self.plus(at.since, case.expected)), 0)
            rest = max(0, given.rounds - at.round) * another
        else:
            start = np.datetime64(at.since)
            rest = max(1, given.rounds - at.round) * another if at.stage is Stage.REVISE else 0
        if given.lead_in is LeadIn.WORKING_DAYS:
            return self.plus(start, rest + given.lead)
        return self.lead_after(self.plus(start, rest) if rest else start, given)

    def outlook(self, case, today):
        given = case.times
        weeks = given.lead * 7 if given.lead_in is LeadIn.WEEKS else 0
        plain = 0 if weeks or given.lead_in is LeadIn.WEEKS else given.lead
        required = np.datetime64(case.required) - weeks
        path = given.review * given.rounds + given.preparation * (given.rounds - 1)
        latest = self.minus(required, plain + path + given.buffer)
        forecast = self.forecast(case, today)
        spare = self.way(forecast, self.minus(case.required, given.buffer))
        least = min(self.way(today, latest), spare) if case.standing.stage is Stage.NOT_SENT else spare
        return latest.astype(date), forecast.astype(date), least


@given(st.lists(cases, min_size=1, max_size=12), dates, calendars)
def test_a_log_agrees_with_numpys_busday_functions(log, today, calendar):
    found, second = outlooks(columns_of(log), today, calendar), ByNumpy(calendar)
    for place, case in enumerate(log):
        one = found[place]
        assert (one.latest, one.forecast, one.float_days) == second.outlook(case, today)
        assert one == outlook(case, today, calendar)


@given(dates, dates, st.integers(0, 400), calendars)
def test_the_index_of_days_agrees_with_numpys_busday_functions(day, other, count, calendar):
    index, second = day_index(calendar), ByNumpy(calendar)
    here = np.int64(number(day))
    assert day_of(index.after(here, count)) == second.plus(day, count).astype(date)
    assert day_of(index.before(here, count)) == second.minus(day, count).astype(date)
    assert index.distance(here, np.int64(number(other))) == second.way(day, other)
