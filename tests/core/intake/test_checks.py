import re
from dataclasses import replace
from pathlib import Path

import pytest

from nod.core.intake import checks, register_checks, renditions, witnesses
from nod.core.intake.findings import NAMES, Arriving, ComparedWith, Registered, Rules, Weight
from nod.core.register.look_alikes import tidy_title
from nod.core.register.numbers import Convention
from nod.core.register.revisions import Scheme
from nod.demo.scenario import NUMBER_FIELDS
from nod.formats.intake import pdf_facts

RULES = Rules(Convention(tuple(NUMBER_FIELDS)), Scheme.STAGED, ("S0", "S3", "A1"))
NEW = Arriving("BFT-TRA-Z1-01-D-A-0101", "P02", "S3", "Quay hall, level 1 plan", "b" * 64, page_size="A1")
THERE = Registered("Quay hall, level 1 plan", "P01", "A1", {"P01": "a" * 64})


def _codes(arriving, register=THERE):
    return [(each.weight, each.code) for each in checks.check(arriving, register, RULES)]


def test_the_next_revision_of_a_known_sheet_is_fine():
    assert _codes(NEW) == []


@pytest.mark.parametrize(
    ("change", "found"),
    [
        ({"number": "BFT-TRA-Z1-01-D-X-0101"}, (Weight.STOP, "number_breaks_convention")),
        ({"number": "BFT-TRA-Z1-01-D-А-0101"}, (Weight.STOP, "look_alikes")),
        ({"revision": ""}, (Weight.STOP, "revision_missing")),
        ({"revision": "Q7"}, (Weight.STOP, "revision_unknown")),
        ({"status": "Z9"}, (Weight.STOP, "status_unknown")),
        ({"title": ""}, (Weight.STOP, "title_missing")),
        ({"twins_in_batch": 1}, (Weight.STOP, "twice_in_batch")),
        ({"revision": "P01"}, (Weight.STOP, "silent_change")),
        ({"revision": "P01.2"}, (Weight.STOP, "older_than_current")),
        ({"fault": "encrypted", "fault_words": "It is encrypted."}, (Weight.STOP, "encrypted")),
        ({"revision": "P04"}, (Weight.LOOK, "revision_gap")),
        ({"status": ""}, (Weight.LOOK, "status_missing")),
        ({"title": "Another"}, (Weight.LOOK, "title_changed")),
        ({"page_size": "A3"}, (Weight.LOOK, "size_changed")),
        ({"has_text": False}, (Weight.LOOK, "no_text")),
        ({"active_content": ("a script",)}, (Weight.LOOK, "active_content")),
        ({"revision": "P01", "sha256": "a" * 64}, (Weight.SAME, "already_there")),
    ],
)
def test_each_finding_of_the_handbook_is_found_alone(change, found):
    assert _codes(replace(NEW, **change)) == [found]


def test_a_number_that_is_new_is_worth_a_look():
    assert _codes(replace(NEW, revision="P01"), None) == [(Weight.LOOK, "new_number")]
    assert (Weight.LOOK, "revision_gap") in _codes(replace(NEW, revision="P03"), None)


def test_the_gravest_finding_comes_first():
    findings = checks.check(replace(NEW, status="", revision="Q7"), THERE, RULES)
    assert [each.weight for each in findings] == [Weight.STOP, Weight.LOOK]
    assert checks.is_stopped(findings)
    assert checks.held_reason(findings) == findings[0].words


def test_a_broken_file_is_not_asked_anything_else():
    fault = replace(NEW, number="", fault="unreadable", fault_words="It is broken.")
    assert _codes(fault) == [(Weight.STOP, "unreadable")]


def test_an_older_revision_with_a_code_already_used_is_told_as_what_it_is():
    register = replace(THERE, current_revision="P03", revisions={"P01": "a" * 64, "P03": "c" * 64})
    assert _codes(replace(NEW, revision="P01"), register) == [(Weight.STOP, "silent_change")]
    assert _codes(replace(NEW, revision="P01", sha256="a" * 64), register) == [(Weight.SAME, "already_there")]


def test_every_finding_has_a_name():
    """Codes are found in the source: one without a name would be shown by its code."""
    modules = (checks, register_checks, renditions, pdf_facts)
    source = "".join(Path(each.__file__).read_text() for each in modules)
    codes = set(re.findall(r'Weight\.\w+, "(\w+)"', source)) | set(re.findall(r'FileFacts\("(\w+)"', source))
    assert codes <= set(NAMES)
    assert len(codes) > 25


def test_a_wrong_number_is_mended_by_what_the_sheet_says():
    """The nearest code would be A; the title block says S, and it is right."""
    wrong, printed = "BFT-TRA-Z1-01-D-X-0101", "BFT-TRA-Z1-01-D-S-0101"
    arriving = replace(NEW, number=wrong, disagreements=(("number", wrong, printed),))
    mends = {each.mend for each in checks.check(arriving, None, RULES) if each.field == "number"}
    assert mends == {printed}
    guessed = replace(NEW, number=wrong)
    assert {each.mend for each in checks.check(guessed, None, RULES) if each.field == "number"} == {NEW.number}


COMPARED = ComparedWith("P01", known=True, places=3, bare=1)


@pytest.mark.parametrize(
    ("compared", "codes"),
    [
        (None, set()),
        (replace(COMPARED, known=False), set()),
        (replace(COMPARED, fault="too slow"), set()),
        (COMPARED, {"changed_outside_clouds"}),
        (replace(COMPARED, bare=0), set()),
        (replace(COMPARED, places=0, bare=0), {"nothing_changed"}),
        (replace(COMPARED, other_drawing=True), {"another_drawing"}),
    ],
)
def test_a_later_revision_says_how_its_drawing_stands(compared, codes):
    assert {code for _, code in _codes(replace(NEW, compared=compared))} == codes


@pytest.mark.parametrize(
    ("compared", "weight", "words"),
    [
        (None, "stop", "being compared"),
        (replace(COMPARED, places=2), "stop", "differs at 2 places"),
        (replace(COMPARED, fault="it is too slow."), "stop", "could not be compared: it is too slow."),
        (replace(COMPARED, places=0), "same", "only the file was saved again"),
        (replace(COMPARED, places=0, same_words=False), "stop", "its text differs"),
        (replace(COMPARED, places=0, same_extras=False), "stop", "its layers, links or annotations differ"),
        (replace(COMPARED, places=0, pages=(1, 2)), "stop", "it has 2 pages instead of 1"),
    ],
)
def test_the_same_revision_again_says_what_differs(compared, weight, words):
    (found,) = checks.check(replace(NEW, revision="P01", compared=compared), THERE, RULES)
    assert (found.weight, words in found.words) == (weight, True)


@pytest.mark.parametrize(
    ("field", "one", "other", "agree"),
    [
        ("title", "Quay_hall PLAN", "Quay hall, plan", True),
        ("title", "Quay hall plan", "Quay hall section", False),
        ("number", "A-1", "A-l", False),
        ("number", "ВFT-1", "BFT-1", True),
        ("revision", "P01", "", True),
        ("revision", "P01", "P02", False),
    ],
)
def test_witnesses_agree_or_not(field, one, other, agree):
    assert witnesses.agree(field, one, other) is agree
    assert bool(witnesses.disagreements({field: one}, {field: other}, {})) is not agree
    assert witnesses.disagreements({field: one}, {field: other}, {field: "typed"}) == []


def test_titles_are_tidied_but_languages_are_left_alone():
    assert tidy_title("Quay  hаll") == "Quay hall"
    assert tidy_title("Причал hall") == "Причал hall"
    assert tidy_title("Ｑuay") == "Quay"
