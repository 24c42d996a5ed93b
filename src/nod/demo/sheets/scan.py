"""A sheet as a scanner leaves it."""

from __future__ import annotations

import random
from pathlib import Path

import pypdfium2 as pdfium
from PIL import ImageDraw

_DPI = 200.0


def scan(path: Path) -> None:
    """The sheet at `path` becomes grey dots, on paper that was never quite white."""
    lots = random.Random(path.name)  # noqa: S311 - variety, not secrets
    picture = pdfium.PdfDocument(path)[0].render(scale=_DPI / 72, grayscale=True).to_pil()
    picture = picture.point([round(30 + value * 0.82) for value in range(256)])
    pencil = ImageDraw.Draw(picture)
    for _ in range(400):
        x, y = lots.randrange(picture.width), lots.randrange(picture.height)
        pencil.point((x, y), fill=lots.randrange(120, 200))
    picture.save(path, "PDF", resolution=_DPI)
