"""Title blocks of sheets that nobody here drew, read against answer keys that do not come from the PDFs.

The keys are the drawings' own project files (see the manifest beside the files). The zones below are what a controller
would draw: the cells of the title block.
"""

import io
import json
from dataclasses import replace
from datetime import datetime

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from hypothesis import given
from hypothesis import strategies as st
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.core.intake.block_readers import BlockReader, Lines, Zone, choose_reader, read_page
from nod.core.intake.findings import Rules
from nod.core.register.numbers import Convention, NumberField
from nod.core.register.revisions import Scheme
from nod.core.sheet.placed_words import PlacedWords, as_seen, size_seen_mm
from nod.demo.scenario import NUMBER_FIELDS
from nod.formats.intake.pdf_facts import read_facts
from nod.formats.sheet.pdf_words import read_words
from nod.formats.sheet.words_pack import pack_words, unpack_words
from tests.outside import shared_data

DRAWINGS = shared_data("drawings")
FREE = Rules(
    Convention((NumberField("any", pattern=r".{1,40}", pattern_words="anything"),), "\0"), Scheme.STAGED, ("S3",)
)
OURS = Rules(Convention(tuple(NUMBER_FIELDS)), Scheme.STAGED, ("S2", "S3", "S4"))


def _cell(field, size, left, upper, right, lower, **more):
    """A zone by its edges on a page of `size`, anchored to the lower right corner."""
    return Zone(field, "lower right", size[0] - right, size[1] - lower, right - left, lower - upper, **more)


def _of(size, *cells):
    return BlockReader("", "", size, cells, {})


A3, A4 = (420.0, 297.0), (297.0, 210.0)
LEPTON = (614.0, 432.0)
READERS = {
    "lepton": [
        _of(
            LEPTON,
            _cell("title", LEPTON, 406, 391, 600, 409),
            _cell("file", LEPTON, 406, 410, 495, 417, label="FILE:"),
            _cell("folio", LEPTON, 406, 418, 495, 425),
            _cell("revision", LEPTON, 495, 410, 600, 417),
            _cell("drawn by", LEPTON, 495, 418, 600, 425),
        )
    ],
    "default": [
        _of(
            A3,
            _cell("title", A3, 110, 266, 300, 291),
            _cell("folio", A3, 302, 280, 418, 291),
            _cell("drawn by", A3, 3, 265, 110, 275),
            _cell("date", A3, 3, 280, 110, 291),
        ),
        _of(
            A4,
            _cell("title", A4, 80, 188, 228, 200),
            _cell("folio", A4, 229, 195, 293, 201),
            _cell("drawn by", A4, 3, 188, 79, 194),
            _cell("date", A4, 3, 195, 79, 201),
        ),
    ],
    "iso": [
        _of(
            A4,
            _cell("title", A4, 183, 197, 236, 205),
            _cell("folio", A4, 284, 199, 294, 205),
            _cell("drawn by", A4, 173, 187, 222, 192),
            _cell("date", A4, 246, 199, 274, 205),
            _cell("status", A4, 239, 191, 274, 196),
            _cell("number", A4, 275, 191, 294, 196),
        )
    ],
    "tableau": [
        _of(
            A3,
            _cell("title", A3, 190, 210, 415, 248),
            _cell("number", A3, 190, 250, 375, 268),
            _cell("folio", A3, 377, 250, 415, 268),
            _cell("drawn by", A3, 317, 91, 415, 100),
            _cell("date", A3, 317, 111, 415, 120),
        ),
        _of(
            A3,
            _cell("title", A3, 260, 278.4, 395, 287),
            _cell("folio", A3, 396, 274.2, 417, 280),
            _cell("drawn by", A3, 56, 265, 110, 274),
            _cell("date", A3, 56, 282, 94, 292),
        ),
        _of(
            A3,
            _cell("title", A3, 405.8, 20, 412, 90),
            _cell("folio", A3, 402.3, 4, 407, 18),
            _cell("drawn by", A3, 395, 222, 402.3, 245),
            _cell("date", A3, 409, 195, 413, 249),
        ),
    ],
}  # fmt: skip


def _pages(path):
    facts = read_facts(path)
    for page, known in zip(pdfium.PdfDocument(path), facts.pages, strict=True):
        words = unpack_words(pack_words(read_words(page)))
        yield as_seen(words, known.box, known.user_unit), size_seen_mm(known.box, known.user_unit)


def _day(text):
    for form in ("%d %b %Y", "%Y%m%d", "%d/%m/%Y", "%d %B %Y"):
        try:
            return datetime.strptime(text, form).date()  # noqa: DTZ007 - a day, not a moment
        except ValueError:
            continue
    return text


def _lepton_sheets():
    for sheet in json.loads((DRAWINGS / "lepton-gTAG/ground-truth.json").read_text())["sheets"]:
        ((words, size),) = _pages(DRAWINGS / "lepton-gTAG" / sheet["pdf"])
        # The key says that there is no real revision: the cell holds a keyword that was never filled in.
        key = {"title": sheet["title"], "file": sheet["file"], "drawn by": sheet["drawn_by"], "revision": ""}
        yield words, size, key | {"folio": f"{sheet['page']} OF {sheet['of']}"}


def _qet_sheets(name, pdf_name):
    sheets = json.loads((DRAWINGS / f"qet/{name}.json").read_text())["sheets"]
    for (words, size), sheet in zip(_pages(DRAWINGS / f"qet/{pdf_name}.pdf"), sheets, strict=True):
        date = "" if sheet["date"] == "null" else sheet["date"]
        key = {"title": sheet["title"], "folio": sheet["folio_expected"], "drawn by": sheet["author"], "date": date}
        yield words, size, key


SETS = {
    "lepton": lambda: _lepton_sheets(),
    "Habitat-Schemas_developpes": lambda: _qet_sheets("Habitat-Schemas_developpes", "Habitat-Schemas_developpes-A3"),
    "Habitat-Unifilaire": lambda: _qet_sheets("Habitat-Unifilaire", "Habitat-Unifilaire"),
    "iso_sfc_example": lambda: _qet_sheets("iso_sfc_example", "iso_sfc_example"),
    "tableau_domestique": lambda: _qet_sheets("tableau_domestique", "tableau_domestique-A3"),
}
READERS_OF = {
    "lepton": "lepton",
    "Habitat-Schemas_developpes": "default",
    "Habitat-Unifilaire": "default",
    "iso_sfc_example": "iso",
    "tableau_domestique": "tableau",
}


def _told(name):
    """Right, wrong, left open of what is present; invented where nothing is."""
    right, wrong, left_open, invented = [], [], [], []
    for place, (words, size, key) in enumerate(SETS[name](), start=1):
        _, readings = choose_reader(READERS[READERS_OF[name]], words, size, FREE)
        for field, meant in key.items():
            value = readings[field].value if field in readings else ""
            note = (place, field, meant, value)
            if not meant:
                invented += [note] if value else []
            elif not value:
                left_open.append(note)
            else:
                (right if _day(value) == _day(meant) else wrong).append(note)
    return right, wrong, left_open, invented


@pytest.mark.parametrize("name", list(SETS))
def test_fields_of_a_set_are_read_right_or_left_open(name, record_property):
    right, wrong, left_open, invented = _told(name)
    present = len(right) + len(wrong) + len(left_open)
    record_property(name, f"{len(right)} right, {len(wrong)} wrong, {len(left_open)} open of {present}")
    print(f"\n{name}: {len(right)} right, {len(wrong)} wrong, {len(left_open)} left open of {present}")
    assert not invented
    assert not wrong
    assert len(right) >= 0.95 * present, left_open


def test_an_empty_block_stays_empty():
    """ANSI C sheet whose cells hold their labels only (DWG NO, REV); the key is the look of it."""
    ((words, size),) = _pages(DRAWINGS / "cad/Test-plusminus.pdf")
    reader = _of(
        size,
        _cell("number", size, 450, 400, 529, 413),
        _cell("revision", size, 529, 400, 545, 413),
        _cell("scale", size, 412, 413, 450, 419),
        _cell("folio", size, 488, 413, 545, 420),
    )
    readings = read_page(reader, words, size, OURS)
    assert {field: each.value for field, each in readings.items()} == {
        "number": "",
        "revision": "",
        "scale": "",
        "folio": "1 OF 1",
    }
    assert readings["revision"].why == "The zone is empty here."


# Below: blocks drawn here, turned and cropped in every way.

CELLS = {"Number": "BFT-TRA-Z1-01-D-A-0101", "Revision": "P02", "Title": "Quay hall, level 1 plan", "Scale": "1:100"}


def _drawn(size, gap=40.0, values=CELLS, bare=False):
    """Cells in a column at the lower right, each a small label above a larger value."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(size[0] * mm, size[1] * mm), invariant=1)
    canvas.drawString(40 * mm, 200 * mm, "BFT-TRA-Z1-01-D-A-0999 is another sheet")
    for place, (label, value) in enumerate(values.items()):
        x, y = (size[0] - 100) * mm, (10 + place * 14) * mm
        canvas.rect(x, y, 90 * mm, 14 * mm)
        if not bare:
            canvas.setFont("Helvetica", 5)
            canvas.drawString(x + 2 * mm, y + 10.5 * mm, label)
        canvas.setFont("Helvetica", 11)
        canvas.drawString(x + 2 * mm, y + 3 * mm, value)
    canvas.save()
    return out.getvalue()


def _zones(size):
    rows = ("number", "revision", "title", "scale")
    return BlockReader(
        "", "", size, tuple(Zone(f, "lower right", 10, 10 + 14 * n, 90, 14) for n, f in enumerate(rows)), {}
    )


def _turned(content, rotate, shift):
    """The sheet as seen is the same; /Rotate, its content and an offset CropBox make up for each other."""
    pdf = pikepdf.open(io.BytesIO(content))
    page = pdf.pages[0]
    right, high = float(page.mediabox[2]), float(page.mediabox[3])
    matrix = {
        0: (1, 0, 0, 1, 0, 0),
        90: (0, 1, -1, 0, high, 0),
        180: (-1, 0, 0, -1, right, high),
        270: (0, -1, 1, 0, 0, right),
    }
    a, b, c, d, e, f = matrix[rotate]
    width, height = (high, right) if rotate % 180 else (right, high)
    page.contents_coalesce()
    before = f"q {a} {b} {c} {d} {e + shift} {f + shift} cm ".encode()
    page.Contents = pdf.make_stream(before + page.Contents.read_bytes() + b" Q")
    page.mediabox = [0, 0, width + 2 * shift, height + 2 * shift]
    page.cropbox = [shift, shift, width + shift, height + shift]
    page.Rotate = rotate
    out = io.BytesIO()
    pdf.save(out)
    return out.getvalue()


@pytest.mark.parametrize("rotate", [0, 90, 180, 270])
@pytest.mark.parametrize("shift", [0, 50])
def test_rotated_and_cropped_pages_read_the_same(tmp_path, rotate, shift):
    size = (420.0, 297.0)
    (tmp_path / "a.pdf").write_bytes(_turned(_drawn(size), rotate, shift))
    ((words, seen),) = _pages(tmp_path / "a.pdf")
    assert seen == pytest.approx(size, abs=0.1)
    readings = read_page(_zones(size), words, seen, OURS)
    assert {field: each.value for field, each in readings.items()} == {
        "number": "BFT-TRA-Z1-01-D-A-0101", "revision": "P02", "title": "Quay hall, level 1 plan", "scale": "1:100",
    }  # fmt: skip


def test_a_value_with_look_alikes_is_read_as_it_stands_but_not_sure(tmp_path):
    size = (420.0, 297.0)
    (tmp_path / "a.pdf").write_bytes(_drawn(size, values={**CELLS, "Number": "BFT-TRA-Z1-O1-D-A-0101"}))
    ((words, seen),) = _pages(tmp_path / "a.pdf")
    number = read_page(_zones(size), words, seen, OURS)["number"]
    assert (number.value, number.sure) == ("BFT-TRA-Z1-O1-D-A-0101", False)


def test_what_was_corrected_once_is_read_so_the_next_time(tmp_path):
    size = (420.0, 297.0)
    (tmp_path / "a.pdf").write_bytes(_drawn(size))
    ((words, seen),) = _pages(tmp_path / "a.pdf")
    reader = replace(
        _zones(size), learned={("title", "BFT-TRA-Z1-01-D-A-0101\nQuay hall, level 1 plan"): "Quay hall, first floor"}
    )
    assert read_page(reader, words, seen, OURS)["title"].value == "Quay hall, first floor"


def test_a_pattern_and_the_joining_of_lines(tmp_path):
    size = (420.0, 297.0)
    (tmp_path / "a.pdf").write_bytes(_drawn(size, values={**CELLS, "Title": "Sheet 7 of 9"}))
    ((words, seen),) = _pages(tmp_path / "a.pdf")
    whole = Zone("folio", "lower right", 10, 38, 90, 14, label="Title")
    read = {
        how: read_page(_of(size, replace(whole, **how_)), words, seen, OURS)["folio"]
        for how, how_ in {
            "picked": {"pattern": "(9) of"},
            "open": {"pattern": "9999"},
            "several": {"pattern": "9"},
            "first": {"lines": Lines.FIRST},
        }.items()
    }
    assert read["picked"].value == "7"
    assert (read["open"].value, "does not fit" in read["open"].why) == ("", True)
    assert (read["several"].value, read["several"].why) == ("", "Several things fit the pattern: 7, 9.")
    assert read["first"].value == "Sheet 7 of 9"


@given(st.lists(st.text(st.characters(exclude_characters="\n", exclude_categories=("Cs",)), min_size=1), max_size=30))
def test_words_come_back_as_they_were_packed(texts):
    rng = np.random.default_rng(len(texts))
    words = PlacedWords(tuple(texts), rng.random((len(texts), 4), np.float32), np.array([90] * len(texts), np.int16))
    again = unpack_words(pack_words(words))
    assert again.texts == words.texts
    assert np.array_equal(again.boxes, words.boxes)
