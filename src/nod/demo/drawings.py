"""What is drawn on the demo's sheets: plans, frames, linkspans, services and escape routes, as vectors."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path

from nod.demo.sheet_frame import SIZES_MM, Pen, SheetSpec, draw_frame, draw_grid

_ROOMS = (
    "Ticket hall",
    "Waiting lounge",
    "Baggage",
    "Staff",
    "Plant",
    "Store",
    "Café",
    "WC",
    "Control",
    "Stair",
    "Lift",
    "Office",
)
_MEMBERS = ("UB 457×191×67", "UB 356×171×51", "UC 254×254×89", "SHS 150×150×8", "UB 610×229×101")


class Layout:
    """Where the drawing lies on its sheet: a grid of bays, and a seeded source of variety."""

    def __init__(self, spec: SheetSpec) -> None:
        width, height = SIZES_MM[spec.size]
        large = spec.size == "A1"
        self.step = 60.0 if large else 34.0
        self.columns = 9 if large else 6
        self.rows = 5 if large else 4
        self.left = (width - 200 - self.columns * self.step) / 2 + 40 if large else 55
        self.bottom = (height - self.rows * self.step) / 2 + 20
        self.lots = random.Random(spec.number)  # noqa: S311 - variety, not secrets
        self.revisions = len(spec.issues) - 1

    def at(self, column: float, row: float) -> tuple[float, float]:
        return self.left + column * self.step, self.bottom + row * self.step


Place = Callable[[float, float], tuple[float, float]]


def draw_sheet(target: Path, spec: SheetSpec, kind: str, add: Callable[[Pen, Place], None] | None = None) -> None:
    """Writes one sheet as a PDF. Each revision after the first changes the drawing, and clouds what it changed.

    `add` draws something more, without a cloud: it is given the pen and where a place of the grid lies.
    """
    pen = Pen(str(target), SIZES_MM[spec.size])
    layout = Layout(spec)
    draw_frame(pen, spec)
    draw_grid(pen, layout.left, layout.bottom, layout.columns, layout.rows, layout.step)
    _KINDS[kind](pen, layout)
    for revision in range(1, layout.revisions + 1):
        _change(pen, layout, revision)
    if add:
        add(pen, layout.at)
    _notes(pen, spec)
    pen.canvas.save()


def _walls(pen: Pen, x: float, y: float, width: float, height: float, thick: float = 2.0) -> None:
    pen.rectangle(x, y, width, height, 0.5)
    pen.rectangle(x + thick, y + thick, width - 2 * thick, height - 2 * thick, 0.35)


def _door(pen: Pen, x: float, y: float, width: float) -> None:
    pen.canvas.setStrokeGray(1)
    pen.line(x, y, x + width, y, 1.6)
    pen.canvas.setStrokeGray(0)
    pen.line(x, y, x, y + width, 0.35)
    pen.arc(x, y, width, 0, 90)


def _dimension(pen: Pen, x0: float, x1: float, y: float) -> None:
    """At 1:100 a millimetre on paper is 100 in the building."""
    pen.line(x0, y, x1, y, 0.18)
    for x in (x0, x1):
        pen.line(x - 1.2, y - 1.2, x + 1.2, y + 1.2, 0.35)
    pen.text((x0 + x1) / 2, y + 1.2, f"{(x1 - x0) * 100:.0f}", 1.8, centred=True)


def _plan(pen: Pen, layout: Layout) -> None:
    step = layout.step
    x, y = layout.at(0, 0)
    _walls(pen, x - 4, y - 4, layout.columns * step + 8, layout.rows * step + 8)
    for column in range(layout.columns):
        _dimension(pen, x + column * step, x + (column + 1) * step, y - 24)
        for row in range(layout.rows):
            _bay(pen, layout, column, row)


def _bay(pen: Pen, layout: Layout, column: int, row: int) -> None:
    x, y = layout.at(column, row)
    step, lots = layout.step, layout.lots
    pen.rectangle(x - 1.6, y - 1.6, 3.2, 3.2, 0.35, 0.35)
    if lots.random() < 0.72:
        width = step * lots.choice((0.5, 0.75, 1.0))
        _walls(pen, x, y, width, step * 0.8, 1.2)
        _door(pen, x + step * 0.12, y, step * 0.16)
        room = lots.choice(_ROOMS)
        pen.text(x + width / 2, y + step * 0.46, room, 2.2, centred=True)
        pen.text(x + width / 2, y + step * 0.36, f"{column + 1:02d}.{row + 1:02d}", 1.8, centred=True)
    for hatch in range(lots.randrange(0, 6)):
        pen.line(x + 3 + hatch * 1.4, y + step - 6, x + 7 + hatch * 1.4, y + step - 2, 0.1)


def _frame(pen: Pen, layout: Layout) -> None:
    step, lots = layout.step, layout.lots
    for column in range(layout.columns + 1):
        for row in range(layout.rows + 1):
            x, y = layout.at(column, row)
            pen.rectangle(x - 2, y - 2, 4, 4, 0.5, 0.2)
            if column < layout.columns:
                pen.line(x + 2, y, x + step - 2, y, 0.7)
                pen.text(x + step / 2, y + 1.2, lots.choice(_MEMBERS), 1.5, centred=True)
            if row < layout.rows:
                pen.line(x, y + 2, x, y + step - 2, 0.7)
            if column < layout.columns and row < layout.rows and lots.random() < 0.2:
                pen.line(x, y, x + step, y + step, 0.25)
                pen.line(x + step, y, x, y + step, 0.25)
            for joist in range(1, 4):
                if column < layout.columns and row < layout.rows:
                    pen.line(x + joist * step / 4, y + 2, x + joist * step / 4, y + step - 2, 0.18)


def _linkspan(pen: Pen, layout: Layout) -> None:
    step, lots = layout.step, layout.lots
    x0, y0 = layout.at(0, 1.4)
    length, width = layout.columns * step, 1.4 * step
    for rail in (0.0, 0.08, 0.5, 0.92, 1.0):
        pen.line(x0, y0 + rail * width, x0 + length, y0 + rail * width * 0.94, 0.5)
    for rib in range(layout.columns * 4 + 1):
        x = x0 + rib * step / 4
        pen.line(x, y0, x, y0 + width * 0.94, 0.18)
        pen.line(x, y0, x + step / 4, y0 + width * 0.94, 0.1)
    for pile in range(layout.columns + 1):
        for side in (-0.35, 1.35):
            x, y = x0 + pile * step, y0 + side * width
            pen.circle(x, y, 3.4, 0.5)
            pen.circle(x, y, 2.4, 0.18)
            pen.text(
                x + 4.4, y - 0.8, f"P{lots.randrange(10, 99)} toe −{lots.randrange(18, 27)}.{lots.randrange(10)} m", 1.6
            )
    for level, words in ((0.15, "MHWS +4.2 m"), (0.4, "MSL +2.1 m"), (0.65, "MLWS +0.3 m")):
        y = layout.at(0, 3.2 + level * 1.6)[1]
        pen.line(x0, y, x0 + length, y, 0.18)
        pen.text(x0 + length + 3, y - 0.8, words, 2)
    pen.line(x0, layout.at(0, 3.3)[1], x0 + length, layout.at(0, 4.3)[1], 0.7)
    pen.text(x0 + length / 2, layout.at(0, 4.1)[1], "Linkspan at highest working level", 2.5, centred=True)


def _services(pen: Pen, layout: Layout) -> None:
    pen.canvas.setStrokeGray(0.6)
    _plan(pen, layout)
    pen.canvas.setStrokeGray(0)
    step, lots = layout.step, layout.lots
    for row in range(layout.rows):
        x, y = layout.at(0, row + 0.9)
        pen.line(x, y, x + layout.columns * step, y, 0.7)
        pen.line(x, y + 2, x + layout.columns * step, y + 2, 0.7)
        pen.text(x + 3, y + 3.4, f"Tray 300 × 60, circuit {lots.randrange(1, 40)}", 1.7)
        for lamp in range(layout.columns * 2):
            at = x + (lamp + 0.5) * step / 2
            pen.circle(at, y - step * 0.45, 1.8, 0.35)
            pen.line(at - 1.3, y - step * 0.45 - 1.3, at + 1.3, y - step * 0.45 + 1.3, 0.25)
            pen.line(at - 1.3, y - step * 0.45 + 1.3, at + 1.3, y - step * 0.45 - 1.3, 0.25)


def _escape(pen: Pen, layout: Layout) -> None:
    pen.canvas.setStrokeGray(0.55)
    _plan(pen, layout)
    pen.canvas.setStrokeGray(0)
    step, lots = layout.step, layout.lots
    for row in range(layout.rows):
        x, y = layout.at(0.2, row + 0.9)
        for column in range(layout.columns - 1):
            at = x + column * step
            pen.line(at, y, at + step * 0.8, y, 0.7)
            pen.line(at + step * 0.8, y, at + step * 0.8 - 3, y + 1.6, 0.7)
            pen.line(at + step * 0.8, y, at + step * 0.8 - 3, y - 1.6, 0.7)
        pen.text(
            x,
            y + 2.4,
            f"Travel distance {lots.randrange(12, 44)} m, door width {lots.randrange(850, 1500, 50)} mm",
            1.8,
        )


def _change(pen: Pen, layout: Layout, revision: int) -> None:
    """Two places a revision: a new partition with a door, and a note that was not there; clouded in the latest only."""
    lots = random.Random(f"{layout.left}{revision}{layout.lots.random()}")  # noqa: S311
    step = layout.step
    for _ in range(2):
        column, row = lots.randrange(layout.columns - 1), lots.randrange(layout.rows)
        x, y = layout.at(column + 0.25, row + 0.15)
        pen.line(x, y, x + step * 0.6, y, 0.7)
        pen.line(x + step * 0.6, y, x + step * 0.6, y + step * 0.5, 0.7)
        _door(pen, x + 3, y, step * 0.14)
        pen.text(x + 2, y + step * 0.3, f"Revised {lots.randrange(900, 2400, 50)} clear", 1.8)
        if revision == layout.revisions:
            pen.cloud(x - 5, y - 5, step * 0.6 + 10, step * 0.5 + 10)


_LEVELS_ON = "BFT-TRA-Z1-00-D-A-0100"


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


_KINDS: dict[str, Callable[[Pen, Layout], None]] = {
    "plan": _plan,
    "frame": _frame,
    "linkspan": _linkspan,
    "services": _services,
    "escape": _escape,
}
