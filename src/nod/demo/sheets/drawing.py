"""Writes one sheet of the demo as a PDF: frame, drawing, notes, clouds around what the latest revision changed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from nod.demo.sheets import details, marine, overlays, plans, schematics, sections, site, structure, tables
from nod.demo.sheets.board import Board, Layout
from nod.demo.sheets.frame import SIZES_MM, SheetSpec, draw_frame
from nod.demo.sheets.pen import Pen

_LEVELS_ON = "BFT-TRA-Z1-00-D-A-0100"
_REVISION_MARK = 6.0

Place = Callable[[float, float], tuple[float, float]]
Draw = Callable[[Board], None]


def draw_sheet(target: Path, spec: SheetSpec, kind: str, add: Callable[[Pen, Place], None] | None = None) -> None:
    """The sheet as its latest issue has it; what that issue changed is clouded, or one corner if it is drawn the same.

    `add` draws something more, without a cloud: it is given the pen and where a place of the grid lies.
    """
    pen = Pen(str(target), SIZES_MM[spec.size])
    board = Board(pen, spec, Layout(spec), len(spec.issues) - 1)
    draw_frame(pen, spec)
    KINDS[kind](board)
    if board.revision and all(revision < board.revision for revision, *_ in board.changes):
        _reissued(board)
    if add:
        add(pen, board.layout.at)
    for revision, x, y, wide, deep in board.changes:
        if revision == board.revision:
            pen.cloud(x, y, wide, deep)
        _mark_of(board, revision, x + wide, y + deep)
    _notes(pen, spec)
    pen.canvas.save()


def _mark_of(board: Board, revision: int, x: float, y: float) -> None:
    """The triangle with the revision's code that stands at a cloud (common practice)."""
    pen = board.pen
    pen.path(
        [(x, y), (x + _REVISION_MARK * 1.6, y), (x + _REVISION_MARK * 0.8, y + _REVISION_MARK * 1.3)],
        0.35,
        closed=True,
        fill=1,
    )
    pen.text(x + _REVISION_MARK * 0.8, y + 1.2, board.spec.issues[revision].code, 1.5, centred=True)


def _reissued(board: Board) -> None:
    """A kind that has no changes of its own gets a note, so that no two revisions are the same."""
    x, y = 24.0, 40.0 + 10 * board.revision
    board.pen.text(
        x, y, f"Reissued with {board.spec.issues[-1].words[:1].lower()}{board.spec.issues[-1].words[1:]}", 2.2
    )
    board.cloud(board.revision, x - 4, y - 3, 90, 9)


def _notes(pen: Pen, spec: SheetSpec) -> None:
    x, y = 22.0, pen.height - 22
    lines = (
        "Notes",
        "1  All dimensions in millimetres, levels in metres above chart datum.",
        "2  Do not scale from this drawing. Report discrepancies to the lead designer.",
        f"3  To be read with the specification and sheets of the series {spec.number[:17]}.",
        *((f"4  Levels of the quay are given on {_LEVELS_ON}.",) if spec.number != _LEVELS_ON else ()),
    )
    for place, line in enumerate(lines):
        pen.text(x, y - place * 3.5, line, 2.2, bold=place == 0)


def _by_level(name: str, draw: Callable[[Board, str], None]) -> dict[str, Draw]:
    return {f"{name} {level}": partial(_on, draw, level) for level in ("00", "01", "02")}


def _on(draw: Callable[[Board, str], None], level: str, board: Board) -> None:
    draw(board, level)


def _face(first: str, second: str) -> Draw:
    return lambda board: sections.elevation(board, first, second)


def _scheme(scheme: schematics.Scheme) -> Draw:
    return lambda board: schematics.draw(board, scheme)


KINDS: dict[str, Draw] = {
    **_by_level("plan", plans.floor_plan), **_by_level("ceiling", plans.ceiling),
    **_by_level("lighting", overlays.lighting), **_by_level("power", overlays.power),
    **_by_level("ventilation", overlays.ventilation), **_by_level("escape", overlays.escape),
    **_by_level("compartments", overlays.compartments),
    "roof": plans.roof, "site": site.site_plan, "booths": site.booths, "booth sections": site.booth_sections,
    "bridge plan": site.bridge_plan, "bridge elevations": site.bridge_elevations,
    "section A": lambda board: sections.section(board, "A"), "section B": lambda board: sections.section(board, "B"),
    "long faces": _face("north", "south"), "short faces": _face("east", "west"),
    "wall": details.wall, "roof edge": details.roof_edge, "stair": details.stair, "wash rooms": details.wash_rooms,
    "door details": details.door_details, "trial pit": details.trial_pit, "old quay": site.old_quay,
    "glazing": details.glazing, "hinge": details.hinge, "fender": details.fender,
    "foundations": structure.foundations, "frame": structure.framing,
    "frame along": lambda board: structure.frame_elevation(board, along=True),
    "frame across": lambda board: structure.frame_elevation(board, along=False),
    "truss": structure.truss, "plates": structure.plates, "connections": structure.connections,
    "retaining wall": structure.retaining_wall,
    "doors": tables.doors, "finishes": tables.finishes, "luminaires": tables.luminaires, "columns": tables.columns,
    "piles": tables.piles, "caps": tables.caps,
    "low voltage": _scheme(schematics.LOW_VOLTAGE), "fire alarm": _scheme(schematics.FIRE_ALARM),
    "drainage": _scheme(schematics.DRAINAGE), "air": _scheme(schematics.AIR),
    "hydraulic": _scheme(schematics.HYDRAULIC),
    "linkspan": marine.linkspan, "pile plan": marine.pile_plan, "cross section": marine.cross_section,
    "moorings": marine.moorings, "sea bed": marine.sea_bed,
}  # fmt: skip
