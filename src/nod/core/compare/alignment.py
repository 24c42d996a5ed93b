"""Laying one drawing over another: from places that both show, picked by hand or found in their pictures."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from nod.core.acts.refusals import RuleBroken
from nod.core.compare.laid import Rows
from nod.core.sheet.geometry import Point

Matrix = npt.NDArray[np.float64]
Plane = npt.NDArray[Any]

_PATCH = 512
_PATCHES = 6
_LEAST_INK = 0.002
_SURE = 0.08
_FARTHEST_PX = 40.0


@dataclass(frozen=True)
class Laid:
    """`rows` carry the first's places to the second's; `off` is the root mean square of what is left, in their unit."""

    rows: Rows
    off: float


def from_pairs(first: Sequence[Point], second: Sequence[Point]) -> Laid:
    """The turn, scale and shift that fit best, by least squares (Umeyama 1991, without reflection).

    A drawing is never sheared, so three pairs are one more than is needed, and `off` tells how well they agree.
    Raises RuleBroken for fewer than two pairs, or places that are one.
    """
    if len(first) != len(second) or len(first) < 2:
        raise RuleBroken("places_unfit", "Show two or three places in both drawings.")
    a, b = (np.array([complex(*point) for point in points]) for points in (first, second))
    from_a, from_b = a - a.mean(), b - b.mean()
    spread = float((np.abs(from_a) ** 2).sum())
    if spread < 1e-9 or float((np.abs(from_b) ** 2).sum()) < 1e-9:
        raise RuleBroken("places_unfit", "The places lie too close together.")
    turn = complex((from_b * np.conj(from_a)).sum() / spread)
    if not 1e-3 < abs(turn) < 1e3:
        raise RuleBroken("places_unfit", "These places cannot be the same ones.")
    shift = complex(b.mean() - turn * a.mean())
    off = float(np.sqrt((np.abs(turn * a + shift - b) ** 2).mean()))
    return Laid(((turn.real, -turn.imag, shift.real), (turn.imag, turn.real, shift.imag)), off)


def whole(rows: Matrix | Rows) -> Matrix:
    """2 × 3 as 3 × 3."""
    return np.vstack([np.asarray(rows, np.float64), [0.0, 0.0, 1.0]])


def after(later: Matrix | Rows, earlier: Matrix | Rows) -> Matrix:
    """First `earlier`, then `later`, as 2 × 3."""
    product: Matrix = (whole(later) @ whole(earlier))[:2]
    return product


def backwards(rows: Matrix | Rows) -> Matrix:
    return np.asarray(np.linalg.inv(whole(rows))[:2], np.float64)


def settle(before: Plane, now: Plane, reach: int = _PATCH) -> Matrix | None:
    """What is left to turn, scale and shift, to a part of a pixel: from the shifts of patches all over the sheet.

    Both are ink (float32, dark high) of the same size that lie over each other already but for a few pixels. None
    where too few patches tell the same.
    """
    window = cv2.createHanningWindow((reach, reach), cv2.CV_32F)
    places, moved = [], []
    for top, left in _patches(now, reach):
        a, b = (each[top : top + reach, left : left + reach] for each in (before, now))
        (x, y), sure = cv2.phaseCorrelate(a, b, window)
        if sure >= _SURE and math.hypot(x, y) <= _FARTHEST_PX:
            middle = (left + reach / 2, top + reach / 2)
            places.append(middle)
            moved.append((middle[0] + x, middle[1] + y))
    return _fit(places, moved)


def _fit(places: list[Point], moved: list[Point]) -> Matrix | None:
    """Left out is what disagrees most, until all are within a third of a pixel or too few remain."""
    keep = list(range(len(places)))
    while len(keep) >= 3:
        source = [places[at] for at in keep]
        target = [moved[at] for at in keep]
        if max(math.dist(source[0], each) for each in source) < 1:
            return None
        rows = np.array(from_pairs(source, target).rows)
        off = np.hypot(*(np.array(source) @ rows[:, :2].T + rows[:, 2] - np.array(target)).T)
        if off.max() <= max(0.34, 3 * float(np.median(off)) if len(keep) > 6 else 0.34):
            return rows
        keep.pop(int(off.argmax()))
    return None


def _patches(plane: Plane, reach: int) -> list[tuple[int, int]]:
    """Corners of patches, evenly over the sheet, where there is ink enough to tell a shift."""
    height, width = plane.shape
    if height < reach or width < reach:
        return []
    rows = np.linspace(0, height - reach, min(_PATCHES, max(2, height // reach + 1))).astype(int)
    columns = np.linspace(0, width - reach, min(_PATCHES, max(2, width // reach + 1))).astype(int)
    least = _LEAST_INK * 255 * reach * reach
    return [
        (int(top), int(left))
        for top in rows
        for left in columns
        if float(plane[top : top + reach, left : left + reach].sum()) > least
    ]
