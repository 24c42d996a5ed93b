import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.register.look_alikes import distance, nearest, plain
from nod.core.register.numbers import Convention, check_number, mend_number
from nod.demo.scenario import NUMBER_FIELDS

BFT = Convention(tuple(NUMBER_FIELDS))
GOOD = "BFT-TRA-Z1-01-D-A-0101"


def test_the_handbooks_example_keeps_the_convention():
    assert check_number(BFT, GOOD) == []
    assert BFT.split(GOOD)["originator"] == "TRA"


@pytest.mark.parametrize(
    ("number", "field", "near"),
    [
        ("BFT-TRA-Z1-01-D-X-0101", "discipline", "A"),
        ("BFT-TAR-Z1-01-D-A-0101", "originator", "TRA"),
        ("BFT-TRA-Zl-01-D-A-0101", "functional", "Z1"),
        ("BFT-TRA-Z1-O1-D-A-0101", "spatial", "01"),
        ("BFT-TRA-Z1-01-D-A-O1O1", "number", "0101"),
        ("BFT-TRA-Z1-01-D-A-101", "number", None),
        ("8FT-TRA-Z1-01-D-A-0101", "project", "BFT"),
    ],
)
def test_a_wrong_number_is_explained_by_its_field_with_the_nearest_code(number, field, near):
    (fault,) = check_number(BFT, number)
    assert (fault.field, fault.nearest) == (field, near)
    assert fault.value in fault.words
    assert field in fault.words


def test_every_wrong_field_is_named():
    assert [fault.field for fault in check_number(BFT, "BFT-XXX-Z1-01-D-Q-0101")] == ["originator", "discipline"]


def test_a_missing_field_is_found_where_only_one_can_be_missing():
    (fault,) = check_number(BFT, "BFT-TRA-01-D-A-0101")
    assert fault.field == "functional"
    (fault,) = check_number(BFT, "whatever-this-is")
    assert fault.field == "number"
    assert "3 fields where 7" in fault.words


def test_no_number_at_all_is_told_with_the_convention():
    (fault,) = check_number(BFT, "")
    assert "project-originator-functional" in fault.words


@pytest.mark.parametrize(
    ("number", "mended"),
    [
        (" BFT-TRA-Z1-01-D-A-0101 ", GOOD),
        ("ВFТ-ТRА-Z1-01-D-А-0101", GOOD),  # Cyrillic В, Т, А
        ("BFT‑TRA‑Z1‑01‑D‑A‑0101", GOOD),  # non-breaking hyphens
        ("ＢＦＴ-TRA-Z1-01-D-A-0101", GOOD),  # full width
        ("bft-tra-z1-01-d-a-0101", GOOD),
        ("BFT-TRA-Z1-O1-D-A-O1OI", GOOD),
        ("BFT-TRA-01-D-A-0101", None),
    ],
)
def test_what_was_most_likely_meant(number, mended):
    assert mend_number(BFT, number) == mended


@given(st.text(max_size=60))
def test_a_mend_always_keeps_the_convention(number):
    mended = mend_number(BFT, number)
    assert mended is None or check_number(BFT, mended) == []


@given(st.text("ABCDOI01-", max_size=12), st.text("ABCDOI01-", max_size=12))
def test_the_distance_is_a_distance(left, right):
    assert distance(left, right) == distance(right, left)
    assert (distance(left, right) == 0) == (left == right)
    assert distance(left, right) <= max(len(left), len(right))


def test_a_look_alike_is_nearer_than_another_letter():
    assert nearest("O1", ("B1", "01")) == "01"
    assert nearest("anything", ()) is None
    assert plain("Ｐ０１ ") == "P01"
