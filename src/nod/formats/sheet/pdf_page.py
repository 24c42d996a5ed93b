"""One look at a page for all that Intake wants of it: its words, whether it is a scan, its thumbnail."""

from __future__ import annotations

import ctypes
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pypdfium2.raw as pdfium_c

from nod.formats.sheet.pdf_look import Looker, draw
from nod.formats.sheet.pdf_words import read_words
from nod.formats.sheet.words_pack import pack_words

_MOST_OBJECTS = 2000
_COVERS = 0.5
_READING_DPI = 300
_MOST_PX = 7000


@dataclass(frozen=True)
class PageLook:
    """`words` as `pack_words` keeps them; `is_scan`: no words, and a picture covers most of the page."""

    words: bytes
    word_count: int
    text: str
    is_scan: bool
    thumbnail: bytes


def look_at_page(looker: Looker, path: Path, place: int) -> PageLook:
    """Raises CannotDraw."""
    page = looker.page(path, place)
    words = read_words(page)
    count = len(words.texts)
    thumbnail = looker.thumbnail(path, place)
    return PageLook(pack_words(words), count, " ".join(words.texts), not count and _is_picture(page), thumbnail)


@dataclass(frozen=True)
class PagePicture:
    """A page as seen, in grey: a PGM of `size` pixels, `dpi` pixels to the inch of paper."""

    pgm: bytes
    size: tuple[int, int]
    dpi: float


def picture_of_page(looker: Looker, path: Path, place: int) -> PagePicture:
    """As sharp as reading wants it, and no larger than `_MOST_PX`. Raises CannotDraw."""
    page = looker.page(path, place)
    width, height = page.get_width(), page.get_height()
    scale = min(_READING_DPI / 72, _MOST_PX / max(width, height))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    grey = draw(page, size, (0, 0), size).convert("L")
    head = f"P5 {size[0]} {size[1]} 255\n".encode()
    return PagePicture(head + grey.tobytes(), size, scale * 72)


def _is_picture(page: Any) -> bool:
    whole = float(page.get_width() * page.get_height())
    covered = 0.0
    for place in range(min(pdfium_c.FPDFPage_CountObjects(page), _MOST_OBJECTS)):
        thing = pdfium_c.FPDFPage_GetObject(page, place)
        if pdfium_c.FPDFPageObj_GetType(thing) == pdfium_c.FPDF_PAGEOBJ_IMAGE:
            covered += _area(thing)
    return covered >= _COVERS * whole


def _area(thing: Any) -> float:
    left, low, right, high = (ctypes.c_float() for _ in range(4))
    pdfium_c.FPDFPageObj_GetBounds(thing, left, low, right, high)
    return abs((right.value - left.value) * (high.value - low.value))
