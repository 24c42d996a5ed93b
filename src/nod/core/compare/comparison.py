"""Two drawings of one sheet laid over each other: where they differ, in millimetres of the paper as seen.

Pictures are uint8 arrays (planes, height, width), white paper 255, of one scale: one plane where there is no colour in
either of them, otherwise three. Planes by themselves are many times faster than colours side by side.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from itertools import pairwise
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from nod.core.compare import alignment
from nod.core.compare.clouds import Cloud
from nod.core.compare.laid import Box, Change, Compared, Rows

Picture = npt.NDArray[np.uint8]
Mask = npt.NDArray[np.uint8]
Matrix = npt.NDArray[np.float64]

PX_PER_MM = 150 / 25.4
"""Fine enough for a hairline of 0.13 mm to be ink in every place it can lie; coarse enough for an A0 sheet."""

_DARKER = 60
_INK = 200
_JOIN_MM = 2.0
_LEAST_PX = 6
_LEAST_MM = 0.6
_STRIP = 1024
_COARSE = 4
_SETTLED = 0.10
_BETTER = 0.5
_SETTLINGS = 2
_BESIDE_MM = 15.0
_MOST_REGIONS = 200
Redraw = Callable[[Matrix], Picture]
IDENTITY: Matrix = np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])


def compare(
    before: Picture,
    after: Picture,
    clouds: Sequence[Cloud] = (),
    old_clouds: Sequence[Cloud] = (),
    left_out: Sequence[Box] = (),
    px_per_mm: float = PX_PER_MM,
    redraw: Redraw | None = None,
    starts: Sequence[Matrix] = (IDENTITY,),
    *,
    fixed: bool = False,
) -> Compared:
    """Both pictures have the size of the second sheet. `clouds` are those of the second: what they surround is told.

    `starts` are ways to lay the first over the second to begin with, in pixels; `before` is drawn by the first of
    these. `fixed`: somebody has laid it, and it stays so.

    The ink of clouds itself, new or gone, is no change, nor is what lies within `left_out` (mm). `redraw` draws the
    first anew, moved by a matrix in pixels; without it its picture is moved, which blurs thin lines.
    """
    matrix, mask = _laid_over(before, after, redraw or partial(move, before), starts, fixed=fixed)
    _leave_out(mask, [*clouds, *old_clouds], left_out, px_per_mm)
    ink = max(_ink(before), _ink(after), 1)
    boxes = _places(mask, px_per_mm)
    boxes.sort(key=lambda box: (box[2] - box[0]) * (box[3] - box[1]), reverse=True)
    kept = sorted(boxes[:_MOST_REGIONS], key=lambda box: (round(box[1] / 20), box[0]))
    changes = tuple(Change(box, _is_clouded(box, clouds)) for box in kept)
    share = cv2.countNonZero(mask) / ink
    return Compared(changes, _in_mm(matrix, px_per_mm), share, len(boxes) > _MOST_REGIONS)


def _in_mm(matrix: Matrix, px_per_mm: float) -> Rows:
    (a, c, e), (b, d, f) = matrix.tolist()
    return (a, c, e / px_per_mm), (b, d, f / px_per_mm)


def _ink(picture: Picture) -> int:
    _, dark = cv2.threshold(darkest(picture), _INK - 1, 255, cv2.THRESH_BINARY_INV)
    return cv2.countNonZero(dark)


def darkest(picture: Picture) -> npt.NDArray[np.uint8]:
    """(height, width): the lowest of the planes."""
    plane: npt.NDArray[np.uint8] = picture[0]
    for other in picture[1:]:
        plane = np.minimum(plane, other)
    return plane


def _laid_over(
    before: Picture, after: Picture, redraw: Redraw, starts: Sequence[Matrix], *, fixed: bool
) -> tuple[Matrix, Mask]:
    """The least change of place that explains most: none, a shift, then turned and scaled, then settled exactly."""
    best = _Try(starts[0], changed(before, after), before)
    if fixed:
        return best.matrix, best.mask
    ink = max(_ink(before), _ink(after), 1)
    for start in starts:
        if best.count <= _SETTLED * ink:
            break
        laid = best if start is starts[0] else _try(redraw, start, after)
        best = min(best, laid, key=lambda each: each.count)
        best = _better(best, _shift(laid.picture, after), laid, redraw, after)
    if best.count > _SETTLED * ink:
        best = _better(best, _turn_and_scale(best.picture, after), best, redraw, after)
    if not np.array_equal(best.matrix, starts[0]):
        best = _settled(best, redraw, after)
    return best.matrix, best.mask


class _Try:
    """A way to lay the first over the second, with what differs then."""

    def __init__(self, matrix: Matrix, mask: Mask, picture: Picture) -> None:
        self.matrix, self.mask, self.picture = matrix, mask, picture
        self.count = cv2.countNonZero(mask)


def _try(redraw: Redraw, matrix: Matrix, after: Picture) -> _Try:
    picture = redraw(matrix)
    return _Try(matrix, changed(picture, after), picture)


def _better(best: _Try, more: Matrix | None, laid: _Try, redraw: Redraw, after: Picture) -> _Try:
    """What was laid so, moved some more; if that explains much more than the best did."""
    if more is None:
        return best
    tried = _try(redraw, alignment.after(more, laid.matrix), after)
    return tried if tried.count < _BETTER * best.count else best


def _settled(best: _Try, redraw: Redraw, after: Picture) -> _Try:
    for _ in range(_SETTLINGS):
        more = alignment.settle(_dark(darkest(best.picture)), _dark(darkest(after)))
        if more is None:
            break
        tried = _try(redraw, alignment.after(more, best.matrix), after)
        if tried.count >= best.count:
            break
        best = tried
    return best


def move(picture: Picture, matrix: Matrix) -> Picture:
    """The picture moved by a 2 × 3 matrix in pixels, white where nothing comes from."""
    size = (picture.shape[2], picture.shape[1])
    planes = [cv2.warpAffine(plane, matrix, size, flags=cv2.INTER_LINEAR, borderValue=255) for plane in picture]
    return np.stack(planes).astype(np.uint8, copy=False)


def changed(before: Picture, after: Picture) -> Mask:
    """255 where one has ink and the other has none within a pixel; in strips, so that an A0 sheet fits in memory."""
    _, height, width = before.shape
    mask: Mask = np.zeros((height, width), np.uint8)
    for top in range(0, height, _STRIP):
        first = max(0, top - 1)
        rows = slice(first, top + _STRIP + 1)
        for a, b in zip(before[:, rows], after[:, rows], strict=True):
            if not np.array_equal(a, b):
                part = _only_in_one(a, b)[top - first :][:_STRIP]
                mask[top : top + part.shape[0]] |= part
    return mask


def _only_in_one(a: npt.NDArray[np.uint8], b: npt.NDArray[np.uint8]) -> Mask:
    around = np.ones((3, 3), np.uint8)
    differs = cv2.max(cv2.subtract(cv2.erode(b, around), a), cv2.subtract(cv2.erode(a, around), b))
    return np.asarray(cv2.threshold(differs, _DARKER, 255, cv2.THRESH_BINARY)[1], np.uint8)


def _shift(before: Picture, after: Picture) -> Matrix | None:
    """By phase correlation of the ink at a quarter of the size, then of the middle at full size."""
    a, b = (_dark(_smaller(darkest(each), 0.25)) for each in (before, after))
    (x, y), _ = cv2.phaseCorrelate(a, b, cv2.createHanningWindow((a.shape[1], a.shape[0]), cv2.CV_32F))
    rough = np.array([[1.0, 0.0, x * 4], [0.0, 1.0, y * 4]])
    middle = _middle(before[0])
    a, b = _dark(darkest(move(before, rough))[middle]), _dark(darkest(after)[middle])
    (x, y), _ = cv2.phaseCorrelate(a, b, cv2.createHanningWindow((a.shape[1], a.shape[0]), cv2.CV_32F))
    fine = rough.copy()
    if abs(x) < 4 and abs(y) < 4:
        fine[:, 2] += (x, y)
    return fine


def _middle(plane: npt.NDArray[np.uint8]) -> tuple[slice, slice]:
    height, width = plane.shape[:2]
    h, w = min(height, 2048), min(width, 2048)
    return slice((height - h) // 2, (height + h) // 2), slice((width - w) // 2, (width + w) // 2)


def _smaller(plane: Any, scale: float) -> Any:
    return cv2.resize(plane, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)


def _dark(plane: Any) -> npt.NDArray[np.float32]:
    return np.float32(255) - np.asarray(plane, np.float32)


def _turn_and_scale(before: Picture, after: Picture) -> Matrix | None:
    """From features that both have; None where too few agree."""
    scale = min(1.0, 2000 / max(before.shape[1:]))
    grey = [_smaller(darkest(each), scale) for each in (before, after)]
    orb = cv2.ORB_create(nfeatures=4000)  # type: ignore[attr-defined]
    (points_a, seen_a), (points_b, seen_b) = (orb.detectAndCompute(each, None) for each in grey)
    if seen_a is None or seen_b is None:
        return None
    pairs = cv2.BFMatcher(cv2.NORM_HAMMING, crossCheck=True).match(seen_a, seen_b)
    if len(pairs) < 20:
        return None
    source = np.array([points_a[pair.queryIdx].pt for pair in pairs], np.float32)
    target = np.array([points_b[pair.trainIdx].pt for pair in pairs], np.float32)
    matrix, agreed = cv2.estimateAffinePartial2D(source, target, ransacReprojThreshold=2.0)
    if matrix is None or agreed is None or int(agreed.sum()) < 15:
        return None
    found = np.array(matrix, np.float64)
    found[:, 2] /= scale
    return found


def _leave_out(mask: Mask, clouds: Sequence[Cloud], left_out: Sequence[Box], px_per_mm: float) -> None:
    for cloud in clouds:
        points = [np.round(np.array(arc) * px_per_mm).astype(np.int32) for arc in cloud.arcs]
        cv2.polylines(mask, points, False, 0, thickness=max(3, round(1.6 * px_per_mm)))
    for box in left_out:
        left, upper, right, lower = (round(value * px_per_mm) for value in box)
        mask[max(0, upper) : max(0, lower), max(0, left) : max(0, right)] = 0


def _places(mask: Mask, px_per_mm: float) -> list[Box]:
    """Boxes around what lies close together; single specks are noise."""
    if not mask.any():
        return []
    # What lies together is found at a quarter of the size: components of a whole sheet take seconds otherwise.
    coarse = _coarse(mask)
    reach = max(3, round(_JOIN_MM * px_per_mm / _COARSE) | 1)
    count, labels = cv2.connectedComponents(cv2.dilate(coarse, np.ones((reach, reach), np.uint8)), connectivity=8)
    places = np.asarray(cv2.findNonZero(mask)).reshape(-1, 2)
    columns, rows = places[:, 0], places[:, 1]
    owner = labels[rows // _COARSE, columns // _COARSE]
    boxes = []
    order = np.argsort(owner, kind="stable")
    edges = np.searchsorted(owner[order], np.arange(1, count + 1))
    for start, end in pairwise(edges):
        inside = order[start:end]
        x, y = columns[inside], rows[inside]
        box = (x.min() / px_per_mm, y.min() / px_per_mm, (x.max() + 1) / px_per_mm, (y.max() + 1) / px_per_mm)
        if len(inside) >= _LEAST_PX and max(box[2] - box[0], box[3] - box[1]) >= _LEAST_MM:
            boxes.append(tuple(float(value) for value in box))
    return boxes  # type: ignore[return-value]


def _coarse(mask: Mask) -> Mask:
    """A pixel for each square of `_COARSE`, set where any in it is."""
    height, width = (-(-side // _COARSE) for side in mask.shape)
    padded = np.zeros((height * _COARSE, width * _COARSE), np.uint8)
    padded[: mask.shape[0], : mask.shape[1]] = mask
    grown = cv2.dilate(padded, np.ones((_COARSE, _COARSE), np.uint8), anchor=(0, 0))
    return np.ascontiguousarray(grown[::_COARSE, ::_COARSE])


def _is_clouded(box: Box, clouds: Sequence[Cloud]) -> bool:
    """Inside a cloud, or small and at its edge like the mark that names the revision (common practice)."""
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    small = max(box[2] - box[0], box[3] - box[1]) <= _BESIDE_MM
    for cloud in clouds:
        outline = np.array(cloud.outline, np.float32).reshape(-1, 1, 2)
        corners = [(x, y) for x in (box[0], box[2]) for y in (box[1], box[3])]
        if all(cv2.pointPolygonTest(outline, corner, True) >= -3.0 for corner in corners):
            return True
        if small and cv2.pointPolygonTest(outline, middle, True) >= -_BESIDE_MM:
            return True
    return False
