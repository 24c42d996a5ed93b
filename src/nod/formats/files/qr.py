"""The code on paper by which somebody with a telephone comes to an address."""

from __future__ import annotations

import segno
from reportlab.lib.colors import HexColor
from reportlab.pdfgen.canvas import Canvas


def draw_qr(canvas: Canvas, address: str, x: float, y: float, size: float) -> None:
    """ISO/IEC 18004 with its quiet zone of four modules; error correction M as paper gets dirty. In points."""
    rows = list(segno.make(address, error="m", micro=False).matrix_iter(border=4))
    cell = size / len(rows)
    canvas.setFillColor(HexColor("#ffffff"))
    canvas.rect(x, y, size, size, stroke=0, fill=1)
    canvas.setFillColor(HexColor("#000000"))
    for place, row in enumerate(rows):
        for column, dark in enumerate(row):
            if dark:
                canvas.rect(x + column * cell, y + size - (place + 1) * cell, cell, cell, stroke=0, fill=1)
