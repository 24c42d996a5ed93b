"""How a page looks: tiles, first levels and thumbnails, drawn by pdfium as lossless WebP.

To be called in processes of their own only: pdfium may crash or hang on a bad file and is not safe in threads.

Level `TOP_LEVEL` draws the longer side of the page as seen with 2**TOP_LEVEL pixels; each level below has half.
"""

from __future__ import annotations

import io
import math
from collections import OrderedDict
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c
from PIL import Image

from nod.formats.unfit import Unfit

TILE_PX = 512
TOP_LEVEL = 14
FIRST_LEVEL = 8
WHOLE_PAGE_LEVEL = 10
THUMBNAIL_PX = 320
_THUMBNAIL_DRAWN_PX = 2 * THUMBNAIL_PX
_OPEN_PAGES = 12
_OPEN_FILES = 6


class CannotDraw(Unfit):
    """The page is missing or pdfium refuses it."""


@dataclass(frozen=True)
class Tile:
    """A picture of part of a page, as WebP bytes."""

    level: int
    column: int
    row: int
    webp: bytes


def size_at(width_pt: float, height_pt: float, level: int) -> tuple[int, int]:
    """Width and height in pixels of the page as seen at `level`; the longer side has 2**level."""
    scale = 2**level / max(width_pt, height_pt)
    return max(1, math.ceil(width_pt * scale)), max(1, math.ceil(height_pt * scale))


class Looker:
    """Keeps the pages looked at last open, as loading one can take as long as drawing it."""

    def __init__(self) -> None:
        self._files: OrderedDict[Path, Any] = OrderedDict()
        self._pages: OrderedDict[tuple[Path, int], Any] = OrderedDict()

    def page(self, path: Path, place: int) -> Any:
        """The open page. Raises CannotDraw."""
        key = (path, place)
        if key not in self._pages:
            try:
                self._pages[key] = self._file(path)[place]
            except (pdfium.PdfiumError, IndexError) as error:
                raise CannotDraw(f"page {place + 1}") from error
        self._pages.move_to_end(key)
        if len(self._pages) > _OPEN_PAGES:
            self._pages.popitem(last=False)[1].close()
        return self._pages[key]

    def _file(self, path: Path) -> Any:
        if path not in self._files:
            self._files[path] = pdfium.PdfDocument(path)
        self._files.move_to_end(path)
        if len(self._files) > _OPEN_FILES:
            gone, file = self._files.popitem(last=False)
            for key in [key for key in self._pages if key[0] == gone]:
                self._pages.pop(key).close()
            file.close()
        return self._files[path]

    def tile(self, path: Path, place: int, level: int, column: int, row: int) -> bytes:
        """One tile as WebP. Raises CannotDraw for a page, level or place that is not there."""
        page = self.page(path, place)
        width, height = size_at(page.get_width(), page.get_height(), level)
        left, top = column * TILE_PX, row * TILE_PX
        if not (FIRST_LEVEL <= level <= TOP_LEVEL and 0 <= left < width and 0 <= top < height):
            raise CannotDraw("tile outside the page")
        size = (min(TILE_PX, width - left), min(TILE_PX, height - top))
        return webp(draw(page, (width, height), (left, top), size))

    def thumbnail(self, path: Path, place: int) -> bytes:
        """A small picture of the whole page as WebP. Raises CannotDraw."""
        page = self.page(path, place)
        width, height = page.get_width(), page.get_height()
        scale = _THUMBNAIL_DRAWN_PX / max(width, height)
        full = (max(1, round(width * scale)), max(1, round(height * scale)))
        picture = draw(page, full, (0, 0), full)
        picture.thumbnail((THUMBNAIL_PX, THUMBNAIL_PX), Image.Resampling.BOX)
        return webp(picture)

    def first_look(self, path: Path, place: int) -> tuple[list[Tile], bytes]:
        """The tiles of the lowest levels, cut from one picture of the whole page, and a thumbnail."""
        page = self.page(path, place)
        points = (page.get_width(), page.get_height())
        full = size_at(*points, WHOLE_PAGE_LEVEL)
        picture = draw(page, full, (0, 0), full)
        tiles: list[Tile] = []
        for level in range(WHOLE_PAGE_LEVEL, FIRST_LEVEL - 1, -1):
            smaller = (
                picture if level == WHOLE_PAGE_LEVEL else picture.resize(size_at(*points, level), Image.Resampling.BOX)
            )
            tiles += _cut(smaller, level)
        thumbnail = picture.copy()
        thumbnail.thumbnail((THUMBNAIL_PX, THUMBNAIL_PX))
        return tiles, webp(thumbnail)


def _cut(picture: Image.Image, level: int) -> list[Tile]:
    columns, rows = (math.ceil(side / TILE_PX) for side in picture.size)
    return [
        Tile(level, column, row, webp(picture.crop(_tile_box(picture, column, row))))
        for row in range(rows)
        for column in range(columns)
    ]


def _tile_box(picture: Image.Image, column: int, row: int) -> tuple[int, int, int, int]:
    left, top = column * TILE_PX, row * TILE_PX
    return left, top, min(left + TILE_PX, picture.width), min(top + TILE_PX, picture.height)


def draw(page: Any, full: tuple[int, int], offset: tuple[int, int], size: tuple[int, int]) -> Image.Image:
    """The part of `size` pixels at `offset` of the page drawn `full` pixels large, on white."""
    bitmap = pdfium.PdfBitmap.new_native(size[0], size[1], pdfium_c.FPDFBitmap_BGRx)
    bitmap.fill_rect((255, 255, 255, 255), 0, 0, size[0], size[1])
    pdfium_c.FPDF_RenderPageBitmap(bitmap, page, -offset[0], -offset[1], full[0], full[1], 0, pdfium_c.FPDF_ANNOT)
    picture: Image.Image = bitmap.to_pil()
    return picture.convert("RGB")


def webp(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "WEBP", lossless=True, method=0, quality=0)
    return out.getvalue()
