"""Codes on paper: how they look, and what is taken for one."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.people.recovery_codes import HOW_MANY, make_codes, tidied


def test_ten_are_made_of_signs_that_are_not_mistaken():
    codes = make_codes(random.Random(1).choice)  # noqa: S311 - only their look is asked for
    assert len(set(codes)) == HOW_MANY == 10
    assert all(len(code) == 11 and code[5] == "-" for code in codes)
    assert not set("".join(codes)) & set("01oil")


@given(
    st.randoms(use_true_random=False),
    st.sampled_from([str.upper, str.lower, lambda code: code.replace("-", " "), lambda code: f" {code} "]),
)
def test_a_code_is_known_however_it_is_typed(lots, typed):
    code = make_codes(lots.choice)[0]
    assert tidied(typed(code)) == code.replace("-", "")


@pytest.mark.parametrize(
    "typed", ["", "123456", "22222-2222", "22222-222222", "2222o-22222", "é2222-22222", "22222_22222"]
)
def test_what_is_none_is_none(typed):
    assert tidied(typed) == ""
