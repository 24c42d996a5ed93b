"""Schematics: what feeds what, as boxes and lines. Each is data; one hand draws them all."""

from __future__ import annotations

from dataclasses import dataclass

from nod.demo.sheets.board import Board
from nod.demo.sheets.pen import AMBER, BLUE, CYAN, GREEN, RED, Colour


@dataclass(frozen=True)
class Node:
    """Stands in a field of 12 columns and 8 rows. `since` is the revision, from 0, that brought it."""

    key: str
    column: float
    row: float
    name: str
    words: str = ""
    since: int = 0


@dataclass(frozen=True)
class Scheme:
    head: str
    colour: Colour
    nodes: tuple[Node, ...]
    links: tuple[tuple[str, str, str], ...]
    """From, to, what is written at the line."""


def _risers(prefix: str, names: tuple[str, ...], words: str) -> tuple[Node, ...]:
    return tuple(Node(f"{prefix}{place}", 1.2 + place * 1.75, 5.6, name, words) for place, name in enumerate(names))


LOW_VOLTAGE = Scheme(
    "Low voltage distribution",
    RED,
    (
        Node("net", 5, 0, "Network 11 kV", "from BFT yard"),
        Node("tx", 5, 1.2, "TX1", "800 kVA, 11/0.4 kV"),
        Node("gen", 8, 1.2, "Generator", "500 kVA standby"),
        Node("msb", 5, 2.6, "Main switchboard", "1600 A, Form 4"),
        Node("ats", 8, 2.6, "Changeover", "1250 A"),
        Node("ups", 10, 4.2, "UPS", "60 kVA, 30 min", since=1),
        *_risers("d", ("DB-L1", "DB-P1", "DB-P2", "DB-M", "Lift", "Linkspan N"), "TP and N"),
    ),
    (
        ("net", "tx", "3c 95"),
        ("tx", "msb", "4c 630"),
        ("gen", "ats", "4c 300"),
        ("ats", "msb", "4c 400"),
        ("ats", "ups", "4c 95"),
        ("msb", "d0", "63 A"),
        ("msb", "d1", "125 A"),
        ("msb", "d2", "125 A"),
        ("msb", "d3", "250 A"),
        ("msb", "d4", "80 A"),
        ("msb", "d5", "400 A"),
    ),
)
FIRE_ALARM = Scheme(
    "Fire detection and alarm",
    AMBER,
    (
        Node("panel", 1, 1, "Panel", "4 loops, L1"),
        Node("rep", 1, 3, "Repeater", "harbour master"),
        Node("brigade", 1, 5, "Remote centre"),
        *(
            Node(f"s{level}{place}", 3.4 + place * 1.5, 1 + level * 2, name, f"loop {level + 1}")
            for level in range(3)
            for place, name in enumerate(("Smoke 24", "Heat 6", "Call point 5", "Sounder 9", "Interface 3"))
        ),
    ),
    (
        ("panel", "rep", "ring"),
        ("rep", "brigade", "two paths"),
        *(
            (("panel" if place == 0 else f"s{level}{place - 1}"), f"s{level}{place}", "")
            for level in range(3)
            for place in range(5)
        ),
    ),
)
DRAINAGE = Scheme(
    "Foul and surface water",
    BLUE,
    (
        *(
            Node(f"w{place}", 1 + place * 1.7, 1, name, "level 1")
            for place, name in enumerate(("WC women", "WC men", "Kitchen", "Café", "Cleaner"))
        ),
        Node("grease", 4.4, 3, "Grease separator", "NS 4"),
        Node("stack", 2, 4.2, "Stack 110", "vent through roof"),
        Node("mh1", 4.4, 5.6, "MH1", "invert +3.910"),
        Node("mh2", 7, 5.6, "MH2", "invert +3.640"),
        Node("pump", 9.4, 5.6, "Pump station", "2 × 4 l/s"),
        Node("roof", 9.6, 1, "Roof outlets", "12 × 150"),
        Node("sep", 9.6, 3, "Oil separator", "yard, class I"),
    ),
    (
        ("w0", "stack", "110"),
        ("w1", "stack", "110"),
        ("w2", "grease", "110"),
        ("w3", "grease", "75"),
        ("w4", "mh1", "110"),
        ("grease", "mh1", "110"),
        ("stack", "mh1", "110"),
        ("mh1", "mh2", "150, 1:80"),
        ("mh2", "pump", "150, 1:80"),
        ("roof", "sep", "300"),
        ("sep", "pump", "overflow"),
    ),
)
AIR = Scheme(
    "Ventilation and smoke control",
    CYAN,
    (
        Node("in", 1, 1, "Intake", "3.2 m³/s"),
        Node("ahu", 3, 1, "AHU 1", "heat recovery 82 %"),
        Node("att", 5, 1, "Attenuator"),
        Node("main", 7, 1, "Main duct", "900 × 400"),
        Node("g", 9.4, 0.4, "Ground", "1.9 m³/s"),
        Node("l1", 9.4, 1.8, "Level 1", "1.3 m³/s"),
        Node("ex", 3, 3, "Extract fan", "3.0 m³/s"),
        Node("smoke", 5, 4.6, "Smoke fan 1", "6 m³/s, F300"),
        Node("smoke2", 7.4, 4.6, "Smoke fan 2", "6 m³/s, F300"),
        Node("vent", 9.6, 4.6, "Vents, ridge", "12 m²"),
        Node("mcc", 5, 6.2, "Control", "from fire alarm"),
    ),
    (
        ("in", "ahu", ""),
        ("ahu", "att", ""),
        ("att", "main", ""),
        ("main", "g", "FD"),
        ("main", "l1", "FD"),
        ("ahu", "ex", ""),
        ("mcc", "smoke", "volt free"),
        ("mcc", "smoke2", "volt free"),
        ("mcc", "vent", "24 V"),
    ),
)
HYDRAULIC = Scheme(
    "North linkspan, hydraulics",
    GREEN,
    (
        Node("tank", 1, 5, "Tank", "800 l, bio oil"),
        Node("p1", 3, 4, "Pump 1", "55 kW, 210 bar"),
        Node("p2", 3, 6, "Pump 2", "55 kW, standby"),
        Node("filter", 5, 5, "Filter", "10 µm"),
        Node("valve", 7, 5, "Valve block", "fail-safe closed"),
        Node("acc", 7, 3, "Accumulator", "50 l"),
        Node("c1", 9.4, 3.8, "Lift cylinder W", "280/200, 4200"),
        Node("c2", 9.4, 6, "Lift cylinder E", "280/200, 4200"),
        Node("hand", 5, 6.8, "Hand pump", "to lower by hand", since=1),
        Node("plc", 7, 0.8, "Control", "tide gauge, 2 of 3"),
    ),
    (
        ("tank", "p1", ""),
        ("tank", "p2", ""),
        ("p1", "filter", ""),
        ("p2", "filter", ""),
        ("filter", "valve", "DN50"),
        ("acc", "valve", ""),
        ("valve", "c1", "DN38"),
        ("valve", "c2", "DN38"),
        ("hand", "valve", "DN12"),
        ("plc", "valve", "4 to 20 mA"),
    ),
)


def draw(board: Board, scheme: Scheme) -> None:
    """Boxes where the scheme has them, lines square to the sheet, what the revision brought in a cloud."""
    pen, large = board.pen, board.spec.size == "A1"
    across, down, wide, deep = (62.0, 56.0, 50.0, 20.0) if large else (31.0, 24.0, 27.0, 11.0)
    left, top, size = 40.0, pen.height - (90 if large else 62), 2.4 if large else 1.5
    nodes = {each.key: each for each in scheme.nodes if each.since <= board.revision}
    middle = {key: (left + each.column * across, top - each.row * down) for key, each in nodes.items()}
    pen.text(left + 10, pen.height - 52 if large else pen.height - 46, scheme.head, 4 if large else 3, bold=True)
    with pen.ink(scheme.colour):
        for start, end, words in scheme.links:
            if start not in nodes or end not in nodes:
                continue
            (x0, y0), (x1, y1) = middle[start], middle[end]
            pen.path(
                [(x0, y0), (x0, (y0 + y1) / 2), (x1, (y0 + y1) / 2), (x1, y1)]
                if abs(y0 - y1) > 1
                else [(x0, y0), (x1, y1)],
                0.5,
            )
            pen.text((x0 + x1) / 2 + 1, (y0 + y1) / 2 + 1.2, words, size * 0.8)
    for key, node in nodes.items():
        x, y = middle[key]
        pen.blank(x - wide / 2, y - deep / 2, wide, deep)
        pen.rectangle(x - wide / 2, y - deep / 2, wide, deep, 0.5)
        pen.text(x, y + 0.6, node.name, size, bold=True, centred=True)
        pen.text(x, y - size - 1.6, node.words, size * 0.75, centred=True)
        if node.since:
            board.cloud(node.since, x - wide / 2 - 5, y - deep / 2 - 5, wide + 10, deep + 10)
