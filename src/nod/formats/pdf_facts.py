"""What a PDF is made of, without drawing it: pages, boxes, rotation, text, active content (ISO 32000)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import filetype
import pikepdf
import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c

from nod.core.geometry import PageBox
from nod.core.sheet_size import points_to_mm, size_name

_MOST_PAGES = 5000
_MOST_OBJECTS = 200_000
_PAGES_LOOKED_AT_FOR_TEXT = 20
_FALLBACK_BOX = (0.0, 0.0, 612.0, 792.0)
_ACTIVE = {
    "/JavaScript": "a script",
    "/Launch": "an action that starts a program",
    "/SubmitForm": "an action that sends data",
    "/ImportData": "an action that reads data",
    "/GoToE": "a jump into an embedded file",
}


@dataclass(frozen=True)
class PageFacts:
    """One page as seen: its box and rotation, UserUnit and the name of its size."""

    box: PageBox
    user_unit: float
    size_name: str


@dataclass(frozen=True)
class FileFacts:
    """What is known of a file. With a `fault` the rest is empty and `fault_words` tell the controller why."""

    fault: str = ""
    fault_words: str = ""
    pages: tuple[PageFacts, ...] = ()
    has_text: bool = False
    active_content: tuple[str, ...] = ()


_ENCRYPTED = FileFacts("encrypted", "The file is encrypted: it opens only with a password. Ask for it without one.")
_UNDRAWABLE = FileFacts("unreadable", "The file is broken: its pages cannot be drawn. Ask for it again.")
_LOCKED = (pdfium_c.FPDF_ERR_PASSWORD, pdfium_c.FPDF_ERR_SECURITY)


def media_type(head: bytes) -> str:
    """The type of a file from its first bytes, never from its name."""
    if b"%PDF-" in head[:1024]:
        return "application/pdf"
    found = filetype.guess_mime(head)
    return str(found) if found else "application/octet-stream"


def read_facts(path: Path) -> FileFacts:
    """Everything at once. Never raises for a bad file: it is told as a fault."""
    try:
        with pikepdf.open(path) as pdf:
            pages = tuple(_page_facts(page) for page in _pages(pdf))
            active = tuple(sorted(set(_active_content(pdf))))
    except pikepdf.PasswordError:
        return _ENCRYPTED
    except (pikepdf.PdfError, ValueError, TypeError, KeyError, RecursionError, NotImplementedError):
        return FileFacts("unreadable", "The file is broken: its pages cannot be read. Ask for it again.")
    if not pages:
        return FileFacts("unreadable", "The file has no pages.")
    return _with_text(path, pages, active)


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
    return PageFacts(box, user_unit, name)


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


def _active_content(pdf: pikepdf.Pdf) -> Iterator[str]:
    names = pdf.Root.get("/Names")
    if isinstance(names, pikepdf.Dictionary):
        if "/EmbeddedFiles" in names:
            yield "embedded files"
        if "/JavaScript" in names:
            yield "a script"
    for place, thing in enumerate(pdf.objects):
        if place >= _MOST_OBJECTS:
            return
        if isinstance(thing, pikepdf.Dictionary):
            yield from _actions(thing)


def _actions(thing: pikepdf.Dictionary) -> Iterator[str]:
    yield from _action(thing)
    for key in ("/A", "/OpenAction"):
        yield from _action(thing.get(key))
    triggered = thing.get("/AA")
    if isinstance(triggered, pikepdf.Dictionary):
        for _, action in triggered.items():
            yield from _action(action)
    if thing.get("/Subtype") == pikepdf.Name.FileAttachment:
        yield "embedded files"


def _action(thing: Any) -> Iterator[str]:
    if (
        isinstance(thing, pikepdf.Dictionary)
        and isinstance(kind := thing.get("/S"), pikepdf.Name)
        and str(kind) in _ACTIVE
    ):
        yield _ACTIVE[str(kind)]


def _with_text(path: Path, pages: tuple[PageFacts, ...], active: tuple[str, ...]) -> FileFacts:
    """Asks the drawing library too: a file it cannot open is not fit to be looked at."""
    try:
        pdf = pdfium.PdfDocument(path)
    except pdfium.PdfiumError as error:
        return _ENCRYPTED if error.err_code in _LOCKED else _UNDRAWABLE
    with pdf:
        has_text = any(_has_text(pdf, place) for place in range(min(len(pdf), _PAGES_LOOKED_AT_FOR_TEXT)))
    return FileFacts(pages=pages, has_text=has_text, active_content=active)


def _has_text(pdf: Any, place: int) -> bool:
    try:
        page = pdf[place]
        words = page.get_textpage()
    except pdfium.PdfiumError:
        return False
    return bool(words.count_chars() > 0)
