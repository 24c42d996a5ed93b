"""Marks carried forward to a new revision: where they come to lie, and whether the drawing there has changed (§6)."""

from __future__ import annotations

from collections.abc import Sequence

from nod.core.compare.laid import Rows
from nod.core.marks.mark_paths import extent
from nod.core.marks.marks import MarkKind
from nod.core.sheet.geometry import Affine, Point

Box = tuple[float, float, float, float]
_AROUND_MM = 3.0
_AT_A_POINT_MM = 8.0


def way(before: Affine, after: Affine, moved_mm: Rows, before_mm: float, after_mm: float) -> Affine:
    """From the user space of the old page to that of the new one.

    `before` and `after` lead from user space to the page as seen, in points; `before_mm` and `after_mm` are points to
    a millimetre of either paper; `moved_mm` lays the old page over the new, as seen.
    """
    (a, c, e), (b, d, f) = moved_mm
    grown = after_mm / before_mm
    seen = Affine(a * grown, b * grown, c * grown, d * grown, e * after_mm, f * after_mm)
    return before.then(seen).then(after.inverse())


def under(kind: MarkKind, seen_mm: Sequence[Point]) -> Box:
    """The part of the sheet that a mark speaks of, in millimetres as seen: of a callout what its leader points at."""
    points = seen_mm[2:3] if kind is MarkKind.CALLOUT else seen_mm
    around = _AT_A_POINT_MM if kind in (MarkKind.PIN, MarkKind.SYMBOL, MarkKind.CALLOUT) else _AROUND_MM
    left, upper, right, lower = extent(points)
    return left - around, upper - around, right + around, lower + around


def is_touched(place: Box, changes: Sequence[Box]) -> bool:
    """Whether the drawing changed there: a changed place reaches into it."""
    left, upper, right, lower = place
    return any(a < right and c > left and b < lower and d > upper for a, b, c, d in changes)
