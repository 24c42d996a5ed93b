"""Lengths, areas and angles off a sheet, with what is uncertain about them (handbook §6).

Points are PDF points of the unrotated page. A value is in millimetres, square millimetres or degrees. Uncertainties are
standard ones, carried by first derivatives (JCGM 100:2008, 5.1.2): every pointed place is off by `aim_pt` along each
axis, independently, and the scale by a share of itself.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.mark_paths import outlines as outlines_of
from nod.core.marks.marks import MEASURES, MarkKind
from nod.core.sheet.geometry import Point

Rings = Sequence[int]
"""How many points each outline has, the outer one first; empty for a single outline."""


@dataclass(frozen=True)
class Calibration:
    """Millimetres of the real thing to a point of the page; `share` is the standard uncertainty as part of it."""

    mm_per_pt: float
    share: float = 0.0


@dataclass(frozen=True)
class Measured:
    """`power` is 1 for lengths (mm), 2 for areas (mm²), 0 for angles (degrees) and counts."""

    value: float
    spread: float
    power: int


def by_ratio(ratio: float, points_per_mm: float) -> Calibration:
    """A stated scale 1 : ratio on paper of the true size. Taken as exact (common practice)."""
    if not (math.isfinite(ratio) and 0.01 <= ratio <= 1_000_000):
        raise RuleBroken("scale_unfit", "A scale lies between 100 : 1 and 1 : 1 000 000.")
    return Calibration(ratio / points_per_mm)


def by_two_points(first: Point, second: Point, real_mm: float, aim_pt: float) -> Calibration:
    """From two places and their distance. Raises RuleBroken where they are one place or the distance is none."""
    apart = math.dist(first, second)
    if apart <= max(4 * aim_pt, 0.01):
        raise RuleBroken("scale_unfit", "The two places lie too close together. Take two that are far apart.")
    if not (math.isfinite(real_mm) and 0 < real_mm <= 1e9):
        raise RuleBroken("scale_unfit", "The distance must be more than nothing and at most 1000 km.")
    return Calibration(real_mm / apart, aim_pt * math.sqrt(2) / apart)


def check_measurable(kind: MarkKind, points: Sequence[Point], rings: Rings) -> None:
    """Raises RuleBroken(`outline_crosses`, `hole_outside`) for an outline without one area."""
    if kind is not MarkKind.AREA:
        return
    outlines = outlines_of(points, rings)
    everything = [segment for outline in outlines for segment in _segments(outline)]
    if _any_cross(np.array(everything, np.float64), [len(outline) for outline in outlines]):
        raise RuleBroken("outline_crosses", "The outline crosses itself or a hole, so it has no area that is right.")
    for place, hole in enumerate(outlines[1:], start=1):
        inside_others = any(_inside(hole[0], other) for at, other in enumerate(outlines[1:], start=1) if at != place)
        if not _inside(hole[0], outlines[0]) or inside_others:
            raise RuleBroken("hole_outside", "A hole lies inside the outline, and not in another hole.")


def check_rings(kind: MarkKind, count: int, rings: Rings) -> None:
    """Raises RuleBroken(`shape_unfit`) unless the outlines of an area take all its points, three or more each.

    The strokes of a freehand line are told the same way, two points or more each.
    """
    if not rings:
        return
    fewest = {MarkKind.AREA: 3, MarkKind.FREEHAND: 2}.get(kind)
    if fewest is None or sum(rings) != count or min(rings) < fewest:
        raise RuleBroken("shape_unfit", "Every outline of an area has three corners or more.", kind)


def measure(
    kind: MarkKind, points: Sequence[Point], rings: Rings, calibration: Calibration, aim_pt: float
) -> Measured | None:
    """None for kinds that measure nothing."""
    if kind is MarkKind.COUNT:
        return Measured(float(len(points)), 0.0, 0)
    if kind is MarkKind.ANGLE:
        return _angle(points, aim_pt)
    if kind not in MEASURES:
        return None
    outlines = outlines_of(points, rings)
    if kind is MarkKind.AREA:
        value = area_pt2(outlines)
        gradient = math.sqrt(sum(_area_gradient(outline) for outline in outlines))
        return _scaled(value, gradient * aim_pt, calibration, 2)
    closed = kind is MarkKind.PERIMETER
    value = sum(_length(outline, closed=closed) for outline in outlines)
    gradient = math.sqrt(sum(_length_gradient(outline, closed=closed) for outline in outlines))
    return _scaled(value, gradient * aim_pt, calibration, 1)


def perimeter(points: Sequence[Point], rings: Rings, calibration: Calibration, aim_pt: float) -> Measured:
    """Around an area and its holes."""
    outlines = outlines_of(points, rings)
    gradient = math.sqrt(sum(_length_gradient(outline, closed=True) for outline in outlines))
    length = sum(_length(outline, closed=True) for outline in outlines)
    return _scaled(length, gradient * aim_pt, calibration, 1)


def _scaled(value_pt: float, spread_pt: float, calibration: Calibration, power: int) -> Measured:
    factor = calibration.mm_per_pt**power
    value = value_pt * factor
    return Measured(value, math.hypot(spread_pt * factor, power * calibration.share * value), power)


def area_pt2(outlines: Sequence[Sequence[Point]]) -> float:
    """The outer outline less its holes, in square points (Gauss's area formula)."""
    outer, *holes = [abs(_signed_area(outline)) for outline in outlines]
    return outer - sum(holes)


def _signed_area(outline: Sequence[Point]) -> float:
    # From the first corner, so that a sheet far from the origin loses no digits.
    x0, y0 = outline[0]
    moved = [(x - x0, y - y0) for x, y in outline]
    return math.fsum(xa * yb - xb * ya for (xa, ya), (xb, yb) in pairwise([*moved, moved[0]])) / 2


def _length(points: Sequence[Point], *, closed: bool) -> float:
    way = [*points, points[0]] if closed else points
    return math.fsum(math.dist(a, b) for a, b in pairwise(way))


def _area_gradient(outline: Sequence[Point]) -> float:
    """The sum of squares of ∂A/∂x and ∂A/∂y over the corners: each is half the diagonal between its neighbours."""
    count = len(outline)
    return sum((math.dist(outline[at - 1], outline[(at + 1) % count]) / 2) ** 2 for at in range(count))


def _length_gradient(points: Sequence[Point], *, closed: bool) -> float:
    count, total = len(points), 0.0
    for at, here in enumerate(points):
        pulls = []
        if closed or at > 0:
            pulls.append(_towards(points[at - 1], here))
        if closed or at + 1 < count:
            pulls.append(_towards(points[(at + 1) % count], here))
        total += sum(x for x, _ in pulls) ** 2 + sum(y for _, y in pulls) ** 2
    return total


def _towards(start: Point, end: Point) -> Point:
    length = math.dist(start, end)
    return ((end[0] - start[0]) / length, (end[1] - start[1]) / length) if length else (0.0, 0.0)


def _angle(points: Sequence[Point], aim_pt: float) -> Measured:
    """At the second of three points, from 0 to 180 degrees."""
    one, apex, other = points
    a, b = math.dist(apex, one), math.dist(apex, other)
    if not (a and b):
        return Measured(0.0, 180.0, 0)
    (ax, ay), (bx, by) = (one[0] - apex[0], one[1] - apex[1]), (other[0] - apex[0], other[1] - apex[1])
    angle = math.atan2(abs(ax * by - ay * bx), ax * bx + ay * by)
    # The directions are off by aim/a and aim/b at their ends, and by both together, less what they share, at the apex.
    at_apex = 1 / a**2 + 1 / b**2 - 2 * math.cos(angle) / (a * b)
    spread = aim_pt * math.sqrt(1 / a**2 + 1 / b**2 + max(at_apex, 0.0))
    return Measured(math.degrees(angle), min(math.degrees(spread), 180.0), 0)


def _segments(outline: Sequence[Point]) -> list[tuple[float, float, float, float]]:
    return [(*a, *b) for a, b in pairwise([*outline, outline[0]])]


def _any_cross(segments: npt.NDArray[np.float64], counts: Sequence[int]) -> bool:
    """Whether any two segments that are no neighbours meet."""
    neighbours = _neighbours(counts)
    start, end = segments[:, :2], segments[:, 2:]
    for at in range(len(segments) - 1):
        rest = slice(at + 1, None)
        a = _side(start[at], end[at], start[rest]) * _side(start[at], end[at], end[rest])
        b = _side(start[rest], end[rest], start[at]) * _side(start[rest], end[rest], end[at])
        crossing = (a < 0) & (b < 0)
        crossing[[each - at - 1 for each in neighbours[at] if each > at]] = False
        if crossing.any():
            return True
    return False


def _side(
    start: npt.NDArray[np.float64], end: npt.NDArray[np.float64], at: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    along, over = end - start, at - start
    return np.asarray(along[..., 0] * over[..., 1] - along[..., 1] * over[..., 0], np.float64)


def _neighbours(counts: Sequence[int]) -> list[tuple[int, int]]:
    found, first = [], 0
    for count in counts:
        found += [(first + (at - 1) % count, first + (at + 1) % count) for at in range(count)]
        first += count
    return found


def _inside(point: Point, outline: Sequence[Point]) -> bool:
    x, y = point
    within = False
    for (xa, ya), (xb, yb) in pairwise([*outline, outline[0]]):
        if (ya > y) != (yb > y) and x < (xb - xa) * (y - ya) / (yb - ya) + xa:
            within = not within
    return within
