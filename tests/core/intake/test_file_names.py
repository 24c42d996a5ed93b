"""Names of files in their usual forms (common practice: there is no standard for them)."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.intake.file_names import base_name, read_file_name
from nod.core.register.numbers import Convention
from nod.core.register.revisions import Scheme
from nod.demo.scenario import NUMBER_FIELDS

BFT = Convention(tuple(NUMBER_FIELDS))
STATUSES = ("S0", "S2", "S3", "S4", "A1", "B1", "CR")
N = "BFT-TRA-Z1-01-D-A-0101"
PLAN = "Quay hall plan"


def read(name, scheme=Scheme.STAGED, separator="-"):
    found = read_file_name(name, scheme, STATUSES, replace(BFT, separator=separator))
    return found.number, found.revision, found.status, found.title, " ".join(found.unsure)


@pytest.mark.parametrize(
    ("name", "reading"),
    [
        (f"{N}_P02_S3_{PLAN}.pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N}_S3_P02_Quay_hall_plan.pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N} P02 S3 {PLAN}.PDF", (N, "P02", "S3", PLAN, "")),
        (f"{N}-P02-S3 {PLAN}.pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N}-P02-S3-{PLAN}.pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N}-S3-P02.pdf", (N, "P02", "S3", "", "")),
        (f"{N}[P02].pdf", (N, "P02", "", "", "")),
        (f"{N}[P02] {PLAN}.pdf", (N, "P02", "", PLAN, "")),
        (f"{N} [P02] [S3] {PLAN}.pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N} [S3 P02] {PLAN}.pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N}(P02)(S3).pdf", (N, "P02", "S3", "", "")),
        (f"{N} {{P02}} {PLAN}.pdf", (N, "P02", "", PLAN, "")),
        (f"{N} Rev P02.pdf", (N, "P02", "", "", "")),
        (f"{N} rev. P02 {PLAN}.pdf", (N, "P02", "", PLAN, "")),
        (f"{N}_revP02_{PLAN}.pdf", (N, "P02", "", PLAN, "")),
        (f"{N}-REV-P02.dwg", (N, "P02", "", "", "")),
        (f"{N} Revision P02, S3, {PLAN}.pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N}_P02 (1).pdf", (N, "P02", "", "", "")),
        (f"{N}_P02_S3_{PLAN} (2).pdf", (N, "P02", "S3", PLAN, "")),
        (f"{N}_P02_{PLAN} - Copy.pdf", (N, "P02", "", PLAN, "")),
        (f"{N}_P02_{PLAN} - Copy (3).pdf", (N, "P02", "", PLAN, "")),
        (f"{N}.P02.S3.pdf", (N, "P02", "S3", "", "")),
        (f"{N}.P02.{PLAN}.pdf", (N, "P02", "", PLAN, "")),
        (f"{N}_p02.1_s3_{PLAN}.pdf", (N, "P02.1", "S3", PLAN, "")),
        (f"{N}_P02.01_S0.pdf", (N, "P02.01", "S0", "", "")),
        (f"{N}_C01_A1_{PLAN}.pdf", (N, "C01", "A1", PLAN, "")),
        (f"{N} - {PLAN}.pdf", (N, "", "", PLAN, "")),
        (f"{N} - {PLAN} - P02.pdf", (N, "P02", "", PLAN, "revision")),
        (f"{N} {PLAN} P02 S3.pdf", (N, "P02", "S3", PLAN, "revision")),
        (f"{N} {PLAN} [P02].pdf", (N, "P02", "", PLAN, "")),
        (f"{N} {PLAN} rev P02.pdf", (N, "P02", "", PLAN, "")),
        (f"{N} {PLAN} (rev P02).pdf", (N, "P02", "", PLAN, "")),
        (f"{N} {PLAN}_P02.pdf", (N, "P02", "", PLAN, "revision")),
        (f"{N} {PLAN} (level 1)_P02.pdf", (N, "P02", "", f"{PLAN} (level 1)", "revision")),
        (f"{N} rev B {PLAN}.pdf", (N, "B", "", PLAN, "revision")),
        (f"{PLAN} {N}_P02.pdf", (N, "P02", "", PLAN, "")),
        (f"{PLAN} ({N}) P02 S3.pdf", (N, "P02", "S3", PLAN, "")),
        ("BFT_TRA_Z1_01_D_A_0101_P02_S3.pdf", (N, "P02", "S3", "", "number")),
        (f"BFT TRA Z1 01 D A 0101 P02 {PLAN}.pdf", (N, "P02", "", PLAN, "number")),
        ("BFT.TRA.Z1.01.D.A.0101.P02.pdf", (N, "P02", "", "", "number")),
        ("BFT – TRA – Z1 – 01 – D – A – 0101 – P02.pdf", (N, "P02", "", "", "")),
        (f"{N.lower()}_p02_s3.pdf", (N.lower(), "P02", "S3", "", "")),
        (f"{N}.pdf", (N, "", "", "", "")),
        (f"{N}_Stage P01 plan_A1.pdf", (N, "", "", "Stage P01 plan A1", "")),
        (f"{N} P0 plan for S3 works.pdf", (N, "", "", "P0 plan for S3 works", "")),
        # What breaks the convention is still its number, for the check to explain.
        ("BFT-TRA-Z1-01-D-X-0101_P02_S3.pdf", ("BFT-TRA-Z1-01-D-X-0101", "P02", "S3", "", "")),
        ("BFT-TRA-Z1-O1-D-A-0101-P02.pdf", ("BFT-TRA-Z1-O1-D-A-0101", "P02", "", "", "")),
        ("BFT-TRA-01-D-A-0101_P02.pdf", ("BFT-TRA-01-D-A-0101", "P02", "", "", "")),
        (f"P02 {PLAN}.pdf", ("", "P02", "", PLAN, "")),
        ("../../etc/passwd", ("", "", "", "passwd", "")),
        ("", ("", "", "", "unnamed", "")),
    ],
)
def test_usual_forms_are_read(name, reading):
    assert read(name) == reading


UNDER = N.replace("-", "_")


@pytest.mark.parametrize(
    ("name", "reading"),
    [
        (f"{UNDER}_P02_S3_{PLAN}.pdf", (UNDER, "P02", "S3", PLAN, "")),
        (f"{UNDER}.pdf", (UNDER, "", "", "", "")),
        (f"{UNDER}-P02-{PLAN}.pdf", (UNDER, "P02", "", PLAN, "")),
        (f"{N}_P02.pdf", (UNDER, "P02", "", "", "number")),
        ("BFT_TRA_Z1_01_D_X_0101_P02.pdf", ("BFT_TRA_Z1_01_D_X_0101", "P02", "", "", "")),
    ],
)
def test_numbers_parted_by_low_lines_are_read(name, reading):
    """The separator can be chosen in Set-up; it read nothing."""
    assert read(name, separator="_") == reading


@pytest.mark.parametrize(
    ("name", "scheme", "revision", "title"),
    [
        (f"{N}_B_{PLAN}.pdf", Scheme.LETTERS, "B", PLAN),
        (f"{N}-B {PLAN}.pdf", Scheme.LETTERS, "B", PLAN),
        (f"{N}[B].pdf", Scheme.LETTERS, "B", ""),
        (f"{N} rev B.pdf", Scheme.LETTERS, "B", ""),
        (f"{N} Rev. AA {PLAN}.pdf", Scheme.LETTERS, "AA", PLAN),
        (f"{N} A plan of the quay.pdf", Scheme.LETTERS, "", "A plan of the quay"),
        (f"{N} B.pdf", Scheme.LETTERS, "B", ""),
        (f"{N}_3_{PLAN}.pdf", Scheme.NUMBERS, "3", PLAN),
        (f"{N} rev 12.pdf", Scheme.NUMBERS, "12", ""),
        (f"{N} 3 flats, plan.pdf", Scheme.NUMBERS, "", "3 flats, plan"),
        (f"{N} (1).pdf", Scheme.NUMBERS, "1", ""),
        (f"{N}_2 (1).pdf", Scheme.NUMBERS, "2", ""),
        (f"{N} {PLAN} rev 3.pdf", Scheme.NUMBERS, "3", PLAN),
    ],
)
def test_letters_and_figures_are_told_from_words(name, scheme, revision, title):
    found = read(name, scheme)
    assert (found[0], found[1], found[3]) == (N, revision, title)


@given(st.text(max_size=300), st.sampled_from(list(Scheme)), st.sampled_from("-_./"))
def test_any_name_at_all_is_read_without_harm(name, scheme, separator):
    read(name, scheme, separator)
    base = base_name(name)
    assert base
    assert "/" not in base
    assert base.isprintable()


@given(
    st.sampled_from(("_", "-", " ", " - ", "[", "(")), st.sampled_from(("P01", "P02.1", "C12")),
    st.sampled_from(STATUSES),
    st.booleans(), st.sampled_from(("Quay hall plan", "Level 1", "Riser, section B-B")),
)  # fmt: skip
def test_what_is_written_in_a_usual_form_is_what_is_read(between, revision, status, turned, title):
    shut = {"[": "]", "(": ")"}.get(between, "")
    codes = [status, revision] if turned else [revision, status]
    name = N + "".join(f"{between}{code}{shut}" for code in codes) + f" {title}.pdf"
    assert read(name) == (N, revision, status, title, "")


def test_a_name_made_to_be_slow_is_read_at_once():
    """Repeated parts must not be tried in every way (CWE-1333)."""
    for part in ("BFT-", "P02 ", "((", "rev ", "A-A_", "1."):
        read(part * 400)
