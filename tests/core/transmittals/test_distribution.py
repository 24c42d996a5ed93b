"""The distribution matrix: cells unite, to act beats to know, and lines name what is there."""

from itertools import permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import RuleBroken
from nod.core.transmittals.distribution import Known, Line, Owed, Share, check_lines, share_of, unite

TRA, ROLE = ("company", "c1"), ("role", "engineer")
KNOWN = Known({"A", "S"}, {"D"}, {"S3", "A1"}, {"construction", "comment", "information", "record"}, {TRA, ROLE})


def line(shares=None, *, discipline="A", form="D", status="", when="filed", purpose="construction"):
    return Line(discipline, form, status, when, purpose, None, shares or {})


def test_cells_of_a_company_and_of_its_peoples_roles_unite_and_to_act_beats_to_know():
    both = line({TRA: Share.KNOW, ROLE: Share.ACT})
    assert share_of(both, "c1", ["engineer"]) is Share.ACT
    assert share_of(both, "c1", []) is Share.KNOW
    assert share_of(both, "c2", ["engineer"]) is Share.ACT
    assert share_of(both, "c2", ["reader"]) is None


@given(st.lists(st.tuples(st.sampled_from(Share), st.sampled_from(["approval", "construction"])), max_size=4))
def test_over_lines_to_act_wins_whatever_the_order_and_the_first_says_for_what(cells):
    for order in permutations(cells):
        owed = None
        for share, purpose in order:
            owed = unite(owed, line(purpose=purpose), share)
        acts = [purpose for share, purpose in order if share is Share.ACT]
        want = Owed(Share.ACT, acts[0]) if acts else Owed(Share.KNOW, "information") if order else None
        assert owed == want


@pytest.mark.parametrize(
    ("wrong", "code"),
    [
        ([line(discipline="X")], "code_unknown"),
        ([line(form="X")], "code_unknown"),
        ([line(status="X")], "code_unknown"),
        ([line(when="never")], "code_unknown"),
        ([line(purpose="fun")], "code_unknown"),
        ([line({("company", "gone"): Share.ACT})], "holder_unknown"),
        ([line(), line({TRA: Share.ACT})], "line_twice"),
        ([line(status="S3")] * 201, "too_many_lines"),
    ],
)
def test_a_line_that_cannot_be_is_refused_by_name(wrong, code):
    with pytest.raises(RuleBroken) as refused:
        check_lines(wrong, KNOWN)
    assert refused.value.code == code


def test_lines_that_differ_in_anything_are_taken():
    lines = [line({TRA: Share.ACT}), line(status="S3"), line(when="released"), line(discipline=""), line(form="")]
    assert check_lines(lines, KNOWN) == lines
