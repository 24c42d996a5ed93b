from datetime import date, timedelta

import pytest

from nod.core.reviews import acts
from nod.core.reviews.forecast import as_planned, forecast, median_up
from nod.core.reviews.outlook import words_of
from nod.core.reviews.path import Then
from tests.core.reviews.making import AT, NOW, comments, decides, moment, row, says, some_of, started, who

TODAY = date(2027, 3, 9)
LINE = (row(comments("Check", "ann")), row(decides("Decide", "dee")))


def test_a_late_step_pushes_those_after_it():
    steps = started(*LINE).steps
    assert forecast(steps, TODAY, AT) == (date(2027, 3, 12), date(2027, 3, 17))
    assert forecast(steps, date(2027, 3, 22), AT) == (date(2027, 3, 12), date(2027, 3, 25))


def test_a_stage_ends_with_its_slowest_and_who_sums_up_comes_after():
    path = (
        row(comments("A", "a", days=1), comments("B", "b", days=5), comments("Sum", "c", sums_up=True, days=2)),
        row(decides("D", "dee", days=1)),
    )
    assert [day.isoformat() for day in forecast(as_planned(path), TODAY, AT)] == [
        "2027-03-10",
        "2027-03-16",
        "2027-03-18",
        "2027-03-19",
    ]


def test_what_was_done_early_brings_the_rest_forward():
    review = started(*LINE)
    review = acts.hand_in(review, who("ann"), 0, says(review), moment(NOW + timedelta(days=1))).review
    assert forecast(review.steps, date(2027, 3, 10), AT) == (date(2027, 3, 12), date(2027, 3, 15))


def test_steps_to_come_take_as_long_as_it_usually_took():
    planned = forecast(started(*LINE).steps, TODAY, AT, lambda step: {"Decide": 10}[step.name])
    assert planned == (date(2027, 3, 12), date(2027, 3, 26))


@pytest.mark.parametrize(
    ("days", "expected"),
    [([], None), ([3, 5], None), ([1, 2, 9], 2), ([1, 2, 3, 4], 3), ([99, 99, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1], 1)],
)
def test_the_median_of_the_last_ten_rounded_up(days, expected):
    assert median_up(days) == expected


def _outlook(review, at=0):
    return words_of(review, at, [f"who {run.step.name}" for run in review.steps], "Marit Osei")


def test_what_follows_is_said_before_it_does():
    assert _outlook(started(*LINE)) == "Then Decide (who Decide) begins."
    ended = row(decides("Decide", "dee"), C=Then.BACK, D=Then.BACK, B=Then.END)
    closes = "Then the review closes, and Marit Osei is told."
    assert _outlook(started(ended)) == f"{closes} What has C or D goes back to its author. What has B is done with."
    assert _outlook(started(row(some_of(3, "Decide", "a", "b", "c")))) == "Then 2 more hand in here."
    beside = row(decides("Fire", "a"), decides("Lifts", "b"), decides("Sum", "c", sums_up=True), C=Then.BACK)
    assert _outlook(started(beside)) == "Then it waits for Lifts, which runs beside it."
    review = started(beside)
    review = acts.hand_in(review, who("a"), 0, says(review, "A"), moment()).review
    assert _outlook(review, 1) == "Then Sum (who Sum) begins."
    review = acts.hand_in(review, who("b"), 1, says(review, "A"), moment()).review
    assert _outlook(review, 2) == f"{closes} What has C goes back to its author."
