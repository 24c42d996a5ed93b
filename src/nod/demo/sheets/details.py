"""Details at 1:5 to 1:50: wall, roof edge, stair, wash rooms, glazing, fenders, hinges. Each note has its leader."""

from __future__ import annotations

from collections.abc import Sequence

from nod.demo.sheets.board import Board
from nod.demo.sheets.pen import Pen

Layers = Sequence[tuple[str, float, str]]
"""Words, thickness in mm of the building, how it is hatched."""

_WALL: Layers = (
    ("rainscreen, terracotta 30", 30, "hatch"),
    ("cavity 50, ventilated", 50, ""),
    ("mineral wool 180", 180, "wool"),
    ("sheathing board 12", 12, "solid"),
    ("steel frame 150, wool between", 150, "wool"),
    ("vapour check, plasterboard 2 × 12.5", 25, "solid"),
)
_ROOF: Layers = (
    ("steel deck 35", 35, "solid"),
    ("vapour check", 4, "solid"),
    ("insulation 180 to falls", 180, "wool"),
    ("standing seam, aluminium 0.9", 9, "solid"),
)


def _fill(pen: Pen, x: float, y: float, wide: float, deep: float, how: str) -> None:
    if how == "hatch":
        pen.hatch(x, y, wide, deep, 3)
    elif how == "wool":
        with pen.ink(0.5):
            gap = max(4.0, min(wide, deep) * 0.6)
            along, across = (deep, wide) if deep > wide else (wide, deep)
            count = int(along / gap)
            points = [(place * gap, (place % 2) * across) for place in range(count + 1)]
            pen.path([(x + b, y + a) if deep > wide else (x + a, y + b) for a, b in points], 0.18)
    elif how == "solid":
        pen.rectangle(x, y, wide, deep, 0.1, 0.8)


def wall(board: Board) -> None:
    """The outer wall from the ground to the roof at 1:20; more insulation in the second revision."""
    pen, x = board.pen, 230.0
    left = x
    layers = [(w.replace("180", "200"), t + 20, h) if "180" in w and board.since(1) else (w, t, h) for w, t, h in _WALL]
    for place, (words, thick, how) in enumerate(layers):
        wide = thick / 20
        _fill(pen, x, 110, wide, 390, how)
        pen.rectangle(x, 110, wide, 390, 0.25)
        pen.leader(x + wide / 2, 470 - place * 11, left + 90, 482 - place * 11, words, 2.2)
        x += wide
    board.cloud(1, left + 86, 452, 70, 12)
    for y, words in ((150, "+5.200"), (300, "+9.800"), (440, "+14.000")):
        pen.concrete(x, y - 12, 150, 12)
        pen.rectangle(x + 4, y, 146, 3.5, 0.25, 0.93)
        pen.level(x + 170, y, words)
        pen.leader(x + 60, y + 2, x + 86, y + 20, "screed 70, floor finish as schedule", 2.2)
        pen.leader(x + 2, y - 6, x + 40, y - 26, "fire stop EI 60 at the edge of the slab", 2.2)
    pen.dimension(left, x, 96, 20)
    pen.ground(80, left, 140)
    pen.concrete(left - 6, 112, 50, 26)
    pen.leader(left, 146, 150, 170, "damp proof course 150 above ground", 2.2)
    pen.scale_bar(90, 90, 20)


def roof_edge(board: Board) -> None:
    """Parapet, gutter and overflow at 1:10."""
    pen, x, y = board.pen, 180.0, 260.0
    for words, thick, how in _ROOF:
        deep = thick / 10
        _fill(pen, x + 60, y, 300, deep, how)
        pen.rectangle(x + 60, y, 300, deep, 0.25)
        pen.leader(x + 300, y + deep / 2, x + 340, y + 60 + thick / 4, words, 2.2)
        y += deep
    pen.concrete(x, 180, 30, 150)
    pen.rectangle(x - 6, 330, 46, 4, 0.5, 0.8)
    pen.path([(x + 30, 300), (x + 34, 262), (x + 56, 262), (x + 60, 288)], 0.7)
    for place, (at, words) in enumerate(
        (
            ((x + 45, 262), "gutter 250 × 200, heated"),
            ((x + 15, 332), "coping, aluminium 3, falls inward"),
            ((x + 30, 310), "upstand 300 above the roof"),
            ((x + 8, 230), "overflow 100, one a bay"),
        )
    ):
        pen.leader(*at, x - 30, 380 - place * 34, words, 2.2)
    pen.dimension(x, x + 60, 168, 10)
    pen.dimension_up(x - 16, 180, 330, 10)
    pen.scale_bar(180, 140, 10)


def stair(board: Board) -> None:
    """Stair 1 in section at 1:20, with balustrade and landing."""
    pen, x0, y0 = board.pen, 150.0, 150.0
    points = [(x0, y0)]
    for step in range(14):
        points += [(x0 + step * 14, y0 + (step + 1) * 8.2), (x0 + (step + 1) * 14, y0 + (step + 1) * 8.2)]
    pen.path(points, 0.6)
    pen.line(x0 + 10, y0 - 8, x0 + 206, y0 + 107, 0.5)
    end_x, end_y = points[-1]
    pen.concrete(end_x, end_y - 12, 90, 12)
    for step in range(0, 15, 2):
        pen.line(x0 + step * 14, y0 + step * 8.2, x0 + step * 14, y0 + step * 8.2 + 50, 0.25)
    pen.line(x0, y0 + 50, end_x, end_y + 50, 0.7)
    pen.line(end_x, end_y + 55, end_x + 90, end_y + 55, 0.7)
    pen.dimension(x0, x0 + 14, y0 - 12, 20)
    pen.dimension_up(x0 - 12, y0, y0 + 8.2, 20)
    pen.leader(x0 + 98, y0 + 107, x0 + 60, y0 + 190, "handrail 48.3, stainless, 900 above pitch", 2.2)
    pen.leader(end_x + 60, end_y, end_x + 80, end_y - 40, "landing 1800, slip resistance R11", 2.2)
    pen.leader(x0 + 140, y0 + 82, x0 + 200, y0 + 40, "nosing 55, contrasting", 2.2)
    pen.text(x0, y0 - 30, "14 risers of 164, going 280; 2R + G = 608 (550 to 700, common practice)", 2.2)
    pen.scale_bar(x0, y0 - 50, 20)


def wash_rooms(board: Board) -> None:
    """WC women and men at 1:50, on A3: cubicles, basins, heights."""
    pen, x0, y0 = board.pen, 60.0, 80.0
    for place, name in enumerate(("WC women", "WC men")):
        x = x0 + place * 108
        pen.rectangle(x, y0, 100, 160, 0.7)
        for cubicle in range(8):
            y = y0 + 2 + cubicle * 19.5
            pen.rectangle(x + 66, y, 34, 18.5, 0.35)
            pen.canvas.ellipse(*(each * 72 / 25.4 for each in (x + 84, y + 6, x + 98, y + 14)))
            pen.arc(x + 66, y + 2, 14, 90, 90, 0.18)
        for basin in range(7):
            pen.rectangle(x + 2, y0 + 14 + basin * 20, 10, 13, 0.25)
            pen.circle(x + 7, y0 + 20.5 + basin * 20, 3.4, 0.18)
        pen.text(x + 36, y0 + 90, name, 2.6, bold=True, centred=True)
        pen.text(x + 36, y0 + 84, "40.0 m²", 1.8, centred=True)
        pen.dimension(x, x + 100, y0 - 10, 50)
    pen.dimension_up(x0 - 10, y0, y0 + 160, 50)
    rows = [
        ("Item", "Height mm"),
        ("Basin rim", "800"),
        ("Mirror, lower edge", "1000"),
        ("Hand dryer", "950"),
        ("Coat hook", "1400"),
    ]
    pen.table(290, 240, (46, 28), rows)


def glazing(board: Board) -> None:
    """Mullion and transom of the curtain wall at 1:2, and how the glass is held."""
    pen = board.pen
    for place, (name, pane) in enumerate(
        (("Mullion", "8 / 16 / 66.2"), ("Transom", "8 / 16 / 66.2"), ("Corner", "10 / 16 / 88.4"))
    ):
        x, y = 100 + place * 215, 250.0
        pen.text(x, y + 200, f"{name}, 1:2", 3, bold=True)
        pen.rectangle(x + 60, y, 25, 90, 0.6, 0.85)
        pen.rectangle(x + 64, y + 4, 17, 82, 0.35)
        pen.rectangle(x + 66, y + 90, 13, 30, 0.5)
        for side in (0, 85):
            for depth, thick in ((96, 4), (108, 5.4)):
                pen.rectangle(x + side - (0 if side else 25), y + depth, 85 if side == 0 else 60, thick, 0.35, 0.9)
        pen.rectangle(x + 56, y + 118, 33, 6, 0.5, 0.4)
        pen.leader(x + 30, y + 98, x - 6, y + 150, f"glass {pane}", 2.2)
        pen.leader(x + 72, y + 121, x + 110, y + 150, "pressure plate, cap 50", 2.2)
        pen.leader(x + 72, y + 40, x + 110, y + 30, "box 50 × 180 × 3, thermally broken", 2.2)
        pen.leader(x + 60, y + 94, x + 20, y + 60, "gasket, EPDM", 2.2)
        pen.dimension(x + 60, x + 85, y - 10, 2)
        pen.dimension_up(x + 46, y, y + 90, 2)


def hinge(board: Board) -> None:
    """The linkspan's landward hinge at 1:10: pins, plates, pads, tolerance."""
    pen, x, y = board.pen, 260.0, 280.0
    pen.concrete(x - 160, y - 130, 160, 120)
    pen.path(
        [(x - 60, y - 10), (x + 10, y - 10), (x + 26, y + 22), (x - 4, y + 40), (x - 60, y + 20)], 0.7, closed=True
    )
    pen.circle(x, y + 10, 22, 0.5)
    pen.circle(x, y + 10, 12, 0.7, 0.85)
    pen.rectangle(x + 20, y - 12, 260, 44, 0.6)
    for stiffener in range(7):
        pen.line(x + 40 + stiffener * 36, y - 12, x + 40 + stiffener * 36, y + 32, 0.35)
    for bolt in range(4):
        pen.rectangle(x - 54 + bolt * 14, y - 60, 3, 60, 0.35)
    for place, (at, words) in enumerate(
        (
            ((x, y + 10), "pin 240, duplex steel 1.4462"),
            ((x + 16, y + 26), "bush, self-lubricating, 20"),
            ((x - 40, y + 10), "cheek plates 60, S355 K2"),
            ((x + 200, y + 10), "main girder, see 0300"),
            ((x - 33, y - 40), "8 M56 anchors, 1400 long"),
        )
    ):
        pen.leader(*at, x + 30 + place * 20, y + 150 - place * 22, words, 2.2)
    pen.dimension(x - 12, x + 12, y - 70, 10)
    if board.since(1):
        pen.circle(x + 240, y + 60, 6, 0.5)
        pen.line(x + 240, y + 54, x + 240, y + 32, 0.5)
        pen.leader(x + 246, y + 60, x + 280, y + 84, "grease nipple, one a bush, added", 2.2)
        board.cloud(1, x + 228, y + 44, 120, 50)
    pen.text(x - 160, y - 150, "Turning from -4.2° to +5.1° between lowest and highest working water", 2.4)
    pen.scale_bar(x - 160, y - 172, 10)


def fender(board: Board) -> None:
    """A fender unit at 1:20: panel, rubber, chains, and what it takes."""
    pen, x, y = board.pen, 180.0, 150.0
    pen.concrete(x, y, 60, 260)
    for up in (40.0, 150.0):
        pen.path(
            [(x + 60, y + up), (x + 95, y + up + 14), (x + 95, y + up + 46), (x + 60, y + up + 60)],
            0.6,
            closed=True,
            fill=0.85,
        )
        pen.leader(x + 80, y + up + 30, x + 160, y + up + 60, "cone fender 1000, grade 2", 2.2)
    pen.rectangle(x + 95, y + 10, 14, 240, 0.6)
    pen.rectangle(x + 109, y + 10, 3, 240, 0.3, 0.7)
    pen.leader(x + 111, y + 200, x + 160, y + 220, "face pads, UHMW-PE 60", 2.2)
    for up in (246.0, 20.0):
        with pen.ink(0.0, "dot"):
            pen.line(x + 60, y + up, x + 95, y + up - 10, 0.9)
    pen.leader(x + 78, y + 241, x + 160, y + 262, "shackle and chain 38, weight and shear", 2.2)
    rows = [
        ("Vessel", "Berthing energy kNm", "Reaction kN"),
        ("Ferry, 98 m", "412", "870"),
        ("Ferry, 64 m", "188", "520"),
        ("Plant barge", "96", "340"),
    ]
    pen.table(430, 330, (46, 56, 38), rows)
    pen.dimension_up(x - 14, y, y + 260, 20)
    pen.scale_bar(x, y - 24, 20)


def door_details(board: Board) -> None:
    """A door leaf, its jamb and its threshold, on A3."""
    pen = board.pen
    for x, name in ((60, "D-101, EI 30"), (150, "D-103, EI 60")):
        pen.rectangle(x, 100, 50, 110, 0.6)
        pen.rectangle(x + 4, 100, 42, 106, 0.35)
        pen.circle(x + 41, 150, 1.6, 0.3)
        pen.rectangle(x + 14, 165, 22, 30, 0.3)
        pen.text(x, 216, name, 2.4, bold=True)
        pen.dimension(x + 4, x + 46, 92, 20)
        pen.dimension_up(x - 6, 100, 206, 20)
    pen.rectangle(260, 150, 60, 22, 0.5, 0.85)
    pen.rectangle(320, 156, 26, 10, 0.5)
    pen.rectangle(346, 158, 40, 6, 0.4, 0.9)
    pen.leader(333, 161, 350, 196, "frame 70, hardwood, strip swells at 180 °C", 1.8)
    pen.leader(366, 161, 372, 130, "leaf 54", 1.8)
    pen.text(260, 216, "Jamb, 1:2", 2.4, bold=True)


def trial_pit(board: Board) -> None:
    """What was found in the ground, layer by layer, on A3."""
    pen, y = board.pen, 240.0
    for words, thick in (
        ("made ground, brick and ash", 22),
        ("soft grey silt, shells", 46),
        ("peat", 10),
        ("firm blue clay", 40),
    ):
        pen.rectangle(70, y - thick, 60, thick, 0.4)
        pen.hatch(70, y - thick, 60, thick, 2 + thick / 8)
        pen.leader(120, y - thick / 2, 150, y - thick / 2, f"{words}, {thick * 50 / 1000:.2f} m", 3)
        pen.dimension_up(60, y - thick, y, 50)
        y -= thick
    pen.text(70, 250, "Trial pit 3, dug by hand, water at 1.85 m", 3.4, bold=True)
    pen.arrow(140, 196, 132, 196)
    pen.text(142, 195, "water", 3)
