"""The lines of marks: arcs of clouds, heads of arrows, leaders of callouts. The view draws the same (shapes.ts)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from itertools import accumulate, pairwise

from nod.core.sheet.geometry import Point

Step = tuple[str, tuple[Point, ...]]
"""`M` and `L` with one point, `C` with two controls and the end, `Z` with none."""

_ROUND = 0.56
"""A bulge's radius in lengths of its chord."""
_QUARTER = 0.5522847498
"""The control points of a quarter circle of radius 1, by which it is nearest to a Bézier curve."""


def extent(points: Iterable[Point]) -> tuple[float, float, float, float]:
    """Least x, least y, greatest x, greatest y."""
    xs, ys = zip(*points, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


LINE_SHARE = 0.07
"""Of the height of words, how heavy a line under them or through them is."""


def line_of_words(manner: str, width: float, height: float) -> list[Point]:
    """Under words or through them; from the lower left corner of their box, upwards as one reads."""
    if manner == "strikeout":
        return [(0.0, height * 0.5), (width, height * 0.5)]
    if manner == "underline":
        return [(0.0, height * LINE_SHARE), (width, height * LINE_SHARE)]
    step = height * 0.15
    waves = max(2, round(width / step))
    return [(width * place / waves, step * (0.3 + 0.7 * (place % 2))) for place in range(waves + 1)]


def chain(points: Sequence[Point], *, closed: bool = False) -> list[Step]:
    steps: list[Step] = [("L" if place else "M", (point,)) for place, point in enumerate(points)]
    return [*steps, ("Z", ())] if closed else steps


def box(corners: Sequence[Point]) -> list[Step]:
    left, low, right, high = extent(corners[:2])
    return chain([(left, low), (right, low), (right, high), (left, high)], closed=True)


def ellipse(corners: Sequence[Point]) -> list[Step]:
    left, low, right, high = extent(corners)
    x, y, rx, ry = (left + right) / 2, (low + high) / 2, (right - left) / 2, (high - low) / 2
    kx, ky = rx * _QUARTER, ry * _QUARTER
    return [
        ("M", ((left, y),)),
        ("C", ((left, y + ky), (x - kx, high), (x, high))),
        ("C", ((x + kx, high), (right, y + ky), (right, y))),
        ("C", ((right, y - ky), (x + kx, low), (x, low))),
        ("C", ((x - kx, low), (left, y - ky), (left, y))),
        ("Z", ()),
    ]


def cloud(outline: Sequence[Point], arc: float) -> list[Step]:
    """Arcs of about `arc` along a closed outline, bulging outwards; y upwards."""
    points = list(outline) if _area(outline) > 0 else list(reversed(outline))
    steps: list[Step] = [("M", (points[0],))]
    for start, end in pairwise([*points, points[0]]):
        count = bulges(start, end, arc)
        for place in range(count):
            steps += _bulge(_between(start, end, place / count), _between(start, end, (place + 1) / count))
    return [*steps, ("Z", ())]


def bulges(start: Point, end: Point, arc: float) -> int:
    return max(1, math.floor(math.dist(start, end) / arc + 0.5))


def _between(start: Point, end: Point, share: float) -> Point:
    return start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share


def _bulge(start: Point, end: Point) -> list[Step]:
    """The smaller arc to the right of the way, which is outside of what is walked around leftwards."""
    chord = math.dist(start, end)
    if not chord:
        return [("L", (end,))]
    radius, half = chord * _ROUND, math.asin(0.5 / _ROUND)
    along = math.atan2(end[1] - start[1], end[0] - start[0])
    depth = radius * math.cos(half)
    middle = _between(start, end, 0.5)
    centre = middle[0] - depth * math.sin(along), middle[1] + depth * math.cos(along)
    first = along - math.pi / 2 - half
    return [_arc(centre, radius, first, first + half), _arc(centre, radius, first + half, first + 2 * half)]


def _arc(centre: Point, radius: float, start: float, end: float) -> Step:
    """An arc of less than a right angle as one Bézier curve."""
    pull = 4 / 3 * math.tan((end - start) / 4) * radius
    x0, y0 = centre[0] + radius * math.cos(start), centre[1] + radius * math.sin(start)
    x1, y1 = centre[0] + radius * math.cos(end), centre[1] + radius * math.sin(end)
    return (
        "C",
        (
            (x0 - pull * math.sin(start), y0 + pull * math.cos(start)),
            (x1 + pull * math.sin(end), y1 - pull * math.cos(end)),
            (x1, y1),
        ),
    )


def _area(points: Sequence[Point]) -> float:
    """Positive for an outline that is walked around leftwards (y upwards)."""
    return sum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in pairwise([*points, points[0]])) / 2


def head(start: Point, tip: Point, size: float) -> list[Step]:
    """Two strokes back from the tip, 25 degrees to each side."""
    angle = math.atan2(tip[1] - start[1], tip[0] - start[0])
    sides = [
        (tip[0] - size * math.cos(angle + turn), tip[1] - size * math.sin(angle + turn)) for turn in (0.436, -0.436)
    ]
    return chain([sides[0], tip, sides[1]])


def leader(points: Sequence[Point]) -> list[Point]:
    """The way of a callout's leader: from the middle of the box's nearest side, over the knee if any, to the tip."""
    left, low, right, high = extent(points[:2])
    x, y = (left + right) / 2, (low + high) / 2
    inward = points[3] if len(points) == 4 else points[2]
    sides = [(left, y), (right, y), (x, high), (x, low)]
    start = min(sides, key=lambda side: math.dist(side, inward))
    return [start, *points[3:], points[2]]


def dimension(points: Sequence[Point], tick: float) -> list[Step]:
    """A measured line or way, with a stroke across each end."""
    return [
        *chain(points),
        *_across(points[1], points[0], tick),
        *_across(points[-2], points[-1], tick),
    ]


def _across(start: Point, end: Point, tick: float) -> list[Step]:
    along = math.atan2(end[1] - start[1], end[0] - start[0])
    x, y = tick / 2 * math.sin(along), tick / 2 * math.cos(along)
    return chain([(end[0] - x, end[1] + y), (end[0] + x, end[1] - y)])


def outlines(points: Sequence[Point], rings: Sequence[int]) -> list[list[Point]]:
    """The outer outline of an area and its holes; `rings` tells how many points each has."""
    ends = [0, *accumulate(rings)] if rings else [0, len(points)]
    return [list(points[start:end]) for start, end in pairwise(ends)]


def value_at(points: Sequence[Point], *, closed: bool) -> Point:
    """Where the value of a measure is written: the middle of an outline, or of the middle stretch of a way."""
    if closed:
        return sum(x for x, _ in points) / len(points), sum(y for _, y in points) / len(points)
    place = (len(points) - 1) // 2 if len(points) % 2 == 0 else len(points) // 2 - 1
    return _between(points[place], points[place + 1], 0.5)


SIGNS: dict[str, list[Step]] = {
    "tick": chain([(-0.7, -0.05), (-0.2, -0.6), (0.75, 0.6)]),
    "cross": [*chain([(-0.6, 0.6), (0.6, -0.6)]), *chain([(0.6, 0.6), (-0.6, -0.6)])],
    "question": [
        ("M", ((-0.4, 0.35),)), ("C", ((-0.4, 0.9), (0.43, 0.9), (0.43, 0.4))),
        ("C", ((0.43, 0.05), (0, 0.1), (0, -0.3))),
        *chain([(0, -0.62), (0, -0.64)]),
    ],
    "attention": [
        *chain([(0, 0.7), (0.78, -0.62), (-0.78, -0.62)], closed=True), *chain([(0, 0.25), (0, -0.2)]),
        *chain([(0, -0.4), (0, -0.42)]),
    ],
    "look": [
        ("M", ((-0.8, 0),)), ("C", ((-0.27, 0.57), (0.27, 0.57), (0.8, 0))),
        ("C", ((0.27, -0.57), (-0.27, -0.57), (-0.8, 0))), ("Z", ()), *ellipse([(-0.22, -0.22), (0.22, 0.22)]),
    ],
}  # fmt: skip
"""Symbols in a square of 2 by 2 around the middle, y upwards."""
