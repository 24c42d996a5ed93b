"""Purposes of issue: what each asks, and which lists of them cannot be."""

from datetime import date

import numpy
import pytest

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Calendar
from nod.core.register.in_force import Around
from nod.core.transmittals.purposes import USUAL, Purpose, check_purposes, purposes_kept, purposes_read
from nod.core.transmittals.transmittals import SendableDocument, stops_of

KNOW = Purpose("information", "For information")
HOLIDAYS = frozenset({date(2027, 3, 26), date(2027, 3, 29)})


def test_what_is_kept_is_read_back_in_order():
    own = [KNOW, Purpose("x", "For tender", 10, True, ("S4", "A1"))]
    assert list(purposes_read(purposes_kept(own)).values()) == own
    assert list(purposes_read(None).values()) == list(USUAL)


@pytest.mark.parametrize("days", [1, 5, 10, 250])
def test_an_answer_is_wanted_in_working_days_as_numpy_counts_them(days):
    today = date(2027, 3, 24)
    found = Purpose("x", "X", days).answer_on(today, Calendar(frozenset(range(5)), HOLIDAYS))
    assert found == numpy.busday_offset(today, days, holidays=sorted(HOLIDAYS)).item()
    assert KNOW.answer_on(today, Calendar(frozenset(range(5)), HOLIDAYS)) is None


@pytest.mark.parametrize(
    ("given", "code"),
    [
        ([KNOW, Purpose("x", " ")], "words_missing"),
        ([KNOW, Purpose("x", "for  INFORMATION")], "code_twice"),
        ([KNOW, Purpose("x", "A", 251)], "days_invalid"),
        ([KNOW, Purpose("x", "A", -1)], "days_invalid"),
        ([KNOW, Purpose("x", "A", 0, False, ("Z9",))], "code_unknown"),
        ([Purpose("x", "A")], "purpose_stays"),
        ([KNOW, *(Purpose(f"x{place}", f"A{place}") for place in range(30))], "too_many_codes"),
    ],
)
def test_what_cannot_be_says_why(given, code):
    with pytest.raises(RuleBroken) as refused:
        check_purposes(given, {"S3"})
    assert refused.value.code == code


def test_words_are_tidied_and_one_may_be_renamed():
    found = check_purposes([Purpose("information", "  To   know "), Purpose("x", "Tender", 5, True, ("S3",))], {"S3"})
    assert [each.words for each in found] == ["To know", "Tender"]


def test_a_status_that_a_purpose_is_not_for_makes_one_stop():
    tender = Purpose("x", "For tender", statuses=("S4",))
    fine = SendableDocument("BFT-1", "C02", "S4", Around("C02", "C02"), "A", True)
    assert stops_of(fine, tender) == []
    other = SendableDocument("BFT-1", "C02", "S3", Around("C02", "C02"), "A", True)
    assert stops_of(other, tender) == ["Status S3 is not for tender."]
    assert stops_of(other, None) == []
