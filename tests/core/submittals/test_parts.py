"""Items have verdicts of their own, of which the gravest is the submittal's; names of parts."""

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.parts import MOST_PARTS, check_names, open_items, verdict_of_items

ORDER = ["A", "B", "C"]


def test_an_answer_is_about_what_is_open():
    assert open_items({"1": "", "2": "A", "3": "C", "4": "B"}, {"C"}) == ["1", "3"]


def test_one_verdict_counts_for_all_that_is_open():
    assert verdict_of_items({}, ["1", "3"], ORDER, "B") == {"1": "B", "3": "B"}


def test_the_gravest_is_the_submittals():
    given = {"1": "A", "3": "C"}
    assert verdict_of_items(given, ["1", "3"], ORDER, "C") == given
    with pytest.raises(RuleBroken, match="gravest verdict of its items is C"):
        verdict_of_items(given, ["1", "3"], ORDER, "A")


@pytest.mark.parametrize("given", [{"1": "A"}, {"1": "A", "3": "B", "2": "A"}, {"2": "A", "4": "B"}])
def test_each_open_item_has_one_and_no_other(given):
    with pytest.raises(RuleBroken, match="each of its open items"):
        verdict_of_items(given, ["1", "3"], ORDER, "B")


def test_a_verdict_that_there_is_not_is_refused():
    with pytest.raises(RuleBroken, match="one of the project's verdicts"):
        verdict_of_items({"1": "Z"}, ["1"], ORDER, "Z")


@pytest.mark.parametrize(
    ("names", "words"),
    [
        (["Plate", " plate "], "Two lots have the name plate"),
        (["", "x"], "Each lot has a name"),
        (["x" * 201], "Each lot has a name"),
        ([str(each) for each in range(MOST_PARTS + 1)], "up to 100 lots"),
    ],
)  # fmt: skip
def test_names_that_cannot_be(names, words):
    with pytest.raises(RuleBroken, match=words):
        check_names(names, "lot")


def test_names_are_tidied():
    assert check_names([" North  quay ", "South quay"], "lot") == ["North quay", "South quay"]
