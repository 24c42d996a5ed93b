"""A printed summary of the marks on a sheet: a clip of each place with what was said there (handbook §6)."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from datetime import datetime
from functools import partial
from pathlib import Path
from xml.sax.saxutils import escape
from zoneinfo import ZoneInfo

from reportlab.lib.colors import Color, HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from nod.core.marks.mark_files import FiledMark, Paper, SummaryHead, rect_of, subject_of
from nod.core.marks.mark_paths import extent
from nod.formats.marks.mark_ink import register_fonts
from nod.formats.marks.pdf_marks import annotate
from nod.formats.sheet.pdf_look import Looker, draw

_REGULAR, _BOLD = "NodMarks", "NodMarks-Bold"
_INK, _SECOND, _LINE = HexColor("#22303A"), HexColor("#5B6670"), HexColor("#DDD6C6")
_CLIP_MM, _LEAST_MM, _AROUND_MM = (70.0, 50.0), 90.0, 15.0
_CLIP_PX = 700
_BESIDE_MM, _TALLEST_MM = 90.0, 200.0
"""What is said stands beside the clip, as long as it fits on a page."""


def write_summary(
    looker: Looker, source: Path, target: Path, aside: Path, marks: Sequence[FiledMark], papers: Sequence[Paper],
    head: SummaryHead, gone: frozenset[str] = frozenset(),
) -> None:  # fmt: skip
    """Raises CannotAnnotate for a file that is locked or broken, CannotDraw for a page that is."""
    register_fonts()
    annotate(source, aside, marks, gone)
    template = SimpleDocTemplate(
        str(target), pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=24 * mm, bottomMargin=18 * mm,
        title=head.title, invariant=1,
    )  # fmt: skip
    frame = partial(_frame, head)
    template.build(list(_story(looker, aside, marks, papers, head)), onFirstPage=frame, onLaterPages=frame)


def write_clips(
    looker: Looker, source: Path, into: Path, aside: Path, marks: Sequence[FiledMark], papers: Sequence[Paper],
    gone: frozenset[str] = frozenset(),
) -> None:  # fmt: skip
    """A picture of each mark in its place, as `0.png` and on in the order of the marks; none for a page that is gone.

    Raises CannotAnnotate for a file that is locked or broken, CannotDraw for a page that is.
    """
    annotate(source, aside, marks, gone)
    for place, mark in enumerate(marks):
        if mark.page < len(papers):
            (into / f"{place}.png").write_bytes(_picture(looker, aside, mark, papers[mark.page]))


def _frame(head: SummaryHead, canvas: Canvas, template: SimpleDocTemplate) -> None:
    canvas.setFillColor(_INK)
    canvas.setFont(_BOLD, 11)
    canvas.drawString(18 * mm, A4[1] - 15 * mm, head.title)
    canvas.setFont(_REGULAR, 8)
    canvas.setFillColor(_SECOND)
    canvas.drawString(18 * mm, A4[1] - 19 * mm, head.made)
    canvas.drawRightString(A4[0] - 18 * mm, 10 * mm, f"page {template.page}")


def _story(
    looker: Looker, marked: Path, marks: Sequence[FiledMark], papers: Sequence[Paper], head: SummaryHead
) -> Iterator[Flowable]:
    if not marks:
        yield Paragraph("No marks are in ink on this revision.", _style(10, _SECOND))
    for mark in marks:
        if mark.page < len(papers):
            clip = _clip(looker, marked, mark, papers[mark.page])
            beside, below = _said(mark, head), list[Flowable]()
            if sum(each.wrap(_BESIDE_MM * mm, 1e6)[1] for each in beside) > _TALLEST_MM * mm:
                # A row of a table cannot be parted between pages; what is below can.
                beside, below = beside[:2], beside[2:]
            table = Table([[clip, beside]], colWidths=[_CLIP_MM[0] * mm + 8, None])
            table.setStyle(
                TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, -1), 0.5, _LINE)])
            )
            yield KeepTogether([table, Spacer(1, 3 * mm)])
            yield from below


def _style(size: float, colour: Color, font: str = _REGULAR) -> ParagraphStyle:
    return ParagraphStyle(f"{font}{size}{colour}", fontName=font, fontSize=size, leading=size * 1.3, textColor=colour)


def _said(mark: FiledMark, head: SummaryHead) -> list[Flowable]:
    zone = head.zone
    shown = [Paragraph(escape(subject_of(mark)), _style(11, _INK, _BOLD))]
    by = [f"{mark.author}, {_when(mark.drawn_at, zone)}", mark.state.value]
    if mark.discipline:
        by.append(head.disciplines.get(mark.discipline, mark.discipline))
    shown.append(Paragraph(escape(" · ".join(by)), _style(8, _SECOND)))
    if mark.measured:
        shown.append(Paragraph(escape(mark.measured.words), _style(10, _INK, _BOLD)))
    if mark.text:
        shown.append(Paragraph(_lines(mark.text), _style(10, _INK)))
    for reply in mark.replies:
        shown.append(Paragraph(escape(f"{reply.author}, {_when(reply.at, zone)}"), _style(8, _SECOND)))
        shown.append(Paragraph(_lines(reply.text), _style(9, _INK)))
    for link in mark.links:
        shown.append(Paragraph(escape(link.said), _style(8, _SECOND)))
    return list(shown)


def _lines(text: str) -> str:
    return escape(text).replace("\n", "<br/>")


def _when(at: datetime, zone: str) -> str:
    return f"{at.astimezone(ZoneInfo(zone)):%d %b %Y, %H:%M}"


def _clip(looker: Looker, marked: Path, mark: FiledMark, paper: Paper) -> Image:
    return Image(io.BytesIO(_picture(looker, marked, mark, paper)), _CLIP_MM[0] * mm, _CLIP_MM[1] * mm)


def _picture(looker: Looker, marked: Path, mark: FiledMark, paper: Paper) -> bytes:
    """The mark with enough of the sheet around it to know where one is, in the shape of the column; a PNG."""
    page = looker.page(marked, mark.page)
    to_view = paper.box.to_view()
    left, low, right, high = rect_of(mark, paper)
    seen = extent([to_view.apply(point) for point in ((left, low), (right, high))])
    shape = _CLIP_MM[0] / _CLIP_MM[1]
    around, least = 2 * _AROUND_MM * paper.per_mm, _LEAST_MM * paper.per_mm
    width = max(seen[2] - seen[0] + around, (seen[3] - seen[1] + around) * shape, least)
    x, y = (seen[0] + seen[2]) / 2 - width / 2, (seen[1] + seen[3]) / 2 - width / shape / 2
    scale = _CLIP_PX / width
    full = (max(1, round(page.get_width() * scale)), max(1, round(page.get_height() * scale)))
    picture = draw(page, full, (round(x * scale), round(y * scale)), (_CLIP_PX, round(_CLIP_PX / shape)))
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()
