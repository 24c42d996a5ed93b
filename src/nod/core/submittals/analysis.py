"""How long answers take, how many rounds there are, and how floats fell (handbook §9)."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from statistics import median, quantiles

MOST_POINTS = 750
"""How many changes of a float are kept: some three years of working days."""


@dataclass(frozen=True)
class Spread:
    """Of answer times in working days: half of them lie from `lower` to `upper`, all from `least` to `most`."""

    count: int
    median: float
    lower: float
    upper: float
    least: int
    most: int


def spread_of(days: Sequence[int]) -> Spread | None:
    """None of nothing. Quartiles by linear interpolation between the two nearest, the lowest and the highest included
    (the usual method of spreadsheets and of numpy)."""
    if not days:
        return None
    if len(days) == 1:
        lower = upper = float(days[0])
    else:
        lower, _, upper = quantiles(days, n=4, method="inclusive")
    return Spread(len(days), float(median(days)), lower, upper, min(days), max(days))


Float = int | None
"""None where it is not known, or nothing moves any more."""
Point = tuple[date, Float]


def kept_with(kept: str, on: date, now: Float) -> str:
    """A float's past with what it is on a day; days of what is kept are ordinals, each with its float.

    A day has one float, the last that was worked out on it; a day on which nothing changed has none of its own.
    """
    points = kept.split()
    if points and points[-1].partition(":")[0] == str(on.toordinal()):
        points.pop()
    if not points and now is None:
        return ""
    said = "" if now is None else str(now)
    if not points or points[-1].partition(":")[2] != said:
        points.append(f"{on.toordinal()}:{said}")
    return " ".join(points[-MOST_POINTS:])


def read_kept(kept: str, since: date | None = None) -> list[Point]:
    """In the order of the days; of a long past only what tells the days `since` one."""
    first = since.toordinal() if since else 0
    found: list[Point] = []
    for point in reversed(kept.split()):
        day, _, said = point.partition(":")
        found.append((date.fromordinal(int(day)), int(said) if said else None))
        if int(day) <= first:
            break
    return found[::-1]


def as_of(points: Sequence[Point], on: date) -> Float:
    """What a float was on a day; None before it was known."""
    place = bisect_right(points, on, key=lambda each: each[0])
    return points[place - 1][1] if place else None


@dataclass(frozen=True)
class FloatsOn:
    """Of all floats on a day: how many were known, how many below 0, the middle one and the least."""

    on: date
    known: int
    late: int
    median: float | None
    least: int | None


def floats_on(pasts: Iterable[Sequence[Point]], days: Sequence[date]) -> list[FloatsOn]:
    """Day by day. `days` in their order."""
    each_day: list[list[int]] = [[] for _ in days]
    for points in pasts:
        now, at = None, 0
        for place, on in enumerate(days):
            while at < len(points) and points[at][0] <= on:
                now, at = points[at][1], at + 1
            if now is not None:
                each_day[place].append(now)
    return [
        FloatsOn(
            on, len(values), sum(value < 0 for value in values), float(median(values)) if values else None,
            min(values, default=None),
        )
        for on, values in zip(days, each_day, strict=True)
    ]  # fmt: skip
