"""Who does what with a submittal, and when: the handbook's states (§9) as a table."""

import pytest

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.submittals.states import Deed, Party, State, check, may, next_deed, refusal

RUNS, MAKER, APPROVER, NOBODY = Party(runs=True), Party(responsible=True), Party(approver=True), Party()

# Written out once more, by state, as the handbook tells the story: deed → whose.
STORY = {
    State.PLANNED: {"edit": "r", "ask": "r", "send in": "rm", "void": "r", "copy in": "rma"},
    State.ASKED: {
        "edit": "r", "ask": "r", "prepare": "m", "send in": "rm", "void": "r", "copy in": "rma", "remind": "r",
    },
    State.PREPARING: {"edit": "r", "ask": "r", "send in": "rm", "void": "r", "copy in": "rma", "remind": "r"},
    State.SENT_IN: {"edit": "r", "give": "r", "void": "r", "copy in": "rma"},
    State.UNDER_REVIEW: {
        "edit": "r", "give": "r", "answer": "a", "answer for": "r", "void": "r", "copy in": "rma", "remind": "r",
    },
    State.ANSWERED: {"edit": "r", "close": "r", "void": "r", "copy in": "rma", "deliver": "rm"},
    State.CLOSED: {"deliver": "rm"},
    State.VOID: {},
}  # fmt: skip


@pytest.mark.parametrize("state", State)
@pytest.mark.parametrize("deed", Deed)
def test_who_may_what_and_when(state, deed):
    whose = ({"send on": "rma"} | STORY[state]).get(deed.value, "")
    for letter, party in (("r", RUNS), ("m", MAKER), ("a", APPROVER), ("-", NOBODY)):
        assert may(state, party, deed) == (letter in whose)


def test_what_is_for_information_is_closed_once_it_is_sent_in_and_given_to_nobody():
    assert may(State.SENT_IN, RUNS, Deed.CLOSE, for_information=True)
    assert not may(State.SENT_IN, RUNS, Deed.CLOSE)
    assert not may(State.SENT_IN, RUNS, Deed.GIVE, for_information=True)
    assert not may(State.SENT_IN, MAKER, Deed.CLOSE, for_information=True)


def test_why_not_is_said():
    with pytest.raises(NotAllowed, match="whoever is asked to answer it"):
        check(State.UNDER_REVIEW, MAKER, Deed.ANSWER)
    with pytest.raises(RuleBroken, match=r"It is closed\. This is done while it is asked for, in preparation or under"):
        check(State.CLOSED, RUNS, Deed.REMIND)


@pytest.mark.parametrize("state", State)
@pytest.mark.parametrize("for_information", [False, True])
def test_what_it_waits_for_can_be_done_by_somebody(state, for_information):
    wanted = next_deed(state, for_information=for_information)
    assert (wanted is None) == (state in (State.CLOSED, State.VOID))
    # What is for information is given to nobody, so that it is never under review.
    if wanted and not (for_information and state is State.UNDER_REVIEW):
        parties = (RUNS, MAKER, APPROVER)
        assert any(may(state, party, wanted, for_information=for_information) for party in parties)


def test_every_open_state_can_be_left_by_somebody():
    ahead = {Deed.ASK, Deed.SEND_IN, Deed.GIVE, Deed.ANSWER, Deed.CLOSE, Deed.VOID}
    for state in State:
        found = [d for d in ahead for party in (RUNS, MAKER, APPROVER) if refusal(state, party, d) is None]
        assert bool(found) == (state not in (State.CLOSED, State.VOID))


@pytest.mark.parametrize("deed", Deed)
def test_what_goes_round_in_a_review_is_answered_by_that_alone(deed):
    """Nothing that would make a second truth (handbook §9); everything else as ever."""
    held = {Deed.GIVE, Deed.ANSWER, Deed.ANSWER_FOR, Deed.VOID, Deed.REMIND}
    for party in (RUNS, MAKER, APPROVER):
        plain = may(State.UNDER_REVIEW, party, deed)
        assert may(State.UNDER_REVIEW, party, deed, on_route=True) == (plain and deed not in held)
