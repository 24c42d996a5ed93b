"""The structural engineer's sheets: foundations, framing, frames in elevation, truss, plates and connections."""

from __future__ import annotations

from itertools import pairwise

from nod.demo.sheets.board import Board
from nod.demo.sheets.hall import FLOORS, ROWS
from nod.demo.sheets.plans import hall_grid

_BEAMS = ("UB 457×191×67", "UB 356×171×51", "UB 406×178×60", "UB 610×229×101")


def foundations(board: Board) -> None:
    """Pile caps, ground beams and the slab, with levels; the second revision strengthens where the crane stands."""
    pen = board.pen
    hall_grid(board)
    _ground_beams(board)
    for column in range(10):
        for row in range(6):
            _cap(board, column, row)
    for bay in range(9):
        x0, y0 = board.place(bay * 6 + 1, 2.6)
        pen.text(x0 + 4, y0 + 16, "Slab 200, A393 both ways", 1.6)
        pen.spot(x0 + 8, y0 + 8, "+5.000")
    board.pen.text(*board.place(0, -5), "Concrete C35/45 XS1. Piles 600 bored, safe load 1200 kN each.", 2.2)
    if board.since(1):
        x0, y0 = board.place(24.4, 14.8)
        pen.line(x0 - 4, y0, x0 + 56, y0, 0.5)
        pen.line(x0 - 4, y0 + 6, x0 + 56, y0 + 6, 0.5)
        pen.text(x0 + 8, y0 + 8, "GB7 600 × 750 added", 1.8)
        board.cloud(1, x0 - 6, y0 - 5, 70, 20)
    if board.since(2):
        x0, y0 = board.place(44, 20)
        pen.concrete(x0, y0, 26, 26)
        pen.text(x0 + 3, y0 + 28, "Lift pit, base +3.400", 1.8)
        board.cloud(2, x0 - 4, y0 - 4, 50, 42)


def _ground_beams(board: Board) -> None:
    for row in range(6):
        x0, y0 = board.place(0, row * 6)
        for line in (-3.0, 3.0):
            board.pen.line(x0, y0 + line, x0 + 540, y0 + line, 0.35)
    for column in range(10):
        x0, y0 = board.place(column * 6, 0)
        for line in (-2.5, 2.5):
            board.pen.line(x0 + line, y0, x0 + line, y0 + 300, 0.25)


def _cap(board: Board, column: int, row: int) -> None:
    """Four piles; six under the crane's columns from the second revision on."""
    pen, (x, y) = board.pen, board.place(column * 6, row * 6)
    strong = board.since(1) and row == 1 and column in (2, 3)
    wide = 26 if strong else 18
    pen.rectangle(x - wide / 2, y - 9, wide, 18, 0.5, 0.92)
    for place in range(3 if strong else 2):
        for up in (-4.5, 4.5):
            pen.circle(x - (wide / 2 - 4.5) + place * (8.5 if strong else 9), y + up, 3, 0.25, 1)
    pen.text(x + wide / 2 + 1, y + 4, f"PC{2 if strong else 1}", 1.6, bold=True)
    pen.text(x + wide / 2 + 1, y + 1.4, "+4.250" if not strong else "+4.100", 1.3)
    if strong and column == 2:
        board.cloud(1, x - 17, y - 14, 100, 28)


def framing(board: Board, level: str = "01") -> None:
    """Columns, main beams with sizes, joists, bracing in plan."""
    pen, lots, layout = board.pen, board.lots, board.layout
    hall_grid(board)
    step = layout.step
    for column in range(layout.columns + 1):
        for row in range(layout.rows + 1):
            x, y = layout.at(column, row)
            pen.rectangle(x - 2, y - 2, 4, 4, 0.5, 0.2)
            if column < layout.columns:
                pen.line(x + 2, y, x + step - 2, y, 0.7)
                pen.text(x + step / 2, y + 1.2, lots.choice(_BEAMS), 1.5, centred=True)
            if row < layout.rows:
                pen.line(x, y + 2, x, y + step - 2, 0.7)
                if column < layout.columns:
                    _joists(board, x, y, step, braced=lots.random() < 0.16)
    pen.text(layout.left, layout.bottom - 40, f"Top of steel +{FLOORS.get(level, 18.2) - 0.15:.3f} unless noted", 2.2)
    for revision in range(1, board.revision + 1):
        _changed_framing(board, revision)


def _joists(board: Board, x: float, y: float, step: float, braced: bool) -> None:
    pen = board.pen
    for joist in range(1, 4):
        pen.line(x + joist * step / 4, y + 2, x + joist * step / 4, y + step - 2, 0.18)
    if braced:
        pen.line(x, y, x + step, y + step, 0.25)
        pen.line(x + step, y, x, y + step, 0.25)
        pen.text(x + step * 0.3, y + step * 0.5, "CHS 114×5", 1.4)


def _changed_framing(board: Board, revision: int) -> None:
    """An opening trimmed, and a beam that grew."""
    pen, step = board.pen, board.layout.step
    column, row = (board.layout.columns // 2 - 1 + revision) % board.layout.columns, revision % board.layout.rows
    x, y = board.layout.at(column, row)
    pen.blank(x + step * 0.22, y + step * 0.3, step * 0.5, step * 0.36)
    pen.rectangle(x + step * 0.22, y + step * 0.3, step * 0.5, step * 0.36, 0.5)
    pen.line(x + step * 0.22, y + step * 0.3, x + step * 0.72, y + step * 0.66, 0.18)
    pen.text(x + step * 0.26, y + step * 0.7, f"Opening {1800 + revision * 300} × 1200", 1.5)
    pen.text(x + step * 0.26, y + step * 0.2, "trimmed, PFC 260×90", 1.5)
    board.cloud(revision, x + step * 0.12, y + step * 0.12, step * 0.76, step * 0.72)


def frame_elevation(board: Board, along: bool) -> None:
    """A frame on a grid line: columns, beams, bracing, levels, bases."""
    pen = board.pen
    bays, aside = (9, 0) if along else (5, 120)
    x0, y0 = board.layout.left + aside, board.layout.bottom + 40
    tops = [(level - FLOORS["00"]) * 10 for level in FLOORS.values()]
    for bay in range(bays + 1):
        _post(board, x0 + bay * 60, y0, tops[-1], str(bay + 1) if along else ROWS[bay])
    for top, name in zip(tops[1:], ("UB 457×191×67", "UB 457×191×67", "UB 356×171×51"), strict=True):
        pen.rectangle(x0, y0 + top - 4.5, bays * 60, 4.5, 0.35)
        for bay in range(bays):
            pen.text(x0 + bay * 60 + 30, y0 + top - 8, name, 1.6, centred=True)
    for bay in (0, bays - 1, *((bays // 2,) if board.since(1) else ())):
        _bracing(board, x0 + bay * 60, y0, tops)
    if board.revision:
        board.cloud(1, x0 + bays // 2 * 60 - 4, y0 - 2, 68, tops[-1] + 4)
    for top, level in zip(tops, FLOORS.values(), strict=True):
        pen.level(x0 + bays * 60 + 22, y0 + top, f"+{level:.3f}")
    _frame_dimensions(board, x0, y0, bays, tops)
    pen.ground(x0 - 20, x0 + bays * 60 + 20, y0 - 4)


def _frame_dimensions(board: Board, x: float, y: float, bays: int, tops: list[float]) -> None:
    for low, high in pairwise(tops):
        board.pen.dimension_up(x - 18, y + low, y + high)
    for bay in range(bays):
        board.pen.dimension(x + bay * 60, x + bay * 60 + 60, y - 56)


def _post(board: Board, x: float, y: float, high: float, name: str) -> None:
    """A column with its cap, two piles and the bubble of its grid line."""
    pen = board.pen
    pen.rectangle(x - 1.3, y, 2.6, high, 0.35, 0.85)
    pen.rectangle(x - 9, y - 16, 18, 9, 0.35, 0.92)
    for pile in (-5, 5):
        pen.rectangle(x + pile - 2, y - 46, 4, 30, 0.25)
    pen.circle(x, y + high + 22, 5)
    pen.text(x, y + high + 20.8, name, 2.5, centred=True)


def _bracing(board: Board, x: float, y: float, tops: list[float]) -> None:
    """Crossed, on every storey of a bay."""
    for low, high in pairwise(tops):
        board.pen.line(x, y + low, x + 60, y + high, 0.5)
        board.pen.line(x, y + high, x + 60, y + low, 0.5)
    board.pen.text(x + 22, y + 14, "CHS 168×8", 1.7)


def truss(board: Board) -> None:
    """The bridge's main truss, at 1:100 on A3: chords, diagonals, posts, their sizes and forces."""
    pen, x0, y0, high, panel, count = board.pen, 60.0, 130.0, 32.0, 30.0, 9
    for y, name in ((y0, "Bottom chord SHS 200×200×10"), (y0 + high, "Top chord SHS 200×200×12.5")):
        pen.rectangle(x0, y - 1.2, panel * count, 2.4, 0.5)
        pen.text(x0 + 4, y + 3, name, 1.8)
    for place in range(count + 1):
        x = x0 + place * panel
        pen.line(x, y0, x, y0 + high, 0.5)
        pen.circle(x, y0 - 10, 3.4)
        pen.text(x, y0 - 11, str(place), 1.8, centred=True)
        if place < count:
            rising = place < count / 2
            pen.line(x, y0 if rising else y0 + high, x + panel, y0 + high if rising else y0, 0.5)
            force = round(420 - abs(place - count / 2 + 0.5) * -60)
            pen.text(x + panel * 0.3, y0 + high * 0.5, f"{'-' if rising else '+'}{force} kN", 1.4)
            pen.dimension(x, x + panel, y0 - 20)
    pen.dimension_up(x0 - 12, y0, y0 + high)
    for x in (x0, x0 + count * panel):
        pen.path([(x, y0 - 1), (x - 4, y0 - 7), (x + 4, y0 - 7)], 0.35, closed=True)
    rows = [
        ("Member", "Section", "Grade"),
        ("Top chord", "SHS 200×200×12.5", "S355 J2H"),
        ("Bottom chord", "SHS 200×200×10", "S355 J2H"),
        ("Diagonals", "SHS 120×120×8", "S355 J2H"),
        ("Posts", "SHS 100×100×6.3", "S355 J2H"),
    ]
    pen.table(60, 96, (34, 44, 26), rows, 5.5)


def plates(board: Board) -> None:
    """Four column bases at 1:10: plan and elevation, bolts, grout, welds."""
    pen = board.pen
    for place, (name, size, bolts) in enumerate((("BP1", 45, 4), ("BP2", 52, 4), ("BP3", 60, 6), ("BP4", 66, 8))):
        x, y = 90 + place * 165, 330.0
        pen.text(x, y + size + 16, f"{name}   {size * 10} × {size * 10} × {25 + place * 5}", 3, bold=True)
        pen.rectangle(x, y, size, size, 0.6)
        middle = size / 2
        pen.rectangle(x + middle - 12.5, y + middle - 12.5, 25, 2, 0.5, 0.4)
        pen.rectangle(x + middle - 12.5, y + middle + 10.5, 25, 2, 0.5, 0.4)
        pen.rectangle(x + middle - 0.6, y + middle - 10.5, 1.2, 21, 0.5, 0.4)
        for bolt in range(bolts):
            across, up = (bolt % 2) * (size - 14) + 7, (bolt // 2) * (size - 14) / max(1, bolts // 2 - 1) + 7
            pen.circle(x + across, y + up, 1.6, 0.35)
            pen.line(x + across - 2.6, y + up, x + across + 2.6, y + up, 0.13)
        pen.dimension(x, x + size, y - 8, 10)
        pen.dimension_up(x - 8, y, y + size, 10)
        base = y - 130
        pen.concrete(x - 14, base, size + 28, 40)
        pen.rectangle(x, base + 40, size, 3, 0.25, 0.85)
        pen.rectangle(x, base + 43, size, 2.5, 0.5)
        pen.rectangle(x + middle - 12.5, base + 45.5, 25, 40, 0.5)
        for from_left in (7.0, size - 7.0):
            pen.rectangle(x + from_left - 1, base + 8, 2, 42, 0.35)
        pen.leader(x + size - 7, base + 48, x + size + 6, base + 70, f"{bolts} M{20 + 4 * place}, 8.8")
        pen.leader(x + 4, base + 41.5, x - 6, base + 56, "grout 30")
        pen.leader(x + middle + 12.5, base + 46, x + size + 6, base + 58, "weld 8 all round")


def connections(board: Board) -> None:
    """Beam to column, beam to beam, bracing and splice at 1:10."""
    pen = board.pen
    for place, (name, bolts, words) in enumerate(
        (
            ("C1  beam to column flange", 3, "end plate 200 × 15"),
            ("C2  beam to column web", 4, "fin plate 100 × 10"),
            ("C3  bracing to column", 2, "gusset 15, weld 6"),
            ("C4  column splice", 4, "cover plates 12"),
        )
    ):
        x, y = 90 + place % 2 * 330, 380 - place // 2 * 190
        pen.text(x, y + 106, name, 3, bold=True)
        pen.rectangle(x, y - 20, 3, 120, 0.5, 0.8)
        pen.rectangle(x + 22, y - 20, 3, 120, 0.5, 0.8)
        pen.line(x + 3, y - 20, x + 3, y + 100, 0.25)
        pen.rectangle(x + 25, y + 15, 150, 2.4, 0.5, 0.8)
        pen.rectangle(x + 25, y + 58, 150, 2.4, 0.5, 0.8)
        pen.rectangle(x + 25, y + 10, 3, 56, 0.5)
        for bolt in range(bolts):
            at = y + 22 + bolt * 34 / max(1, bolts - 1)
            pen.rectangle(x + 20, at - 1, 14, 2, 0.35)
        if place == 2:
            for offset in (0, 7):
                pen.line(x + 28, y + 66 + offset, x + 120, y + 122 + offset, 0.5)
        pen.leader(x + 27, y + 40, x + 60, y + 82, words)
        pen.leader(x + 32, y + 22, x + 60, y + 36, f"{bolts * 2} M20, 8.8, at 70")
        pen.dimension_up(x + 182, y + 15, y + 60.4, 10)
        pen.dimension(x + 3, x + 22, y - 28, 10)


def retaining_wall(board: Board) -> None:
    """The quay wall in section at 1:20, with its bars; the second revision thickens the heel."""
    pen, x, y = board.pen, 240.0, 190.0
    heel = 110 if board.revision < 1 else 140
    pen.concrete(x - 60, y, 60 + heel, 25)
    pen.concrete(x - 10, y + 25, 22, 190)
    pen.ground(x + 12, x + 200, y + 205)
    pen.ground(x - 160, x - 10, y + 60)
    for bar in range(12):
        pen.circle(x + 8, y + 32 + bar * 15, 0.8, 0.2, 0)
        pen.circle(x - 6, y + 32 + bar * 15, 0.6, 0.2, 0)
    pen.path([(x + 9, y + 212), (x + 9, y + 5), (x + heel - 4, y + 5)], 0.5)
    pen.leader(x + 9, y + 120, x + 60, y + 140, "B20 at 150, far face")
    pen.leader(x - 6, y + 90, x - 50, y + 120, "B12 at 200, near face")
    pen.leader(x + heel - 10, y + 5, x + heel + 20, y + 40, "B20 at 150, bottom")
    pen.dimension(x - 60, x + heel, y - 14, 20)
    pen.dimension_up(x - 80, y, y + 215, 20)
    pen.level(x + 210, y + 205, "+5.200")
    pen.level(x - 150, y + 60, "+2.300")
    pen.text(x - 150, y + 48, "Weep holes 75 at 1500, filter behind", 2)
    board.cloud(1, x + 80, y - 20, 84, 54)
