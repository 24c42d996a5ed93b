"""A sheet for the printer: to scale or fitted to a paper, with marks or without, and a strip that says what it is."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path

import pikepdf
from reportlab.lib.colors import HexColor
from reportlab.pdfgen.canvas import Canvas

from nod.core.marks.mark_files import FiledMark
from nod.core.sheet.papers import STRIP_MM, Lying, PrintStrip, lie
from nod.formats.files.qr import draw_qr
from nod.formats.files.unfit import CannotAnnotate
from nod.formats.marks.mark_ink import register_fonts
from nod.formats.marks.pdf_marks import annotate

_MM = 72 / 25.4
_LEAST_PT, _MOST_PT = 3, 14400
"""The sides that a page can have without a UserUnit (ISO 32000-1, C.2)."""
_MEANINGS = {"go": "#1F6650", "look": "#9A6A00", "stop": "#A8392B"}
_INK = HexColor("#22303A")
_REGULAR, _BOLD = "NodMarks", "NodMarks-Bold"


def write_print(
    source: Path, target: Path, aside: Path, marks: Sequence[FiledMark] | None, gone: frozenset[str],
    paper: str, strip: PrintStrip,
) -> None:  # fmt: skip
    """`paper` is `own` or an ISO 216 name. `marks` None leaves all annotations out, also the file's own.

    `gone` as in `annotate`.

    Raises CannotAnnotate for a file that is locked or broken.
    """
    if marks or (marks is not None and gone):
        annotate(source, aside, marks, gone)
        source = aside
    try:
        with pikepdf.open(source) as read, pikepdf.new() as made:
            for page in read.pages:
                if marks is None and "/Annots" in page.obj:
                    del page.obj["/Annots"]
            if marks is not None:
                read.flatten_annotations("print")
            for page in read.pages:
                _print_page(made, page, paper, strip)
            made.save(target, compress_streams=True)
    except (pikepdf.PdfError, pikepdf.PasswordError) as error:
        raise CannotAnnotate("The file is locked or damaged, so it cannot be printed.") from error


def _print_page(made: pikepdf.Pdf, page: pikepdf.Page, paper: str, strip: PrintStrip) -> None:
    left, low, right, high = (float(value) for value in page.cropbox)
    unit = float(page.obj.get("/UserUnit", 1)) / _MM
    wide, tall = abs(right - left) * unit, abs(high - low) * unit
    size = (tall, wide) if int(page.rotation) % 180 else (wide, tall)
    lying = lie(size, paper)
    width, height = lying.paper_mm
    if not all(_LEAST_PT <= side * _MM <= _MOST_PT for side in (width, height)):
        raise CannotAnnotate(f"Page {len(made.pages) + 1} is too large or too small to be printed in its own size.")
    made.add_blank_page(page_size=(width * _MM, height * _MM))
    target = made.pages[-1]
    x0, y0, x1, y1 = (value * _MM for value in lying.box_mm)
    # The crop box is what is seen; what lies outside of it stays outside.
    page.trimbox = page.cropbox
    target.add_overlay(page, pikepdf.Rectangle(x0, y0, x1, y1))
    with pikepdf.open(io.BytesIO(_strip(lying, strip))) as drawn:
        target.add_overlay(drawn.pages[0], pikepdf.Rectangle(0, 0, width * _MM, height * _MM))


def _strip(lying: Lying, strip: PrintStrip) -> bytes:
    """Along the lower edge, under the sheet or, in its own size, along the filing margin at the left."""
    register_fonts()
    out = io.BytesIO()
    width, height = lying.paper_mm
    canvas = Canvas(out, pagesize=(width * _MM, height * _MM), invariant=1)
    canvas.scale(_MM, _MM)
    if lying.upright:
        canvas.translate(STRIP_MM, 0)
        canvas.rotate(90)
    code = STRIP_MM - 3
    draw_qr(canvas, strip.address, 6.0, 1.5, code)
    x = 6.0 + code + 3
    canvas.setFillColor(_INK)
    canvas.setFont(_BOLD, 3.2)
    canvas.drawString(x, STRIP_MM - 5, strip.title)
    canvas.setFont(_REGULAR, 2.6)
    canvas.drawString(x, STRIP_MM - 9, f"{strip.printed}. {lying.words}")
    canvas.drawString(x, STRIP_MM - 13, f"Still current? {strip.address}")
    if strip.verdict:
        lines = (strip.title, f"{strip.printed}. {lying.words}", f"Still current? {strip.address}")
        _stamp(canvas, x + max(canvas.stringWidth(each, _BOLD, 3.2) for each in lines), strip)
    canvas.save()
    return out.getvalue()


def _stamp(canvas: Canvas, x: float, strip: PrintStrip) -> None:
    """The verdict as the stamp it is: letter, words, date, in the colour of its meaning."""
    colour = HexColor(_MEANINGS[strip.meaning])
    words = f"{strip.verdict}  {strip.verdict_words}"
    width = canvas.stringWidth(words, _BOLD, 4) + 6
    canvas.setStrokeColor(colour)
    canvas.setFillColor(colour)
    canvas.setLineWidth(0.5)
    canvas.rect(x, 2, width, STRIP_MM - 4, stroke=1, fill=0)
    canvas.setFont(_BOLD, 4)
    canvas.drawString(x + 3, STRIP_MM - 8, words)
    canvas.setFont(_REGULAR, 2.8)
    canvas.drawString(x + 3, 4, strip.verdict_on)
