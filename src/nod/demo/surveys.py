"""What was surveyed first: the yard in metres (DXF), the old quay in feet, old trial pits as a scan."""

from __future__ import annotations

import math
from pathlib import Path

import pikepdf
from ezdxf.filemanagement import new

from nod.demo.sheet_list import DemoSheet
from nod.demo.sheets.scan import scan
from nod.demo.sheets.site import FEET_PER_INCH
from nod.demo.story import Stage

_YARD_M = (84.0, 46.0)
_LANES = 7
_ONE = (("P01", "S2"),)
QUAY = DemoSheet("BFT-HBC-ZZ-XX-D-N-0605", "Old quay, survey of 1962 in feet", "old quay", "A1", _ONE, "1:240")
PITS = DemoSheet("BFT-HBC-ZZ-XX-D-S-0606", "Old quay, trial pits of 1962", "trial pit", "A3", _ONE, "1:50")


def surveys(stage: Stage) -> list[Path]:
    quay, pits = stage.sheet_file(QUAY, 0), stage.sheet_file(PITS, 0)
    _say_feet(quay)
    scan(pits)
    return [_yard(stage.aside), quay, pits]


def _say_feet(path: Path) -> None:
    """The file says by itself what a point is worth (ISO 32000-1, 12.9): twenty feet to an inch of 72 points."""
    with pikepdf.open(path, allow_overwriting_input=True) as pdf:
        feet = pikepdf.Dictionary(U=pikepdf.String("ft"), C=round(FEET_PER_INCH / 72, 9))
        unit, square = (pikepdf.Dictionary(U=pikepdf.String(words), C=1) for words in ("ft", "sq ft"))
        measure = pikepdf.Dictionary(
            Type=pikepdf.Name.Measure, Subtype=pikepdf.Name.RL, R=pikepdf.String(f"1 in = {FEET_PER_INCH} ft"),
            X=pikepdf.Array([feet]), D=pikepdf.Array([unit]), A=pikepdf.Array([square]),
        )  # fmt: skip
        page = pdf.pages[0]
        viewport = pikepdf.Dictionary(
            Type=pikepdf.Name.Viewport, BBox=page.mediabox, Name=pikepdf.String("Survey"),
            Measure=pdf.make_indirect(measure),
        )  # fmt: skip
        page.VP = pikepdf.Array([viewport])
        pdf.save(path, deterministic_id=True)


def _yard(aside: Path) -> Path:
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
