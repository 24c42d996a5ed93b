"""Links on a page of a PDF that a reader may follow: to another page, to a web address, to another file."""

from __future__ import annotations

import ctypes
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pypdfium2.raw as pdfium_c

from nod.formats.intake.pdf_contents import without_path
from nod.formats.sheet.pdf_look import Looker

MOST_LINKS = 5000


@dataclass(frozen=True, slots=True)
class FileLink:
    """`box` in points of user space: left, low, right, high. One of `page` (from 0), `address`, `file` says where."""

    box: tuple[float, float, float, float]
    page: int = -1
    address: str = ""
    file: str = ""


def links_of(looker: Looker, path: Path, place: int) -> list[FileLink]:
    """In the file's order, those that lead nowhere left out. Raises CannotDraw for a page that is not there."""
    page = looker.page(path, place)
    found: list[FileLink] = []
    for link in _links(page):
        read = _read(page.pdf, link)
        if read and len(found) < MOST_LINKS:
            found.append(read)
    return found


def _links(page: Any) -> Iterator[Any]:
    place, link = ctypes.c_int(0), pdfium_c.FPDF_LINK()
    while pdfium_c.FPDFLink_Enumerate(page, place, link):
        yield link


def _read(pdf: Any, link: Any) -> FileLink | None:
    rect = pdfium_c.FS_RECTF()
    if not pdfium_c.FPDFLink_GetAnnotRect(link, rect):
        return None
    (left, right), (low, high) = sorted((rect.left, rect.right)), sorted((rect.bottom, rect.top))
    box = (left, low, right, high)
    action = pdfium_c.FPDFLink_GetAction(link)
    kind = pdfium_c.FPDFAction_GetType(action) if action else pdfium_c.PDFACTION_UNSUPPORTED
    if kind == pdfium_c.PDFACTION_URI:
        address = _told(lambda *into: pdfium_c.FPDFAction_GetURIPath(pdf, action, *into))
        return FileLink(box, address=address) if address else None
    if kind in (pdfium_c.PDFACTION_REMOTEGOTO, pdfium_c.PDFACTION_LAUNCH):
        file = without_path(_told(lambda *into: pdfium_c.FPDFAction_GetFilePath(action, *into)))
        return FileLink(box, file=file) if file else None
    # Its own, or that of a jump within the file (ISO 32000-1, 12.5.6.5 and 12.6.4.2).
    target = pdfium_c.FPDFLink_GetDest(pdf, link)
    page = pdfium_c.FPDFDest_GetDestPageIndex(pdf, target) if target else -1
    return FileLink(box, page=page) if 0 <= page < len(pdf) else None


def _told(ask: Any) -> str:
    """What pdfium writes into a buffer that it first tells the length of; without the closing zero."""
    length = ask(None, 0)
    if length < 1:
        return ""
    buffer = ctypes.create_string_buffer(length)
    ask(buffer, length)
    return buffer.raw[: length - 1].decode("utf-8", errors="replace")
