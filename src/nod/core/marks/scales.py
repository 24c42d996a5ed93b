"""Which scale holds where on a page: of the page, or of a region of it (handbook §6)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.measures import Calibration
from nod.core.sheet.geometry import Point

Box = tuple[float, float, float, float]
_SAME = 1e-6
_TOO_FAR = 0.02


@dataclass(frozen=True)
class Scale:
    """`box` in points of user space (left, low, right, high), None for the whole page. A later one wins on the same."""

    id: str
    box: Box | None
    calibration: Calibration


def scale_at(point: Point, scales: Sequence[Scale]) -> Scale | None:
    """The smallest region around the point, otherwise the page's."""
    best: Scale | None = None
    for scale in scales:
        if scale.box is not None and not _holds(scale.box, point):
            continue
        if best is None or _size(scale.box) <= _size(best.box):
            best = scale
    return best


def scale_of(points: Sequence[Point], scales: Sequence[Scale]) -> Scale | None:
    """The one scale of all the points; None where there is none at all. Raises RuleBroken(`across_scales`)."""
    found = [scale_at(point, scales) for point in points]
    first = found[0]
    if any(not _same(first, each) for each in found[1:]):
        raise RuleBroken(
            "across_scales", "This reaches over parts of the sheet with different scales. Measure each part by itself."
        )
    return first


def _same(one: Scale | None, other: Scale | None) -> bool:
    if one is None or other is None:
        return one is other
    a, b = one.calibration.mm_per_pt, other.calibration.mm_per_pt
    return abs(a - b) <= _SAME * max(a, b)


def _holds(box: Box, point: Point) -> bool:
    left, low, right, high = box
    return left <= point[0] <= right and low <= point[1] <= high


def _size(box: Box | None) -> float:
    return float("inf") if box is None else (box[2] - box[0]) * (box[3] - box[1])


def check_region(box: Box) -> Box:
    """The box with its sides in order. Raises RuleBroken for one that is too flat to hold a drawing."""
    left, right = sorted((box[0], box[2]))
    low, high = sorted((box[1], box[3]))
    if right - left < 10 or high - low < 10:
        raise RuleBroken("scale_unfit", "The region is too small to measure in.")
    return left, low, right, high


def apart(ratio: float, stated: float | None) -> float | None:
    """How far a scale is from the title block's, as part of the latter, where that is more than 2 %."""
    if not stated:
        return None
    off = ratio / stated - 1
    return off if abs(off) > _TOO_FAR else None
