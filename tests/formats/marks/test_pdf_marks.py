"""Marks in PDF files, read back by other programs: pypdf, pdfium, poppler's drawing, and qpdf for the structure."""

import ctypes
import io
import itertools
import json
import subprocess
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pikepdf
import pypdf
import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from nod.core.marks.mark_files import SUBTYPES, FiledMark, FiledReply, Paper, rect_of
from nod.core.marks.mark_paths import bulges, cloud, extent
from nod.core.marks.marks import IN_FILES, INKS, POINTS, Look, MarkKind, MarkState
from nod.core.sheet.geometry import PageBox
from nod.formats.files.unfit import CannotAnnotate
from nod.formats.marks.pdf_marks import annotate, pdf_date
from nod.formats.marks.pdf_papers import paper_of
from tests.outside import shared_data
from tests.world import pdf

AT = datetime(2027, 3, 9, 8, 30, tzinfo=UTC)
SHAPES = {
    MarkKind.CLOUD: ((100, 100), (260, 100), (260, 200), (100, 200)), MarkKind.RECTANGLE: ((300, 100), (400, 160)),
    MarkKind.ELLIPSE: ((300, 200), (400, 260)), MarkKind.LINE: ((420, 100), (520, 160)),
    MarkKind.ARROW: ((420, 200), (520, 260)), MarkKind.POLYLINE: ((540, 100), (580, 160), (620, 110)),
    MarkKind.POLYGON: ((540, 200), (620, 200), (600, 260)), MarkKind.FREEHAND: ((640, 100), (650, 130), (700, 110)),
    MarkKind.HIGHLIGHT: ((640, 200), (720, 214)), MarkKind.TEXT: ((100, 300), (220, 340)),
    MarkKind.CALLOUT: ((300, 330), (420, 370), (260, 300)), MarkKind.PIN: ((480, 330),),
    MarkKind.STAMP: ((520, 320), (640, 360)), MarkKind.SYMBOL: ((680, 340),),
    MarkKind.COUNT: ((120, 420), (150, 430), (180, 420)),
    MarkKind.DISTANCE: ((220, 420), (320, 450)), MarkKind.PATH: ((340, 420), (400, 420), (400, 460)),
    MarkKind.AREA: ((430, 420), (530, 420), (530, 500), (430, 500)),
    MarkKind.PERIMETER: ((560, 420), (640, 420), (600, 500)), MarkKind.ANGLE: ((680, 420), (680, 500), (740, 500)),
}  # fmt: skip


def mark(kind, points=None, page=0, **more):
    look = Look(symbol="tick") if kind is MarkKind.SYMBOL else Look("blue")
    given = {"look": look, "text": "Headroom: 2,20 m (ü, ≥)", "label": "", **more}
    author = "Leilani Brandt (PLS)"
    return FiledMark(
        f"id-{kind}", page, kind, points or SHAPES[kind], author=author, drawn_at=AT, changed_at=AT, **given
    )


@pytest.fixture
def sheet(tmp_path):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(pdf())
    return path


@pytest.fixture
def marked(tmp_path, sheet):
    def write(*marks, source=sheet):
        target = tmp_path / "marked.pdf"
        annotate(source, target, marks)
        return target

    return write


@pytest.fixture
def all_kinds(marked):
    return marked(*(mark(kind, pin_number=3 if kind is MarkKind.PIN else None) for kind in MarkKind))


def _known_by_pypdf(path):
    return {
        each["/NM"]: each for page in pypdf.PdfReader(path).pages for each in (a.get_object() for a in page["/Annots"])
    }


def test_pypdf_reads_kind_place_author_and_text_of_every_kind(all_kinds):
    found = _known_by_pypdf(all_kinds)
    for kind in MarkKind:
        each, drawn = found[f"id-{kind}"], mark(kind)
        assert each["/Subtype"] == f"/{SUBTYPES[kind]}"
        assert (each["/T"], each["/Contents"]) == (drawn.author, drawn.text)
        assert (each["/M"], each["/F"]) == ("D:20270309083000+00'00'", 4)
        assert [float(value) for value in each["/Rect"]] == pytest.approx(rect_of(drawn, Paper(_box())), abs=0.01)


def _box():
    return PageBox(0, 0, 420 * 72 / 25.4, 297 * 72 / 25.4)


PLACES = {
    MarkKind.CLOUD: "/Vertices", MarkKind.POLYGON: "/Vertices", MarkKind.POLYLINE: "/Vertices", MarkKind.LINE: "/L",
    MarkKind.ARROW: "/L", MarkKind.FREEHAND: "/InkList",
}  # fmt: skip


@pytest.mark.parametrize("kind", PLACES)
def test_places_are_kept_to_a_tenth_of_a_point(all_kinds, kind):
    kept = _known_by_pypdf(all_kinds)[f"id-{kind}"][PLACES[kind]]
    values = kept[0] if kind is MarkKind.FREEHAND else kept
    assert [float(each) for each in values] == pytest.approx(
        [value for point in SHAPES[kind] for value in point], abs=0.1
    )


@pytest.mark.parametrize("kind", [MarkKind.RECTANGLE, MarkKind.ELLIPSE, MarkKind.TEXT, MarkKind.CALLOUT])
def test_boxes_lie_in_their_rectangle_by_its_differences(all_kinds, kind):
    """ISO 32000-1 table 177: left, top, right, bottom."""
    each = _known_by_pypdf(all_kinds)[f"id-{kind}"]
    left, low, right, high = (float(value) for value in each["/Rect"])
    inset = [float(value) for value in each["/RD"]]
    box = (left + inset[0], low + inset[3], right - inset[2], high - inset[1])
    assert box == pytest.approx(extent(SHAPES[kind][:2]), abs=0.1)


def _text_of(annotation, key):
    size = pdfium_c.FPDFAnnot_GetStringValue(annotation, key, None, 0)
    buffer = ctypes.create_string_buffer(size)
    pdfium_c.FPDFAnnot_GetStringValue(annotation, key, ctypes.cast(buffer, ctypes.POINTER(ctypes.c_ushort)), size)
    return buffer.raw[:size].decode("utf-16-le").rstrip("\0")


def _known_by_pdfium(path):
    """By name: subtype as pdfium numbers it, rectangle, author, text."""
    found = {}
    with pdfium.PdfDocument(path) as document:
        page = document[0]
        for place in range(pdfium_c.FPDFPage_GetAnnotCount(page)):
            each = pdfium_c.FPDFPage_GetAnnot(page, place)
            rect = pdfium_c.FS_RECTF()
            pdfium_c.FPDFAnnot_GetRect(each, rect)
            found[_text_of(each, b"NM")] = (
                pdfium_c.FPDFAnnot_GetSubtype(each), (rect.left, rect.bottom, rect.right, rect.top),
                _text_of(each, b"T"), _text_of(each, b"Contents"), _text_of(each, b"State"),
            )  # fmt: skip
            pdfium_c.FPDFPage_CloseAnnot(each)
    return found


def test_pdfium_reads_the_same(all_kinds):
    found = _known_by_pdfium(all_kinds)
    for kind in MarkKind:
        subtype, rect, author, text, _ = found[f"id-{kind}"]
        assert subtype == getattr(pdfium_c, f"FPDF_ANNOT_{SUBTYPES[kind].upper()}")
        assert rect == pytest.approx(rect_of(mark(kind), Paper(_box())), abs=0.1)
        assert (author, text) == (mark(kind).author, mark(kind).text)


def test_qpdf_finds_no_fault(all_kinds):
    done = subprocess.run(["qpdf", "--check", str(all_kinds)], capture_output=True, text=True, check=False)
    assert (done.returncode, "No syntax or stream encoding errors found" in done.stdout) == (0, True)


def _drawn_by_poppler(path, page=1):
    """At 72 dpi, so that a pixel is a point of the page as seen."""
    command = ["pdftoppm", "-r", "72", "-cropbox", "-f", str(page), "-l", str(page), "-png", str(path)]
    return Image.open(io.BytesIO(subprocess.run(command, capture_output=True, check=True).stdout)).convert("RGB")


def _drawn_by_pdfium(path, page=0):
    with pdfium.PdfDocument(path) as document:
        return document[page].render(scale=1, may_draw_forms=False).to_pil().convert("RGB")


def _inked(picture, place, reach=4):
    """Whether blue ink is near a place of the picture."""
    x, y = round(place[0]), round(place[1])
    near = np.asarray(picture.crop((x - reach, y - reach, x + reach + 1, y + reach + 1)), np.int16)
    return bool((near[..., 2] - near[..., 0] > 60).any())


ON_INK = {kind: points[0] for kind, points in SHAPES.items()} | {
    MarkKind.RECTANGLE: (350, 100), MarkKind.ELLIPSE: (300, 230), MarkKind.HIGHLIGHT: (660, 207),
    MarkKind.CALLOUT: (300, 350), MarkKind.STAMP: (520, 340), MarkKind.TEXT: (112, 331),
    MarkKind.CLOUD: (180, 97), MarkKind.SYMBOL: (680, 340),
}  # fmt: skip


@pytest.mark.parametrize("draw", [_drawn_by_poppler, _drawn_by_pdfium])
def test_other_programs_draw_the_ink_where_it_was_put(marked, draw):
    path = marked(
        *(mark(kind, look=Look("blue", 1.5, symbol="tick" if kind is MarkKind.SYMBOL else "")) for kind in MarkKind)
    )
    picture = draw(path)
    for kind, (x, y) in ON_INK.items():
        assert _inked(picture, (x, picture.height - y), 6), kind


def test_threads_and_states_hang_on_their_mark(marked):
    replies = (FiledReply("r1", "Anouk Ferreira (NFA)", "60 minutes.", AT), FiledReply("r2", "x (HBC)", "Done.", AT))
    path = marked(
        mark(MarkKind.PIN, state=MarkState.DECLINED, state_by="Anouk Ferreira (NFA)", state_at=AT, replies=replies)
    )
    found = _known_by_pypdf(path)
    parent = found["id-pin"]
    for name, text in (("r1", "60 minutes."), ("r2", "Done.")):
        assert (found[name]["/Contents"], found[name]["/IRT"]["/NM"], found[name]["/RT"]) == (text, parent["/NM"], "/R")
    state = found["id-pin-state"]
    assert (state["/State"], state["/StateModel"], state["/T"]) == ("Rejected", "Review", "Anouk Ferreira (NFA)")
    assert _known_by_pdfium(path)["id-pin-state"][4] == "Rejected"
    # An icon for an answer would cover the sheet: poppler and pdfium draw the pin alone.
    alone = marked(mark(MarkKind.PIN))
    assert _drawn_by_poppler(path).tobytes() == _drawn_by_poppler(alone).tobytes()
    assert _drawn_by_pdfium(path).tobytes() == _drawn_by_pdfium(alone).tobytes()


@pytest.mark.parametrize("state", [each for each in MarkState if each is not MarkState.OPEN])
def test_every_state_has_its_name_in_files(marked, state):
    found = _known_by_pypdf(marked(mark(MarkKind.LINE, state=state)))
    assert found["id-line-state"]["/State"] == IN_FILES[state]


GEOMETRY = sorted(shared_data("pdf/geometry").glob("*.pdf"))


@pytest.mark.parametrize("path", GEOMETRY, ids=lambda path: path.name)
def test_on_turned_and_cropped_pages_a_mark_is_where_it_was_put(path, marked):
    """The middle of the left edge of what is seen, on every page of the given files."""
    with pikepdf.open(path) as source:
        papers = [paper_of(page) for page in source.pages]
    drawn = []
    for page, paper in enumerate(papers):
        width, height = paper.box.view_size()
        seen = [(width * 0.25, height * 0.5), (width * 0.75, height * 0.5)]
        points = tuple(paper.box.to_view().inverse().apply(point) for point in seen)
        drawn.append(mark(MarkKind.LINE, points, page, look=Look("blue", 2)))
    target = marked(*drawn, source=path)
    for page, paper in enumerate(papers):
        width, height = paper.box.view_size()
        for picture in (_drawn_by_poppler(target, page + 1), _drawn_by_pdfium(target, page)):
            scale = picture.width / width
            for share in (0.3, 0.5, 0.7):
                assert _inked(picture, (width * share * scale, height * 0.5 * scale), 5), (path.name, page)


@pytest.mark.parametrize("rotation", [0, 90, 180, 270])
def test_letters_stand_upright_on_a_turned_page(tmp_path, marked, rotation):
    """The same text in the same place as seen looks the same, however the page is turned."""
    pictures = []
    for turn in (0, rotation):
        path = tmp_path / f"{turn}.pdf"
        with pikepdf.new() as new:
            new.add_blank_page(page_size=(400, 400))
            new.pages[0].Rotate = turn
            new.save(path)
        back = PageBox(0, 0, 400, 400, turn).to_view().inverse()
        corners = tuple(back.apply(point) for point in ((60, 100), (300, 180)))
        target = marked(mark(MarkKind.TEXT, corners, look=Look("blue", type_mm=8)), source=path)
        pictures.append(_drawn_by_pdfium(target))
    first, other = (np.asarray(picture.crop((62, 102, 298, 178)), np.int16)[..., 0] for picture in pictures)
    assert (abs(first - other) > 96).mean() < 0.01
    assert first.min() < 128


def test_user_unit_makes_ink_as_wide_on_paper(tmp_path, marked):
    path = tmp_path / "large.pdf"
    with pikepdf.new() as new:
        new.add_blank_page(page_size=(400, 400))
        new.pages[0].obj.UserUnit = 10
        new.save(path)
    found = _known_by_pypdf(marked(mark(MarkKind.LINE, look=Look("blue", 2.54)), source=path))
    assert float(found["id-line"]["/BS"]["/W"]) == pytest.approx(0.72)


def test_what_the_file_held_stays(marked):
    """Marks of others are not dropped."""
    source = shared_data("pdf/annotations") / "commented.pdf"
    with pikepdf.open(source) as before:
        count = sum(len(page.get("/Annots", [])) for page in before.pages)
    with pikepdf.open(marked(mark(MarkKind.PIN), source=source)) as after:
        assert sum(len(page.get("/Annots", [])) for page in after.pages) == count + 1


def test_a_locked_or_broken_file_is_told(tmp_path):
    broken = tmp_path / "broken.pdf"
    broken.write_bytes(b"%PDF-1.7\nno more")
    with pytest.raises(CannotAnnotate):
        annotate(broken, tmp_path / "out.pdf", [mark(MarkKind.PIN)])
    assert not (tmp_path / "out.pdf").exists()


def test_dates_are_told_in_utc():
    """ISO 32000-1, 7.9.4."""
    zoned = datetime.fromisoformat("2027-03-09T10:30:00+02:00")
    assert pdf_date(zoned) == "D:20270309083000+00'00'"


@given(st.lists(st.tuples(st.floats(0, 2000), st.floats(0, 2000)), min_size=3, max_size=12))
@settings(max_examples=60)
def test_bulges_follow_the_outline_at_one_size(outline):
    """No bulge is longer than an arc and a half: their count follows the length of each edge."""
    arc = 20.0
    steps = cloud(outline, arc)
    ends = [steps[0][1][0], *[points[2] for sign, points in steps if sign == "C"][1::2]]
    lengths = [((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5 for a, b in itertools.pairwise(ends)]
    assert all(length <= arc * 1.5 + 1e-6 for length in lengths)


TABLE = json.loads((Path(__file__).parents[3] / "frontend/src/domain/bulges.cases.json").read_text())


@pytest.mark.parametrize("case", TABLE, ids=str)
def test_the_view_and_the_files_draw_as_many_bulges(case):
    """The table that the front end is held against too."""
    assert bulges(tuple(case["from"]), tuple(case["to"]), case["arc"]) == case["bulges"]


def test_every_kind_is_tested_and_inks_can_be_read_on_white():
    """4.5 : 1, WCAG 2.2 success criterion 1.4.3."""
    assert set(SHAPES) == set(MarkKind) == set(POINTS)
    for ink in INKS.values():
        parts = [int(ink[at : at + 2], 16) / 255 for at in (1, 3, 5)]
        linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
        luminance = 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
        assert 1.05 / (luminance + 0.05) >= 4.5
