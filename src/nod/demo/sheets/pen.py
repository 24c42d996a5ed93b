"""A canvas that thinks in millimetres on paper, and the signs that every discipline draws with."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from nod.formats.files import cover_sheet

Point = tuple[float, float]
Colour = tuple[float, float, float]
RED, BLUE, GREEN, AMBER, CYAN = (
    (0.72, 0.1, 0.1),
    (0.1, 0.25, 0.62),
    (0.1, 0.45, 0.25),
    (0.75, 0.45, 0.0),
    (0.0, 0.45, 0.55),
)
_DASHES = {"": [], "chain": [4, 1.2, 0.6, 1.2], "dash": [2.4, 1.2], "dot": [0.5, 0.9]}


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

    def path(
        self, points: Sequence[Point], weight: float = 0.25, closed: bool = False, fill: float | None = None
    ) -> None:
        """A polyline; `fill` is a grey between 0 (black) and 1 (white)."""
        path = self.canvas.beginPath()
        path.moveTo(points[0][0] * mm, points[0][1] * mm)
        for x, y in points[1:]:
            path.lineTo(x * mm, y * mm)
        if closed:
            path.close()
        self.canvas.setLineWidth(weight * mm)
        if fill is not None:
            self.canvas.setFillGray(fill)
        self.canvas.drawPath(path, fill=int(fill is not None))
        self.canvas.setFillGray(0)

    def rectangle(self, x: float, y: float, width: float, height: float, weight: float = 0.25, fill: float = 1) -> None:
        self.canvas.setLineWidth(weight * mm)
        self.canvas.setFillGray(fill)
        self.canvas.rect(x * mm, y * mm, width * mm, height * mm, fill=int(fill < 1))
        self.canvas.setFillGray(0)

    def blank(self, x: float, y: float, width: float, height: float) -> None:
        """White over what is there: an opening in a wall."""
        self.canvas.setFillGray(1)
        self.canvas.rect(x * mm, y * mm, width * mm, height * mm, stroke=0, fill=1)
        self.canvas.setFillGray(0)

    def wash(self, x: float, y: float, width: float, height: float, colour: Colour, strength: float = 0.18) -> None:
        """A tint that lets what is below be read."""
        self.canvas.setFillColorRGB(*colour, alpha=strength)
        self.canvas.rect(x * mm, y * mm, width * mm, height * mm, stroke=0, fill=1)
        self.canvas.setFillColorRGB(0, 0, 0, alpha=1)

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

    def text_up(self, x: float, y: float, words: str, size: float = 1.8) -> None:
        """Centred, read from the right."""
        self.canvas.saveState()
        self.canvas.translate(x * mm, y * mm)
        self.canvas.rotate(90)
        self.text(0, 0, words, size, centred=True)
        self.canvas.restoreState()

    @contextmanager
    def ink(self, colour: Colour | float, dashes: str = "") -> Iterator[None]:
        """Lines in another colour or grey, and in dashes of that kind: chain, dash or dot."""
        self.canvas.saveState()
        self.canvas.setStrokeColorRGB(*((colour,) * 3 if isinstance(colour, float) else colour))
        self.canvas.setDash([length * mm for length in _DASHES[dashes]])
        yield
        self.canvas.restoreState()

    @contextmanager
    def within(self, x: float, y: float, width: float, height: float) -> Iterator[None]:
        """What is drawn is seen inside this rectangle only."""
        self.canvas.saveState()
        path = self.canvas.beginPath()
        path.rect(x * mm, y * mm, width * mm, height * mm)
        self.canvas.clipPath(path, stroke=0, fill=0)
        yield
        self.canvas.restoreState()

    def hatch(self, x: float, y: float, width: float, height: float, gap: float = 2.0, weight: float = 0.1) -> None:
        """Lines at 45 degrees over a rectangle: what is cut."""
        with self.within(x, y, width, height):
            for place in range(int((width + height) / gap) + 1):
                at = x - height + place * gap
                self.line(at, y, at + height, y + height, weight)

    def concrete(self, x: float, y: float, width: float, height: float) -> None:
        """Cut concrete: an outline, thick, over hatching with broken lines."""
        with self.ink(0.45, "dash"):
            self.hatch(x, y, width, height, 2.6)
        self.rectangle(x, y, width, height, 0.5)

    def ground(self, x0: float, x1: float, y: float) -> None:
        """The line of the ground with its hatching below."""
        self.line(x0, y, x1, y, 0.7)
        for place in range(int((x1 - x0) / 9)):
            for stroke in range(3):
                at = x0 + place * 9 + stroke * 1.6
                self.line(at, y, at - 2.4, y - 2.4, 0.13)

    def arrow(self, x0: float, y0: float, x1: float, y1: float, weight: float = 0.35, head: float = 2.4) -> None:
        self.line(x0, y0, x1, y1, weight)
        angle = math.atan2(y1 - y0, x1 - x0)
        for turn in (2.7, -2.7):
            self.line(x1, y1, x1 + head * math.cos(angle + turn), y1 + head * math.sin(angle + turn), weight)

    def leader(self, x: float, y: float, to_x: float, to_y: float, words: str, size: float = 1.8) -> None:
        """From what is meant to the words: a dot, a line, and the words on the far side of it."""
        self.circle(x, y, 0.5, 0.1, 0)
        self.line(x, y, to_x, to_y, 0.13)
        width = pdfmetrics.stringWidth(words, "Nod-Regular", size / 0.7)
        self.text(to_x + 1 if to_x >= x else to_x - 1 - width, to_y - size / 2, words, size)

    def dimension(self, x0: float, x1: float, y: float, scale: float = 100) -> None:
        """Along: between two places, in millimetres of the building at 1:`scale`."""
        self.line(x0, y, x1, y, 0.18)
        for x in (x0, x1):
            self.line(x - 1.2, y - 1.2, x + 1.2, y + 1.2, 0.35)
        self.text((x0 + x1) / 2, y + 1.2, f"{(x1 - x0) * scale:.0f}", 1.8, centred=True)

    def dimension_up(self, x: float, y0: float, y1: float, scale: float = 100) -> None:
        self.line(x, y0, x, y1, 0.18)
        for y in (y0, y1):
            self.line(x - 1.2, y - 1.2, x + 1.2, y + 1.2, 0.35)
        self.text_up(x - 1.2, (y0 + y1) / 2, f"{(y1 - y0) * scale:.0f}")

    def level(self, x: float, y: float, words: str) -> None:
        """A level as sections and elevations show it."""
        self.path([(x, y), (x - 1.8, y + 2.6), (x + 1.8, y + 2.6)], 0.18, closed=True)
        self.line(x - 4, y, x + 26, y, 0.18)
        self.text(x + 3.5, y + 0.9, words, 1.8)

    def spot(self, x: float, y: float, words: str) -> None:
        """A level on a plan."""
        self.line(x - 1.6, y, x + 1.6, y, 0.18)
        self.line(x, y - 1.6, x, y + 1.6, 0.18)
        self.text(x + 2, y + 0.6, words, 1.6)

    def north(self, x: float, y: float) -> None:
        self.circle(x, y, 9, 0.25)
        self.path([(x, y + 9), (x - 3, y - 6), (x, y - 3)], 0.18, closed=True, fill=0)
        self.path([(x, y + 9), (x + 3, y - 6), (x, y - 3)], 0.18, closed=True)
        self.text(x, y + 11, "N", 3, bold=True, centred=True)

    def scale_bar(self, x: float, y: float, scale: float) -> None:
        """Five parts of a round length, about 60 mm in all."""
        part = next(each for each in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20) if each * 1000 / scale >= 9)
        for place in range(5):
            self.rectangle(x + place * part * 1000 / scale, y, part * 1000 / scale, 1.6, 0.13, 0 if place % 2 else 1)
            self.text(x + place * part * 1000 / scale, y + 2.6, f"{place * part:g}", 1.5, centred=True)
        self.text(x + 5 * part * 1000 / scale, y + 2.6, f"{5 * part:g} m", 1.5)

    def table(
        self, x: float, y: float, widths: Sequence[float], rows: Sequence[Sequence[str]], height: float = 6.5
    ) -> None:
        """From its upper left corner; the first row is the head."""
        for place, row in enumerate(rows):
            top = y - place * height
            if place == 0:
                self.rectangle(x, top - height, sum(widths), height, 0.35, 0.88)
            left = x
            for width, words in zip(widths, row, strict=True):
                self.rectangle(left, top - height, width, height, 0.18)
                self.text(left + 1.6, top - height + 2.2, words, 1.9, bold=place == 0)
                left += width
        self.rectangle(x, y - len(rows) * height, sum(widths), len(rows) * height, 0.5)

    def door(self, x: float, y: float, width: float, turn: int = 0) -> None:
        """An opening in a wall that starts at (x, y), with its leaf and swing; `turn` in quarters against the clock."""
        self.canvas.saveState()
        self.canvas.translate(x * mm, y * mm)
        self.canvas.rotate(90 * turn)
        self.blank(0, -1.9, width, 3.8)
        self.line(0, 0, 0, width, 0.35)
        self.arc(0, 0, width, 0, 90)
        self.canvas.restoreState()

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
