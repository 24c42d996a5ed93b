"""The files of one revision (handbook §4): what governs, what goes with it, what is twice."""

from dataclasses import replace

import pytest

from nod.core.intake import checks
from nod.core.intake.file_names import is_of_a_system
from nod.core.intake.findings import DXF, PDF, UNKNOWN_TYPE, Arriving, Registered, Rules, Weight
from nod.core.intake.renditions import Came, kind_of, together
from nod.core.register.numbers import Convention
from nod.core.register.revisions import Scheme
from nod.demo.scenario import NUMBER_FIELDS

NUMBER = "BFT-TRA-Z1-01-D-A-0101"
RULES = Rules(Convention(tuple(NUMBER_FIELDS)), Scheme.STAGED, ("S0", "S3"))
NATIVE = Arriving(NUMBER, "P02", "", "", "d" * 64, kind="DWG", media_type=UNKNOWN_TYPE, file_name="x.dwg")
HELD = Registered(
    "Ground floor",
    "P02",
    "A1",
    {"P01": "0" * 64, "P02": "1" * 64},
    renditions={"P01": {"PDF": "0" * 64}, "P02": {"PDF": "1" * 64}},
)


@pytest.mark.parametrize(
    ("media_type", "file_name", "kind"),
    [
        (PDF, "named.dwg", "PDF"),
        (DXF, "x.dxf", "DXF"),
        (UNKNOWN_TYPE, "x.DWG", "DWG"),
        ("application/zip", "x.docx", "DOCX"),
        ("image/tiff", "x.tif", "TIFF"),
        (UNKNOWN_TYPE, "without", "file"),
        ("image/png", "without", "PNG"),
    ],
)
def test_the_kind_is_told_by_the_content_then_by_the_ending(media_type, file_name, kind):
    assert kind_of(media_type, file_name) == kind


def came(id, media_type, file_name, revision="P01", number=NUMBER):
    return Came(id, number, revision, media_type, file_name)


def test_a_pdf_governs_whenever_it_came():
    files = [came("a", UNKNOWN_TYPE, "x.dwg"), came("b", DXF, "x.dxf"), came("c", PDF, "x.pdf")]
    stands = together(files)
    assert {key: each.governs and each.governs.id for key, each in stands.items()} == {"a": "c", "b": "c", "c": None}
    assert not any(each.twins for each in stands.values())


def test_two_of_a_kind_are_twice_and_what_goes_with_them_goes_with_the_first():
    stands = together([came("a", PDF, "x.pdf"), came("b", PDF, "y.pdf"), came("c", UNKNOWN_TYPE, "x.dwg")])
    assert [stands[key].twins for key in "abc"] == [1, 1, 0]
    assert stands["c"].governs.id == "a"


def test_other_revisions_and_files_without_a_number_stand_alone():
    files = [
        came("a", PDF, "x.pdf"),
        came("b", UNKNOWN_TYPE, "x.dwg", revision="P02"),
        came("c", PDF, "y.pdf", number=""),
        came("d", UNKNOWN_TYPE, "y.dwg", number=""),
    ]
    assert all(each.governs is None and not each.twins for each in together(files).values())


def codes(arriving, register=None):
    return [(each.weight, each.code) for each in checks.check(arriving, register, RULES)]


def test_what_goes_with_another_needs_no_title_and_no_status_of_its_own():
    assert codes(replace(NATIVE, goes_with="x.pdf")) == [(Weight.FINE, "goes_with")]
    stopped = replace(NATIVE, goes_with="x.pdf", goes_with_stopped=True)
    assert codes(stopped) == [(Weight.STOP, "goes_with_stopped")]


@pytest.mark.parametrize(("goes_with", "register"), [("x.pdf", None), ("", HELD)])
def test_two_natives_of_one_revision_are_twice_like_any_other(goes_with, register):
    found = codes(replace(NATIVE, goes_with=goes_with, twins_in_batch=1), register)
    assert found[0] == (Weight.STOP, "twice_in_batch")


def test_a_native_that_comes_later_is_filed_beside_what_is_there():
    assert codes(NATIVE, HELD) == [(Weight.LOOK, "adds_rendition")]
    out = replace(HELD, out_with="Marit")
    assert codes(NATIVE, out) == [(Weight.STOP, "checked_out")]


def test_a_further_file_that_is_there_is_there_already_or_silently_changed():
    there = replace(HELD, renditions={"P02": {"PDF": "1" * 64, "DWG": "d" * 64}})
    assert codes(NATIVE, there) == [(Weight.SAME, "already_there")]
    assert codes(replace(NATIVE, sha256="e" * 64), there) == [(Weight.STOP, "silent_change")]
    assert codes(replace(NATIVE, goes_with="x.pdf"), there) == [(Weight.SAME, "already_there")]


def test_nothing_is_said_of_what_is_for_others():
    hidden = Registered("", "", "", {}, for_others=True)
    assert (Weight.STOP, "filed_by_controllers") in codes(replace(NATIVE, title="x"), hidden)


def test_an_older_revision_can_be_filed_as_history():
    older = Arriving(NUMBER, "P01.01", "S3", "Ground floor", "9" * 64)
    (found,) = [each for each in checks.check(older, HELD, RULES) if each.weight is Weight.STOP]
    assert (found.code, found.field, found.mend) == ("older_than_current", "history", "yes")
    assert (Weight.LOOK, "as_history") in codes(replace(older, as_history=True), HELD)
    # Meant as history, but later than what is there: it is filed like any other.
    later = replace(older, revision="P03", as_history=True)
    assert (Weight.LOOK, "as_history") not in codes(later, HELD)


@pytest.mark.parametrize(
    ("path", "left_out"),
    [
        (".DS_Store", True),
        ("Plans/Thumbs.db", True),
        ("__MACOSX/Plans/._a.pdf", True),
        ("Plans\\desktop.ini", True),
        ("~$Schedule.xlsx", True),
        ("a.bak", True),
        ("a.dwl", True),
        ("Plans/a.pdf", False),
        ("macosx/a.pdf", False),
        ("thumbs.pdf", False),
        (".pdf", False),
    ],
)
def test_what_systems_leave_behind_is_known(path, left_out):
    assert is_of_a_system(path) is left_out


ASKS = replace(RULES, native_forms=("D",))
PLAN = Arriving(NUMBER, "P03", "S3", "Ground floor", "e" * 64, came_with=())


@pytest.mark.parametrize(
    ("arriving", "rules", "asked"),
    [
        (PLAN, ASKS, True),
        (replace(PLAN, came_with=("DWG",)), ASKS, False),
        (PLAN, RULES, False),
        (replace(PLAN, number=NUMBER.replace("-D-", "-S-")), ASKS, False),
        (replace(PLAN, media_type=DXF, kind="DXF"), ASKS, False),
        (replace(PLAN, revision="P01", as_history=True), ASKS, False),
    ],
)
def test_a_pdf_without_its_native_is_looked_at_where_the_project_asks_for_one(arriving, rules, asked):
    """Handbook §4: the project can ask for a native (missing: look)."""
    held = (
        None
        if arriving.number != NUMBER
        else replace(HELD, renditions={"P02": {"PDF": "1" * 64}}, revisions={"P02": "1" * 64})
    )
    found = checks.check(arriving, held, rules)
    assert ("native_missing" in {each.code for each in found}) is asked
    assert all(each.weight is Weight.LOOK for each in found if each.code == "native_missing")


def test_no_native_is_asked_of_what_is_there_already():
    held = replace(HELD, revisions={"P03": "e" * 64}, renditions={"P03": {"PDF": "e" * 64}})
    assert {each.code for each in checks.check(PLAN, held, ASKS)} == {"already_there"}


def test_which_kinds_came_is_known_of_each():
    stands = together([came("a", UNKNOWN_TYPE, "x.dwg"), came("b", DXF, "x.dxf"), came("c", PDF, "x.pdf")])
    assert stands["c"].kinds == ("DWG", "DXF")
    assert stands["a"].kinds == ("DXF", "PDF")
    assert together([came("c", PDF, "x.pdf")])["c"].kinds == ()
