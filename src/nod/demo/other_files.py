"""What the contractor files beside the drawings: a survey in DXF, a photo, a schedule, a method statement."""

from __future__ import annotations

import math
from pathlib import Path

from docx import Document
from ezdxf.filemanagement import new
from openpyxl import Workbook
from PIL import Image, ImageDraw, ImageFilter

from nod.demo.story import Stage, at

_YARD_M = (84.0, 46.0)
_LANES = 7
_DOORS = (
    ("Door", "Room", "Width mm", "Height mm", "Fire", "Leaf"),
    ("D-101", "Ticket hall", 1800, 2300, "EI 30", "double"),
    ("D-102", "Waiting room", 1010, 2135, "none", "single"),
    ("D-103", "Plant room", 1010, 2135, "EI 60", "single"),
    ("D-104", "Staff room", 885, 2135, "none", "single"),
    ("D-105", "Stair 1", 1135, 2135, "EI 30", "single"),
    ("D-106", "Luggage", 1800, 2300, "EI 30", "double"),
)


@at(-2, 15, 30)
def file_them(stage: Stage) -> None:
    files = [_survey(stage.aside), _photo(stage.aside), _schedule(stage.aside), _statement(stage.aside)]
    batch = stage.arrive("marit", "Hollinbrook Contracting", files)
    stage.register("marit", batch)
    if len(stage.documents("BFT-HBC-")) != len(files):
        raise RuntimeError("not all of the contractor's own files were registered")


def _survey(aside: Path) -> Path:
    """The marshalling yard as surveyed: levels and services on layers of their own, services off."""
    drawing = new("R2010", setup=True)
    drawing.units = 6
    for name, colour in (("Kerbs", 7), ("Lanes", 5), ("Levels", 3), ("Trees", 94), ("Frame", 7)):
        drawing.layers.add(name, color=colour)
    drawing.layers.add("Buried services", color=1).off()
    model = drawing.modelspace()
    wide, deep = _YARD_M
    model.add_lwpolyline(
        [(0, 0), (wide, 0, 0.0), (wide, deep - 8), (wide - 8, deep), (0, deep)], close=True,
        dxfattribs={"layer": "Kerbs", "lineweight": 50},
    )  # fmt: skip
    for lane in range(1, _LANES):
        y = deep * lane / _LANES
        model.add_line((6, y), (wide - 10, y), dxfattribs={"layer": "Lanes", "linetype": "DASHED"})
        model.add_text(f"Lane {lane}", height=1.2, dxfattribs={"layer": "Lanes"}).set_placement((8, y + 1.4))
    for column in range(8):
        for row in range(5):
            x, y = 5 + column * 10.5, 4 + row * 9.3
            level = 3.2 + 0.04 * column - 0.03 * row + 0.02 * math.sin(column * row)
            model.add_line((x - 0.4, y), (x + 0.4, y), dxfattribs={"layer": "Levels"})
            model.add_line((x, y - 0.4), (x, y + 0.4), dxfattribs={"layer": "Levels"})
            where = (x + 0.5, y + 0.3)
            model.add_text(f"{level:.2f}", height=0.9, dxfattribs={"layer": "Levels"}).set_placement(where)
    for place in range(9):
        model.add_circle((4 + place * 9.5, deep + 3), 1.6, dxfattribs={"layer": "Trees"})
    model.add_lwpolyline([(0, 11), (30, 14), (55, 13), (wide, 20)], dxfattribs={"layer": "Buried services"})
    model.add_text("HV 11 kV, depth 0.9 m", height=1, dxfattribs={"layer": "Buried services"}).set_placement((32, 15))
    paper = drawing.paperspace("Layout1")
    paper.page_setup(size=(420, 297), margins=(10, 10, 10, 10), units="mm")
    paper.add_lwpolyline([(0, 0), (400, 0), (400, 277), (0, 277)], close=True, dxfattribs={"layer": "Frame"})
    paper.add_viewport(center=(200, 150), size=(384, 230), view_center_point=(wide / 2, deep / 2 + 1), view_height=57.5)
    for place, line in enumerate(("Marshalling yard, survey", "BFT-HBC-Z5-00-D-A-0601   P01   1:250")):
        paper.add_text(line, height=5 - 1.5 * place, dxfattribs={"layer": "Frame"}).set_placement((240, 20 - 9 * place))
    drawing.layouts.rename("Layout1", "Survey A3")
    target = aside / "BFT-HBC-Z5-00-D-A-0601_P01_S3_Marshalling yard, survey.dxf"
    drawing.saveas(target)
    return target


def _photo(aside: Path) -> Path:
    """Pile heads in the mud, drawn as a camera might have seen them."""
    size = (1600, 1067)
    picture = Image.linear_gradient("L").resize(size)
    picture = Image.merge("RGB", [picture.point(lambda v, by=by: int(70 + v * by)) for by in (0.42, 0.46, 0.5)])
    pen = ImageDraw.Draw(picture)
    for row, high in enumerate((420, 560, 740)):
        for column in range(5 + row):
            x, wide = 180 + column * (260 - 25 * row) + 60 * row, 60 + 22 * row
            pen.rectangle((x, high - 90 - 30 * row, x + wide, high + 120), fill=(118, 112, 104))
            pen.ellipse((x, high - 105 - 30 * row, x + wide, high - 75 - 30 * row), fill=(158, 152, 141))
            pen.line((x + 8, high - 60, x + 8, high + 100), fill=(84, 80, 76), width=4)
    pen.line([(742, 590), (760, 640), (748, 690), (771, 760)], fill=(38, 36, 36), width=5)
    picture = picture.filter(ImageFilter.GaussianBlur(1.6))
    target = aside / "BFT-HBC-Z2-00-R-N-0602_P01_S3_North linkspan, pile heads.jpg"
    picture.save(target, quality=80)
    return target


def _schedule(aside: Path) -> Path:
    book = Workbook()
    sheet = book.worksheets[0]
    sheet.title = "Doors"
    for row in _DOORS:
        sheet.append(row)
    target = aside / "BFT-HBC-Z1-00-S-A-0603_P01_S3_Quay hall, door schedule.xlsx"
    book.save(target)
    return target


def _statement(aside: Path) -> Path:
    document = Document()
    document.add_heading("Piling at the north linkspan", 0)
    document.add_paragraph("How the piles are driven, and what is done so that the ferries keep their hours.")
    document.add_heading("Hours", 1)
    document.add_paragraph("Driving between 08:00 and 18:00 on working days, not within 30 minutes of a sailing.")
    document.add_heading("Noise", 1)
    table = document.add_table(rows=0, cols=3)
    for row in (("Place", "Limit", "Measured by"), ("Quay hall", "75 dB", "hour"), ("Harbour Row", "70 dB", "hour")):
        for cell, words in zip(table.add_row().cells, row, strict=True):
            cell.text = words
    target = aside / "BFT-HBC-Z2-00-R-N-0604_P01_S3_North linkspan, piling method.docx"
    document.save(str(target))
    return target
