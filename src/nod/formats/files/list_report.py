"""A log as a PDF, lying: counts on top, a line an entry with a link to it, the heads on each page (A4 or A3)."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.units import mm
from reportlab.lib.utils import simpleSplit
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.plain_text import clean_text
from nod.formats.files.cover_sheet import INK, LINE, SECOND, style_of

Paper = Literal["A4", "A3"]
_PAPERS = {"A4": landscape(A4), "A3": landscape(A3)}
_BRICK = HexColor("#A8362A")
_MARGIN, _GAP, _SIZE, _LEADING = 14 * mm, 2 * mm, 8.0, 10.4
_REGULAR, _BOLD = "Nod-Regular", "Nod-Bold"


@dataclass(frozen=True)
class ReportColumn:
    """`share` of the width, next to those of the others; what is wider than its column breaks."""

    head: str
    share: float


@dataclass(frozen=True)
class ReportLine:
    """`cells` in the order of the columns; `address` is where it leads; `stands_out` is printed in brick.

    A line with `heading` begins a group, and has no cells.
    """

    cells: Sequence[str]
    address: str = ""
    stands_out: frozenset[int] = frozenset()
    heading: str = ""


@dataclass(frozen=True)
class Report:
    """`about`: what is above the title; `narrowed`: which lines these are, in words; `counts` as in `4 planned`."""

    title: str
    about: str
    narrowed: str
    counts: Sequence[tuple[int, str]]
    taken: str
    columns: Sequence[ReportColumn]
    lines: Sequence[ReportLine]
    paper: Paper = "A4"


def write_list_report(report: Report) -> bytes:
    """The PDF. The same report gives the same bytes."""
    style_of(_SIZE)
    drawing = _Drawing(report)
    pages = list(drawing.pages())
    return drawing.draw(pages)


@dataclass(frozen=True)
class _Laid:
    line: ReportLine
    words: list[list[str]]
    height: float


class _Drawing:
    def __init__(self, report: Report) -> None:
        self.report = report
        self.width, self.height = _PAPERS[report.paper]
        room = self.width - 2 * _MARGIN
        whole = sum(each.share for each in report.columns)
        self.widths = [room * each.share / whole for each in report.columns]
        self.lefts = [_MARGIN + sum(self.widths[:place]) for place in range(len(self.widths))]
        self.known: dict[tuple[str, int], list[str]] = {}

    def pages(self) -> Iterator[list[_Laid]]:
        """The lines of each page; a heading never stands alone at the foot."""
        page: list[_Laid] = []
        left = self._room(first=True)
        for place, line in enumerate(self.report.lines):
            laid = self._lay(line)
            after = self.report.lines[place + 1] if line.heading and place + 1 < len(self.report.lines) else None
            needed = laid.height + (self._lay(after).height if after else 0)
            if needed > left and page:
                yield page
                page, left = [], self._room(first=False)
            page.append(laid)
            left -= laid.height
        yield page

    def _room(self, *, first: bool) -> float:
        return self.height - 2 * _MARGIN - 12 * mm - (30 * mm if first else 0)

    def _lay(self, line: ReportLine) -> _Laid:
        if line.heading:
            return _Laid(line, [], _LEADING + 3 * mm)
        words = [self._split(cell, place) for place, cell in enumerate(line.cells)]
        return _Laid(line, words, max(1, *(len(each) for each in words)) * _LEADING + 1.2 * mm)

    def _split(self, cell: str, place: int) -> list[str]:
        """What is said again and again, companies and states, is broken once."""
        key = (cell, place)
        if key not in self.known:
            text, room = clean_text(cell), self.widths[place] - _GAP
            fits = stringWidth(text, _REGULAR, _SIZE) <= room and "\n" not in text
            self.known[key] = [text] if fits else simpleSplit(text, _REGULAR, _SIZE, room)
        return self.known[key]

    def draw(self, pages: Sequence[list[_Laid]]) -> bytes:
        out = io.BytesIO()
        canvas = Canvas(out, pagesize=(self.width, self.height), invariant=1)
        canvas.setTitle(self.report.title)
        canvas.setAuthor("Nod")
        for number, page in enumerate(pages, start=1):
            top = self._top(canvas) if number == 1 else self.height - _MARGIN
            self._lines(canvas, page, self._heads(canvas, top))
            self._foot(canvas, f"Page {number} of {len(pages)}")
            canvas.showPage()
        canvas.save()
        return out.getvalue()

    def _top(self, canvas: Canvas) -> float:
        """Of the first page; returns where the lines begin, from the foot of the page."""
        top = self.height - _MARGIN
        for words, font, size, colour, down in (
            (self.report.about, _REGULAR, 8.5, SECOND, 4 * mm), (self.report.title, _BOLD, 15, INK, 10 * mm),
            (self.report.narrowed, _REGULAR, 9, INK, 16 * mm),
        ):  # fmt: skip
            canvas.setFont(font, size)
            canvas.setFillColor(colour)
            canvas.drawString(_MARGIN, top - down, _cut(clean_text(words), font, size, self.width - 2 * _MARGIN))
        left = _MARGIN
        for count, words in self.report.counts:
            for text, font in ((f"{count:,}", _BOLD), (f" {words}", _REGULAR)):
                canvas.setFont(font, 9)
                canvas.drawString(left, top - 22 * mm, text)
                left += stringWidth(text, font, 9)
            left += 5 * mm
        return top - 27 * mm

    def _heads(self, canvas: Canvas, top: float) -> float:
        canvas.setFont(_BOLD, _SIZE)
        canvas.setFillColor(SECOND)
        for left, column in zip(self.lefts, self.report.columns, strict=True):
            canvas.drawString(left, top - _LEADING, column.head)
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(0.8)
        canvas.line(_MARGIN, top - _LEADING - 1.4 * mm, self.width - _MARGIN, top - _LEADING - 1.4 * mm)
        return top - _LEADING - 2 * mm

    def _lines(self, canvas: Canvas, page: Sequence[_Laid], top: float) -> None:
        for laid in page:
            if laid.line.heading:
                self._group(canvas, laid, top)
            else:
                self._line(canvas, laid, top)
            top -= laid.height
            canvas.setStrokeColor(LINE)
            canvas.setLineWidth(0.3)
            canvas.line(_MARGIN, top, self.width - _MARGIN, top)

    def _group(self, canvas: Canvas, laid: _Laid, top: float) -> None:
        canvas.setFont(_BOLD, 9)
        canvas.setFillColor(INK)
        canvas.drawString(_MARGIN, top - _LEADING - 1.5 * mm, clean_text(laid.line.heading))

    def _line(self, canvas: Canvas, laid: _Laid, top: float) -> None:
        said = canvas.beginText()
        said.setFont(_REGULAR, _SIZE, _LEADING)
        for place, words in enumerate(laid.words):
            said.setFillColor(_BRICK if place in laid.line.stands_out else INK)
            said.setTextOrigin(self.lefts[place], top - _LEADING)
            for each in words:
                said.textLine(each)
        canvas.drawText(said)
        if laid.line.address:
            box = (self.lefts[0], top - laid.height, self.lefts[0] + self.widths[0], top)
            canvas.linkURL(laid.line.address, box)

    def _foot(self, canvas: Canvas, page: str) -> None:
        canvas.setFont(_REGULAR, 8)
        canvas.setFillColor(SECOND)
        canvas.drawString(_MARGIN, _MARGIN - 5 * mm, clean_text(f"{self.report.title}. {self.report.taken}"))
        canvas.drawRightString(self.width - _MARGIN, _MARGIN - 5 * mm, page)


def _cut(text: str, font: str, size: float, room: float) -> str:
    """What a line has no room for is left out, and says so."""
    if stringWidth(text, font, size) <= room:
        return text
    while text and stringWidth(f"{text}…", font, size) > room:
        text = text[:-1]
    return f"{text}…"
