"""What a PDF is made of, without drawing it: pages, boxes, rotation, and what lies beside them (ISO 32000)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import pikepdf
import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c

from nod.core.sheet.geometry import PageBox
from nod.core.sheet.sheet_sizes import points_to_mm, size_name
from nod.formats.intake.pdf_contents import MOST_REFERENCES, FileContents, PageContents, file_contents, page_contents

_MOST_PAGES = 5000
_FALLBACK_BOX = (0.0, 0.0, 612.0, 792.0)


@dataclass(frozen=True)
class PageFacts:
    """One page as seen: its box and rotation, UserUnit, the name of its size, and what lies on it."""

    box: PageBox
    user_unit: float
    size_name: str
    contents: PageContents


@dataclass(frozen=True)
class FileFacts:
    """What is known of a file.

    `fault_words` tell the controller why a file with a `fault` is not fit. Such a file has no pages, unless it is only
    the drawing library that refuses it. Without a `fault` they tell why a file that is fit cannot be drawn.
    """

    fault: str = ""
    fault_words: str = ""
    pages: tuple[PageFacts, ...] = ()
    contents: FileContents = field(default_factory=FileContents)


_ENCRYPTED = FileFacts("encrypted", "The file is encrypted: it opens only with a password. Ask for it without one.")
_FOR_CERTIFICATES = FileFacts(
    "encrypted",
    "The file is encrypted for named people: it opens only with their certificates. Ask for it without that.",
)
_ATTACHMENTS_ENCRYPTED = FileFacts(
    "encrypted", "The files attached inside it are encrypted, and nothing of it can be read. Ask for it without them."
)
_BROKEN = FileFacts("unreadable", "The file is broken: its pages cannot be read. Ask for it again.")
_UNDRAWABLE = FileFacts("unreadable", "The file is broken: its pages cannot be drawn. Ask for it again.")
_LOCKED = (pdfium_c.FPDF_ERR_PASSWORD, pdfium_c.FPDF_ERR_SECURITY)


def read_facts(path: Path) -> FileFacts:
    """Everything at once. Never raises for a bad file: it is told as a fault."""
    try:
        with pikepdf.open(path) as pdf:
            pages = tuple(_page_facts(page) for page in _pages(pdf))
            named = sorted({name for page in pages for name in page.contents.files})
            contents = replace(file_contents(pdf), references=tuple(named[:MOST_REFERENCES]))
    except pikepdf.PasswordError:
        return _ATTACHMENTS_ENCRYPTED if _only_attachments(path) else _ENCRYPTED
    except pikepdf.PdfError as error:
        return _FOR_CERTIFICATES if "encryption filter" in str(error) else _as_drawn(path)
    except (ValueError, TypeError, KeyError, RecursionError, NotImplementedError):
        return _as_drawn(path)
    if not pages:
        return FileFacts("unreadable", "The file has no pages.")
    return _drawable(path, FileFacts(pages=pages, contents=contents))


def _as_drawn(path: Path) -> FileFacts:
    """Of a file whose structure cannot be read: what can be drawn all the same is not broken for who looks at it."""
    try:
        with pdfium.PdfDocument(path) as pdf:
            if not 0 < len(pdf) <= _MOST_PAGES:
                return _BROKEN
            drawn = [_page_as_drawn(pdf, place) for place in range(len(pdf))]
    except pdfium.PdfiumError:
        return _BROKEN
    if not any(drawn):
        return _BROKEN
    # A page that is lost is told where it is looked at.
    pages = tuple(each or _LOST_PAGE for each in drawn)
    return FileFacts(pages=pages, contents=FileContents(active=(_UNREADABLE_BESIDE,)))


_UNREADABLE_BESIDE = "damage, so that scripts and files inside it cannot be told"


_LOST_PAGE = PageFacts(PageBox(*_FALLBACK_BOX), 1.0, "", PageContents())


def _page_as_drawn(pdf: pdfium.PdfDocument, place: int) -> PageFacts | None:
    try:
        page = pdf[place]
    except pdfium.PdfiumError:
        return None
    left, bottom, right, top = page.get_bbox()
    box = PageBox(left, bottom, right, top, page.get_rotation())
    width, height = box.view_size()
    return PageFacts(box, 1.0, size_name(points_to_mm(width, 1.0), points_to_mm(height, 1.0)), PageContents())


def _only_attachments(path: Path) -> bool:
    """Whether the encryption dictionary, which is never compressed, leaves streams and strings as they are.

    ISO 32000-1, 7.6.5: /EFF names the filter of embedded files, /StmF and /StrF are /Identity if they are not given.
    """
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - _TAIL_BYTES))
        tail = file.read()
    all_streams = re.search(rb"/(?:StmF|StrF)\s*/(?!Identity\b)", tail)
    return re.search(rb"/EFF\s*/", tail) is not None and all_streams is None


_TAIL_BYTES = 1024 * 1024


def _pages(pdf: pikepdf.Pdf) -> Iterator[pikepdf.Page]:
    for place, page in enumerate(pdf.pages):
        if place >= _MOST_PAGES:
            raise ValueError("too many pages")
        yield page


def _page_facts(page: pikepdf.Page) -> PageFacts:
    media = _box(page.mediabox) or _FALLBACK_BOX
    crop = _box(page.cropbox)
    left, bottom, right, top = _common(media, crop) if crop else media
    rotation = int(_number(_inherited(page.obj, "/Rotate"), 0.0)) % 360
    user_unit = _number(page.obj.get("/UserUnit"), 1.0)
    box = PageBox(left, bottom, right, top, rotation - rotation % 90)
    width, height = box.view_size()
    name = size_name(points_to_mm(width, user_unit), points_to_mm(height, user_unit))
    return PageFacts(box, user_unit, name, page_contents(page, user_unit))


def _box(value: Any) -> tuple[float, float, float, float] | None:
    """The corners in order, or None for a box that is no box or encloses nothing."""
    try:
        x0, y0, x1, y1 = (float(number) for number in value)
    except (TypeError, ValueError):
        return None
    box = (min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
    return box if box[2] > box[0] and box[3] > box[1] else None


def _common(
    media: tuple[float, float, float, float], crop: tuple[float, float, float, float]
) -> tuple[float, float, float, float]:
    both = (max(media[0], crop[0]), max(media[1], crop[1]), min(media[2], crop[2]), min(media[3], crop[3]))
    return both if both[2] > both[0] and both[3] > both[1] else media


def _inherited(node: Any, key: str) -> Any:
    """The value at the page or the nearest ancestor; None when absent. Broken trees may loop, hence the bound."""
    for _ in range(50):
        if not isinstance(node, pikepdf.Dictionary):
            return None
        if key in node:
            return node[key]
        node = node.get("/Parent")
    return None


def _number(value: Any, otherwise: float) -> float:
    try:
        return float(value)
    except (TypeError, ValueError):
        return otherwise


def _drawable(path: Path, facts: FileFacts) -> FileFacts:
    """Asks the drawing library too: a file it cannot open is not fit to be looked at."""
    try:
        pdf = pdfium.PdfDocument(path)
    except pdfium.PdfiumError as error:
        fault = _ENCRYPTED if error.err_code in _LOCKED else _UNDRAWABLE
        return replace(facts, fault=fault.fault, fault_words=fault.fault_words)
    pdf.close()
    return facts
