"""Sections and elevations of the quay hall at 1:100: levels, floors, roof, the tide in front of it."""

from __future__ import annotations

from itertools import pairwise

from nod.demo.sheets.board import Board
from nod.demo.sheets.hall import FLOORS, ROWS
from nod.demo.sheets.pen import BLUE, Pen

_DATUM = 5.2
_TIDES = (
    ("highest astronomical tide", 4.9),
    ("mean high water springs", 4.2),
    ("mean sea level", 2.1),
    ("mean low water springs", 0.3),
)


def _up(board: Board, level: float) -> float:
    return board.layout.bottom + 60 + (level - _DATUM) * 10


def section(board: Board, name: str) -> None:
    """Across the hall from the quay (left) to the yard."""
    pen, left = board.pen, board.layout.left + 110
    right = left + 300
    _water(board, left - 130, left - 12)
    pen.ground(right + 6, right + 120, _up(board, _DATUM) - 2)
    for row in range(6):
        x = left + row * 60
        _column(board, x)
        pen.circle(x, _up(board, 18.2) + 46, 5)
        pen.text(x, _up(board, 18.2) + 44.8, ROWS[row], 2.5, centred=True)
    for level in list(FLOORS.values())[:3]:
        pen.concrete(left - 4, _up(board, level) - 3, 308, 3)
    _roof(board, left)
    _rooms(board, name, left)
    _heights(board, left, right)
    if name == "A" and board.since(1):
        x, y = left + 124, _up(board, 9.8)
        pen.rectangle(x, y, 2, 11, 0.5, 0.6)
        pen.text(x + 4, y + 6, "Balustrade 1100, glass", 1.8)
        board.cloud(1, x - 6, y - 5, 58, 22)
        x, y = left + 190, _up(board, 14.0)
        pen.text(x, y + 20, "Ceiling lowered to 2600", 1.8)
        board.cloud(1, x - 4, y + 15, 54, 12)


def _column(board: Board, x: float) -> None:
    pen, ground = board.pen, _up(board, _DATUM)
    pen.rectangle(x - 1.3, ground, 2.6, _up(board, 18.2) - ground, 0.35, 0.8)
    pen.concrete(x - 9, ground - 16, 18, 9)
    for pile in (-5, 5):
        pen.rectangle(x + pile - 2, ground - 66, 4, 50, 0.25)


def _roof(board: Board, left: float) -> None:
    """A shallow gable on trusses, with its build-up, and a canopy to the quay."""
    pen, y = board.pen, _up(board, 18.2)
    pen.path([(left - 14, y), (left + 150, y + 12), (left + 314, y)], 0.5)
    pen.path([(left - 14, y + 3), (left + 150, y + 15), (left + 314, y + 3)], 0.5)
    pen.line(left, y - 8, left + 300, y - 8, 0.35)
    for panel in range(20):
        x = left + panel * 15
        pen.line(x, y - 8, x + 7.5, y + 3 + 9 * (1 - abs(panel - 9.5) / 10), 0.25)
        pen.line(x + 7.5, y + 3 + 9 * (1 - abs(panel - 9.5) / 10), x + 15, y - 8, 0.25)
    pen.leader(left + 180, y + 12, left + 220, y + 30, "standing seam, 180 insulation, deck 35")
    pen.rectangle(left - 44, _up(board, 9.2), 40, 3, 0.5)
    pen.leader(left - 30, _up(board, 9.2) + 3, left - 60, _up(board, 12), "canopy, glass 17.5")


def _rooms(board: Board, name: str, left: float) -> None:
    pen = board.pen
    names = {
        "A": (
            ("Waiting lounge", "Passage", "WC women"),
            ("Upper lounge", "Passage", "WC women"),
            ("Roof terrace", "Passage", "WC women"),
        ),
        "B": (
            ("Baggage", "Passport control", "Plant room"),
            ("Café", "Boarding gate", "Control room"),
            ("Plant deck", "Passage", "Server room"),
        ),
    }[name]
    for level, words in zip(list(FLOORS.values())[:3], names, strict=True):
        y = _up(board, level)
        for across, room in zip((70, 150, 240), words, strict=True):
            pen.text(left + across, y + 16, room, 2.2, bold=True, centred=True)
        for wall in (180, 204):
            pen.rectangle(left + wall - 0.8, y, 1.6, 39, 0.25, 0.6)
        for person in range(3):
            pen.circle(left + 30 + person * 22, y + 15.5, 1.2, 0.18)
            pen.line(left + 30 + person * 22, y + 14.3, left + 30 + person * 22, y + 6, 0.18)
            pen.path(
                [(left + 28.5 + person * 22, y), (left + 30 + person * 22, y + 6), (left + 31.5 + person * 22, y)], 0.18
            )
    if name == "B":
        for flight, level in enumerate(list(FLOORS.values())[:2]):
            x, y = left + 215.0, _up(board, level)
            points = [(x + step * 2.8 // 1, y + step * 1.64) for step in range(14)]
            pen.path(points, 0.35)
            pen.path([(x + 40, y + 23), (x + 40 - 36, y + 46)], 0.35)
            pen.text(x + 4, y + 25 + flight, "28 × 164", 1.5)


def _heights(board: Board, left: float, right: float) -> None:
    pen, levels = board.pen, list(FLOORS.values())
    for level in levels:
        pen.level(right + 60, _up(board, level), f"+{level:.3f}")
    for low, high in pairwise(levels):
        pen.dimension_up(right + 44, _up(board, low), _up(board, high))
    for row in range(5):
        pen.dimension(left + row * 60, left + row * 60 + 60, _up(board, _DATUM) - 82)
    pen.scale_bar(left, _up(board, _DATUM) - 100, 100)


def _water(board: Board, x0: float, x1: float) -> None:
    """The tide at the quay: levels from the tide tables of an invented estuary."""
    pen = board.pen
    pen.concrete(x1 - 14, _up(board, -2), 14, _up(board, _DATUM) - _up(board, -2))
    with pen.ink(BLUE):
        for words, level in _TIDES:
            pen.line(x0, _up(board, level), x1 - 14, _up(board, level), 0.3)
            pen.text(x0 + 2, _up(board, level) + 1, f"{words} +{level:.1f}", 1.7)
        for wave in range(int((x1 - x0 - 14) / 8)):
            pen.arc(x0 + 4 + wave * 8, _up(board, 2.1) - 3, 4, 0, 180, 0.18)


def elevation(board: Board, first: str, second: str) -> None:
    """Two faces of the hall above each other."""
    for place, side in enumerate((first, second)):
        _face(board, side, 330.0 - place * 215, second == "west")


def _face(board: Board, side: str, y: float, short: bool) -> None:
    pen = board.pen
    bays, x0 = (5, board.layout.left + 120) if short else (9, board.layout.left)
    wide = bays * 60
    pen.ground(x0 - 30, x0 + wide + 30, y)
    pen.rectangle(x0 - 3.5, y, wide + 7, 130, 0.5)
    roof = [(x0 - 14, y + 130), (x0 + wide / 2, y + 145), (x0 + wide + 14, y + 130)] if short else []
    if roof:
        pen.path(roof, 0.5)
    else:
        pen.rectangle(x0 - 12, y + 130, wide + 24, 12, 0.5)
    for level in (46, 88):
        pen.rectangle(x0 - 3.5, y + level - 3, wide + 7, 6, 0.25, 0.9)
    lots = board.lots
    for bay in range(bays):
        _bay(pen, x0 + bay * 60, y, glass=side in ("south", "east") or lots.random() < 0.4, door=bay in (1, 4))
    for place in range(bays + 1):
        pen.circle(x0 + place * 60, y + 158, 4.4)
        pen.text(
            x0 + place * 60, y + 156.9, (ROWS if short else "123456789X")[place].replace("X", "10"), 2.2, centred=True
        )
    pen.text(x0, y - 12, f"{side.capitalize()} elevation", 3.5, bold=True)
    for level, words in ((0, "+5.200"), (46, "+9.800"), (88, "+14.000"), (130, "+18.200")):
        pen.level(x0 + wide + 26, y + level, words)


def _bay(pen: Pen, x: float, y: float, glass: bool, door: bool) -> None:
    """Six metres of façade: curtain wall or panels, a door at the ground."""
    for low, high in ((0, 43), (49, 85), (91, 130)):
        if glass:
            for mullion in range(5):
                pen.line(x + mullion * 15, y + low, x + mullion * 15, y + high, 0.25)
            pen.line(x, y + (low + high) / 2, x + 60, y + (low + high) / 2, 0.18)
            for pane in range(4):
                pen.line(x + 4 + pane * 15, y + low + 4, x + 9 + pane * 15, y + low + 12, 0.1)
        else:
            for joint in range(1, 4):
                pen.line(x, y + low + joint * 10, x + 60, y + low + joint * 10, 0.13)
            pen.rectangle(x + 22, y + low + 9, 16, 22, 0.35)
    if door:
        pen.rectangle(x + 18, y, 24, 24, 0.5)
        pen.line(x + 30, y, x + 30, y + 24, 0.25)
