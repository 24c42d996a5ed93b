"""The parts that every demo sheet has: frame, grid, title block, revision table, clouds. Millimetres throughout."""

from __future__ import annotations

import math
from dataclasses import dataclass

from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from nod.formats.files import cover_sheet

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


class Pen:
    """A reportlab canvas that thinks in millimetres."""

    def __init__(self, target: str, size_mm: tuple[float, float]) -> None:
        for weight in ("Regular", "Bold"):
            if f"Nod-{weight}" not in pdfmetrics.getRegisteredFontNames():
                pdfmetrics.registerFont(
                    TTFont(f"Nod-{weight}", cover_sheet.FONTS / f"AtkinsonHyperlegibleNext-{weight}.ttf")
                )
        self.canvas = Canvas(target, pagesize=(size_mm[0] * mm, size_mm[1] * mm), invariant=1)
        self.width, self.height = size_mm

    def line(self, x0: float, y0: float, x1: float, y1: float, weight: float = 0.25) -> None:
        self.canvas.setLineWidth(weight * mm)
        self.canvas.line(x0 * mm, y0 * mm, x1 * mm, y1 * mm)

    def rectangle(self, x: float, y: float, width: float, height: float, weight: float = 0.25, fill: float = 1) -> None:
        self.canvas.setLineWidth(weight * mm)
        self.canvas.setFillGray(fill)
        self.canvas.rect(x * mm, y * mm, width * mm, height * mm, fill=int(fill < 1))
        self.canvas.setFillGray(0)

    def circle(self, x: float, y: float, radius: float, weight: float = 0.25, fill: float = 1) -> None:
        self.canvas.setLineWidth(weight * mm)
        self.canvas.setFillGray(fill)
        self.canvas.circle(x * mm, y * mm, radius * mm, fill=int(fill < 1))
        self.canvas.setFillGray(0)

    def arc(self, x: float, y: float, radius: float, start: float, sweep: float, weight: float = 0.18) -> None:
        self.canvas.setLineWidth(weight * mm)
        box = ((x - radius) * mm, (y - radius) * mm, (x + radius) * mm, (y + radius) * mm)
        self.canvas.arc(*box, startAng=start, extent=sweep)

    def text(
        self, x: float, y: float, words: str, size: float = 2.5, bold: bool = False, centred: bool = False
    ) -> None:
        """`size` is the height of capitals, about 0.7 of the type size."""
        self.canvas.setFont(f"Nod-{'Bold' if bold else 'Regular'}", size / 0.7 * mm)
        draw = self.canvas.drawCentredString if centred else self.canvas.drawString
        draw(x * mm, y * mm, words)

    def dashed(self, on: bool) -> None:
        self.canvas.setDash([4 * mm, 1.2 * mm, 0.6 * mm, 1.2 * mm] if on else [])

    def cloud(self, x: float, y: float, width: float, height: float) -> None:
        """A revision cloud around a rectangle: arcs of about 8 mm, bulging outwards."""
        corners = [(x, y), (x + width, y), (x + width, y + height), (x, y + height)]
        for (x0, y0), (x1, y1) in zip(corners, [*corners[1:], corners[0]], strict=True):
            self._bulges(x0, y0, x1, y1)

    def _bulges(self, x0: float, y0: float, x1: float, y1: float) -> None:
        length, angle = math.hypot(x1 - x0, y1 - y0), math.degrees(math.atan2(y1 - y0, x1 - x0))
        count = max(1, round(length / 8))
        for place in range(count):
            at = (place + 0.5) / count
            self.arc(x0 + (x1 - x0) * at, y0 + (y1 - y0) * at, length / count / 2, angle + 180, 180, 0.5)


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
    pen.dashed(True)
    for column in range(columns + 1):
        pen.line(left + column * step, bottom - 14, left + column * step, bottom + rows * step + 14, 0.13)
    for row in range(rows + 1):
        pen.line(left - 14, bottom + row * step, left + columns * step + 14, bottom + row * step, 0.13)
    pen.dashed(False)
    for column in range(columns + 1):
        pen.circle(left + column * step, bottom + rows * step + 19, 5)
        pen.text(left + column * step, bottom + rows * step + 17.8, str(column + 1), 2.5, centred=True)
    for row in range(rows + 1):
        pen.circle(left - 19, bottom + row * step, 5)
        pen.text(left - 19, bottom + row * step - 1.2, "ABCDEFGHJK"[row], 2.5, centred=True)
