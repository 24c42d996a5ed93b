"""What is asked and said of two drawings laid over each other; the work itself is in `core.compare.comparison`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Box = tuple[float, float, float, float]
Rows = tuple[tuple[float, float, float], tuple[float, float, float]]
Shown = Literal["both", "first", "second"]
_UNMOVED: Rows = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
_STILL = 1e-5


@dataclass(frozen=True)
class Change:
    """One changed place: left, upper, right, lower in millimetres; whether a revision cloud stands around or at it."""

    box: Box
    clouded: bool


@dataclass(frozen=True)
class Compared:
    """`moved` lays the first drawing over the second (millimetres); `share` is the part of all ink that differs.

    With `too_many` the list holds only the largest changes: it is another drawing.
    """

    changes: tuple[Change, ...]
    moved: Rows
    share: float
    too_many: bool

    @property
    def is_moved(self) -> bool:
        return any(
            abs(each - own) > _STILL
            for row, rest in zip(self.moved, _UNMOVED, strict=True)
            for each, own in zip(row, rest, strict=True)
        )


@dataclass(frozen=True)
class ComparedPages:
    """`size_mm` is of the second page as seen. `same_words`: the text on both is the same, place by place."""

    compared: Compared
    size_mm: tuple[float, float]
    same_words: bool


@dataclass(frozen=True)
class Laying:
    """How the first is laid over the second: by somebody (`moved`, in millimetres), or found from where it may lie.

    `enlarged` is how much larger the second draws things than the first, where the scales of both are known.
    """

    moved: Rows | None = None
    enlarged: float = 1.0


FOUND = Laying()
