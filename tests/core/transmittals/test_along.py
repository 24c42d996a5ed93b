"""What goes along with a transmittal, in words, and what its made files are called."""

from datetime import date

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.core.transmittals.along import Along, along_words, copies_folder, copy_name, is_made
from nod.core.transmittals.distribution import Known, Line, check_lines


@pytest.mark.parametrize(
    ("natives", "stamped", "marks", "words"),
    [
        (False, False, "", ""),
        (True, False, "", "native files"),
        (True, True, "", "native files and stamped copies"),
        (True, True, "summary", "native files, stamped copies and summaries of their marks"),
        (False, False, "marked", "copies with their marks"),
    ],
)
def test_it_is_said_as_part_of_a_sentence(natives, stamped, marks, words):
    assert along_words(natives=natives, stamped=stamped, marks=marks) == words


def test_copies_are_called_after_their_document():
    assert copy_name("A-101_P01_S3.pdf", Along.STAMPED) == "A-101_P01_S3_stamped.pdf"
    assert copy_name("A-101_P01_S3.dxf", Along.SUMMARY) == "A-101_P01_S3_marks_summary.pdf"
    assert copy_name("plan", Along.MARKED) == "plan_marks.pdf"


@pytest.mark.parametrize(
    ("path", "made"),
    [
        ("HBC-T-0001_cover.pdf", True),
        ("HBC-T-0001_list.csv", True),
        (copies_folder("HBC-T-0001") + "x.pdf", True),
        ("HBC-T-0001_cover.pdf.pdf", False),
        ("HBC-T-0001_copies", False),
        ("sub/HBC-T-0001_copies/x.pdf", False),
        ("HBC-T-00010_copies/x.pdf", False),
    ],
)
def test_only_what_nod_makes_counts_as_made(path, made):
    assert is_made(path, "HBC-T-0001") is made


@pytest.mark.parametrize(("status", "since"), [("", date(2027, 3, 1)), ("S3", None)])
def test_what_goes_by_itself_names_a_status_and_a_day(status, since):
    known = Known({"A"}, {"D"}, {"S3"}, {"information"}, set())
    line = Line("A", "D", status, "filed", "information", since, {}, sent_by="somebody")
    with pytest.raises(RuleBroken) as refused:
        check_lines([line], known)
    assert refused.value.code == "by_itself_open"
    assert check_lines([Line("A", "D", "S3", "filed", "information", date(2027, 3, 1), {}, "somebody")], known)
