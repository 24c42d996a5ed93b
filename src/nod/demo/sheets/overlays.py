"""What the services and fire engineers draw over the architect's plans, which lie below in grey."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from nod.demo.sheets.board import Board
from nod.demo.sheets.hall import Door, Floor, Room, floor
from nod.demo.sheets.pen import AMBER, BLUE, CYAN, GREEN, RED, Colour
from nod.demo.sheets.plans import hall_grid, name_room, walls

_UNLIT = ("riser", "lift", "terrace")
_LUX = {"office": 500, "hall": 300, "lounge": 200, "wc": 200, "plant": 200, "control": 500, "cafe": 200}


def _below(board: Board, level: str) -> Floor:
    """The plan that the discipline was given: the architect's first, or the second once it has come."""
    plan = floor(level, min(board.revision, 1))
    hall_grid(board)
    with board.pen.ink(0.5):
        walls(board, plan, 0.72)
    for room in plan.rooms:
        name_room(board, room, area=False)
    return plan


def legend(board: Board, rows: Sequence[tuple[str, str]], head: str = "Legend") -> None:
    """Beside the plan, above the title block."""
    x, y = board.layout.left + 556, board.layout.bottom + 292
    board.pen.text(x, y + 3, head, 2.5, bold=True)
    board.pen.table(x, y, (20, 62), [("Sign", "Meaning"), *rows])


def lighting(board: Board, level: str) -> None:
    """Luminaires, their circuits, switches, emergency lights and the light that is asked for."""
    pen, plan, circuit = board.pen, _below(board, level), 0
    for room in plan.rooms:
        if room.use in _UNLIT:
            continue
        circuit += 1
        _lamps(board, room, circuit, 3.0 if room.wide > 10 else 2.4)
        x, y = board.place(room.x + 0.5, room.y + room.deep - 0.9)
        if room.deep > 3:
            pen.text(x, y, f"{_LUX.get(room.use, 100)} lx", 1.7)
    rows = [
        ("( )", "Downlight, LED 18 W"),
        ("[ ]", "Linear, LED 36 W"),
        ("E", "Emergency, 3 hours"),
        ("S", "Switch, 1200 high"),
        ("L1/n", "Board and circuit"),
        ("lx", "Maintained illuminance"),
    ]
    legend(board, rows)


def _lamps(board: Board, room: Room, circuit: int, step: float) -> None:
    pen, points = board.pen, []
    for column in range(max(1, int(room.wide / step))):
        rows = range(max(1, int(room.deep / step)))
        for row in reversed(rows) if column % 2 else rows:
            x, y = board.place(room.x + step / 2 + column * step, room.y + min(step / 2, room.deep / 2) + row * step)
            points.append((x, y))
            if room.use in ("office", "control", "plant"):
                pen.rectangle(x - 6, y - 1.4, 12, 2.8, 0.35)
            else:
                pen.circle(x, y, 1.8, 0.35)
                pen.line(x - 1.3, y - 1.3, x + 1.3, y + 1.3, 0.2)
                pen.line(x - 1.3, y + 1.3, x + 1.3, y - 1.3, 0.2)
    with pen.ink(AMBER):
        pen.path([*points, points[-1]], 0.3)
    x, y = points[0]
    pen.text(x + 2.4, y - 3.6, f"L{1 + circuit // 8}/{circuit}", 1.5)
    x, y = board.place(room.x + 0.4, room.y + 0.5)
    pen.text(x, y, "S", 1.8, bold=True)


def power(board: Board, level: str) -> None:
    """Sockets along the walls, floor boxes, trunking and the boards that feed them."""
    pen, plan = board.pen, _below(board, level)
    x0, y0 = board.place(0.4, 19.2)
    with pen.ink(BLUE, "dash"):
        pen.line(x0, y0, x0 + 530, y0, 0.7)
        pen.line(x0, y0 + 2.4, x0 + 530, y0 + 2.4, 0.7)
    pen.text(x0 + 4, y0 + 4, "Tray 300 × 60 at +3.050 over passage", 1.7)
    for count, room in enumerate(plan.rooms):
        if room.use in ("riser", "lift", "stair"):
            continue
        for place in range(int(room.wide / 3)):
            for up, way in ((0.15, 0), (room.deep - 0.15, 180)):
                x, y = board.place(room.x + 1.5 + place * 3, room.y + up)
                pen.arc(x, y, 2, way, 180, 0.4)
                pen.line(x, y + (2 if way == 0 else -2), x, y + (4 if way == 0 else -4), 0.3)
        x, y = board.place(*room.middle)
        pen.rectangle(x - 2, y + 4, 4, 4, 0.35)
        with pen.ink(BLUE):
            pen.line(x, y + 8 if room.y < 18 else y + 4, x, y0, 0.25)
        pen.text(x + 3, y + 5, f"P{1 + count // 6}/{count + 1}", 1.5)
    for place, name in enumerate(("DB-P1", "DB-P2")):
        x, y = board.place(6.4 + place * 36, 25)
        pen.rectangle(x, y, 18, 8, 0.5, 0.85)
        pen.text(x + 2, y + 3, name, 1.8, bold=True)
    rows = [
        ("( )", "Twin socket, 450 high"),
        ("[ ]", "Floor box, 3 twin sockets"),
        ("= =", "Cable tray"),
        ("P1/n", "Board and circuit"),
        ("DB", "Distribution board"),
    ]
    legend(board, rows)


def ventilation(board: Board, level: str) -> None:
    """A main duct along the passage, branches to the rooms, grilles with the air that they give."""
    pen, plan = board.pen, _below(board, level)
    start = 0.0
    for end, size in (
        (14.0, "400 × 300"),
        (30.0, "600 × 400"),
        (40.0, "800 × 400" if board.revision < 1 else "900 × 400"),
    ):
        deep = int(size[:3]) / 100
        x0, y0 = board.place(start + 0.6, 19.2)
        with pen.ink(CYAN):
            pen.rectangle(x0, y0 - deep / 2, (end - start) * 10, deep, 0.5)
        pen.text(x0 + 20, y0 - 1, size, 1.7)
        start = end
    for room in plan.rooms:
        if room.use in ("riser", "lift", "stair", "plant", "passage", "terrace"):
            continue
        _branch(board, room)
    x0, y0 = board.place(38, 24)
    pen.rectangle(x0, y0, 60, 20, 0.6, 0.9)
    pen.text(x0 + 4, y0 + 9, "AHU 1   3.2 m³/s", 2.2, bold=True)
    board.cloud(1, *board.place(29.6, 18.1), 112, 22)
    if board.since(1):
        with pen.ink(CYAN):
            pen.rectangle(*board.place(44, 12.4), 8, 66, 0.5)
        pen.text(*board.place(45.2, 17), "200 × 150 new", 1.7)
        board.cloud(1, *board.place(43, 11.6), 34, 72)
    legend(
        board,
        [
            ("===", "Supply duct, galvanised"),
            ("[x]", "Supply grille 595 × 595"),
            ("l/s", "Air at the grille"),
            ("FD", "Fire damper EI 60"),
        ],
    )


def _branch(board: Board, room: Room) -> None:
    pen, (x, y) = board.pen, board.place(*room.middle)
    _, main = board.place(0, 19.2)
    air = round(room.area * 2.8 / 5) * 5
    with pen.ink(CYAN):
        low, high = min(y, main), max(y, main)
        pen.rectangle(x + 8, low, 4, high - low, 0.4)
        if room.wide > 10:
            pen.rectangle(x - room.wide * 3.4, y + 6, room.wide * 6.8, 3.4, 0.4)
    count = 4 if room.wide > 10 else 1
    for place in range(count):
        at = x + (place - (count - 1) / 2) * room.wide * 2 + (0 if count > 1 else 10)
        pen.rectangle(at - 3, y + 4, 6, 6, 0.35)
        pen.line(at - 3, y + 4, at + 3, y + 10, 0.18)
        pen.line(at - 3, y + 10, at + 3, y + 4, 0.18)
        pen.text(at + 4, y + 10.6, f"{air // count} l/s", 1.5)
    if room.fire != "none":
        pen.text(x + 13, main - 4, "FD", 1.7, bold=True)


def escape(board: Board, level: str) -> None:
    """From the far corner of each room to the nearest way out, with how far that is and how wide the door."""
    pen, plan = board.pen, _below(board, level)
    exits = [each for each in plan.doors if each.y == 0 or each.tag.endswith(("06", "16"))]
    for door in exits:
        _exit(board, door)
    for room in plan.rooms:
        if room.use in ("riser", "lift", "stair", "passage", "wc", "store"):
            continue
        _route(board, room, exits)
    legend(
        board, [("->", "Way out"), ("m", "Travel distance"), ("FE", "Fire exit, clear width"), ("P", "People, at most")]
    )
    pen.text(*board.place(0, -5), "Travel distance at most 45 m with two ways, 18 m with one (as agreed)", 2.2)


def _exit(board: Board, door: Door) -> None:
    x, y = board.place(door.x, door.y)
    with board.pen.ink(GREEN):
        board.pen.rectangle(x, y - 9 if door.y == 0 else y - 8, 22, 6, 0.5)
    board.pen.text(x + 1.4, y - 7.4 if door.y == 0 else y - 6.4, f"FE {door.width_mm - 100}", 1.7, bold=True)


def _route(board: Board, room: Room, exits: Sequence[Door]) -> None:
    """Along the walls, as people walk, rounded up to whole metres."""
    pen = board.pen
    x, y = room.x + room.wide - 1, room.y + room.deep - 1.4
    outside = [each for each in exits if each.y == 0] if room.y < 18 else []
    door = min(outside or exits, key=lambda each: abs(each.x - x) + abs(each.y - y))
    by_passage = [(x, 19.2), (door.x + 0.8, 19.2)]
    turns = [
        (x, y),
        *([(door.x + 0.8, y)] if outside else by_passage),
        (door.x + 0.8, door.y + (0.6 if outside else 0.2)),
    ]
    length = sum(math.dist(start, end) for start, end in pairwise(turns))
    with pen.ink(GREEN):
        for start, end in pairwise(turns):
            if math.dist(start, end) > 0.3:
                pen.arrow(*board.place(*start), *board.place(*end), 0.6, 3)
    pen.text(
        *board.place(x - 6 if room.wide > 10 else room.x + 0.6, y + 0.35), f"{math.ceil(length)} m", 1.9, bold=True
    )
    people = max(2, round(room.area / 2)) if room.wide > 10 else max(2, round(room.area / 6))
    pen.text(*board.place(room.x + 0.6, room.y + room.deep - 0.9), f"P {people}", 1.7)


def compartments(board: Board, level: str) -> None:
    """Which rooms are cut off by how long, and where dampers and doors have to keep to it."""
    pen, plan = board.pen, _below(board, level)
    tints: dict[str, Colour] = {"EI 60": RED, "EI 30": AMBER}
    for room in plan.rooms:
        if room.fire not in tints:
            continue
        x, y = board.place(room.x, room.y)
        pen.wash(x, y, room.wide * 10, room.deep * 10, tints[room.fire])
        with pen.ink(tints[room.fire], "dash"):
            pen.rectangle(x, y, room.wide * 10, room.deep * 10, 0.9)
        pen.text(x + 2, y + 2.4, room.fire, 2, bold=True)
    for door in plan.doors:
        if door.fire != "none":
            pen.text(*board.place(door.x + 0.2, door.y - 0.45), f"{door.fire} C", 1.4)
    legend(
        board,
        [
            ("EI 60", "Sixty minutes, red"),
            ("EI 30", "Thirty minutes, amber"),
            ("C", "Door closes by itself"),
            ("FD", "Damper where ducts cross"),
        ],
    )
