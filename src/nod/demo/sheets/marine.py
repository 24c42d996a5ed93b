"""The marine engineer's sheets: linkspans in plan and elevation, piles, sections, moorings, the sea bed."""

from __future__ import annotations

import math

from nod.demo.sheets.board import Board
from nod.demo.sheets.frame import draw_grid
from nod.demo.sheets.pen import BLUE

_TIDES = (("HAT +4.9 m", 4.9), ("MHWS +4.2 m", 4.2), ("MSL +2.1 m", 2.1), ("MLWS +0.3 m", 0.3))


def linkspan(board: Board) -> None:
    """Plan above, elevation below with the deck at its highest and lowest."""
    pen, layout = board.pen, board.layout
    draw_grid(pen, layout.left, layout.bottom + 150, layout.columns, 2, layout.step)
    x0, y0, length, width = layout.left, layout.bottom + 165, layout.columns * layout.step, 90.0
    for rail in (0.0, 0.08, 0.5, 0.92, 1.0):
        pen.line(x0, y0 + rail * width, x0 + length, y0 + 4 + rail * (width - 8), 0.5)
    for rib in range(layout.columns * 4 + 1):
        x = x0 + rib * layout.step / 4
        pen.line(x, y0, x, y0 + width, 0.18)
        if rib < layout.columns * 4:
            pen.line(x, y0, x + layout.step / 4, y0 + width, 0.1)
    pen.text(x0 + length / 2, y0 + width + 30, "Plan", 3.5, bold=True, centred=True)
    _elevation(board, x0, layout.bottom + 40, length)


def _elevation(board: Board, x0: float, y0: float, length: float) -> None:
    pen = board.pen
    pen.concrete(x0 - 40, y0 - 40, 44, 62)
    for words, level in _TIDES:
        with pen.ink(BLUE):
            pen.line(x0 + 6, y0 + level * 10 - 40, x0 + length + 40, y0 + level * 10 - 40, 0.25)
        pen.text(x0 + length + 42, y0 + level * 10 - 41, words, 1.8)
    for rise, words in ((26, "at highest working water, 1:12"), (-22, "at lowest working water, 1:14")):
        pen.line(x0, y0 + 14, x0 + length, y0 + 14 + rise, 0.6)
        pen.line(x0, y0 + 6, x0 + length, y0 + 6 + rise, 0.6)
        pen.text(x0 + length * 0.62, y0 + 18 + rise * 0.62, words, 1.9)
    for tower in (0.78, 0.86):
        pen.rectangle(x0 + length * tower, y0 - 60, 8, 120, 0.5)
    pen.dimension(x0, x0 + length, y0 - 72)
    pen.text(x0 + length / 2, y0 - 86, "Elevation from the west", 3.5, bold=True, centred=True)


def pile_plan(board: Board) -> None:
    """Where the piles stand, raked or not, each with its number."""
    pen, layout, lots = board.pen, board.layout, board.lots
    draw_grid(pen, layout.left, layout.bottom, layout.columns, layout.rows, layout.step)
    number = 0
    for column in range(10):
        for row in range(4):
            number += 1
            x, y = layout.at(column, row + 0.6)
            raked = row in (0, 3)
            pen.circle(x, y, 5, 0.6)
            pen.circle(x, y, 4.2, 0.18)
            if raked:
                pen.arrow(x, y, x + 3, y + (-16 if row == 0 else 16), 0.35)
                pen.text(x + 5, y + (-14 if row == 0 else 12), "1:5", 1.6)
            pen.text(x + 6.4, y + 1.4, f"P{number:02d}", 1.8, bold=True)
            pen.text(x + 6.4, y - 1.6, f"toe -{lots.randrange(18, 26)}.{lots.randrange(10)}", 1.5)
    pen.text(
        layout.left,
        layout.bottom - 34,
        "Tubes 1016 × 16, S420, driven open. Set: 25 mm in ten blows of 12 t at 1.2 m.",
        2.2,
    )


def cross_section(board: Board) -> None:
    """Through the deck at 1:50."""
    pen, x, y = board.pen, 200.0, 300.0
    pen.path([(x, y), (x + 380, y), (x + 380, y + 8), (x + 190, y + 12), (x, y + 8)], 0.6, closed=True)
    for girder in (30, 350):
        pen.rectangle(x + girder - 10, y - 56, 20, 3, 0.6, 0.7)
        pen.rectangle(x + girder - 1, y - 53, 2, 53, 0.6, 0.7)
    for stringer in range(9):
        pen.rectangle(x + 60 + stringer * 32, y - 18, 1.4, 18, 0.4)
    for side in (6, 366):
        pen.rectangle(x + side, y + 8, 8, 24, 0.5, 0.85)
        pen.line(x + side + 4, y + 32, x + side + 4, y + 60, 0.4)
    pen.dimension(x, x + 380, y - 74, 50)
    pen.dimension(x + 14, x + 366, y + 72, 50)
    for place, words in enumerate(("deck plate 14, anti-slip", "stringers 300 × 12 at 1600", "main girders 2750 deep")):
        pen.leader(x + 110 + place * 70, y - 10, x + 150 + place * 70, y - 96 - place * 12, words, 2.2)
    pen.text(x, y + 110, "Section at mid span", 3.5, bold=True)
    pen.scale_bar(x, y - 150, 50)


def moorings(board: Board) -> None:
    """Bollards along the quay and a ship at them, with lines and angles, at 1:500."""
    pen, x, y = board.pen, 100.0, 330.0
    pen.line(x, y, x + 620, y, 0.9)
    for place in range(19):
        at = x + 10 + place * 33
        pen.circle(at, y + 6, 2, 0.5, 0.2)
        pen.text(at - 3, y + 11, f"B{place + 1:02d}", 1.7)
    for start, long, name in ((x + 90, 196.0, "Ferry 98 m"), (x + 380, 128.0, "Ferry 64 m")):
        pen.path(
            [
                (start, y - 12),
                (start + long * 0.86, y - 12),
                (start + long, y - 32),
                (start + long * 0.86, y - 52),
                (start, y - 52),
            ],
            0.6,
            closed=True,
        )
        pen.text(start + long / 2, y - 34, name, 2.6, bold=True, centred=True)
        for from_x, to_x in (
            (start, start - 34),
            (start + 10, start + 60),
            (start + long * 0.86, start + long + 24),
            (start + long * 0.8, start + long * 0.4),
        ):
            with pen.ink(BLUE, "dash"):
                pen.line(from_x, y - 12, to_x, y + 6, 0.35)
            angle = math.degrees(math.atan2(18, abs(to_x - from_x)))
            pen.text((from_x + to_x) / 2, y - 1, f"{angle:.0f}°", 1.6)
    pen.north(x + 600, y + 90)
    rows = [("Bollard", "Load t"), ("B01 to B06", "50"), ("B07 to B13", "80"), ("B14 to B19", "50")]
    pen.table(x, y - 90, (34, 24), rows)
    pen.scale_bar(x, y - 160, 500)


def sea_bed(board: Board) -> None:
    """Profiles of the bed as it is and as it is to be dredged."""
    pen, lots = board.pen, board.lots
    for profile in range(4):
        x, y = 90.0, 470 - profile * 100
        pen.text(x, y + 34, f"Profile {profile + 1}, chainage {profile * 25} m", 2.6, bold=True)
        bed = [(x + place * 12, y - 10 + lots.uniform(-4, 4) - place * 0.4) for place in range(45)]
        pen.path(bed, 0.6)
        pen.path([(x, y + 6), (x + 60, y - 26), (x + 420, y - 26), (x + 480, y - 6), (x + 528, y - 6)], 0.5)
        for place in range(0, 45, 4):
            at_x, at_y = bed[place]
            pen.line(at_x, y - 34, at_x, at_y, 0.1)
            pen.text_up(at_x + 0.8, y - 40, f"{(at_y - y) / 4 - 3:.2f}", 1.6)
        with pen.ink(BLUE):
            pen.line(x, y + 22, x + 528, y + 22, 0.3)
        pen.text(x + 532, y + 21, "CD 0.00", 1.8)
        pen.text(x + 532, y - 27, "dredged -6.50", 1.8)
