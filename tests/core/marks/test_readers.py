"""Ink is opened to more, never to fewer (handbook §6)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.marks.readers import Group, Readers, check_may_open, for_group, opened

GROUPS = [Group("company", "HBC"), Group("company", "BHT"), Group("review", "1")]


@given(st.lists(st.sampled_from([None, *GROUPS]), min_size=1, max_size=8))
def test_nobody_is_ever_taken_out(steps):
    now = for_group(steps[0])
    for to in steps[1:]:
        before = now
        if now.everybody or to in now.groups:
            with pytest.raises(RuleBroken, match="read it already"):
                opened(now, to)
            continue
        now = opened(now, to)
        assert now.everybody or before.groups < now.groups
        assert now.everybody == (to is None)


def test_is_opened_by_its_author_or_who_runs_the_project():
    check_may_open("ana", "ana", runs=False)
    check_may_open("ana", "bo", runs=True)
    with pytest.raises(NotAllowed):
        check_may_open("ana", "bo", runs=False)


def test_is_kept_by_ids():
    assert Readers().kept == ["everybody"]
    assert for_group(GROUPS[2]).kept == ["review 1"]
    assert opened(for_group(GROUPS[2]), GROUPS[0]).kept == ["company HBC", "review 1"]
