"""A comment sheet as an A4 PDF, lying: a line a comment, with room to read what was answered."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import LongTable, Paragraph, SimpleDocTemplate, Spacer, TableStyle

from nod.formats.files.cover_sheet import INK, LINE, SECOND, know_fonts, style_of

_PAGE = landscape(A4)
_HEADS = ("No", "Document", "Comment", "By", "How grave", "Response", "Close-out")
_WIDTHS_MM = (9, 52, 68, 28, 18, 56, 34)


@dataclass(frozen=True)
class CommentLine:
    """Cells as they are to be printed, in the order of the heads."""

    number: str
    document: str
    comment: str
    by: str
    grave: str
    response: str
    closed: str


def write_comment_sheet(title: str, project: str, tally: str, taken: str, lines: Sequence[CommentLine]) -> bytes:
    """The PDF. The same lines give the same bytes."""
    know_fonts()
    out = io.BytesIO()
    template = SimpleDocTemplate(
        out, pagesize=_PAGE, leftMargin=16 * mm, rightMargin=16 * mm, topMargin=16 * mm, bottomMargin=18 * mm,
        title=f"Comment sheet of {title}", author="Nod", invariant=1,
    )  # fmt: skip
    rows = [[_text(head, 8, "Bold") for head in _HEADS]]
    rows += [
        [_text(cell) for cell in (each.number, each.document, each.comment, each.by, each.grave, each.response,
                                  each.closed)]
        for each in lines
    ]  # fmt: skip
    style = TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, 0), 0.8, INK),
        ("LINEBELOW", (0, 1), (-1, -1), 0.3, LINE), ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 4),
    ])  # fmt: skip
    table = LongTable(rows, colWidths=[width * mm for width in _WIDTHS_MM], repeatRows=1, style=style)
    foot = partial(_foot, title, taken)
    story = [
        _text(project, 8.5, second=True), _text(f"Comment sheet of {title}", 15, "Bold"), Spacer(1, 2 * mm),
        _text(tally, 9), Spacer(1, 4 * mm), table,
    ]  # fmt: skip
    template.build(story, onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _text(words: str, size: float = 8.5, weight: str = "Regular", *, second: bool = False) -> Paragraph:
    lines = "<br/>".join(escape(line) for line in words.split("\n"))
    return Paragraph(lines or "&nbsp;", style_of(size, weight, second))


def _foot(title: str, taken: str, canvas: Canvas, _template: object) -> None:
    canvas.setFont("Nod-Regular", 8)
    canvas.setFillColor(SECOND)
    canvas.drawString(16 * mm, 10 * mm, f"Comment sheet of {title}. {taken}")
    canvas.drawRightString(_PAGE[0] - 16 * mm, 10 * mm, f"Page {canvas.getPageNumber()}")
