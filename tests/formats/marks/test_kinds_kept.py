"""What leaves comes back as what it was, also through a program that drops all that is not of the standard."""

import io
import re
from dataclasses import replace

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from pikepdf import Array, Dictionary, Name, String

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.annotations import to_marks
from nod.core.marks.mark_files import FiledMeasure, FiledReply, Paper, subject_of
from nod.core.marks.marks import MANNERS, Look, MarkKind, MarkState, check_look
from nod.core.sheet.geometry import PageBox
from nod.formats.marks.pdf_marks import annotate
from nod.formats.marks.pdf_marks_in import read_annotations
from nod.formats.marks.pdf_papers import PRIVATE
from nod.formats.marks.xfdf import read_xfdf, write_xfdf
from tests.formats.marks.test_pdf_marks import AT, SHAPES, mark
from tests.world import pdf

PAPER = Paper(PageBox(0, 0, 420 * 72 / 25.4, 297 * 72 / 25.4))
WAYS = [(kind, "") for kind in MarkKind] + [(kind, manner) for kind, those in MANNERS.items() for manner in those]


def _of(kind, manner):
    look = Look("blue", symbol=manner or ("look" if kind is MarkKind.SYMBOL else ""))
    return replace(mark(kind, look=look), measured=FiledMeasure("12 m", 35.0) if kind in _SCALED else None)


_SCALED = (MarkKind.DISTANCE, MarkKind.PATH, MarkKind.AREA, MarkKind.PERIMETER)


def _back(path):
    annotations, papers = read_annotations(path)
    return to_marks(annotations, papers, AT)


def _without_ours(source, target):
    with pikepdf.open(source) as file:
        for page in file.pages:
            for each in page.Annots:
                del each[PRIVATE]
        file.save(target)


@pytest.mark.parametrize(("kind", "manner"), WAYS)
@pytest.mark.parametrize("scaled", [True, False])
def test_through_a_program_that_drops_what_is_nods_own(tmp_path, kind, manner, scaled):
    (tmp_path / "a.pdf").write_bytes(pdf())
    drawn = _of(kind, manner) if scaled else replace(_of(kind, manner), measured=None)
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [drawn])
    _without_ours(tmp_path / "b.pdf", tmp_path / "c.pdf")
    (found,) = _back(tmp_path / "c.pdf").marks
    assert (found.kind, found.look.symbol) == (kind, drawn.look.symbol)
    assert len(found.points) == len(SHAPES[kind])
    for (x, y), (a, b) in zip(sorted(found.points), sorted(drawn.points), strict=True):
        assert (x, y) == pytest.approx((a, b), abs=2 if kind is MarkKind.STAMP else 0.6)


@pytest.mark.parametrize(("kind", "manner"), WAYS)
def test_as_it_is_where_what_is_nods_own_stays(tmp_path, kind, manner):
    (tmp_path / "a.pdf").write_bytes(pdf())
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [_of(kind, manner)])
    (found,) = _back(tmp_path / "b.pdf").marks
    assert found == replace(_of(kind, manner), measured=None)


@pytest.mark.parametrize(("kind", "manner"), WAYS)
def test_and_as_xfdf(kind, manner):
    content = write_xfdf([_of(kind, manner)], [PAPER], "sheet.pdf")
    content = re.sub(rb"<nod:mark>.*?</nod:mark>", b"", content, flags=re.DOTALL)
    (found,) = to_marks(read_xfdf(content), [PAPER], AT).marks
    assert (found.kind, found.look.symbol) == (kind, _of(kind, manner).look.symbol)


@pytest.mark.parametrize(("kind", "manner"), WAYS)
def test_a_manner_is_of_its_kind_alone(kind, manner):
    check_look(kind, _of(kind, manner).look)
    for other in MarkKind:
        if manner and other is not kind:
            with pytest.raises(RuleBroken):
                check_look(other, _of(kind, manner).look)


def test_a_cross_that_somebody_drew_is_no_count():
    """As large as it was drawn; what Nod writes for a count is of one size on paper."""
    drawn = mark(MarkKind.FREEHAND, ((100, 100), (160, 160), (100, 160), (160, 100)), rings=(2, 2))
    content = re.sub(rb"<nod:mark>.*?</nod:mark>", b"", write_xfdf([drawn], [PAPER], "a.pdf"), flags=re.DOTALL)
    (found,) = to_marks(read_xfdf(content), [PAPER], AT).marks
    assert (found.kind, found.rings) == (MarkKind.FREEHAND, (2, 2))


def test_lists_of_other_programs_say_the_manner():
    assert subject_of(_of(MarkKind.HIGHLIGHT, "strikeout")) == "Struck out"
    assert subject_of(replace(_of(MarkKind.PIN, "insert"), pin_number=3)) == "Pin 3"


def _look_of(path):
    page = pdfium.PdfDocument(path)[0]
    return page.render(scale=1).to_numpy().astype(int)


@pytest.mark.parametrize("manner", ["underline", "squiggly", "strikeout"])
@pytest.mark.parametrize("turn", [0, 90, 180, 270])
def test_a_line_lies_where_it_belongs_as_one_reads(tmp_path, manner, turn):
    """By another program's drawing: along the lower edge of the words as they are seen, or through their middle."""
    with pikepdf.open(io.BytesIO(pdf(""))) as file:
        file.pages[0].obj.Rotate = turn
        file.save(tmp_path / "a.pdf")
    wide = turn % 180 == 0
    box = ((300, 300), (500, 320)) if wide else ((300, 300), (320, 500))
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [mark(MarkKind.HIGHLIGHT, box, look=Look("red", symbol=manner))])
    inked = np.argwhere((_look_of(tmp_path / "a.pdf") != _look_of(tmp_path / "b.pdf")).any(axis=2))
    (top, left), (bottom, right) = inked.min(axis=0), inked.max(axis=0)
    assert right - left == pytest.approx(200, abs=6)
    height, width = _look_of(tmp_path / "a.pdf").shape[:2]
    low = {0: height - 300, 90: 320, 180: 320, 270: width and height - 300}[turn]
    across = (top + bottom) / 2
    assert across == pytest.approx(low - (10 if manner == "strikeout" else 1), abs=3)


# What others bring along.


def _picture(file):
    rows = bytes([200, 30, 30] * 64)
    image = file.make_stream(
        rows, Dictionary(Type=Name.XObject, Subtype=Name.Image, Width=8, Height=8, ColorSpace=Name.DeviceRGB,
                         BitsPerComponent=8),
    )  # fmt: skip
    resources = Dictionary(XObject=Dictionary(Im0=image))
    form = Dictionary(Type=Name.XObject, Subtype=Name.Form, BBox=Array([0, 0, 60, 40]), Resources=resources)
    return file.make_stream(b"60 0 0 40 0 0 cm /Im0 Do", form)


def _others(path, *, direct=False, subtype="Stamp"):
    """A sheet with what another program put on it: a stamp with a picture, or a file that hangs on it."""
    with pikepdf.open(io.BytesIO(pdf(""))) as file:
        each = Dictionary(
            Type=Name.Annot, Subtype=Name(f"/{subtype}"), Rect=Array([500, 500, 560, 540]), NM=String("theirs"),
            T=String("Ann"), Name=Name.Picture, F=4, AP=Dictionary(N=_picture(file)),
        )  # fmt: skip
        if subtype == "FileAttachment":
            stream = file.make_stream(b"The calculation.", Dictionary(Type=Name.EmbeddedFile))
            each.FS = Dictionary(
                Type=Name.Filespec, F=String("calc.txt"), UF=String("calc.txt"), EF=Dictionary(F=stream)
            )
        file.pages[0].obj.Annots = Array([each if direct else file.make_indirect(each)])
        file.save(path)


def _answered(path):
    (found,) = _back(path).marks
    answer = FiledReply("r1", "Ben", "Whose stamp is this?", AT)
    return replace(found, replies=(answer,), state=MarkState.AGREED, state_by="Ben", state_at=AT)


@pytest.mark.parametrize("rect", [[], [1, 2], [0, 0, 0, 0], ["x", None, 3, 4], [9, 9, 1, 1]])
def test_a_stamp_whose_place_is_none_keeps_nothing_away(tmp_path, rect):
    _others(tmp_path / "a.pdf")
    with pikepdf.open(tmp_path / "a.pdf", allow_overwriting_input=True) as file:
        file.pages[0].Annots[0].Rect = Array([String(each) if isinstance(each, str) else each for each in rect])
        file.save(tmp_path / "a.pdf")
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [_answered(tmp_path / "a.pdf")])
    assert [each.id for each in _back(tmp_path / "b.pdf").marks] == ["theirs"]


def test_a_stamp_that_all_know_is_named_in_lists(tmp_path):
    _others(tmp_path / "a.pdf")
    with pikepdf.open(tmp_path / "a.pdf", allow_overwriting_input=True) as file:
        file.pages[0].Annots[0].Name = Name.Approved
        file.save(tmp_path / "a.pdf")
    found = _back(tmp_path / "a.pdf")
    assert [(each.text, each.label) for each in found.marks] == [("", "Approved")]
    assert not found.told


@pytest.mark.parametrize("direct", [True, False])
def test_a_stamps_picture_stays_and_is_answered(tmp_path, direct):
    _others(tmp_path / "a.pdf", direct=direct)
    found = _answered(tmp_path / "a.pdf")
    assert (found.kind, found.text) == (MarkKind.STAMP, "")
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [found])
    assert (_look_of(tmp_path / "a.pdf") == _look_of(tmp_path / "b.pdf")).all()
    again = _back(tmp_path / "b.pdf")
    assert [(each.id, each.state, [reply.text for reply in each.replies]) for each in again.marks] == [
        ("theirs", MarkState.AGREED, ["Whose stamp is this?"])
    ]
    # Once more, and nothing is there twice.
    annotate(tmp_path / "b.pdf", tmp_path / "c.pdf", list(again.marks))
    with pikepdf.open(tmp_path / "b.pdf") as one, pikepdf.open(tmp_path / "c.pdf") as other:
        assert len(one.pages[0].Annots) == len(other.pages[0].Annots) == 3


def test_a_moved_one_takes_its_picture_along(tmp_path):
    _others(tmp_path / "a.pdf")
    found = _answered(tmp_path / "a.pdf")
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [replace(found, points=((700, 500), (760, 540)))])
    before, after = _look_of(tmp_path / "a.pdf"), _look_of(tmp_path / "b.pdf")
    height = before.shape[0]
    at = slice(height - 545, height - 495)
    assert (before[at, 495:565] == after[at, 695:765]).all()
    assert not (before[at, 495:565] == after[at, 495:565]).all()


def test_a_file_that_hangs_on_the_sheet_stays(tmp_path):
    _others(tmp_path / "a.pdf", subtype="FileAttachment")
    found = _answered(tmp_path / "a.pdf")
    assert _back(tmp_path / "a.pdf").told == {"FileAttachment": 1}
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [found])
    with pikepdf.open(tmp_path / "b.pdf") as file:
        (theirs,) = [each for each in file.pages[0].Annots if each.Subtype == Name.FileAttachment]
        assert theirs.FS.EF.F.read_bytes() == b"The calculation."
        assert [each.IRT.objgen for each in file.pages[0].Annots if "/IRT" in each] == [theirs.objgen] * 2


def test_what_was_taken_away_here_goes(tmp_path):
    _others(tmp_path / "a.pdf")
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [], frozenset({"theirs"}))
    assert _back(tmp_path / "b.pdf").marks == ()
