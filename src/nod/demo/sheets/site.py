"""The ground around the hall: the whole site, the yard with its booths, the boarding bridge."""

from __future__ import annotations

import math

from nod.demo.sheets.board import Board
from nod.demo.sheets.pen import BLUE, GREEN


def site_plan(board: Board) -> None:
    """Estuary, quay, hall, linkspans, bridge, yard and road at 1:500; the second revision moves the bus stop."""
    pen, x, y = board.pen, 60.0, 110.0
    _estuary(board, x, y)
    pen.line(x, y + 150, x + 620, y + 150, 0.9)
    pen.rectangle(x + 240, y + 156, 108, 60, 0.7, 0.8)
    pen.text(x + 294, y + 184, "Quay hall", 3.5, bold=True, centred=True)
    for at, name in ((150, "North linkspan"), (440, "South linkspan")):
        pen.rectangle(x + at, y + 60, 20, 92, 0.5)
        for rib in range(9):
            pen.line(x + at, y + 60 + rib * 10, x + at + 20, y + 70 + rib * 10, 0.13)
        pen.text_up(x + at + 12, y + 106, name, 2.2)
    pen.rectangle(x + 348, y + 190, 70, 7, 0.5)
    pen.text(x + 356, y + 200, "Boarding bridge", 2)
    _yard(board, x + 60, y + 245)
    with pen.ink(0.4):
        for edge in (395, 415):
            pen.path([(x, y + edge), (x + 260, y + edge), (x + 420, y + edge - 22), (x + 640, y + edge - 22)], 0.35)
    pen.text(x + 40, y + 402, "Ferry Road", 2.6)
    for tree in range(22):
        with pen.ink(GREEN):
            pen.circle(x + 14 + tree * 28, y + 386 + (tree % 3) * 2, 4.4, 0.25)
    for place in range(24):
        pen.spot(x + 20 + place % 8 * 76, y + 166 + place // 8 * 76, f"+{5.0 + 0.05 * (place % 7):.2f}")
    stop = 60 if board.revision < 1 else 190
    pen.rectangle(x + stop, y + 376, 34, 6, 0.5, 0.85)
    pen.text(x + stop + 2, y + 370, "Bus stop", 2)
    board.cloud(1, x + 184, y + 364, 48, 22)
    pen.north(x + 620, y + 300)
    pen.scale_bar(x, y - 40, 500)


def _estuary(board: Board, x: float, y: float) -> None:
    pen = board.pen
    with pen.ink(BLUE):
        for depth in range(6):
            points = [(x + at * 10, y + depth * 22 + 5 * math.sin(at / 5 + depth)) for at in range(63)]
            pen.path(points, 0.18)
            pen.text(x + 600, y + depth * 22 + 3, f"-{(6 - depth) * 1.5:.1f}", 1.7)
    pen.text(x + 300, y + 30, "Brackwater estuary", 4, centred=True)


def _yard(board: Board, x: float, y: float) -> None:
    pen = board.pen
    pen.rectangle(x, y, 480, 110, 0.5)
    for lane in range(12):
        with pen.ink(0.0, "dash"):
            pen.line(x + 60, y + 6 + lane * 9, x + 440, y + 6 + lane * 9, 0.18)
        pen.text(x + 64, y + 8 + lane * 9, str(lane + 1), 1.8)
    for car in range(60):
        lots = (car * 37) % 120
        pen.rectangle(x + 80 + (lots // 12) * 36, y + 7.5 + (lots % 12) * 9, 9, 4, 0.13)
    pen.text(x + 300, y + 116, "Marshalling yard, 12 lanes, 240 cars", 2.6, bold=True, centred=True)


def booths(board: Board) -> None:
    """Three check-in booths at 1:50 on A3, with kerbs, barriers and ducts."""
    pen = board.pen
    for booth in range(3):
        y = 92.0 + booth * 48
        pen.rectangle(70, y, 250, 14, 0.5, 0.94)
        pen.rectangle(150, y + 1, 48, 12, 0.6)
        pen.door(160, y + 1, 9)
        pen.text(154, y + 8, f"Booth {booth + 1}", 2.2, bold=True)
        pen.line(206, y + 14, 206, y + 44, 0.7)
        pen.text(208, y + 26, "barrier 3500", 1.6)
        for bollard in (76, 312):
            pen.circle(bollard, y + 7, 2, 0.4, 0.3)
        pen.arrow(80, y + 30, 130, y + 30, 0.3)
        pen.text(90, y + 32, f"Lane {booth * 2 + 1}", 1.8)
        with pen.ink(BLUE, "dash"):
            pen.line(174, y, 174, y - 10, 0.4)
    pen.dimension(70, 320, 84, 50)
    pen.dimension_up(56, 92, 140, 50)
    pen.text(70, 248, "Kerbs 125 high, ducts 4 × 100 to each booth, fall 1:60 to channel", 2)


def booth_sections(board: Board) -> None:
    """One booth, lengthwise and across, at 1:50 on A3."""
    pen = board.pen
    for x, wide, name in ((70, 120, "lengthwise"), (250, 56, "across")):
        pen.ground(x - 20, x + wide + 20, 120)
        pen.concrete(x - 6, 116, wide + 12, 7)
        pen.rectangle(x, 123, wide, 52, 0.5)
        pen.rectangle(x - 16, 175, wide + 32, 6, 0.6, 0.85)
        pen.rectangle(x + 8, 142, wide - 16, 22, 0.35)
        pen.rectangle(x + 10, 123, 18, 41, 0.35)
        pen.dimension(x, x + wide, 104, 50)
        pen.dimension_up(x - 24, 123, 175, 50)
        pen.text(x, 196, f"Section {name}", 2.8, bold=True)
        pen.leader(x + wide - 14, 150, x + wide + 18, 205, "glass 11.5, sliding", 1.8)


def bridge_plan(board: Board) -> None:
    """The boarding bridge at deck level, at 1:100 on A3."""
    pen, x, y = board.pen, 60.0, 150.0
    pen.rectangle(x, y, 270, 26, 0.6)
    pen.rectangle(x + 1.4, y + 1.4, 267, 23.2, 0.25)
    for panel in range(10):
        pen.line(x + panel * 30, y, x + panel * 30, y + 26, 0.13)
        pen.rectangle(x + panel * 30 - 1, y - 1, 2, 2, 0.35, 0.2)
        pen.rectangle(x + panel * 30 - 1, y + 25, 2, 2, 0.35, 0.2)
    for slope in range(3):
        pen.arrow(x + 30 + slope * 80, y + 13, x + 70 + slope * 80, y + 13, 0.35)
        pen.text(x + 40 + slope * 80, y + 15, "1:20 up", 1.8)
    pen.path(
        [(x + 270, y - 8), (x + 310, y - 8), (x + 316, y + 13), (x + 310, y + 34), (x + 270, y + 34)], 0.6, closed=True
    )
    pen.text(x + 276, y + 12, "Gangway head, turns", 1.7)
    pen.dimension(x, x + 270, y - 18)
    for panel in range(9):
        pen.dimension(x + panel * 30, x + panel * 30 + 30, y - 10)
    pen.dimension_up(x - 10, y, y + 26)
    pen.text(x, y + 60, "Plan at deck level +9.800 to +11.150", 2.8, bold=True)


def bridge_elevations(board: Board) -> None:
    """Both sides of the bridge, glazed between the trusses."""
    pen = board.pen
    for y, name in ((206.0, "East elevation"), (128.0, "West elevation")):
        x = 60.0
        pen.rectangle(x, y, 270, 32, 0.5)
        for panel in range(9):
            pen.line(x + panel * 30, y, x + panel * 30, y + 32, 0.35)
            pen.line(x + panel * 30, y + 32 * (panel % 2), x + panel * 30 + 30, y + 32 * ((panel + 1) % 2), 0.35)
            if name.startswith("East"):
                pen.rectangle(x + panel * 30 + 3, y + 7, 24, 18, 0.2)
        for leg in (40, 220):
            pen.rectangle(x + leg, y - 40, 6, 40, 0.5, 0.9)
        pen.ground(x - 10, x + 120, y - 40)
        pen.text(x, y + 37, name, 2.8, bold=True)
        pen.level(x + 292, y, "+9.800")


FEET_PER_INCH = 20
"""An inch on the old survey is twenty feet on the ground, which is 1:240."""


def old_quay(board: Board) -> None:
    """The quay as it was surveyed in feet and inches: chainages, soundings, the shed that stood there."""
    pen, x, y = board.pen, 80.0, 240.0
    foot = 25.4 / FEET_PER_INCH
    pen.line(x, y, x + 400 * foot, y, 0.9)
    for chain in range(0, 401, 20):
        pen.line(x + chain * foot, y, x + chain * foot, y + 5, 0.25)
        pen.text_up(x + chain * foot + 0.8, y + 16, f"{chain}'", 2)
        for depth in range(1, 5):
            words = f"{6 + depth * 3 + chain % 7}.{chain % 5}"
            pen.text(x + chain * foot - 3, y - depth * 22, words, 1.8)
    pen.rectangle(x + 90 * foot, y + 40 * foot, 180 * foot, 60 * foot, 0.7)
    pen.hatch(x + 90 * foot, y + 40 * foot, 180 * foot, 60 * foot, 6)
    pen.blank(x + 150 * foot, y + 64 * foot, 62 * foot, 12 * foot)
    pen.text(x + 180 * foot, y + 67 * foot, "Goods shed", 4, bold=True, centred=True)
    _feet(board, x + 90 * foot, x + 270 * foot, y + 32 * foot)
    for place in range(7):
        pen.circle(x + (20 + place * 60) * foot, y + 8, 2.4, 0.5)
    with pen.ink(0.0, "dash"):
        for rail in (14, 18.7):
            pen.line(x, y + rail * foot, x + 400 * foot, y + rail * foot, 0.4)
    pen.text(x + 6, y + 25 * foot, "Crane rails at 4' 8½\" gauge", 2.4)
    pen.text(x, y - 120, f"Soundings in feet below low water. One inch to {FEET_PER_INCH} feet.", 3)
    pen.north(x + 440 * foot, y + 100)


def _feet(board: Board, x0: float, x1: float, y: float) -> None:
    """A dimension in feet and inches."""
    feet = (x1 - x0) / 25.4 * FEET_PER_INCH
    board.pen.arrow((x0 + x1) / 2, y, x0, y, 0.2)
    board.pen.arrow((x0 + x1) / 2, y, x1, y, 0.2)
    board.pen.text((x0 + x1) / 2, y + 1.4, f"{int(feet + 0.01)}' 0\"", 2.4, centred=True)
