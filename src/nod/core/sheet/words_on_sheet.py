"""Finding things among the words of a page: what somebody searches for, and numbers of other sheets."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from itertools import accumulate

from nod.core.sheet.placed_words import PlacedWords

_AROUND = 4
_BRACKETS = "()[]{}<>.,;:!?\"'“”„‘’«»"
_FARTHEST = 3.0
"""In heights of the letters: words that stand farther apart are not said together."""


@dataclass(frozen=True)
class Occurrence:
    """`box` is left, low, right, high in PDF points; `words` are those around the place."""

    box: tuple[float, float, float, float]
    words: str


def occurrences(placed: PlacedWords, wanted: str, most: int) -> list[Occurrence]:
    """Where the page says `wanted`, in the order of the file; capitals and the number of blanks do not matter."""
    query = " ".join(wanted.casefold().split())
    if not query:
        return []
    texts = [text.casefold() for text in placed.texts]
    joined = " ".join(texts)
    starts = [0, *accumulate(len(text) + 1 for text in texts)]
    found: list[Occurrence] = []
    at = joined.find(query)
    while at >= 0 and len(found) < most:
        first = bisect_right(starts, at) - 1
        last = bisect_right(starts, at + len(query) - 1) - 1
        if _together(placed, first, last):
            found.append(_occurrence(placed, first, last))
        at = joined.find(query, at + len(query))
    return found


def _together(placed: PlacedWords, first: int, last: int) -> bool:
    """Words that follow each other in the file need not do so on the sheet."""
    for place in range(first, last):
        one, other = placed.boxes[place], placed.boxes[place + 1]
        height = max(min(one[3] - one[1], one[2] - one[0]), min(other[3] - other[1], other[2] - other[0]))
        apart_x = max(one[0], other[0]) - min(one[2], other[2])
        apart_y = max(one[1], other[1]) - min(one[3], other[3])
        if max(apart_x, apart_y) > _FARTHEST * height:
            return False
    return True


def _occurrence(placed: PlacedWords, first: int, last: int) -> Occurrence:
    boxes = placed.boxes[first : last + 1]
    left, low, right, high = (
        round(float(value), 1) for value in (boxes[:, 0].min(), boxes[:, 1].min(), boxes[:, 2].max(), boxes[:, 3].max())
    )
    around = placed.texts[max(0, first - _AROUND) : last + 1 + _AROUND]
    return Occurrence((left, low, right, high), " ".join(around))


def numbers_said(placed: PlacedWords, separator: str) -> dict[str, list[int]]:
    """Words that could be numbers of documents, without the signs around them, and at which places they stand."""
    found: dict[str, list[int]] = {}
    for place, text in enumerate(placed.texts):
        plain = text.strip(_BRACKETS)
        if separator and separator in plain and any(sign.isdigit() for sign in plain):
            found.setdefault(plain, []).append(place)
    return found


def box_of_word(placed: PlacedWords, place: int) -> tuple[float, float, float, float]:
    left, low, right, high = (round(float(value), 1) for value in placed.boxes[place])
    return left, low, right, high
