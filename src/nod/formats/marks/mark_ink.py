"""Marks as ink on a reportlab canvas, in points of user space: for appearances in PDF files and for prints."""

from __future__ import annotations

from collections.abc import Sequence

from reportlab.lib.colors import HexColor
from reportlab.lib.utils import simpleSplit
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from nod.core.marks import mark_paths
from nod.core.marks.mark_files import PIN_MM, FiledMark, Paper, head_mm
from nod.core.marks.mark_paths import SIGNS, Step
from nod.core.marks.marks import CLOUD_ARC_MM, COUNT_MM, INKS, SYMBOL_MM, TICK_MM, VALUE_MM, MarkKind
from nod.core.sheet.geometry import Point
from nod.formats.files.cover_sheet import FONTS

_REGULAR, _BOLD = "NodMarks", "NodMarks-Bold"
_BOXED = (MarkKind.TEXT, MarkKind.CALLOUT, MarkKind.STAMP)
_FILLED = (MarkKind.RECTANGLE, MarkKind.ELLIPSE, MarkKind.POLYGON, MarkKind.CLOUD, *_BOXED)
_LEADING, _PADDING = 1.25, 0.3
_PAPER = HexColor("#fffdf8")
_FILL_SHARE = 0.25
_EVEN_ODD = 0


def register_fonts() -> None:
    for name, file in ((_REGULAR, "Regular"), (_BOLD, "Bold")):
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, FONTS / f"AtkinsonHyperlegibleNext-{file}.ttf"))


def draw_mark(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    """The mark where it lies on the page; what has letters stands upright for who looks at the page."""
    canvas.saveState()
    look = mark.look
    ink = HexColor(INKS[look.colour])
    canvas.setStrokeColor(ink)
    canvas.setStrokeAlpha(look.opacity)
    canvas.setFillAlpha(look.opacity)
    canvas.setLineWidth(look.weight_mm * paper.per_mm)
    canvas.setLineCap(1)
    canvas.setLineJoin(1)
    if look.dashed:
        canvas.setDash(2.4 * paper.per_mm, 1.4 * paper.per_mm)
    _DRAWN.get(mark.kind, _outline)(canvas, mark, paper)
    canvas.restoreState()


def _outline(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    steps = _steps(mark, paper)
    fill = bool(mark.look.fill) and mark.kind in _FILLED
    if fill:
        canvas.setFillColor(HexColor(INKS[mark.look.fill]))
        canvas.setFillAlpha(mark.look.opacity * _FILL_SHARE)
    if mark.kind is not MarkKind.TEXT or fill:
        _path(canvas, steps, stroke=mark.kind is not MarkKind.TEXT, fill=fill)
    if mark.kind is MarkKind.CALLOUT:
        way = mark_paths.leader(mark.points)
        canvas.setDash()
        _path(canvas, mark_paths.chain(way), stroke=True, fill=False)
        _path(canvas, mark_paths.head(way[-2], way[-1], head_mm(mark.look) * paper.per_mm), stroke=True, fill=False)
    if mark.kind in _BOXED:
        _written(canvas, mark, paper)


def _steps(mark: FiledMark, paper: Paper) -> list[Step]:
    points = mark.points
    if mark.kind is MarkKind.CLOUD:
        return mark_paths.cloud(points, CLOUD_ARC_MM * paper.per_mm)
    if mark.kind in (MarkKind.RECTANGLE, *_BOXED):
        return mark_paths.box(points)
    if mark.kind is MarkKind.ELLIPSE:
        return mark_paths.ellipse(points)
    if mark.kind is MarkKind.ARROW:
        return [*mark_paths.chain(points), *mark_paths.head(points[0], points[1], head_mm(mark.look) * paper.per_mm)]
    strokes = mark_paths.outlines(points, mark.rings)
    return [step for each in strokes for step in mark_paths.chain(each, closed=mark.kind is MarkKind.POLYGON)]


def _path(canvas: Canvas, steps: Sequence[Step], *, stroke: bool, fill: bool) -> None:
    path = canvas.beginPath()
    for sign, points in steps:
        if sign == "M":
            path.moveTo(*points[0])
        elif sign == "L":
            path.lineTo(*points[0])
        elif sign == "C":
            path.curveTo(*points[0], *points[1], *points[2])
        else:
            path.close()
    canvas.drawPath(path, stroke=int(stroke), fill=int(fill), fillMode=_EVEN_ODD)


def _highlight(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    canvas.setFillColor(HexColor(INKS[mark.look.colour]))
    for place in range(0, len(mark.points), 2):
        box = mark.points[place : place + 2]
        if mark.look.symbol:
            _lined(canvas, box, mark.look.symbol, paper)
        else:
            _path(canvas, mark_paths.box(box), stroke=False, fill=True)


def _lined(canvas: Canvas, box: Sequence[Point], manner: str, paper: Paper) -> None:
    """A line under the words or through them, as one reads the page, as heavy as their height asks for."""
    left, low, right, high = mark_paths.extent(box)
    width, height = right - left, high - low
    if paper.box.rotation % 180:
        width, height = height, width
    canvas.saveState()
    _upright(canvas, ((left + right) / 2, (low + high) / 2), paper)
    canvas.setLineWidth(height * mark_paths.LINE_SHARE)
    canvas.translate(-width / 2, -height / 2)
    _path(canvas, mark_paths.chain(mark_paths.line_of_words(manner, width, height)), stroke=True, fill=False)
    canvas.restoreState()


def _upright(canvas: Canvas, at: Point, paper: Paper) -> None:
    """From here on the origin is `at` and upwards is upwards as seen."""
    canvas.translate(*at)
    canvas.rotate(paper.box.rotation)


def _written(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    left, low, right, high = mark_paths.extent(mark.points[:2])
    width, height = right - left, high - low
    if paper.box.rotation % 180:
        width, height = height, width
    size = mark.look.type_mm * paper.per_mm
    pad = _PADDING * size
    stamp = mark.kind is MarkKind.STAMP
    font = _BOLD if stamp else _REGULAR
    room = max(1.0, width - 2 * pad)
    lines = [line for part in mark.text.split("\n") for line in simpleSplit(part, font, size, room) or [""]]
    canvas.saveState()
    _upright(canvas, ((left + right) / 2, (low + high) / 2), paper)
    canvas.setFillColor(HexColor(INKS[mark.look.colour]))
    canvas.setFillAlpha(mark.look.opacity)
    canvas.setFont(font, size)
    clip = canvas.beginPath()
    clip.rect(-width / 2, -height / 2, width, height)
    canvas.clipPath(clip, stroke=0, fill=0)
    # The base of the first line lies where a browser puts it: half the leading above, then the letters' height.
    first = height / 2 - pad - size * (0.5 * (_LEADING - 1) + 0.8)
    if stamp:
        first = (len(lines) * _LEADING * size) / 2 - size * 0.9
    for place, line in enumerate(lines):
        y = first - place * _LEADING * size
        if stamp:
            canvas.drawCentredString(0, y, line)
        else:
            canvas.drawString(-width / 2 + pad, y, line)
    canvas.restoreState()


def _pin(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    """A small tag with its number, whose corner stands on the place."""
    _upright(canvas, mark.points[0], paper)
    canvas.scale(PIN_MM * paper.per_mm, PIN_MM * paper.per_mm)
    ink = HexColor(INKS[mark.look.colour])
    canvas.setFillColor(ink)
    canvas.setLineWidth(0.03)
    number = str(mark.pin_number or "")
    right = 0.62 + 0.2 * max(1, len(number))
    corners = [(0.0, 0.0), (0.0, 0.98), (right, 0.98), (right, 0.36), (0.2, 0.36)]
    tag: list[tuple[str, tuple[Point, ...]]] = [
        ("M", (corners[0],)),
        *(("L", (each,)) for each in corners[1:]),
        ("Z", ()),
    ]
    _path(canvas, tag, stroke=True, fill=True)
    canvas.setFillColor(_PAPER)
    canvas.setFont(_BOLD, 0.42)
    canvas.drawCentredString(right / 2, 0.53, number)


def _symbol(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    _upright(canvas, mark.points[0], paper)
    half = SYMBOL_MM / 2 * paper.per_mm
    canvas.scale(half, half)
    canvas.setFillColor(_PAPER)
    canvas.setLineWidth(0.1)
    canvas.circle(0, 0, 0.95, stroke=1, fill=1)
    canvas.setDash()
    canvas.setLineWidth(0.2)
    _path(canvas, SIGNS[mark.look.symbol], stroke=True, fill=False)


def _count(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    half = COUNT_MM / 2 * paper.per_mm
    for place, point in enumerate(mark.points):
        canvas.saveState()
        _upright(canvas, point, paper)
        canvas.scale(half, half)
        canvas.setFillColor(HexColor(INKS[mark.look.colour]))
        canvas.setLineWidth(0.1)
        canvas.circle(0, 0, 0.92, stroke=1, fill=1)
        canvas.setFillColor(_PAPER)
        canvas.setFont(_BOLD, 1.0)
        canvas.drawCentredString(0, -0.36, str(place + 1))
        canvas.restoreState()


def _measure(canvas: Canvas, mark: FiledMark, paper: Paper) -> None:
    """The line or outline that was measured, and its value in the middle on a ground of paper."""
    closed = mark.kind in (MarkKind.AREA, MarkKind.PERIMETER)
    rings = mark_paths.outlines(mark.points, mark.rings)
    if closed:
        steps = [step for ring in rings for step in mark_paths.chain(ring, closed=True)]
        canvas.setFillColor(HexColor(INKS[mark.look.fill or mark.look.colour]))
        canvas.setFillAlpha(mark.look.opacity * _FILL_SHARE / 2)
        _path(canvas, steps, stroke=True, fill=mark.kind is MarkKind.AREA)
    elif mark.kind is MarkKind.ANGLE:
        _path(canvas, mark_paths.chain(mark.points), stroke=True, fill=False)
    else:
        _path(canvas, mark_paths.dimension(mark.points, TICK_MM * paper.per_mm), stroke=True, fill=False)
    if mark.measured:
        at = mark.points[1] if mark.kind is MarkKind.ANGLE else mark_paths.value_at(rings[0], closed=closed)
        _value(canvas, mark.measured.words, at, mark, paper)


def _value(canvas: Canvas, words: str, at: Point, mark: FiledMark, paper: Paper) -> None:
    size = VALUE_MM * paper.per_mm
    width = pdfmetrics.stringWidth(words, _BOLD, size)
    _upright(canvas, at, paper)
    canvas.setDash()
    canvas.setFillColor(_PAPER)
    canvas.setFillAlpha(0.85)
    canvas.rect(-width / 2 - size * 0.2, -size * 0.6, width + size * 0.4, size * 1.2, stroke=0, fill=1)
    canvas.setFillColor(HexColor(INKS[mark.look.colour]))
    canvas.setFillAlpha(mark.look.opacity)
    canvas.setFont(_BOLD, size)
    canvas.drawCentredString(0, -size * 0.34, words)


_DRAWN = {
    MarkKind.HIGHLIGHT: _highlight, MarkKind.PIN: _pin, MarkKind.SYMBOL: _symbol, MarkKind.COUNT: _count,
    MarkKind.DISTANCE: _measure, MarkKind.PATH: _measure, MarkKind.AREA: _measure, MarkKind.PERIMETER: _measure,
    MarkKind.ANGLE: _measure,
}  # fmt: skip
