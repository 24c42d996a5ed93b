"""Pens in the inks of a project's convention."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.marks import INKS, Look, MarkKind
from nod.core.marks.pens import FIRST_ROLL, MOST_PENS, InkConvention, Pen, check_convention, check_pens

CODES = st.sampled_from(["A", "S", "M", "HBC", "TRA"])
CONVENTIONS = st.builds(
    InkConvention, by=st.sampled_from(["", "discipline", "company"]),
    inks=st.dictionaries(CODES, st.sampled_from(sorted(INKS))),
)  # fmt: skip


@given(CONVENTIONS, st.sampled_from(["", "A", "S"]), CODES)
def test_the_ink_is_that_of_the_discipline_or_of_the_company(convention, discipline, company):
    """Only the one that the convention goes by counts."""
    code = {"": None, "discipline": discipline, "company": company}[convention.by]
    assert convention.ink_for(discipline, company) == convention.inks.get(code, "")
    if convention.by != "company":
        assert convention.ink_for(discipline, "none of them") == convention.ink_for(discipline, company)


def test_no_discipline_is_no_code():
    convention = InkConvention("discipline", {"": "pink"})
    assert InkConvention("company", {"HBC": "blue"}).ink_for("HBC", "TRA") == ""
    assert InkConvention("", {"A": "blue"}).ink_for("A", "A") == ""
    with pytest.raises(RuleBroken):
        check_convention(convention, {"A"})


def test_a_convention_is_kept_without_what_has_no_ink():
    assert check_convention(InkConvention("company", {"HBC": "", "TRA": "blue"}), {"HBC", "TRA"}) == InkConvention(
        "company", {"TRA": "blue"}
    )
    assert check_convention(InkConvention("", {"HBC": "blue"}), set()) == InkConvention()


@pytest.mark.parametrize("colour", ["", "red"])
@pytest.mark.parametrize("code", ["XXX", "", "a", "A" * 500])
def test_what_is_not_there_is_named(code, colour):
    with pytest.raises(RuleBroken) as refused:
        check_convention(InkConvention("discipline", {code: colour}), {"A"})
    assert (refused.value.code, refused.value.about) == ("code_unknown", code[:20])


def test_the_first_roll_is_fit_to_be_kept_and_its_first_nine_are_told_apart():
    assert check_pens(list(FIRST_ROLL), {"A"}) == list(FIRST_ROLL)
    assert len({pen.name for pen in FIRST_ROLL}) == len(FIRST_ROLL)
    with pytest.raises(RuleBroken):
        check_pens([FIRST_ROLL[0]] * (MOST_PENS + 1), {"A"})


def test_a_pen_is_tidied_and_keeps_its_discipline():
    pen = Pen("  Fire   stop ", MarkKind.STAMP, Look(), "  by  fire ", "  SEEN  ", "A")
    assert check_pens([pen], {"A"}) == [Pen("Fire stop", MarkKind.STAMP, Look(), "by fire", "SEEN", "A")]
    with pytest.raises(RuleBroken) as refused:
        check_pens([pen], {"S"})
    assert refused.value.code == "discipline_unknown"
