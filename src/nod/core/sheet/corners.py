"""Where a drawing can be caught hold of: the ends of its lines and the places where these cross."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Segments = npt.NDArray[np.float64]
Box = tuple[float, float, float, float]
_MOST_CROSSED = 600
_SAME_PT = 0.05


def corners_in(segments: Segments, box: Box, most: int) -> tuple[npt.NDArray[np.float64], bool]:
    """Ends and crossings within a box (left, low, right, high), (n, 2), and whether there are more than `most`.

    `segments` is (n, 4): x, y of either end, in points. Where more lines than can be looked through meet, ends alone.
    """
    left, low, right, high = box
    near = segments[
        (np.minimum(segments[:, 0], segments[:, 2]) <= right)
        & (np.maximum(segments[:, 0], segments[:, 2]) >= left)
        & (np.minimum(segments[:, 1], segments[:, 3]) <= high)
        & (np.maximum(segments[:, 1], segments[:, 3]) >= low)
    ]
    found = [near[:, :2], near[:, 2:]]
    if 1 < len(near) <= _MOST_CROSSED:
        found.append(_crossings(near))
    points = np.concatenate(found) if len(near) else np.empty((0, 2))
    inside = (points[:, 0] >= left) & (points[:, 0] <= right) & (points[:, 1] >= low) & (points[:, 1] <= high)
    points = points[inside]
    _, first = np.unique(np.round(points / _SAME_PT), axis=0, return_index=True)
    points = points[np.sort(first)]
    return points[:most], len(points) > most


def _crossings(segments: Segments) -> npt.NDArray[np.float64]:
    """Where any two of them cross, ends left out: solved for both ways along at once."""
    one, other = np.triu_indices(len(segments), 1)
    start, end = segments[one, :2], segments[one, 2:]
    along, across = end - start, segments[other, 2:] - segments[other, :2]
    turn = along[:, 0] * across[:, 1] - along[:, 1] * across[:, 0]
    over = segments[other, :2] - start
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (over[:, 0] * across[:, 1] - over[:, 1] * across[:, 0]) / turn
        u = (over[:, 0] * along[:, 1] - over[:, 1] * along[:, 0]) / turn
    meet = (np.abs(turn) > 1e-9) & (t >= 0) & (t <= 1) & (u >= 0) & (u <= 1)
    found: npt.NDArray[np.float64] = start[meet] + t[meet, None] * along[meet]
    return found
