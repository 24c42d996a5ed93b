"""The parts that every demo sheet has: frame, grid, title block, revision table. Millimetres throughout."""

from __future__ import annotations

from dataclasses import dataclass

from nod.demo.sheets.pen import Pen

SIZES_MM = {"A1": (841.0, 594.0), "A3": (420.0, 297.0)}
_MARGIN = 10.0
_BLOCK_WIDTH, _BLOCK_HEIGHT = 170.0, 62.0


BLOCK_ZONES = (
    {"field": "number", "across_mm": 68.0, "down_mm": 10.0, "width_mm": 110.0, "height_mm": 14.0},
    {"field": "revision", "across_mm": 38.0, "down_mm": 10.0, "width_mm": 30.0, "height_mm": 14.0},
    {"field": "status", "across_mm": 10.0, "down_mm": 10.0, "width_mm": 28.0, "height_mm": 14.0},
    {"field": "title", "across_mm": 10.0, "down_mm": 38.0, "width_mm": 170.0, "height_mm": 16.0},
    {"field": "scale", "across_mm": 140.0, "down_mm": 24.0, "width_mm": 38.0, "height_mm": 14.0},
    {"field": "drawn by", "across_mm": 60.0, "down_mm": 24.0, "width_mm": 50.0, "height_mm": 14.0},
    {"field": "date", "across_mm": 10.0, "down_mm": 24.0, "width_mm": 50.0, "height_mm": 14.0},
    {"field": "not compared", "across_mm": 10.0, "down_mm": 72.0, "width_mm": 170.0, "height_mm": 36.0},
)
"""The cells of the block below, from the lower right corner: what a reader of these sheets reads."""


@dataclass(frozen=True)
class Issue:
    """One line of the revision table."""

    code: str
    status: str
    dated: str
    words: str


@dataclass(frozen=True)
class SheetSpec:
    """What the frame says about a sheet. `issues` from the first to the one that is drawn."""

    number: str
    title: str
    company: str
    size: str
    scale: str
    issues: tuple[Issue, ...]
    drawn_by: str


def draw_frame(pen: Pen, spec: SheetSpec) -> None:
    """ISO 5457 style frame: a border with reference letters and figures, the title block in the lower right corner."""
    pen.rectangle(_MARGIN, _MARGIN, pen.width - 2 * _MARGIN, pen.height - 2 * _MARGIN, 0.7)
    for place in range(int(pen.width // 100)):
        pen.text(_MARGIN + 50 + place * 100, 4, str(place + 1), 2.5, centred=True)
    for place in range(int(pen.height // 100)):
        pen.text(3.5, _MARGIN + 50 + place * 100, "ABCDEFGH"[place], 2.5)
    _draw_block(pen, spec)
    _draw_revision_table(pen, spec)


def _draw_block(pen: Pen, spec: SheetSpec) -> None:
    x, y = pen.width - _MARGIN - _BLOCK_WIDTH, _MARGIN
    latest = spec.issues[-1]
    pen.rectangle(x, y, _BLOCK_WIDTH, _BLOCK_HEIGHT, 0.5)
    for height in (14.0, 28.0, 44.0):
        pen.line(x, y + height, x + _BLOCK_WIDTH, y + height, 0.25)
    pen.text(x + 3, y + 53, "Brackwater Ferry Terminal", 3.5, bold=True)
    pen.text(x + 3, y + 47, spec.company, 2.5)
    pen.text(x + 3, y + 39.5, "Title", 1.5)
    pen.text(x + 3, y + 32, spec.title, 3.5, bold=True)
    cells = (
        ("Scale", spec.scale, 3),
        ("Size", spec.size, 40),
        ("Drawn by", spec.drawn_by, 70),
        ("Date", latest.dated, 120),
    )
    for label, value, left in cells:
        pen.text(x + left, y + 24, label, 1.5)
        pen.text(x + left, y + 17.5, value, 2.5)
    for label, value, left in (
        ("Number", spec.number, 3),
        ("Revision", latest.code, 112),
        ("Status", latest.status, 142),
    ):
        pen.text(x + left, y + 10, label, 1.5)
        pen.text(x + left, y + 3.5, value, 3.5, bold=True)


def _draw_revision_table(pen: Pen, spec: SheetSpec) -> None:
    x, y = pen.width - _MARGIN - _BLOCK_WIDTH, _MARGIN + _BLOCK_HEIGHT
    for place, issue in enumerate(spec.issues):
        row = y + 6 * place
        pen.rectangle(x, row, _BLOCK_WIDTH, 6, 0.18)
        for left, words in ((3, issue.code), (18, issue.status), (30, issue.dated), (60, issue.words)):
            pen.text(x + left, row + 1.8, words, 2)


def draw_grid(pen: Pen, left: float, bottom: float, columns: int, rows: int, step: float) -> None:
    """Grid lines with bubbles: figures along, letters across (I and O left out, common practice)."""
    with pen.ink(0.35, "chain"):
        for column in range(columns + 1):
            pen.line(left + column * step, bottom - 14, left + column * step, bottom + rows * step + 14, 0.13)
        for row in range(rows + 1):
            pen.line(left - 14, bottom + row * step, left + columns * step + 14, bottom + row * step, 0.13)
    for column in range(columns + 1):
        pen.circle(left + column * step, bottom + rows * step + 19, 5)
        pen.text(left + column * step, bottom + rows * step + 17.8, str(column + 1), 2.5, centred=True)
    for row in range(rows + 1):
        pen.circle(left - 19, bottom + row * step, 5)
        pen.text(left - 19, bottom + row * step - 1.2, "ABCDEFGHJK"[row], 2.5, centred=True)
