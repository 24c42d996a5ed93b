"""The cover sheet of a transmittal: an A4 PDF with the list of what was sent."""

from __future__ import annotations

import io
from functools import cache, partial
from pathlib import Path
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from nod.core.transmittals.transmittals import Cover, CoverLine
from nod.formats.files.qr import draw_qr

FONTS = Path(__file__).parent / "fonts"
INK, SECOND, LINE = HexColor("#22303A"), HexColor("#5B6670"), HexColor("#DDD6C6")


def write_cover(cover: Cover) -> bytes:
    """The PDF. The same cover gives the same bytes."""
    out = io.BytesIO()
    template = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=20 * mm, bottomMargin=20 * mm,
        title=f"Transmittal {cover.number}", author=cover.sender, invariant=1,
    )  # fmt: skip
    template.build(list(_story(cover)), onFirstPage=partial(_first, cover), onLaterPages=partial(_foot, cover.number))
    return out.getvalue()


_CODE_MM = 26


def _first(cover: Cover, canvas: Canvas, template: object) -> None:
    """With the code, whose address stands below it for who has no telephone at hand."""
    _foot(cover.number, canvas, template)
    if not cover.address:
        return
    left, top = A4[0] - 18 * mm - _CODE_MM * mm, A4[1] - 14 * mm
    draw_qr(canvas, cover.address, left, top - _CODE_MM * mm, _CODE_MM * mm)
    canvas.setFillColor(SECOND)
    canvas.setFont("Nod-Regular", 7)
    for place, words in enumerate(("Still current?", cover.address)):
        canvas.drawRightString(A4[0] - 18 * mm, top - _CODE_MM * mm - (place + 1) * 3 * mm, words)


@cache
def _know_fonts() -> None:
    for weight in ("Regular", "Bold"):
        name = f"Nod-{weight}"
        pdfmetrics.registerFont(TTFont(name, FONTS / f"AtkinsonHyperlegibleNext-{weight}.ttf"))


def style_of(size: float, weight: str = "Regular", second: bool = False) -> ParagraphStyle:
    _know_fonts()
    colour = SECOND if second else INK
    return ParagraphStyle(
        f"s{size}{weight}", fontName=f"Nod-{weight}", fontSize=size, leading=size * 1.35, textColor=colour
    )


def _story(cover: Cover) -> list[Flowable]:
    body, small = style_of(9.5), style_of(8.5, second=True)
    facts = [
        ("From", cover.sender),
        ("To", ", ".join(cover.recipients)),
        *([("Copied to", ", ".join(cover.copied))] if cover.copied else []),
        ("Purpose", cover.purpose),
        *([("With them", cover.along)] if cover.along else []),
        ("Sent", cover.sent),
        ("Answer wanted by", cover.answer_wanted or "no answer asked for"),
    ]
    rows = [[Paragraph(escape(name), small), Paragraph(escape(value), body)] for name, value in facts]
    note = [Paragraph(escape(line) or "&nbsp;", body) for line in cover.note.splitlines()]
    count = f"{len(cover.lines)} document{'s' if len(cover.lines) != 1 else ''}"
    return [
        Paragraph(escape(cover.project), small),
        Paragraph(f"Transmittal {escape(cover.number)}", style_of(18, "Bold")),
        Spacer(1, 5 * mm),
        Table(rows, colWidths=[34 * mm, 140 * mm], style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")])),
        Spacer(1, 4 * mm),
        *note,
        Spacer(1, 4 * mm),
        Paragraph(count, style_of(11, "Bold")),
        Spacer(1, 2 * mm),
        _document_table(cover.lines),
        *(seal_lines(_SEAL, cover.seal) if cover.seal else []),
    ]


_SEAL_PT = A4[0] - 36 * mm - 14
"""Between the margins, less the padding of the frame."""
_SEAL = "Seal of the sender’s audit trail, with this sending in it. It proves later that nothing was rewritten:"


def seal_lines(said: str, note: str) -> list[Flowable]:
    """The note to the letter, as it is checked by who has kept the sheet: no line of it is broken, however wide."""
    small, size = style_of(7.5, second=True), 7.5
    lines = note.strip().split("\n")
    widest = max(pdfmetrics.stringWidth(line, small.fontName, size) for line in lines)
    to_letter = style_of(min(size, size * _SEAL_PT / widest), second=True)
    words = Paragraph("<br/>".join(escape(line) or "&nbsp;" for line in lines), to_letter)
    return [Spacer(1, 6 * mm), KeepTogether([Paragraph(said, small), Spacer(1, 1 * mm), words])]


def _document_table(lines: tuple[CoverLine, ...]) -> Table:
    small, bold = style_of(8.5), style_of(8.5, "Bold")
    heads = ("Number", "Rev", "Status", "Title", "Size", "Verdict")
    rows = [[Paragraph(head, bold) for head in heads]]
    for line in lines:
        values = (line.number, line.revision, line.status, line.title, line.sheet_size, line.verdict or "none")
        rows.append([Paragraph(escape(value), small) for value in values])
    widths = [width * mm for width in (50, 14, 15, 62, 17, 16)]
    style = TableStyle([("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE), ("VALIGN", (0, 0), (-1, -1), "TOP")])
    return Table(rows, colWidths=widths, repeatRows=1, style=style)


def _foot(number: str, canvas: Canvas, _template: object) -> None:
    canvas.setFont("Nod-Regular", 8)
    canvas.setFillColor(SECOND)
    canvas.drawString(18 * mm, 12 * mm, f"Transmittal {number}")
    canvas.drawRightString(A4[0] - 18 * mm, 12 * mm, f"Page {canvas.getPageNumber()}")
