"""Revision clouds: closed rows of arcs that all bulge outwards and meet in cusps. Millimetres throughout.

How a cloud is drawn differs from program to program: arcs as curves or as short strokes, in one path or one by one.
What they share is looked for here (common practice: arcs of 2 to 30 mm, six or more of them).
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

Point = tuple[float, float]

_SHORTEST_MM, _LONGEST_MM = 1.5, 30.0
_FLATTEST, _ROUNDEST = math.radians(50), math.radians(320)
_CUSP = math.radians(35)
_MEET_MM = 0.7
_LEAST_ARCS = 6


@dataclass(frozen=True)
class Arc:
    """A smooth run of points; `bulge` is how far it turns, in radians, positive to the left."""

    points: tuple[Point, ...]
    bulge: float

    @property
    def ends(self) -> tuple[Point, Point]:
        return self.points[0], self.points[-1]


@dataclass(frozen=True)
class Cloud:
    """`outline` goes through the cusps in order; `arcs` are the strokes themselves."""

    outline: tuple[Point, ...]
    arcs: tuple[tuple[Point, ...], ...]


def find_clouds(strokes: Iterable[Sequence[Point]]) -> list[Cloud]:
    """`strokes`: the paths of a page as runs of points, curves already cut into short pieces."""
    arcs = [arc for stroke in strokes for arc in arcs_of(stroke)]
    return [cloud for ring in _rings(arcs) if (cloud := _as_cloud(ring))]


def arcs_of(stroke: Sequence[Point]) -> Iterator[Arc]:
    """The stroke cut at its cusps; what is straight, too small or too large for a cloud is left out."""
    points = [stroke[0]] if stroke else []
    for point in stroke[1:]:
        if math.dist(point, points[-1]) > 1e-3:
            points.append(point)
    run, turned, heading = points[:1], 0.0, 0.0
    for place in range(1, len(points)):
        step = math.atan2(points[place][1] - points[place - 1][1], points[place][0] - points[place - 1][0])
        if len(run) > 1:
            turn = _between(heading, step)
            if abs(turn) > _CUSP:
                yield from _arc(run, turned)
                run, turned = [points[place - 1]], 0.0
            else:
                turned += turn
        run.append(points[place])
        heading = step
    yield from _arc(run, turned)


def _arc(run: list[Point], turned: float) -> Iterator[Arc]:
    round_enough = len(run) >= 4 and _FLATTEST <= abs(turned) <= _ROUNDEST
    if round_enough and _SHORTEST_MM <= math.dist(run[0], run[-1]) <= _LONGEST_MM:
        yield Arc(tuple(run), turned)


def _between(before: float, after: float) -> float:
    """The turn from one heading to the next, between -pi and pi."""
    return (after - before + math.pi) % (2 * math.pi) - math.pi


def _rings(arcs: list[Arc]) -> Iterator[list[Arc]]:
    """Rows of arcs, each beginning where the one before ends, that come back to where they began."""
    by_cell: dict[tuple[int, int], list[int]] = defaultdict(list)
    for place, arc in enumerate(arcs):
        for end in arc.ends:
            by_cell[_cell(end)].append(place)
    free = set(range(len(arcs)))
    while free:
        ring = _walk(arcs, by_cell, free, free.pop())
        if len(ring) >= _LEAST_ARCS and math.dist(ring[0].ends[0], ring[-1].ends[1]) <= 3 * _MEET_MM:
            yield ring


def _walk(arcs: list[Arc], by_cell: dict[tuple[int, int], list[int]], free: set[int], first: int) -> list[Arc]:
    ring = [arcs[first]]
    while (found := _next(arcs, by_cell, free, ring[-1].ends[1])) is not None:
        place, arc = found
        free.discard(place)
        ring.append(arc)
    return ring


def _next(
    arcs: list[Arc], by_cell: dict[tuple[int, int], list[int]], free: set[int], at: Point
) -> tuple[int, Arc] | None:
    """The free arc that begins or ends here, turned so that it begins here."""
    x, y = _cell(at)
    for cell in ((x + dx, y + dy) for dx in (0, -1, 1) for dy in (0, -1, 1)):
        for place in by_cell.get(cell, ()):
            if place not in free:
                continue
            arc = arcs[place]
            if math.dist(arc.ends[0], at) <= _MEET_MM:
                return place, arc
            if math.dist(arc.ends[1], at) <= _MEET_MM:
                return place, Arc(arc.points[::-1], -arc.bulge)
    return None


def _cell(point: Point) -> tuple[int, int]:
    return math.floor(point[0] / _MEET_MM), math.floor(point[1] / _MEET_MM)


def _as_cloud(ring: list[Arc]) -> Cloud | None:
    """A ring whose arcs nearly all bulge outwards: away from the side on which the ring turns round."""
    outline = tuple(arc.ends[0] for arc in ring)
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(outline, (*outline[1:], outline[0]), strict=True))
    outwards = sum(1 for arc in ring if arc.bulge * area > 0)
    if outwards < 0.8 * len(ring) or abs(area) < 2 * 25.0:
        return None
    return Cloud(outline, tuple(arc.points for arc in ring))
