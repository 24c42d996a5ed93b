"""Scans read by OCR, and title blocks that fill further fields."""

import io
import shutil
from datetime import timedelta

import pypdfium2 as pdfium
import pytest
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import RuleBroken
from nod.core.sheet.geometry import PageBox
from nod.core.sheet.placed_words import as_seen, from_picture
from nod.formats.intake import ocr
from nod.services.acts.work import Lane
from nod.services.intake import block_readers, scans
from nod.services.intake.block_readers import KeepReader, TryReader, ZoneShown
from nod.services.press.press import PressCrashed
from nod.services.register import search
from nod.services.setup.setup import SetFields, TypedField, set_fields
from nod.worker import drain, handlers_with
from tests.world import NUMBER

A3 = (420, 297)
CELLS = ("number", "revision", "title", "status", "date", "drawn by")
VALUES = {
    "number": NUMBER, "revision": "P01", "title": "Quay hall plan", "status": "S3", "date": "2027-03-01",
    "drawn by": "LEILANI", "package": "Steelwork", "needed": "12.04.2027",
}  # fmt: skip
needs_ocr = pytest.mark.skipif(not shutil.which("tesseract"), reason="tesseract is not installed")


def zones(*fields):
    return [
        ZoneShown(field=field, corner="lower right", across_mm=10, down_mm=10 + 14 * place, width_mm=90, height_mm=14)
        for place, field in enumerate(fields)
    ]


def block(values, rotation=0):
    """A sheet with the values in cells above each other."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(A3[0] * mm, A3[1] * mm), invariant=1)
    canvas.setPageRotation(rotation)
    canvas.setFont("Helvetica", 13)
    canvas.rect(40 * mm, 120 * mm, 120 * mm, 90 * mm)
    for place, value in enumerate(values):
        canvas.drawString((A3[0] - 95) * mm, (14 + 14 * place) * mm, value)
    canvas.save()
    return out.getvalue()


def scanned(values):
    picture = pdfium.PdfDocument(block(values))[0].render(scale=200 / 72, grayscale=True).to_pil()
    out = io.BytesIO()
    picture.save(out, "PDF", resolution=200)
    return out.getvalue()


def keep_reader(world, batch_id, fields):
    command = KeepReader(
        batch_id=batch_id, name="A3", company="", width_mm=A3[0], height_mm=A3[1], zones=zones(*fields)
    )
    return block_readers.keep_reader(world.context, world.actor("marit"), command)


def read_scans(world):
    return drain(world.context, handlers_with(world.context, world.press), "test", Lane.SCAN)


def add_fields(world, *fields):
    version = world.sql("SELECT version FROM project WHERE id = ?", world.project_id)[0][0]
    given = [TypedField(name=name, kind=kind, choices=choices) for name, kind, choices in fields]
    set_fields(world.context, world.actor("rafael"), world.project_id, SetFields(version=version, fields=given))
    columns = block_readers.list_readers(world.context, world.actor("marit"), world.arrive({"a.txt": b"a"})).fields
    return {each.words: each.field for each in columns}


def values_of(world, document_id):
    from nod.services.register.documents import read_document

    dossier = read_document(world.context, world.actor("marit"), document_id)
    return {each.name: each.value for each in dossier.fields if each.value}


@needs_ocr
def test_a_scan_is_read_by_its_reader_and_marked(world):
    batch = world.arrive({"scan.pdf": scanned([VALUES[each] for each in CELLS])})
    keep_reader(world, batch, CELLS)
    (arrival,) = world.batch(batch).arrivals
    assert "no_text" in {each.code for each in arrival.findings}
    assert read_scans(world) == 1
    (arrival,) = world.batch(batch).arrivals
    assert (arrival.number, arrival.revision, arrival.title) == (NUMBER, "P01", "Quay hall plan")
    # Short codes are often misread ("$3"): then nothing is said, and never something else.
    assert arrival.status in ("S3", "")
    assert {each.code for each in arrival.findings} >= {"read_by_ocr"}
    assert {each.field for each in arrival.witnesses if each.by_ocr} == set(CELLS)
    assert "scan_read" in world.kinds()


@needs_ocr
def test_what_ocr_read_is_found_on_the_sheet(world):
    batch = world.arrive({"scan.pdf": scanned([VALUES[each] for each in CELLS])})
    keep_reader(world, batch, CELLS)
    read_scans(world)
    world.register(batch)
    world.send()
    found = search.search(world.context, world.actor("marit"), world.project_id, "leilani", 10)
    (hit,) = found.sheets
    left, low, right, high = hit.box
    # The fifth cell above the first: 14 mm + 5 × 14 mm from the lower edge, 95 mm from the right (as drawn above).
    assert (left, low) == pytest.approx(((A3[0] - 95) * mm, 84 * mm), abs=4)
    assert right > left + 20
    assert high > low + 5


@needs_ocr
def test_a_number_that_ocr_may_have_got_wrong_is_left_open(world):
    batch = world.arrive({"scan.pdf": scanned(["BFT-TRA-ZI-O1-D-A-0101", "P01"])})
    keep_reader(world, batch, ("number", "revision"))
    read_scans(world)
    (arrival,) = world.batch(batch).arrivals
    number = next(each for each in arrival.witnesses if each.field == "number")
    assert (arrival.number, number.by_block) == ("", "")
    assert number.why.startswith("OCR reads “BFT-TRA-Z")


def test_without_ocr_a_scan_stays_a_scan(world, monkeypatch):
    monkeypatch.setattr(ocr, "installed", lambda: False)
    batch = world.arrive({"scan.pdf": scanned(["Quay hall"])})
    read_scans(world)
    (arrival,) = world.batch(batch).arrivals
    assert {each.code for each in arrival.findings} >= {"no_text"}
    assert "scan_read" not in world.kinds()


def test_an_ocr_that_fails_leaves_the_file_as_it_is(world, monkeypatch):
    def fail(*_):
        raise ocr.CannotRead("no such language")

    monkeypatch.setattr(ocr, "installed", lambda: True)
    monkeypatch.setattr(ocr, "read_picture", fail)
    batch = world.arrive({"scan.pdf": scanned(["Quay hall"])})
    assert read_scans(world) == 1
    assert world.sql("SELECT ocr FROM blob") == [(scans.NOTHING,)]
    assert "no_text" in {each.code for each in world.batch(batch).arrivals[0].findings}


def test_a_scan_that_kills_the_press_is_left_without_words_at_the_third_try(world, monkeypatch):
    class DyingPress:
        def picture(self, *_):
            raise PressCrashed("picture brought its process down")

    monkeypatch.setattr(ocr, "installed", lambda: True)
    world.arrive({"scan.pdf": scanned(["Quay hall"])})
    states = []
    for _ in range(3):
        drain(world.context, handlers_with(world.context, DyingPress()), "test", Lane.SCAN)
        states.append(world.sql("SELECT ocr FROM blob")[0][0])
        world.clock.set(world.clock.now() + timedelta(minutes=5))
    assert states == [scans.READING, scans.READING, scans.NOTHING]


@pytest.mark.parametrize("rotation", [0, 90, 180, 270])
def test_words_of_a_picture_lie_where_they_are_seen(rotation):
    """There and back: a place in the picture, on the page, and seen again in millimetres."""
    box = PageBox(30, 40, 630, 440, rotation)
    width, height = box.view_size()
    pixels = (round(width * 2), round(height * 2))
    import numpy as np

    placed = from_picture(("Quay",), np.array([[100, 50, 160, 70]], np.float32), pixels, box)
    seen = as_seen(placed, box, 1.0)
    assert seen.boxes[0] == pytest.approx(np.array([50, 25, 80, 35]) * 25.4 / 72, abs=1e-3)
    assert seen.turns.tolist() == [0]


def test_zones_fill_typed_fields_when_the_file_is_registered(world):
    fields = add_fields(world, ("Package", "text", []), ("Needed on site", "date", []))
    cells = ("number", "revision", "title", "status", "date", "drawn by", "package", "needed")
    batch = world.arrive({"a.pdf": block([VALUES[each] for each in cells])})
    keep_reader(world, batch, (*cells[:6], fields["Package"], fields["Needed on site"]))
    world.register(batch)
    document, _ = world.document(NUMBER)
    assert values_of(world, document) == {
        "Date on sheet": "2027-03-01", "Drawn by": "LEILANI", "Package": "Steelwork", "Needed on site": "2027-04-12",
    }  # fmt: skip
    (line,) = world.list(filters=[["field:drawn_by", "is", "LEILANI"]]).lines
    assert line.number == NUMBER


def test_a_value_that_does_not_fit_is_told_corrected_and_can_be_taken_back(world):
    fields = add_fields(world, ("Needed on site", "date", []))
    key = fields["Needed on site"]
    batch = world.arrive({"a.pdf": block([NUMBER, "P01", "Quay hall plan", "S3", "03/04/2027"])})
    keep_reader(world, batch, ("number", "revision", "title", "status", key))
    (arrival,) = world.batch(batch).arrivals
    (finding,) = [each for each in arrival.findings if each.code == "field_unfit"]
    assert finding.words == "“03/04/2027” does not fit Needed on site: it takes a day like 2027-03-14. It is left out."
    undo = world.correct(arrival, **{key: "2027-04-03"})
    (arrival,) = world.batch(batch).arrivals
    assert "field_unfit" not in {each.code for each in arrival.findings}
    world.undo(batch, undo)
    (arrival,) = world.batch(batch).arrivals
    assert next(each.now for each in arrival.witnesses if each.field == key) == "03/04/2027"
    world.register(batch)
    assert values_of(world, world.document(NUMBER)[0]) == {}


def test_what_a_sheet_says_of_itself_goes_with_its_revision(world):
    fields = add_fields(world, ("Package", "text", []))
    cells = ("number", "revision", "title", "status", "drawn by", fields["Package"])
    first = world.arrive({"a.pdf": block([NUMBER, "P01", "Quay hall plan", "S3", "LEILANI", "Steelwork"])})
    keep_reader(world, first, cells)
    world.register(first)
    world.register(world.arrive({"b.pdf": block([NUMBER, "P02", "Quay hall plan", "S3", "-", "-"])}))
    assert values_of(world, world.document(NUMBER)[0]) == {"Package": "Steelwork"}


def test_a_zone_for_a_field_of_another_project_is_refused(world):
    batch = world.arrive({"a.pdf": block(["x"])})
    command = TryReader(width_mm=A3[0], height_mm=A3[1], zones=zones("field:fnowhere"))
    with pytest.raises(RuleBroken, match="not a field"):
        block_readers.try_reader(world.context, world.actor("marit"), batch, command)
