"""Prints: to scale, fitted, with marks; their codes, read by another program, and what these tell to whom."""

import io

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
import zxingcpp
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.sheet.papers import PAPERS, STRIP_MM, lie
from nod.services.marks import prints
from tests.world import NUMBER, name, pdf

DPI = 200


@pytest.fixture
def sheet(world):
    return world.file(name())[0]


def _print(world, sheet, paper="own", who="anouk", *, with_marks=True):
    made = prints.print_sheet(world.context, world.press, world.actor(who), sheet, paper, with_marks=with_marks)
    page = pdfium.PdfDocument(made.content)[0]
    grey = np.asarray(page.render(scale=DPI / 72, grayscale=True).to_pil())
    return page, grey


def _address(grey):
    """What an independent reader finds in the code on the print (ISO/IEC 18004)."""
    return "".join(code.text for code in zxingcpp.read_barcodes(np.ascontiguousarray(grey)))


def _code(world):
    return world.sql("SELECT code FROM print_code")[0][0]


@pytest.mark.parametrize("paper", ["own", "A4", "A3", "A1"])
def test_the_code_is_read_from_every_paper(world, sheet, paper):
    page, grey = _print(world, sheet[1], paper)
    assert _address(grey).endswith(f"/c/{_code(world)}")
    size = (420, 297) if paper == "own" else (PAPERS[paper][1], PAPERS[paper][0])
    assert (page.get_width() * 25.4 / 72, page.get_height() * 25.4 / 72) == pytest.approx(size, abs=0.1)
    # One that another reader did not find at each distance.
    world.write("UPDATE print_code SET code = '4gbxukwqgeb'")
    assert _address(_print(world, sheet[1], paper)[1]).endswith("/c/4gbxukwqgeb")
    words = page.get_textpage().get_text_bounded()
    assert "To scale" in words if paper == "own" else f"Fitted to {paper}" in words
    assert "by Anouk Ferreira" in words


def test_in_its_own_size_everything_lies_where_it_lay(world, sheet):
    _, printed = _print(world, sheet[1])
    ((sha256,),) = world.sql("SELECT sha256 FROM revision WHERE id = ?", sheet[1])
    with world.context.blobs.local(sha256) as filed:
        as_filed = np.asarray(pdfium.PdfDocument(filed)[0].render(scale=DPI / 72, grayscale=True).to_pil())
    beside = round((STRIP_MM + 1) / 25.4 * DPI)
    assert np.abs(printed[:, beside:].astype(int) - as_filed[:, beside:]).max() < 8


def test_fitted_it_keeps_its_shape(world, sheet):
    _, grey = _print(world, sheet[1], "A4")
    lying = lie((420, 297), "A4")
    scale = (lying.box_mm[2] - lying.box_mm[0]) / 420
    # The square of 200 points that the sheet shows, from 100 points off its corner.
    left = lying.box_mm[0] + 100 * 25.4 / 72 * scale
    upper = 210 - lying.box_mm[1] - 300 * 25.4 / 72 * scale
    side = 200 * 25.4 / 72 * scale
    row, start, end = (round(value / 25.4 * DPI) for value in (upper + side / 2, left, left + side))
    dark = np.flatnonzero(grey[row, start - 20 : end + 20] < 140) + start - 20
    assert (dark.min(), dark.max()) == (pytest.approx(start, abs=3), pytest.approx(end, abs=3))


def test_with_marks_or_without(world, sheet):
    mark = world.draw_all(sheet[1], {"kind": "rectangle", "points": [(400, 400), (600, 500)], "text": "x"})[0]
    world.ink(sheet[1], mark)
    world.draw(sheet[1], text="pencil is never printed")
    bare, marked = (_print(world, sheet[1], with_marks=on)[1] for on in (False, True))
    assert (bare.astype(int) - marked > 40).sum() > 200
    assert world.sql("SELECT count(*) FROM audit_entry WHERE kind = 'sheet_printed'") == [(2,)]


def test_a_verdict_stands_on_the_print(world, sheet):
    world.closed_review(sheet, verdict="B")
    page, _ = _print(world, sheet[1], "A3")
    words = page.get_textpage().get_text_bounded()
    assert "RV-0001" in words
    assert "B proceed as noted" in words


def test_a_code_tells_whether_it_is_in_force_which_is_and_nothing_else(world, sheet):
    _print(world, sheet[1])
    code = _code(world)

    def told():
        found = prints.is_still_in_force(world.context, code)
        assert found.model_dump().keys() == {"kind", "revision", "in_force", "at"}
        return found.kind, found.revision, found.in_force

    assert told() == ("unreleased", "P01", "")
    world.set_status(sheet[1], "A1")
    assert told() == ("in_force", "P01", "P01")
    assert prints.is_still_in_force(world.context, code.upper()).kind == "in_force"
    world.file(name(revision="P02"), content=pdf("second"))
    assert told() == ("ahead", "P01", "P01")
    world.set_status(world.document(NUMBER)[1], "A1")
    assert told() == ("superseded", "P01", "P02")
    _print(world, sheet[1])
    assert world.sql("SELECT count(*) FROM print_code") == [(1,)]
    with pytest.raises(NotFound):
        prints.is_still_in_force(world.context, "x" * 11)


def test_what_is_withdrawn_is_not_in_force(world, sheet):
    _print(world, sheet[1])
    world.write("UPDATE document SET withdrawn = 1")
    assert prints.is_still_in_force(world.context, _code(world)).kind == "withdrawn"


def test_what_cannot_be_printed_says_so(world, sheet):
    with pytest.raises(RuleBroken) as refused:
        _print(world, sheet[1], "B7")
    assert refused.value.code == "paper_unknown"
    with pytest.raises(NotFound):
        _print(world, sheet[1], who="yusuf")
    assert world.sql("SELECT count(*) FROM print_code") == [(0,)]


def test_a_turned_and_cropped_page_is_printed_as_it_is_seen(world):
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf("turned"))) as made:
        made.pages[0].obj.Rotate = 90
        made.pages[0].cropbox = [50, 50, 800, 600]
        made.save(out)
    sheet = world.file(name(), content=out.getvalue())[0][1]
    page, printed = _print(world, sheet)
    seen = np.asarray(pdfium.PdfDocument(out.getvalue())[0].render(scale=DPI / 72, grayscale=True).to_pil())
    assert (page.get_width(), page.get_height()) == pytest.approx((550, 750), abs=0.5)
    beside = round((STRIP_MM + 1) / 25.4 * DPI)
    assert np.abs(printed[:, beside:].astype(int) - seen[: printed.shape[0], beside : printed.shape[1]]).mean() < 1


@given(st.floats(50, 3000), st.floats(50, 3000), st.sampled_from(sorted(PAPERS)))
def test_a_fitted_sheet_lies_on_its_paper_above_the_strip(width, height, paper):
    lying = lie((width, height), paper)
    left, low, right, high = lying.box_mm
    assert 0 <= left < right <= lying.paper_mm[0]
    assert STRIP_MM - 1e-9 <= low < high <= lying.paper_mm[1]
    assert (right - left) / (high - low) == pytest.approx(width / height)
    assert (lying.paper_mm[0] >= lying.paper_mm[1]) == (width >= height)
