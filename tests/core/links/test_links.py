"""When a link opens, and what it may allow."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import RuleBroken
from nod.core.links.links import LinkState, check_allows, why_closed

NOW = datetime(2027, 3, 9, 8, 30, tzinfo=UTC)
OPEN = {
    "withdrawn": False, "ends_at": None, "visits": 0, "most_visits": None, "person_gone": False, "giver_sees": True,
}  # fmt: skip


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({}, ""),
        ({"ends_at": NOW + timedelta(seconds=1)}, ""),
        ({"ends_at": NOW}, "expired"),
        ({"visits": 2, "most_visits": 3}, ""),
        ({"visits": 3, "most_visits": 3}, "as often as it may"),
        ({"withdrawn": True, "ends_at": NOW}, "withdrawn"),
        ({"person_gone": True}, "any more"),
        ({"giver_sees": False}, "any more"),
    ],
)
def test_table(more, words):
    why = why_closed(LinkState(**{**OPEN, **more}), NOW)
    assert bool(why) == bool(words)
    assert words in why


@given(st.lists(st.sampled_from(["look", "download", "comment", "x"])))
def test_what_is_allowed_is_what_is_offered(asked):
    offered = ("look", "download")
    if set(asked) <= set(offered):
        allowed = check_allows(asked, offered)
        assert set(allowed) == {"look", *asked}
        assert allowed == sorted(allowed, key=["look", "download"].index)
    else:
        with pytest.raises(RuleBroken):
            check_allows(asked, offered)
