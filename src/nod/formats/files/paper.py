"""What the papers that Nod draws share: text, and a file with a foot on each page."""

from __future__ import annotations

import io
from collections.abc import Iterable
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate

from nod.formats.files.cover_sheet import SECOND, style_of


def text(words: str, size: float = 9, weight: str = "Regular", *, second: bool = False) -> Paragraph:
    """With breaks where the writer had them."""
    lines = "<br/>".join(escape(line) for line in words.split("\n"))
    return Paragraph(lines or "&nbsp;", style_of(size, weight, second))


def write_paper(
    title: str, taken: str, story: Iterable[Flowable], page: tuple[float, float] = A4, margin_mm: float = 18
) -> bytes:
    """The PDF, with its title, who took it when, and the page at each foot. The same story gives the same bytes."""
    out, margin = io.BytesIO(), margin_mm * mm
    template = SimpleDocTemplate(
        out, pagesize=page, leftMargin=margin, rightMargin=margin, topMargin=margin, bottomMargin=margin + 2 * mm,
        title=title, author="Nod", invariant=1,
    )  # fmt: skip

    def foot(canvas: Canvas, _template: object) -> None:
        canvas.setFont("Nod-Regular", 8)
        canvas.setFillColor(SECOND)
        canvas.drawString(margin, margin - 6 * mm, f"{title}. {taken}")
        canvas.drawRightString(page[0] - margin, margin - 6 * mm, f"Page {canvas.getPageNumber()}")

    template.build(list(story), onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()
