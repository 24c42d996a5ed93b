"""Finding out that a file is a set of sheets: each page carries a number of its own, always in the same place."""

from __future__ import annotations

from collections.abc import Sequence

from nod.core.register import numbers as numbering
from nod.core.register.numbers import Convention
from nod.core.sheet.placed_words import PlacedWords

_NEAR_MM = 15.0
_MOST_CANDIDATES = 12
_ON_MOST = 0.9


def own_numbers(pages: Sequence[tuple[PlacedWords, tuple[float, float]]], convention: Convention) -> list[str]:
    """The number of each page (empty where there is none), or an empty list where the pages are no set.

    Only numbers that keep the convention count, and only those that stand within 15 mm of each other, measured from
    the lower right corner, on nine pages of ten: drawings name other drawings anywhere, themselves in one place.
    """
    found = [_candidates(words, size, convention) for words, size in pages]
    best: list[str] = []
    for _, x, y in next((each for each in found if each), []):
        numbers = [_nearest(each, x, y) for each in found]
        if sum(1 for number in numbers if number) >= _ON_MOST * len(pages) and len(set(numbers)) > len(set(best)):
            best = numbers
    return best if len({number for number in best if number}) > 1 else []


def _candidates(
    words: PlacedWords, size: tuple[float, float], convention: Convention
) -> list[tuple[str, float, float]]:
    """Number and distance of its right lower end from the lower right corner; those nearest to the corner first."""
    parts = len(convention.fields) - 1
    kept = [
        (text, float(size[0] - words.boxes[at, 2]), float(size[1] - words.boxes[at, 3]))
        for at, text in enumerate(words.texts)
        if text.count(convention.separator) == parts and not numbering.check_number(convention, text)
    ]
    return sorted(kept, key=lambda each: each[1] + each[2])[:_MOST_CANDIDATES]


def _nearest(candidates: list[tuple[str, float, float]], x: float, y: float) -> str:
    near = [each for each in candidates if abs(each[1] - x) <= _NEAR_MM and abs(each[2] - y) <= _NEAR_MM]
    return min(near, key=lambda each: abs(each[1] - x) + abs(each[2] - y))[0] if near else ""
