"""The architect's plans of the quay hall at 1:100: floors, ceilings and the roof."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from nod.demo.sheets.board import Board
from nod.demo.sheets.frame import draw_grid
from nod.demo.sheets.hall import BAY, DEEP, FLOORS, WIDE, Door, Floor, Room, floor
from nod.demo.sheets.pen import Pen

_WALL = 0.35


def floor_plan(board: Board, level: str) -> None:
    """Walls, openings, fittings, names with areas, dimensions."""
    pen, plan = board.pen, floor(level, board.revision)
    hall_grid(board)
    walls(board, plan, 0.35)
    for room in plan.rooms:
        _FITTINGS.get(room.use, _nothing)(board, room)
    for door in plan.doors:
        _tag(board, door)
    for room in plan.rooms:
        name_room(board, room)
    _dimensions(board, plan)
    for x in (3.0, 27.0, 45.0):
        pen.spot(*board.place(x, 1.4), f"+{FLOORS[level]:.3f}")
    section_marks(board)
    pen.north(board.layout.left + 570, board.layout.bottom + 300)
    pen.scale_bar(board.layout.left, board.layout.bottom - 62, 100)
    for revision, x, y, wide, deep in plan.changed:
        board.cloud(revision, *board.place(x, y), wide * 10, deep * 10)


def hall_grid(board: Board) -> None:
    layout = board.layout
    draw_grid(board.pen, layout.left, layout.bottom, layout.columns, layout.rows, layout.step)


def walls(board: Board, plan: Floor, grey: float) -> None:
    """Solid walls with the rooms cut out of them, columns, windows to the quay, and doors."""
    pen = board.pen
    x, y = board.place(-_WALL, -_WALL)
    pen.rectangle(x, y, (WIDE + 2 * _WALL) * 10, (DEEP + 2 * _WALL) * 10, 0.35, grey)
    for room in plan.rooms:
        x, y = board.place(room.x + 0.08, room.y + 0.08)
        pen.blank(x, y, room.wide * 10 - 1.6, room.deep * 10 - 1.6)
        pen.rectangle(x, y, room.wide * 10 - 1.6, room.deep * 10 - 1.6, 0.18)
    _inner_rooms(board, plan, grey)
    _windows(board)
    for column in range(10):
        for row in range(6):
            x, y = board.place(column * BAY - 0.18, row * BAY - 0.18)
            pen.rectangle(x, y, 3.6, 3.6, 0.35, min(grey, 0.3))
    for door in plan.doors:
        pen.door(*board.place(door.x, door.y), door.width_mm / 100, door.turn)


def _inner_rooms(board: Board, plan: Floor, grey: float) -> None:
    """A room inside another has walls of its own."""
    for room in plan.rooms:
        for inner in plan.rooms:
            if inner is not room and _inside(inner, room):
                x, y = board.place(inner.x, inner.y)
                board.pen.rectangle(x, y, inner.wide * 10 + 0.8, inner.deep * 10, 0.18, grey)
                board.pen.blank(x + 0.8, y + 0.8, inner.wide * 10 - 0.8, inner.deep * 10 - 1.6)


def _inside(inner: Room, outer: Room) -> bool:
    across = outer.x <= inner.x and inner.x + inner.wide <= outer.x + outer.wide
    return across and outer.y <= inner.y and inner.y + inner.deep <= outer.y + outer.deep


def _windows(board: Board) -> None:
    """A strip of glass in every bay of the long sides."""
    pen = board.pen
    for y in (-_WALL, DEEP):
        for bay in range(9):
            x0, y0 = board.place(bay * BAY + 1.2, y)
            pen.blank(x0, y0, 36, _WALL * 10)
            for place in (0.0, 1.2, 2.3, 3.5):
                pen.line(x0, y0 + place, x0 + 36, y0 + place, 0.13)
            for mullion in range(4):
                pen.line(x0 + mullion * 12, y0, x0 + mullion * 12, y0 + 3.5, 0.35)


def _tag(board: Board, door: Door) -> None:
    x, y = board.place(door.x, door.y)
    ways = {0: (3.0, 10.0), 1: (-16.0, 5.0), 2: (-10.0, -10.0), 3: (5.0, -8.0)}
    across, up = ways[door.turn]
    board.pen.text(x + across, y + up, door.tag, 1.5)
    board.pen.text(x + across, y + up - 2.6, str(door.width_mm), 1.2)


def name_room(board: Board, room: Room, area: bool = True) -> None:
    """Number, name and area, upright where the room is narrow."""
    x, y = board.place(*room.middle)
    if room.wide < 4:
        board.pen.text_up(x, y, f"{room.number}  {room.name}", 2.0)
        return
    y = y - 3 if room.deep > 4 else y + 1
    size = 4.0 if room.wide > 10 and room.deep > 4 else 2.5
    board.pen.blank(x - len(room.name) * size * 0.46, y - size - 2.4, len(room.name) * size * 0.92, size * 2 + 3)
    board.pen.text(x, y, room.name, size, bold=True, centred=True)
    words = f"{room.number}   {room.area:.1f} m²" if area else room.number
    board.pen.text(x, y - size - 1.2, words, 2.0, centred=True)


def _dimensions(board: Board, plan: Floor) -> None:
    """Chains along the quay and up the side: bays, then rooms, then the whole."""
    pen, (left, bottom) = board.pen, board.place(0, 0)
    for bay in range(9):
        pen.dimension(left + bay * 60, left + bay * 60 + 60, bottom - 26)
    edges = sorted({x for room in plan.rooms if room.y < 1 for x in (room.x, room.x + room.wide)})
    for start, end in pairwise(edges):
        pen.dimension(left + start * 10, left + end * 10, bottom - 34)
    pen.dimension(left - 3.5, left + WIDE * 10 + 3.5, bottom - 42)
    depths = sorted({y for room in plan.rooms for y in (room.y, room.y + room.deep) if room.x < 1})
    for start, end in pairwise(depths):
        pen.dimension_up(left - 30, bottom + start * 10, bottom + end * 10)
    pen.dimension_up(left - 38, bottom - 3.5, bottom + DEEP * 10 + 3.5)


def section_marks(board: Board) -> None:
    """Where the sections are cut."""
    pen = board.pen
    for x, name in ((23.0, "A"), (45.0, "B")):
        for y, way in ((-4.6, 6), (32.6, -6)):
            at_x, at_y = board.place(x, y)
            pen.circle(at_x, at_y, 4, 0.35)
            pen.text(at_x, at_y - 1.3, name, 2.5, bold=True, centred=True)
            pen.arrow(at_x + 4, at_y, at_x + 4 + abs(way), at_y, 0.5)


def _nothing(board: Board, room: Room) -> None:
    """A room with no fittings of its own."""


def _seats(board: Board, room: Room) -> None:
    """Rows of seats, back to back; the plan's last revision takes two rows away for the queue."""
    pen = board.pen
    rows = [y for y in (2.6, 6.2, 10.6, 14.2) if y < room.deep - 2]
    for y in rows:
        if room.number == "00.02" and y == 10.6 and board.since(2):
            x0, y0 = board.place(room.x + 3, room.y + y)
            pen.text(x0, y0, "Space for queue", 1.8)
            continue
        for seat in range(int((room.wide - 5) / 0.6)):
            for side in (0.0, 0.7):
                x0, y0 = board.place(room.x + 2.4 + seat * 0.6, room.y + y + side)
                pen.rectangle(x0, y0, 5, 5, 0.13)


def _counters(board: Board, room: Room) -> None:
    """Ticket counters and gates."""
    pen = board.pen
    for counter in range(5):
        x0, y0 = board.place(room.x + 6.4 + counter * 2.2, room.y + 15.6)
        pen.rectangle(x0, y0, 16, 7, 0.25)
        pen.circle(x0 + 8, y0 + 10.5, 2, 0.18)
    for gate in range(6):
        x0, y0 = board.place(room.x + 11 + gate * 1.1, room.y + 8.6)
        pen.rectangle(x0, y0, 2.2, 14, 0.25, 0.85)
    pen.text(*board.place(room.x + 11, room.y + 10.4), "6 gates, 900 clear", 1.6)


def _carousel(board: Board, room: Room) -> None:
    pen = board.pen
    x0, y0 = board.place(room.x + 4, room.y + 3)
    for inset in (0.0, 6.0):
        pen.canvas.setLineWidth(0.7)
        pen.canvas.roundRect(
            *(each * 72 / 25.4 for each in (x0 + inset, y0 + inset, 100 - 2 * inset, 36 - 2 * inset, 14))
        )
    for place in range(12):
        pen.line(x0 + 12 + place * 7, y0, x0 + 12 + place * 7, y0 + 6, 0.13)


def _desks(board: Board, room: Room) -> None:
    """Desks with chairs, in pairs."""
    pen = board.pen
    for column in range(int((room.wide - 1.4) / 2.6)):
        for row in range(2 if room.deep > 6 else 1):
            x0, y0 = board.place(room.x + 1.1 + column * 2.6, room.y + 2.4 + row * 4.6)
            pen.rectangle(x0, y0, 16, 8, 0.18)
            pen.circle(x0 + 8, y0 - 3.4, 2.4, 0.18)


def _toilets(board: Board, room: Room) -> None:
    pen = board.pen
    for place in range(int((room.deep - 2) / 1.0)):
        x0, y0 = board.place(room.x + room.wide - 1.6, room.y + 1.5 + place)
        pen.line(x0, y0, x0 + 15, y0, 0.25)
        pen.canvas.ellipse(*(each * 72 / 25.4 for each in (x0 + 8, y0 + 3, x0 + 14, y0 + 7)))
        if room.wide > 4:
            x1, y1 = board.place(room.x + 0.5, room.y + 2 + place)
            pen.circle(x1, y1, 2, 0.18)


def _stair(board: Board, room: Room) -> None:
    """Two flights with a landing, an arrow up and the count of the treads."""
    pen = board.pen
    for flight in (0.5, 3.2):
        x0, y0 = board.place(room.x + flight, room.y + 2.6)
        pen.rectangle(x0, y0, 23, 46, 0.25)
        for tread in range(1, 16):
            pen.line(x0, y0 + tread * 3, x0 + 23, y0 + tread * 3, 0.13)
    x0, y0 = board.place(room.x + 1.65, room.y + 3)
    pen.arrow(x0, y0, x0, y0 + 40, 0.35)
    pen.text(x0 - 8, y0 - 6, "up 28 × 164", 1.6)


def _lift(board: Board, room: Room) -> None:
    x0, y0 = board.place(room.x + 0.5, room.y + 0.7)
    board.pen.rectangle(x0, y0, 20, 22, 0.35)
    board.pen.line(x0, y0, x0 + 20, y0 + 22, 0.13)
    board.pen.line(x0, y0 + 22, x0 + 20, y0, 0.13)


def _machines(board: Board, room: Room) -> None:
    pen = board.pen
    for place, (wide, deep, words) in enumerate(((34, 16, "AHU 1"), (22, 16, "Boiler"), (14, 20, "LV panel"))):
        x0, y0 = board.place(room.x + 1 + place * 3.4, room.y + min(5.6, room.deep - 3))
        pen.rectangle(x0, y0, min(wide, room.wide * 3), deep, 0.35, 0.93)
        pen.text(x0 + 2, y0 + deep / 2, words, 1.5)


def _booths(board: Board, room: Room) -> None:
    pen = board.pen
    for booth in range(4):
        x0, y0 = board.place(room.x + 3 + booth * 4, room.y + 1.2)
        pen.rectangle(x0, y0, 18, 12, 0.35)
        pen.text(x0 + 2, y0 + 5, f"Desk {booth + 1}", 1.5)


def _tables(board: Board, room: Room) -> None:
    pen = board.pen
    for column in range(int((room.wide - 2) / 2.4)):
        for row in range(3):
            x0, y0 = board.place(room.x + 1.8 + column * 2.4, room.y + 1.8 + row * 3.6)
            pen.circle(x0, y0, 4, 0.18)
            for across, up in ((6, 0), (-6, 0), (0, 6), (0, -6)):
                pen.circle(x0 + across, y0 + up, 1.6, 0.13)


def _planks(board: Board, room: Room) -> None:
    x0, y0 = board.place(room.x + 0.4, room.y + 0.4)
    with board.pen.ink(0.6):
        for place in range(int(room.deep * 10 / 5) - 2):
            board.pen.line(x0, y0 + place * 5, x0 + room.wide * 10 - 8, y0 + place * 5, 0.1)


_FITTINGS: dict[str, Callable[[Board, Room], None]] = {
    "hall": _counters, "lounge": _seats, "baggage": _carousel, "office": _desks, "wc": _toilets, "stair": _stair,
    "lift": _lift, "plant": _machines, "control": _booths, "cafe": _tables, "terrace": _planks,
}  # fmt: skip


def ceiling(board: Board, level: str) -> None:
    """Tiles, luminaires and grilles as seen from below in a mirror (common practice)."""
    pen, plan = board.pen, floor(level, board.revision)
    hall_grid(board)
    walls(board, plan, 0.35)
    for room in plan.rooms:
        if room.use in ("stair", "lift", "riser", "plant"):
            pen.hatch(*board.place(room.x + 0.1, room.y + 0.1), room.wide * 10 - 2, room.deep * 10 - 2, 5)
            continue
        _tiles(pen, board, room, 1.2 if room.wide > 10 else 0.6)
        _fitted(board, room)
        name_room(board, room, area=False)
    for line, words in enumerate(("Tile 600 × 600, class A", "Luminaire 1200 × 300", "Grille 595 × 595", "No ceiling")):
        x, y = board.layout.left + 560, board.layout.bottom + 250 - line * 9
        pen.rectangle(x, y, 6, 6, 0.25, (1, 0.8, 0.6, 1)[line])
        pen.text(x + 9, y + 1.6, words, 2)
    pen.text(*board.place(0, -5), f"Ceilings {2.7 if level == '01' else 3.0:.2f} m above floor unless noted", 2.5)


def _tiles(pen: Pen, board: Board, room: Room, step: float) -> None:
    x0, y0 = board.place(room.x, room.y)
    with pen.ink(0.55):
        for place in range(1, int(room.wide / step)):
            pen.line(x0 + place * step * 10, y0 + 0.8, x0 + place * step * 10, y0 + room.deep * 10 - 0.8, 0.08)
        for place in range(1, int(room.deep / step)):
            pen.line(x0 + 0.8, y0 + place * step * 10, x0 + room.wide * 10 - 0.8, y0 + place * step * 10, 0.08)


def _fitted(board: Board, room: Room) -> None:
    for column in range(max(1, int(room.wide / 3.6))):
        for row in range(max(1, int(room.deep / 3.6))):
            x, y = board.place(room.x + 1.2 + column * 3.6, room.y + 1.2 + row * 3.6)
            if (column + row) % 3 == 2:
                board.pen.rectangle(x, y, 6, 6, 0.25, 0.6)
            else:
                board.pen.rectangle(x, y, 12, 3, 0.25, 0.8)


def roof(board: Board) -> None:
    """Falls, gutters, rooflights, a walkway and what stands on the roof."""
    pen = board.pen
    hall_grid(board)
    x, y = board.place(-1.2, -1.2)
    pen.rectangle(x, y, 564, 324, 0.5)
    pen.rectangle(x + 6, y + 6, 552, 312, 0.25)
    for row in (5.8, 24.2):
        x0, y0 = board.place(0, row)
        pen.rectangle(x0, y0, 540, 6, 0.25, 0.9)
        for outlet in range(6):
            pen.circle(x0 + 30 + outlet * 96, y0 + 3, 2.4, 0.35)
            pen.text(x0 + 34 + outlet * 96, y0 + 7, f"RO{outlet + 1} Ø150", 1.6)
    for bay in range(9):
        for y0, way in ((2.2, 26), (11.4, -40), (18.6, 40), (28.4, -26)):
            at_x, at_y = board.place(bay * BAY + 3, y0)
            pen.arrow(at_x, at_y, at_x, at_y + way, 0.25)
            pen.text(at_x + 2, at_y + way / 2, "1:60", 1.6)
    for light in range(6):
        x0, y0 = board.place(10 + light * 6.2, 13.4)
        pen.rectangle(x0, y0, 30, 32, 0.35)
        pen.line(x0, y0, x0 + 30, y0 + 32, 0.13)
        pen.line(x0, y0 + 32, x0 + 30, y0, 0.13)
        pen.text(x0 + 2, y0 + 34, f"Rooflight {light + 1}  3000 × 3200", 1.6)
    x0, y0 = board.place(0, 15)
    with pen.ink(0.0, "dash"):
        pen.line(x0, y0, x0 + 540, y0, 0.35)
    pen.text(x0 + 4, y0 + 2, "Ridge +18.750", 2)
    for place, words in enumerate(("AHU 1 on frame", "AHU 2 on frame", "Chiller")):
        x0, y0 = board.place(38 + place * 5.2, 25.4)
        pen.rectangle(x0, y0, 44, 34, 0.35, 0.92)
        pen.text(x0 + 3, y0 + 16, words, 1.8)
    section_marks(board)
    pen.north(board.layout.left + 570, board.layout.bottom + 300)
    pen.scale_bar(board.layout.left, board.layout.bottom - 50, 100)
