"""The words on a page with their places, as pdfium finds them. Only in processes of their own (see pdf_look)."""

from __future__ import annotations

import ctypes
import math
import re
from typing import Any

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c

from nod.core.sheet.placed_words import NO_WORDS, PlacedWords

MOST_CHARACTERS = 400_000
# In heights of the character box, which is about 1.2 of the type size: what the characters of one word keep to.
_WIDEST, _NARROWEST, _GAP, _BACK = 0.7, 0.12, 1.6, 0.4
_Box = tuple[float, float, float, float]
_WORD = re.compile(r"\S+")
_UNMAPPED = "\ufffe"
"""What pdfium gives for the hyphen at the end of a broken line."""


def read_words(page: Any) -> PlacedWords:
    """Words of an open page in points of user space, in the order of the file; empty where the page has no text."""
    try:
        text_page = page.get_textpage()
    except pdfium.PdfiumError:
        return NO_WORDS
    try:
        return _read(text_page)
    finally:
        text_page.close()


def _read(text_page: Any) -> PlacedWords:
    raw = text_page.raw
    count = min(int(pdfium_c.FPDFText_CountChars(raw)), MOST_CHARACTERS)
    text = _characters(raw, count)
    texts: list[str] = []
    boxes: list[_Box] = []
    turns: list[int] = []
    rect = pdfium_c.FS_RECTF()
    for found in _WORD.finditer(text):
        turn = _turn(raw, found.start())
        for start, end in _pieces(raw, *found.span(), turn, rect):
            word = text[start:end].replace(_UNMAPPED, "-").replace("\0", "")
            if word:
                texts.append(word)
                boxes.append(_box(raw, start, end - 1, rect))
                turns.append(turn)
    if not texts:
        return NO_WORDS
    return PlacedWords(tuple(texts), np.array(boxes, np.float32), np.array(turns, np.int16))


def _pieces(raw: Any, start: int, end: int, turn: int, rect: Any) -> list[tuple[int, int]]:
    """The word cut where its characters do not follow each other: cells drawn one after the other hold no blank."""
    if end - start == 1:
        return [(start, end)]
    left, low, right, high = _box(raw, start, end - 1, rect)
    along, across = (high - low, right - left) if turn % 180 else (right - left, high - low)
    if _WIDEST * across * (end - start) > along > _NARROWEST * across * (end - start):
        return [(start, end)]
    cuts, before = [start], _middle(raw, start, turn, rect)
    for at in range(start + 1, end):
        here = _middle(raw, at, turn, rect)
        if not -_BACK * across < here[0] - before[0] < _GAP * across or abs(here[1] - before[1]) > _BACK * across:
            cuts.append(at)
        before = here
    return list(zip(cuts, [*cuts[1:], end], strict=True))


def _middle(raw: Any, at: int, turn: int, rect: Any) -> tuple[float, float]:
    """The middle of a character, along and across the direction of reading."""
    left, low, right, high = _box(raw, at, at, rect)
    x, y = (left + right) / 2, (low + high) / 2
    return {0: (x, y), 90: (y, -x), 180: (-x, -y), 270: (-y, x)}[turn]


def _characters(raw: Any, count: int) -> str:
    """One character for each of pdfium's, so that places in the string are places on the page."""
    buffer = (ctypes.c_ushort * (count + 1))()
    pdfium_c.FPDFText_GetText(raw, 0, count, buffer)
    text = bytes(buffer)[: count * 2].decode("utf-16-le", "replace").replace("\0", "")
    if len(text) == count:
        return text
    # Characters outside the basic plane or without a code shift the places: ask for each.
    codes = (pdfium_c.FPDFText_GetUnicode(raw, at) for at in range(count))
    return "".join(chr(code) if code and code < 0x110000 and not 0xD800 <= code < 0xE000 else "\0" for code in codes)


def _box(raw: Any, first: int, last: int, rect: Any) -> _Box:
    """Around the first and the last character: a word is straight, so these hold the others between them."""
    pdfium_c.FPDFText_GetLooseCharBox(raw, first, rect)
    left, low, right, high = rect.left, rect.bottom, rect.right, rect.top
    if last > first:
        pdfium_c.FPDFText_GetLooseCharBox(raw, last, rect)
        left, right = min(left, rect.left), max(right, rect.right)
        low, high = min(low, rect.bottom), max(high, rect.top)
    return left, low, right, high


def _turn(raw: Any, place: int) -> int:
    """pdfium counts clockwise and gives -1 where it does not know."""
    angle = pdfium_c.FPDFText_GetCharAngle(raw, place)
    return -round(math.degrees(angle) / 90) * 90 % 360 if angle > 0 else 0
