"""CAD drawings seen as sheets: places, scales, layers and words, read by pdfium, poppler and qpdf."""

import io
import subprocess

import ezdxf
import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from ezdxf.fonts import fonts
from PIL import Image

from nod.core.intake.findings import DXF
from nod.formats.files.media_types import media_type
from nod.formats.intake.pdf_facts import read_facts
from nod.formats.sheet.dxf_sheet import add_own_fonts, dxf_to_sheet
from nod.formats.sheet.pdf_layers import read_layers, with_layers
from nod.formats.sheet.pdf_look import CannotDraw, Looker
from nod.formats.sheet.pdf_words import read_words
from tests.outside import shared_data

PT = 72 / 25.4
MARGIN = 10 * PT


@pytest.fixture
def house():
    """20 by 12 m in millimetres: walls, a circle on a layer that is off, and a layout that shows it at 1:100."""
    drawing = ezdxf.new("R2010", setup=True)
    drawing.units = 4
    drawing.layers.add("WALLS", color=1)
    drawing.layers.add("SURVEY", color=3).off()
    model = drawing.modelspace()
    walls = {"layer": "WALLS", "lineweight": 50}
    model.add_lwpolyline([(0, 0), (20000, 0), (20000, 12000), (0, 12000)], close=True, dxfattribs=walls)
    model.add_circle((5000, 5000), 2000, dxfattribs={"layer": "SURVEY"})
    model.add_text("Größe Шум R-101", height=500, dxfattribs={"rotation": 30}).set_placement((8000, 3000))
    fill = model.add_hatch(color=5)
    fill.paths.add_polyline_path([(15000, 1000), (18000, 1000), (18000, 4000), (15000, 4000)], is_closed=True)
    paper = drawing.layout("Layout1")
    paper.page_setup(size=(420, 297), margins=(10, 10, 10, 10), units="mm")
    paper.add_viewport(center=(200, 140), size=(380, 200), view_center_point=(10000, 6000), view_height=20000)
    paper.add_text("BFT-TRA-Z1", height=7).set_placement((300, 10))
    return drawing


def drawn(tmp_path, drawing, **how):
    source, target = tmp_path / "drawing.dxf", tmp_path / "sheet.pdf"
    drawing.saveas(source, **how)
    assert media_type(source.read_bytes()[:4096]) == DXF
    dxf_to_sheet(source, target)
    checked = subprocess.run(["qpdf", "--check", target], capture_output=True, check=False, text=True)
    assert checked.returncode == 0, checked.stdout + checked.stderr
    return target


def words(path, page):
    found = read_words(pdfium.PdfDocument(path)[page])
    return dict(zip(found.texts, found.boxes, strict=True))


def colour_at(path, page, x_pt, y_pt):
    """Red, green, blue at a place in user space."""
    shown = pdfium.PdfDocument(path)[page]
    picture = np.asarray(shown.render(scale=2).to_pil().convert("RGB")).astype(int)
    return picture[round((shown.get_height() - y_pt) * 2), round(x_pt * 2)]


def test_layouts_are_pages_in_the_order_of_their_tabs_and_the_model_is_last(tmp_path, house):
    house.new_layout("Empty")
    facts = read_facts(drawn(tmp_path, house))
    assert facts.contents.labels == ("Layout1", "Model")
    assert facts.pages[0].size_name == "A3"


def test_a_point_of_the_model_is_where_the_scale_puts_it(tmp_path, house):
    """20 m are 800 mm at 1:25, the largest scale of ISO 5455 and building practice that A1 has room for."""
    path = drawn(tmp_path, house)
    page = read_facts(path).pages[1]
    assert page.box.right == pytest.approx(800 * PT + 2 * MARGIN, abs=1)
    at = page.box.right - MARGIN - (20000 - 16500) / 25 * PT, MARGIN + 2500 / 25 * PT
    assert tuple(colour_at(path, 1, *at)) == (0, 0, 255)


def test_the_scales_are_told_as_measure_dictionaries(tmp_path, house):
    """Of the whole model, and of each window of a layout: 20000 mm over 200 mm."""
    pages = read_facts(drawn(tmp_path, house)).pages
    (window,) = pages[0].contents.file_scales
    assert window.mm_per_pt == pytest.approx(100 / PT, rel=1e-6)
    assert window.box == pytest.approx([(10 + 20 - 10) * PT, (10 + 50 - 10 + 0) * PT, 400 * PT, 250 * PT], abs=0.1)
    assert pages[1].contents.scales == pytest.approx([25], rel=1e-6)


@pytest.mark.parametrize(("unit", "mm"), [(1, 25.4), (2, 304.8), (5, 10), (6, 1000)])
def test_units_of_the_drawing(tmp_path, unit, mm):
    """$INSUNITS of the DXF reference: a line of 8 units is told back as 8 units by paper size and scale."""
    drawing = ezdxf.new("R2010")
    drawing.units = unit
    drawing.modelspace().add_lwpolyline([(0, 0), (8, 0), (8, 5), (0, 5)], close=True)
    page = read_facts(drawn(tmp_path, drawing)).pages[0]
    assert (page.box.right - 2 * MARGIN) * page.contents.file_scales[0].mm_per_pt == pytest.approx(8 * mm, rel=1e-4)


def test_without_units_no_scale_is_claimed(tmp_path):
    drawing = ezdxf.new("R2010")
    drawing.units = 0
    drawing.modelspace().add_line((0, 0), (100, 50))
    assert read_facts(drawn(tmp_path, drawing)).pages[0].contents.file_scales == ()


def test_layers_are_those_of_the_drawing_and_can_be_switched(tmp_path, house):
    path = drawn(tmp_path, house)
    layers = {layer.name: layer.on for layer in read_layers(path)}
    assert layers == {"0": True, "SURVEY": False, "WALLS": True}
    # The rightmost point of the circle, on a layer that is off.
    at = (MARGIN + 7000 / 25 * PT, MARGIN + 5000 / 25 * PT)
    assert tuple(colour_at(path, 1, *at)) == (255, 255, 255)
    switched = tmp_path / "switched.pdf"
    with_layers(path, switched, frozenset())
    red, green, blue = colour_at(switched, 1, *at)
    assert green > red + 60
    assert green > blue + 60


def test_words_are_there_to_be_searched_where_they_stand(tmp_path, house):
    path = drawn(tmp_path, house)
    model = words(path, 1)
    assert {"Größe", "Шум", "R-101"} <= set(model)
    left, low, right, high = model["Größe"]
    assert left == pytest.approx(MARGIN + (8000 - 250) / 25 * PT, abs=20)
    assert low == pytest.approx(MARGIN + 3000 / 25 * PT, abs=20)
    # Turned by 30 degrees: higher than its letters, less wide than the line is long.
    assert high - low > 500 / 25 * PT * 1.5
    assert right - left > 500 / 25 * PT * 2
    assert "BFT-TRA-Z1" in words(path, 0)
    assert "Шум" in words(path, 0), "what a window shows of the model is on the sheet"
    read = subprocess.run(["pdftotext", "-l", "1", path, "-"], capture_output=True, check=True, text=True).stdout
    assert "BFT-TRA-Z1" in read


def test_words_outside_of_a_window_are_not_on_the_sheet(tmp_path, house):
    house.modelspace().add_text("Elsewhere", height=500).set_placement((90000, 90000))
    path = drawn(tmp_path, house)
    assert "Elsewhere" not in words(path, 0)
    assert "Elsewhere" in words(path, 1)


def test_what_a_word_covers_is_drawn_as_its_outline(tmp_path, house):
    """The font that makes it searched shows nothing: without it the picture is the same."""
    path = drawn(tmp_path, house)
    before = np.asarray(pdfium.PdfDocument(path)[0].render(scale=1).to_pil().convert("L")).astype(int)
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        content = pdf.pages[0].Contents.read_bytes()
        pdf.pages[0].Contents = pdf.make_stream(b"\n".join(x for x in content.split(b"\n") if not x.startswith(b"BT")))
        pdf.save(path)
    after = np.asarray(pdfium.PdfDocument(path)[0].render(scale=1).to_pil().convert("L")).astype(int)
    assert (before != after).sum() == 0
    assert (before < 128).sum() > 100


def test_curves_keep_their_shape(tmp_path):
    """A circle of 100 mm at 1:1: the ink is at its radius in every direction, within a quarter millimetre."""
    drawing = ezdxf.new("R2010")
    drawing.units = 4
    drawing.modelspace().add_circle((0, 0), 100)
    path = drawn(tmp_path, drawing)
    scale = 4
    grey = np.asarray(pdfium.PdfDocument(path)[0].render(scale=scale).to_pil().convert("L"))
    rows, columns = np.nonzero(grey < 128)
    middle = MARGIN + 100 * PT
    away = np.hypot((columns + 0.5) / scale - middle, (rows + 0.5) / scale - middle) / PT
    assert abs(away - 100).max() < 0.25
    assert len(rows) > 2 * np.pi * 100 * PT * scale


def test_what_lies_beside_the_drawing_is_not_opened(tmp_path, house):
    secret = tmp_path / "secret.png"
    Image.new("RGB", (50, 50), "red").save(secret)
    picture = house.add_image_def(str(secret), (50, 50))
    house.modelspace().add_image(picture, (2000, 2000), (3000, 3000))
    assert tuple(colour_at(drawn(tmp_path, house), 1, MARGIN + 3500 / 25 * PT, MARGIN + 3500 / 25 * PT)) == (255,) * 3


def test_files_of_the_shared_data(tmp_path):
    target = tmp_path / "sheet.pdf"
    dxf_to_sheet(shared_data("dxf/ASCII_R12.dxf"), target)
    assert "ABCÄÜÖαβγ" in words(target, 0)
    with pytest.raises(CannotDraw, match="nothing in the drawing"):
        dxf_to_sheet(shared_data("dxf/dxf_unicode.dxf"), target)


def test_a_binary_drawing_is_one_too(tmp_path, house):
    assert read_facts(drawn(tmp_path, house, fmt="bin")).contents.labels == ("Layout1", "Model")


@pytest.mark.parametrize("cut", [0.02, 0.3, 0.7, 0.99])
def test_damaged_drawings_are_told_or_drawn_as_far_as_they_go(tmp_path, house, cut):
    out = io.StringIO()
    house.write(out)
    content = out.getvalue()
    source, target = tmp_path / "broken.dxf", tmp_path / "sheet.pdf"
    source.write_text(content[: int(len(content) * cut)])
    said = ""
    try:
        dxf_to_sheet(source, target)
    except CannotDraw as error:
        said = str(error)
    assert "drawing" in said or read_facts(target).pages


def test_a_drawing_of_many_lines_is_drawn_whole(tmp_path):
    drawing = ezdxf.new("R2010")
    drawing.units = 4
    model = drawing.modelspace()
    for place in range(5000):
        model.add_line((place % 100, place // 100), (place % 100 + 0.7, place // 100 + 0.3))
    path = drawn(tmp_path, drawing)
    with pikepdf.open(path) as pdf:
        assert pdf.pages[0].Contents.read_bytes().count(b" S\n") == 5000
    assert Looker().tile(path, 0, 10, 0, 0)


def test_the_files_that_a_drawing_needs_are_named(tmp_path, house):
    house.add_xref_def("..\\refs\\site plan.dwg", "SITE")
    house.add_image_def("/srv/pictures/logo.png", (50, 50))
    source = tmp_path / "drawing.dxf"
    house.saveas(source)
    assert dxf_to_sheet(source, tmp_path / "sheet.pdf") == ("logo.png", "site plan.dwg")


def test_on_a_machine_without_fonts_text_is_drawn_with_the_one_that_ships(tmp_path, house):
    fonts.font_manager.clear()
    try:
        add_own_fonts()
        path = drawn(tmp_path, house)
    finally:
        fonts.font_manager.build()
    assert "BFT-TRA-Z1" in words(path, 0)
    number = pdfium.PdfDocument(path)[0].render(scale=2).to_pil().convert("L")
    left, low = (10 + 300) * PT * 2, (297 - 10 - 10) * PT * 2
    assert np.asarray(number.crop((left, low - 8 * PT * 2, left + 40 * PT * 2, low))).min() < 128
