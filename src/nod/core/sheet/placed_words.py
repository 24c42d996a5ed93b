"""The words of a page with their places, in PDF user space and as seen on paper."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from nod.core.sheet.geometry import PageBox
from nod.core.sheet.sheet_sizes import MM_PER_INCH, POINTS_PER_INCH

Boxes = npt.NDArray[np.float32]
Turns = npt.NDArray[np.int16]


@dataclass(frozen=True)
class PlacedWords:
    """`boxes` is (n, 4): left, low, right, high, low < high; `turns` (n,): the direction of reading in degrees.

    On a page they are points of user space, counted counter-clockwise from rightwards. As seen (`as_seen`) they are
    millimetres from the upper left corner of the paper, y downwards, and turns go clockwise.
    """

    texts: tuple[str, ...]
    boxes: Boxes
    turns: Turns

    def only(self, chosen: npt.NDArray[np.bool_]) -> PlacedWords:
        """The words where `chosen` (n,) is true, in their order."""
        places = np.flatnonzero(chosen)
        return PlacedWords(tuple(self.texts[at] for at in places), self.boxes[places], self.turns[places])


NO_WORDS = PlacedWords((), np.zeros((0, 4), np.float32), np.zeros(0, np.int16))


def without_places(texts: tuple[str, ...]) -> PlacedWords:
    """Words of a file that has no pages: all boxes and turns are 0."""
    return PlacedWords(texts, np.zeros((len(texts), 4), np.float32), np.zeros(len(texts), np.int16))


def as_seen(words: PlacedWords, box: PageBox, user_unit: float) -> PlacedWords:
    """The words of a page in millimetres of the paper as it lies before the reader, rotation applied."""
    if not words.texts:
        return words
    matrix = box.to_view()
    to_mm = user_unit * MM_PER_INCH / POINTS_PER_INCH
    x = matrix.a * words.boxes[:, (0, 2)] + matrix.c * words.boxes[:, (1, 3)] + matrix.e
    y = matrix.b * words.boxes[:, (0, 2)] + matrix.d * words.boxes[:, (1, 3)] + matrix.f
    seen = np.stack([x.min(1), y.min(1), x.max(1), y.max(1)], axis=1) * to_mm
    turns = (box.rotation - words.turns) % 360
    return PlacedWords(words.texts, seen.astype(np.float32), turns.astype(np.int16))


def from_picture(texts: tuple[str, ...], boxes: Boxes, size_px: tuple[int, int], box: PageBox) -> PlacedWords:
    """Words found in a picture of the page as seen, on the page: `boxes` (n, 4) in pixels, upper left first."""
    if not texts:
        return NO_WORDS
    back = box.to_view().inverse()
    scale = np.array(box.view_size()) / np.array(size_px)
    across, down = boxes[:, (0, 2)] * scale[0], boxes[:, (1, 3)] * scale[1]
    x = back.a * across + back.c * down + back.e
    y = back.b * across + back.d * down + back.f
    placed = np.stack([x.min(1), y.min(1), x.max(1), y.max(1)], axis=1)
    return PlacedWords(texts, placed.astype(np.float32), np.full(len(texts), box.rotation, np.int16))


def size_seen_mm(box: PageBox, user_unit: float) -> tuple[float, float]:
    """Width and height of the paper as seen, in millimetres."""
    to_mm = user_unit * MM_PER_INCH / POINTS_PER_INCH
    width, height = box.view_size()
    return width * to_mm, height * to_mm
