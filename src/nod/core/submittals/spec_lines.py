"""The lines of a specification's pages: words put together as they are read, without what stands on every page."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from nod.core.sheet.placed_words import PlacedWords

SizeMm = tuple[float, float]
_Box = list[float]
_GAP = 1.4
"""In heights of the line: a wider gap between words divides cells."""
_EDGE = 0.1
"""What share of a page, above and below, may have running heads."""
_MOST_WORDS = 60_000
LONGEST_LINE = 1000
_FIGURES = re.compile(r"\d+")
_LAST_FIGURE = re.compile(r"(?<![\d.])\d{1,4}(?![\d.])(?=\D*$)")
_PAGED = re.compile(r"\bpage\b|^\W*\d+\W*$")
_CONTENTS = re.compile(r"(?:\.\s?){4,}\s*\w{0,6}$|…{2,}\s*\w{0,6}$")


class Word(NamedTuple):
    """In millimetres from the left of the page."""

    left: float
    right: float
    text: str


@dataclass(frozen=True, eq=False)
class SpecLine:
    """`page` counts from 0; `top`, `left`, `right` and `height` in millimetres of the page as seen.

    `put` are the boxes and texts of its words, from left to right.
    """

    page: int
    top: float
    height: float
    left: float
    right: float
    text: str
    put: tuple[tuple[_Box, str], ...]

    @property
    def words(self) -> list[Word]:
        return [Word(box[0], box[2], text) for box, text in self.put]

    def cells(self) -> list[list[Word]]:
        """Runs of words with no wide gap between them."""
        words = self.words
        found = [[words[0]]]
        for before, word in pairwise(words):
            if word.left - before.right > _GAP * self.height:
                found.append([])
            found[-1].append(word)
        return found


@dataclass(frozen=True)
class SpecPages:
    """The lines of the body in the order of reading; by page, what its running heads say. `height` is the body's."""

    lines: tuple[SpecLine, ...]
    heads: dict[int, str]
    height: float
    right: float


def lines_on(page: int, words: PlacedWords) -> list[SpecLine]:
    """Of a page as seen (`placed_words.as_seen`): its upright words, by the height at which they stand."""
    upright = np.flatnonzero(words.turns == 0)[:_MOST_WORDS]
    order = upright[np.argsort((words.boxes[upright, 1] + words.boxes[upright, 3]) / 2, kind="stable")]
    found: list[list[tuple[_Box, str]]] = []
    last = -1.0
    for box, at in zip(words.boxes[order].tolist(), order.tolist(), strict=True):
        middle = (box[1] + box[3]) / 2
        if not found or middle - last > (box[3] - box[1]) / 2:
            found.append([])
            last = middle
        found[-1].append((box, words.texts[at]))
    return [_line(page, sorted(each, key=lambda put: put[0][0])) for each in found]


def _line(page: int, put: list[tuple[_Box, str]]) -> SpecLine:
    heights = sorted([box[3] - box[1] for box, _ in put])
    text = " ".join([text for _, text in put])[:LONGEST_LINE]
    top, height = min([box[1] for box, _ in put]), heights[len(heights) // 2]
    return SpecLine(page, top, height, put[0][0][0], put[-1][0][2], text, tuple(put))


def body_of(pages: Sequence[tuple[PlacedWords, SizeMm]]) -> SpecPages:
    """Of all pages in their order: without running heads and without a table of contents."""
    by_page = [lines_on(page, words) for page, (words, _) in enumerate(pages)]
    at_edge = [
        {_folded(line) for line in lines if _at_edge(line, size[1])}
        for lines, (_, size) in zip(by_page, pages, strict=True)
    ]
    heads, kept = dict[int, list[str]](), list[SpecLine]()
    for lines, (_, (_, tall)) in zip(by_page, pages, strict=True):
        for line in lines:
            if _at_edge(line, tall) and _is_running(at_edge, line):
                heads.setdefault(line.page, []).append(line.text)
            elif not _CONTENTS.search(line.text):
                kept.append(line)
    heights = np.array([line.height for line in kept] or [1.0])
    rights = np.array([line.right for line in kept] or [0.0])
    said = {page: "  ".join(each) for page, each in heads.items()}
    return SpecPages(tuple(kept), said, float(np.median(heights)), float(np.quantile(rights, 0.9)))


def _at_edge(line: SpecLine, tall: float) -> bool:
    return line.top < _EDGE * tall or line.top > (1 - _EDGE) * tall


def _folded(line: SpecLine) -> tuple[str, int]:
    """Without what is another on every page, its number; a little more or less height is the same."""
    text = line.text.casefold()
    tidy = _FIGURES.sub("#", text) if _PAGED.search(text) else _LAST_FIGURE.sub("#", text)
    return tidy, round(line.top / 4)


def _is_running(at_edge: Sequence[set[tuple[str, int]]], line: SpecLine) -> bool:
    """The same stands there on a page near by; on the next but one, where left and right pages differ."""
    near = (line.page + step for step in (-2, -1, 1, 2))
    return any(0 <= page < len(at_edge) and _folded(line) in at_edge[page] for page in near)
