"""The comment sheet: who may what, what stands in the way, and open = raised − closed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.reviews.comments import (
    Comment,
    CommentAct,
    CommentState,
    Grave,
    Party,
    check_usable,
    in_the_way,
    refusal,
    tally,
)
from nod.core.reviews.running import Answer
from nod.core.reviews.verdicts import DEFAULT_SET

ANOUK, AUTHOR, DECIDER, LEAD, PASSER = (
    Party("anouk"), Party("author", author=True), Party("decider", decides=True), Party("lead", runs=True),
    Party("passer"),
)  # fmt: skip
OPEN = Comment(1, "d", Grave.MUST, "anouk")


def _closed(**more):
    return Comment(1, "d", Grave.MUST, "anouk", CommentState.CLOSED, **more)


@pytest.mark.parametrize(
    ("who", "may"),
    [
        (ANOUK, {CommentAct.CLOSE, CommentAct.GRADE}),
        (AUTHOR, {CommentAct.RESPOND}),
        (DECIDER, {CommentAct.CLOSE}),
        (LEAD, {CommentAct.RESPOND, CommentAct.CLOSE, CommentAct.GRADE}),
        (PASSER, set()),
        # Nobody closes what others say of their own work, even where they decide in the review, or lead.
        (Party("both", author=True, decides=True), {CommentAct.RESPOND}),
        (Party("own", runs=True, author=True), {CommentAct.RESPOND}),
    ],
)
def test_who_may_what_with_an_open_comment(who, may):
    assert {act for act in CommentAct if refusal(OPEN, who, act) is None} == may


def test_a_closed_one_is_opened_again_by_those_who_may_close_it():
    for who in (ANOUK, DECIDER, LEAD):
        assert refusal(_closed(), who, CommentAct.REOPEN) is None
        assert refusal(_closed(), who, CommentAct.CLOSE).code in ("comment_closed", "not_your_comment")
    assert isinstance(refusal(_closed(), AUTHOR, CommentAct.REOPEN), NotAllowed)
    assert refusal(OPEN, ANOUK, CommentAct.REOPEN).code == "comment_open"


def test_once_it_is_responded_to_only_a_lead_grades_it_anew():
    answered = Comment(1, "d", Grave.MUST, "anouk", answered=True)
    assert refusal(answered, ANOUK, CommentAct.GRADE).code == "comment_answered"
    assert refusal(answered, LEAD, CommentAct.GRADE) is None


def test_what_went_along_is_left_alone():
    carried = Comment(1, "d", Grave.MUST, "anouk", CommentState.CARRIED)
    assert {refusal(carried, LEAD, act).code for act in CommentAct} == {"comment_carried"}


def _check(verdict, comment="", grave=Grave.SHOULD, waiting=None):
    check_usable([Answer("d", verdict, comment)], {"d": grave}, waiting or {}, DEFAULT_SET, {"d": "BFT-1"})


def test_what_must_be_done_stands_in_the_way_of_a_verdict_that_lets_it_be_used():
    _check("C", waiting={"d": (3, 5)})
    with pytest.raises(RuleBroken) as refused:
        _check("A", waiting={"d": (3, 5)})
    assert refused.value.words.startswith("Comments 3 and 5 on BFT-1 must be done, and are open. Close them")
    with pytest.raises(RuleBroken) as refused:
        _check("B", waiting={"d": (3,)})
    assert refused.value.words.startswith("Comment 3 on BFT-1 must be done, and is open. Close it")
    with pytest.raises(RuleBroken) as refused:
        _check("A", "Widen it", Grave.MUST)
    assert refused.value.code == "must_and_proceed"
    _check("A", "Widen it", Grave.NOTE)
    _check("A", "", Grave.MUST)
    _check("", "Widen it", Grave.MUST)


comments = st.lists(
    st.builds(
        Comment, st.integers(1, 40), st.sampled_from("abc"), st.sampled_from(Grave), st.just("x"),
        st.sampled_from(CommentState), st.booleans(),
    ),
    max_size=30,
)  # fmt: skip


@given(comments)
def test_open_is_raised_less_closed(found):
    """Counted a second time by striking lines off a list."""
    left = list(found)
    struck = 0
    for each in found:
        if each.state in (CommentState.CLOSED, CommentState.CARRIED):
            left.remove(each)
            struck += 1
    told = tally(found)
    assert (told.raised, told.closed, told.open) == (len(found), struck, len(left))
    assert told.open == told.raised - told.closed
    assert told.musts == sum(len(numbers) for numbers in in_the_way(found).values())
    assert all(list(numbers) == sorted(numbers) for numbers in in_the_way(found).values())
