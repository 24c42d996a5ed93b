"""How a page looks: as a whole, as tiles and as a thumbnail, drawn by pdfium, without loss, see `formats.strips`.

To be called in processes of their own only: pdfium may crash or hang on a bad file and is not safe in threads.

Level `TOP_LEVEL` draws the longer side of the page as seen with 2**TOP_LEVEL pixels; each level below has half.
Levels up to `LARGE_LEVEL` can be had as the whole page.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c
from PIL import Image

from nod.formats.files.unfit import Unfit
from nod.formats.sheet.strips import Strip, encode, strip_of

TILE_PX = 512
TOP_LEVEL = 14
FIRST_LEVEL = 8
WHOLE_PAGE_LEVEL = 10
LARGE_LEVEL = 11
THUMBNAIL_PX = 320
_THUMBNAIL_DRAWN_PX = 2 * THUMBNAIL_PX
_OPEN_PAGES = 12
NO_SIZE = "has no size"
OPEN_FILES = 6


class CannotDraw(Unfit):
    """The page is missing or pdfium refuses it."""


@dataclass(frozen=True)
class WholePage:
    """A page in one picture, `picture` as `formats.strips` writes it."""

    level: int
    picture: bytes


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
        """The open page, of some size. Raises CannotDraw."""
        key = (path, place)
        if key not in self._pages:
            try:
                page = self._file(path)[place]
            except (pdfium.PdfiumError, IndexError) as error:
                raise CannotDraw(f"page {place + 1}") from error
            if not (page.get_width() > 0 and page.get_height() > 0):
                # Its boxes touch or lie apart, so that nothing of it is seen (ISO 32000-1, 14.11.2).
                page.close()
                raise CannotDraw(f"page {place + 1} {NO_SIZE}")
            self._pages[key] = page
        self._pages.move_to_end(key)
        # Also of a page that was open: a file that goes takes its pages along.
        self._files.move_to_end(path)
        if len(self._pages) > _OPEN_PAGES:
            self._pages.popitem(last=False)[1].close()
        return self._pages[key]

    def _file(self, path: Path) -> Any:
        if path not in self._files:
            self._files[path] = pdfium.PdfDocument(path)
        self._files.move_to_end(path)
        if len(self._files) > OPEN_FILES:
            gone, file = self._files.popitem(last=False)
            for key in [key for key in self._pages if key[0] == gone]:
                self._pages.pop(key).close()
            file.close()
        return self._files[path]

    def tile(self, path: Path, place: int, level: int, column: int, row: int) -> bytes:
        """One tile. Raises CannotDraw for a page, level or place that is not there."""
        if not FIRST_LEVEL <= level <= TOP_LEVEL:
            raise CannotDraw("no such level")
        page = self.page(path, place)
        width, height = size_at(page.get_width(), page.get_height(), level)
        left, top = column * TILE_PX, row * TILE_PX
        if not (0 <= left < width and 0 <= top < height):
            raise CannotDraw("tile outside the page")
        size = (min(TILE_PX, width - left), min(TILE_PX, height - top))
        return encode(draw(page, (width, height), (left, top), size))

    def thumbnail(self, path: Path, place: int) -> bytes:
        """A small picture of the whole page. Raises CannotDraw."""
        page = self.page(path, place)
        width, height = page.get_width(), page.get_height()
        scale = _THUMBNAIL_DRAWN_PX / max(width, height)
        full = (max(1, round(width * scale)), max(1, round(height * scale)))
        picture = draw(page, full, (0, 0), full)
        picture.thumbnail((THUMBNAIL_PX, THUMBNAIL_PX), Image.Resampling.BOX)
        return encode(picture)

    def first_look(self, path: Path, place: int) -> tuple[list[WholePage], bytes]:
        """The whole page at the levels up to `WHOLE_PAGE_LEVEL`, and a thumbnail, from one drawing."""
        page = self.page(path, place)
        full = size_at(page.get_width(), page.get_height(), WHOLE_PAGE_LEVEL)
        picture = draw(page, full, (0, 0), full)
        pages = [WholePage(WHOLE_PAGE_LEVEL, encode(picture))]
        pages += [WholePage(level, _smaller(picture, level)) for level in range(FIRST_LEVEL, WHOLE_PAGE_LEVEL)]
        thumbnail = picture.copy()
        thumbnail.thumbnail((THUMBNAIL_PX, THUMBNAIL_PX))
        return pages, encode(thumbnail)

    def strip(self, path: Path, place: int, level: int, strip: int, strips: int) -> Strip | None:
        """One of so many strips of the whole page, from the upper; None for one of a page that has fewer rows.

        Raises CannotDraw for a page or level that is not there.
        """
        if not FIRST_LEVEL <= level <= LARGE_LEVEL:
            raise CannotDraw("no such level")
        page = self.page(path, place)
        full = size_at(page.get_width(), page.get_height(), level)
        upper, lower = (full[1] * each // strips for each in (strip, strip + 1))
        return strip_of(draw(page, full, (0, upper), (full[0], lower - upper))) if upper < lower else None


def warm() -> None:
    """What the first picture of a process would wait for is loaded."""
    encode(Image.new("RGB", (1, 1)))


def _smaller(picture: Image.Image, level: int) -> bytes:
    return encode(picture.resize(size_at(*picture.size, level), Image.Resampling.BOX))


def draw(page: Any, full: tuple[int, int], offset: tuple[int, int], size: tuple[int, int]) -> Image.Image:
    """The part of `size` pixels at `offset` of the page drawn `full` pixels large, on white."""
    bitmap = pdfium.PdfBitmap.new_native(size[0], size[1], pdfium_c.FPDFBitmap_BGRx)
    bitmap.fill_rect((255, 255, 255, 255), 0, 0, size[0], size[1])
    pdfium_c.FPDF_RenderPageBitmap(bitmap, page, -offset[0], -offset[1], full[0], full[1], 0, pdfium_c.FPDF_ANNOT)
    picture: Image.Image = bitmap.to_pil()
    return picture.convert("RGB")
