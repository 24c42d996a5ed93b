import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.register import revisions
from nod.core.register.revisions import Scheme

numbers = st.integers(1, 90)


def _code(scheme, number):
    code = revisions.first_code(scheme)
    for _ in range(number - 1):
        code = revisions.next_codes(scheme, code)[0]
    return code


@given(st.sampled_from(Scheme), numbers, numbers)
def test_later_codes_come_later_in_every_scheme(scheme, left, right):
    keys = [revisions.parse(scheme, _code(scheme, number)) for number in (left, right)]
    assert (keys[0] < keys[1]) == (left < right)
    assert (keys[0] == keys[1]) == (left == right)


@given(st.sampled_from(Scheme), numbers)
def test_what_comes_next_leaves_no_gap_and_what_comes_after_that_does(scheme, number):
    current, following, beyond = (_code(scheme, number + step) for step in range(3))
    assert not revisions.is_gap(scheme, current, following)
    assert revisions.is_gap(scheme, current, beyond)


def test_preliminary_comes_before_contractual_and_work_in_progress_before_what_it_works_towards():
    order = ["P01.1", "P01", "P02.1", "P02.2", "P02", "P10", "C01", "C02"]
    keys = [revisions.parse(Scheme.STAGED, code) for code in order]
    assert keys == sorted(keys)
    assert len(set(keys)) == len(order)


def test_letters_leave_out_i_and_o_and_go_on_after_z():
    # No I and O in revision letters: common practice.
    codes = [_code(Scheme.LETTERS, number) for number in range(1, 28)]
    assert "".join(codes[:24]) == "ABCDEFGHJKLMNPQRSTUVWXYZ"
    assert codes[24:] == ["AA", "AB", "AC"]


@pytest.mark.parametrize(
    ("scheme", "code"),
    [
        (Scheme.STAGED, "P0"), (Scheme.STAGED, "P00"), (Scheme.STAGED, "P1"), (Scheme.STAGED, "p01"),
        (Scheme.STAGED, "C01.1"), (Scheme.STAGED, "P01.0"), (Scheme.STAGED, "PO1"), (Scheme.STAGED, ""),
        (Scheme.LETTERS, "I"), (Scheme.LETTERS, "AO"), (Scheme.LETTERS, "a"), (Scheme.LETTERS, ""),
        (Scheme.NUMBERS, "01"), (Scheme.NUMBERS, "-1"), (Scheme.NUMBERS, "A"), (Scheme.NUMBERS, "1.5"),
    ],
)  # fmt: skip
def test_what_is_not_a_code_is_not_read_as_one(scheme, code):
    assert revisions.parse(scheme, code) is None


def test_after_a_preliminary_one_the_first_contractual_may_follow():
    assert revisions.next_codes(Scheme.STAGED, "P04") == ("P05", "C01")
    assert revisions.next_codes(Scheme.STAGED, "P04.2") == ("P04", "C01")
    assert revisions.next_codes(Scheme.STAGED, "C01") == ("C02",)
    assert not revisions.is_gap(Scheme.STAGED, "P04", "C01")
    assert revisions.is_gap(Scheme.STAGED, "P04", "C02")


@pytest.mark.parametrize(("code", "gap"), [("P01", False), ("P01.1", False), ("C01", False), ("P03", True)])
def test_a_new_document_starts_at_the_first_code(code, gap):
    assert revisions.is_gap(Scheme.STAGED, None, code) is gap
