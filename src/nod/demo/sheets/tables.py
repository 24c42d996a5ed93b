"""Schedules as sheets: doors, finishes, luminaires, columns, piles. Drawn from what the plans are drawn from."""

from __future__ import annotations

from collections.abc import Sequence

from nod.demo.sheets.board import Board
from nod.demo.sheets.hall import FLOORS, ROWS, floor

Row = tuple[str, ...]


def _columns_of(
    board: Board, widths: Sequence[float], head: Row, rows: Sequence[Row], a_column: int = 58
) -> list[tuple[float, float]]:
    """As many columns of the table as it takes; returns the upper left corner of each row's line."""
    places = []
    top = board.pen.height - 56
    for start in range(0, len(rows), a_column):
        x = 30 + start // a_column * (sum(widths) + 12)
        board.pen.table(x, top, widths, [head, *rows[start : start + a_column]])
        places += [(x, top - (place + 1) * 6.5) for place in range(len(rows[start : start + a_column]))]
    return places


def door_rows(revision: int) -> list[Row]:
    """Every door of the three levels, as the plans of that revision have it; one that came later stands at the end."""
    first = {door.tag for level in ("00", "01", "02") for door in floor(level, 0).doors}
    rows: list[Row] = []
    for level in ("00", "01", "02"):
        plan = floor(level, revision)
        for door in sorted(plan.doors, key=lambda each: each.tag):
            kind = "sliding" if door.y == 0 and level == "00" else "hinged"
            rows.append(
                (
                    door.tag,
                    level,
                    str(door.width_mm),
                    "2135" if door.width_mm < 1300 else "2300",
                    door.fire,
                    door.leaf,
                    kind,
                )
            )
    return sorted(rows, key=lambda row: row[0] not in first)


def doors(board: Board) -> None:
    """All doors; a line that the revision changed or brought is clouded."""
    widths = (20, 16, 24, 24, 22, 22, 24)
    head = ("Door", "Level", "Width mm", "Height mm", "Fire", "Leaves", "Kind")
    rows = door_rows(board.revision)
    places = _columns_of(board, widths, head, rows)
    before = {row[0]: row for row in door_rows(board.revision - 1)} if board.revision else {}
    for row, (x, y) in zip(rows, places, strict=True):
        if board.revision and before.get(row[0]) != row:
            board.cloud(board.revision, x - 3, y - 8.5, sum(widths) + 6, 10.5)


def finishes(board: Board) -> None:
    by_use = {
        "hall": ("granite 30", "terrazzo upstand", "baffles, ash"),
        "lounge": ("rubber 4", "ash 100", "baffles, ash"),
        "wc": ("tile 200 × 200", "tile to 2100", "plasterboard, moisture"),
        "office": ("carpet tile", "paint", "tile 600, class A"),
        "plant": ("paint, epoxy", "paint", "none"),
        "stair": ("rubber studded", "paint", "plasterboard"),
    }
    rows = []
    for level in ("00", "01", "02"):
        for room in sorted(floor(level, board.revision).rooms, key=lambda each: each.number):
            laid = by_use.get(room.use, ("sealed screed", "paint", "tile 600, class A"))
            rows.append((room.number, room.name, f"{room.area:.1f}", *laid))
    _columns_of(board, (18, 40, 22, 40, 40, 50), ("Room", "Name", "Area m²", "Floor", "Wall", "Ceiling"), rows, 34)


def luminaires(board: Board) -> None:
    kinds = (
        ("LA", "Downlight, recessed", 18, 1850, 4000),
        ("LB", "Linear, recessed", 36, 4300, 4000),
        ("LC", "Linear, surface, IP65", 42, 5200, 4000),
        ("LD", "Pendant, lounge", 60, 6400, 3000),
        ("LE", "Emergency, self-contained", 3, 280, 4000),
        ("LF", "Exit sign", 4, 60, 4000),
        ("LG", "Bollard, quay, IP66", 14, 1100, 2700),
        ("LH", "Mast 12 m, yard", 180, 24500, 3000),
    )
    rows = [
        (mark, words, f"{watt}", f"{lumen}", f"{lumen / watt:.0f}", f"{kelvin}")
        for mark, words, watt, lumen, kelvin in kinds
    ]
    _columns_of(
        board, (18, 62, 22, 26, 24, 26), ("Type", "Description", "Power W", "Light lm", "lm/W", "Colour K"), rows
    )
    board.pen.text(
        30, board.pen.height - 124, "Efficacy is light by power. Drivers dimmable, protocol as specification.", 2.4
    )


def columns(board: Board) -> None:
    """Section of each column, level by level; the second revision strengthens row B."""
    rows = []
    for row in ROWS:
        for place in range(1, 11):
            low = "UC 254×254×107" if row in "CD" or (board.since(1) and row == "B") else "UC 254×254×73"
            rows.append((f"{row}{place}", low, "UC 203×203×60", "UC 203×203×46", "BP2" if "107" in low else "BP1"))
    levels = [f"+{level:.3f}" for level in FLOORS.values()]
    head = (
        "Column",
        f"{levels[0]} to {levels[1]}",
        f"{levels[1]} to {levels[2]}",
        f"{levels[2]} to {levels[3]}",
        "Base",
    )
    places = _columns_of(board, (18, 44, 44, 44, 18), head, rows)
    x, y = places[10]
    board.cloud(1, x - 3, places[19][1] - 9, 174, y - places[19][1] + 12)


def piles(board: Board) -> None:
    """Every pile of the north linkspan: place, toe, load; one toe is lower in the second revision."""
    lots, rows = board.lots, []
    for place in range(1, 41):
        toe = -18 - lots.randrange(0, 80) / 10
        if place == 7 and board.since(1):
            toe -= 3
        east, north = 412_300 + lots.randrange(0, 9000) / 100, 98_700 + lots.randrange(0, 6000) / 100
        rows.append(
            (
                f"P{place:02d}",
                f"{east:.2f}",
                f"{north:.2f}",
                "+3.200",
                f"{toe:.1f}",
                f"{lots.randrange(9, 21) * 100}",
                "1016 × 16",
            )
        )
    head = ("Pile", "East m", "North m", "Cut-off m", "Toe m", "Load kN", "Tube mm")
    places = _columns_of(board, (16, 30, 28, 26, 20, 24, 28), head, rows)
    board.cloud(1, places[6][0] + 98, places[6][1] - 8.5, 28, 10.5)


def caps(board: Board) -> None:
    rows = [
        (
            f"PC{place}",
            f"{size} × {size} × {900 + 100 * place}",
            str(count),
            f"{count * 1200}",
            f"B25 at {200 - 20 * place}",
        )
        for place, (size, count) in enumerate(((1800, 4), (2600, 6), (3200, 8), (1200, 2)), 1)
    ]
    _columns_of(board, (20, 60, 22, 30, 40), ("Cap", "Size mm", "Piles", "Load kN", "Bottom bars"), rows)
