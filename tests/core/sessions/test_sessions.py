"""Who may do what in a session, by its state (handbook §7), against the handbook said once more as a table."""

from datetime import UTC, datetime, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.sessions.sessions import Deed, May, SessionState, Taker, check, check_name, check_times, may, refusal

NOBODY, LOOKS, ANSWERS, MARKS = (Taker(level) for level in (None, *May))
HOST, LEAD = Taker(host=True), Taker(runs=True)
TO_COME, OPEN, CLOSED = SessionState

IN_THE_ROOM = {
    Deed.LOOK: [LOOKS, ANSWERS, MARKS, HOST, LEAD],
    Deed.COMMENT: [ANSWERS, MARKS, HOST, LEAD],
    Deed.MARK: [MARKS, HOST, LEAD],
}
FOR_THE_HOST = {
    Deed.CHANGE: {TO_COME, OPEN},
    Deed.OPEN: {TO_COME},
    Deed.CLOSE: {OPEN},
    Deed.OPEN_AGAIN: {CLOSED},
    Deed.HAND_OVER: {TO_COME, OPEN, CLOSED},
    Deed.TAKE_OUT: {TO_COME, OPEN},
}
"""Handbook §7; taking out before it opens, and handing over at any time, are this house's own."""


def _as_written(state, taker, deed):
    if deed in IN_THE_ROOM:
        return state is OPEN and taker in IN_THE_ROOM[deed]
    return taker in (HOST, LEAD) and state in FOR_THE_HOST[deed]


@pytest.mark.parametrize("state", SessionState)
@pytest.mark.parametrize("taker", [NOBODY, LOOKS, ANSWERS, MARKS, HOST, LEAD])
@pytest.mark.parametrize("deed", Deed)
def test_each_may_do_what_is_written(state, taker, deed):
    allowed = _as_written(state, taker, deed)
    assert may(state, taker, deed) is allowed
    assert (refusal(state, taker, deed) is None) is allowed
    if allowed:
        check(state, taker, deed)
    else:
        with pytest.raises((NotAllowed, RuleBroken)):
            check(state, taker, deed)


@pytest.mark.parametrize(
    ("state", "taker", "deed", "code", "says"),
    [
        (OPEN, NOBODY, Deed.LOOK, "not_invited", "invited"),
        (CLOSED, NOBODY, Deed.LOOK, "not_invited", "invited"),
        (OPEN, LOOKS, Deed.MARK, "session_level", "you may look."),
        (OPEN, ANSWERS, Deed.MARK, "session_level", "look, answer and set states."),
        (TO_COME, MARKS, Deed.MARK, "session_to_come", "not open yet"),
        (CLOSED, HOST, Deed.COMMENT, "session_closed", "has closed"),
        (OPEN, HOST, Deed.OPEN_AGAIN, "session_open", "is open"),
        (CLOSED, MARKS, Deed.OPEN_AGAIN, "not_host", "host"),
    ],
)
def test_says_why_not(state, taker, deed, code, says):
    found = refusal(state, taker, deed)
    assert found.code == code
    assert says in str(found)


def test_its_name_is_tidied_and_bounded():
    assert check_name("  Quay \n hall  ") == "Quay hall"
    assert check_name("x" * 120) == "x" * 120
    for name, code in (("", "name_missing"), (" x ", "name_missing"), ("x" * 121, "text_too_long")):
        with pytest.raises(RuleBroken) as refused:
            check_name(name)
        assert refused.value.code == code


NOW = datetime(2031, 5, 20, 9, tzinfo=UTC)


@pytest.mark.parametrize(
    ("opens", "closes", "fits"),
    [
        (0, 1, True),
        (0, 0, False),
        (5, 4, False),
        (-3, 1, True),
        (-3, -1, False),
        (0, 62 * 24, True),
        (0, 62 * 24 + 1, False),
        (48, 48 + 62 * 24, True),
        # What is open already counts from now.
        (-48, 62 * 24, True),
    ],
)
def test_it_closes_after_it_opens_and_after_now_within_62_days(opens, closes, fits):
    """Hours from now."""
    times = NOW + timedelta(hours=opens), NOW + timedelta(hours=closes), NOW
    if fits:
        check_times(*times)
    else:
        with pytest.raises(RuleBroken) as refused:
            check_times(*times)
        assert refused.value.code == "session_times"
