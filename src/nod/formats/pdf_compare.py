"""Two pages drawn, laid over each other and compared. Only in processes of their own (see pdf_look)."""

from __future__ import annotations

import ctypes
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pypdfium2.raw as pdfium_c
from PIL import Image

from nod.core.clouds import Cloud, Point, find_clouds
from nod.core.comparison import IDENTITY, PX_PER_MM, Box, Compared, Matrix, Picture, Rows, compare, darkest
from nod.formats.pdf_look import Looker, webp
from nod.formats.pdf_words import read_words

_POINT_MM = 25.4 / 72
_MOST_OBJECTS = 300_000
_MOST_SEGMENTS = 600_000
_CURVE_STEPS = 6
_MOST_PIXELS = 80_000_000
_RUST, _SEA, _GREY = (0xB5, 0x50, 0x2E), (0x00, 0x7C, 0x89), (0x8A, 0x8F, 0x94)
_HATCH = 8
Pixels = tuple[int, int, int, int]


@dataclass(frozen=True)
class ComparedPages:
    """`size_mm` is of the second page as seen. `same_words`: the text on both is the same, place by place."""

    compared: Compared
    size_mm: tuple[float, float]
    same_words: bool


@dataclass(frozen=True)
class Leaf:
    """A page of a file, with its UserUnit."""

    path: Path
    place: int
    user_unit: float = 1.0


def compare_pages(looker: Looker, before: Leaf, after: Leaf, left_out: tuple[Box, ...], strict: bool) -> ComparedPages:
    """Raises CannotDraw. A page of another size is drawn as large as the second.

    `strict`: both claim to be the same revision, so clouds and what is `left_out` elsewhere count as any other ink.
    """
    first, second = looker.page(before.path, before.place), looker.page(after.path, after.place)
    to_mm = _POINT_MM * after.user_unit
    size = (second.get_width() * to_mm, second.get_height() * to_mm)
    scale = min(PX_PER_MM, (_MOST_PIXELS / (size[0] * size[1])) ** 0.5)
    pixels = (round(size[0] * scale), round(size[1] * scale))
    pictures = _without_colour(_drawn(first, pixels), _drawn(second, pixels))
    count = len(pictures[0])

    def redraw(matrix: Matrix) -> Picture:
        return _drawn(first, pixels, matrix=matrix)[:count]

    if strict or np.array_equal(*pictures):
        compared = compare(*pictures, px_per_mm=scale, redraw=redraw)
    else:
        clouds, old = page_clouds(second, after.user_unit), page_clouds(first, before.user_unit)
        compared = compare(*pictures, clouds, old, left_out, scale, redraw)
    return ComparedPages(compared, size, _same_words(first, second))


def _drawn(page: Any, full: tuple[int, int], box: Pixels | None = None, matrix: Matrix = IDENTITY) -> Picture:
    """The part `box` of the page drawn `full` pixels large and moved by `matrix` in pixels, on white."""
    left, top, right, bottom = box or (0, 0, *full)
    size = (right - left, bottom - top)
    raw = pdfium_c.FPDFBitmap_Create(*size, 0)
    try:
        pdfium_c.FPDFBitmap_FillRect(raw, 0, 0, *size, 0xFFFFFFFF)
        if np.allclose(matrix, IDENTITY):
            pdfium_c.FPDF_RenderPageBitmap(raw, page, -left, -top, *full, 0, pdfium_c.FPDF_ANNOT)
        else:
            wide, high = full[0] / page.get_width(), full[1] / page.get_height()
            (a, c, e), (b, d, f) = matrix.tolist()
            lay = pdfium_c.FS_MATRIX(a * wide, b * wide, c * high, d * high, e - left, f - top)
            clip = pdfium_c.FS_RECTF(0, 0, *size)
            pdfium_c.FPDF_RenderPageBitmapWithMatrix(raw, page, lay, clip, pdfium_c.FPDF_ANNOT)
        stride = pdfium_c.FPDFBitmap_GetStride(raw)
        buffer = ctypes.cast(
            pdfium_c.FPDFBitmap_GetBuffer(raw), ctypes.POINTER(ctypes.c_ubyte * (stride * size[1]))
        ).contents
        rows = np.frombuffer(buffer, np.uint8).reshape(size[1], stride // 4, 4)
        planes = [np.ascontiguousarray(rows[:, : size[0], plane]) for plane in (2, 1, 0)]
        return np.stack(planes)
    finally:
        pdfium_c.FPDFBitmap_Destroy(raw)


def _without_colour(*pictures: Picture) -> tuple[Picture, Picture]:
    """One plane instead of three where neither picture has a colour."""
    if all(np.array_equal(each[0], each[1]) and np.array_equal(each[1], each[2]) for each in pictures):
        pictures = tuple(each[:1] for each in pictures)
    return pictures[0], pictures[1]


def _same_words(first: Any, second: Any) -> bool:
    a, b = read_words(first), read_words(second)
    return a.texts == b.texts and bool(np.allclose(a.boxes, b.boxes, atol=0.5))


def overlay(looker: Looker, before: Leaf, after: Leaf, box: Box, width_px: int, moved: Rows) -> bytes:
    """A place of both as one picture (WebP): only in the first rust and hatched, only in the second sea, both grey.

    `box` in millimetres of the second page as seen; `moved` as `compare` found it.
    """
    first, second = looker.page(before.path, before.place), looker.page(after.path, after.place)
    to_mm = _POINT_MM * after.user_unit
    scale = width_px / max(box[2] - box[0], 1.0)
    full = (round(second.get_width() * to_mm * scale), round(second.get_height() * to_mm * scale))
    left, upper, right, lower = (round(value * scale) for value in box)
    crop = (left, upper, right, lower)
    matrix = np.array(moved, np.float64)
    matrix[:, 2] *= scale
    return webp(Image.fromarray(_mixed(_drawn(first, full, crop, matrix), _drawn(second, full, crop))))


def _mixed(old: Picture, new: Picture) -> Any:
    a, b = (1 - darkest(each).astype(np.float32) / 255 for each in (old, new))
    around = np.ones((3, 3), np.uint8)
    only_a = np.clip(a - cv2.dilate(b, around), 0, 1)
    only_b = np.clip(b - cv2.dilate(a, around), 0, 1)
    both = np.clip(np.maximum(a, b) - only_a - only_b, 0, 1)
    rows, columns = np.indices(a.shape)
    only_a *= np.where((rows + columns) % _HATCH < _HATCH * 0.7, 1.0, 0.25)
    paper = np.ones((*a.shape, 3), np.float32)
    for ink, colour in ((both, _GREY), (only_a, _RUST), (only_b, _SEA)):
        paper -= ink[..., None] * (1 - np.array(colour, np.float32) / 255)
    return (np.clip(paper, 0, 1) * 255).astype(np.uint8)


def page_clouds(page: Any, user_unit: float) -> list[Cloud]:
    """Revision clouds drawn on the page, and cloudy annotations, in millimetres as seen."""
    to_mm = _POINT_MM * user_unit
    return [*find_clouds(_strokes(page, to_mm)), *_cloudy_annotations(page, to_mm)]


def _place_on(page: Any, to_mm: float) -> Any:
    """From user space to millimetres as seen, by pdfium's own conversion at a fine grid."""
    width, height = page.get_width(), page.get_height()
    fine = 100_000
    x, y = ctypes.c_int(), ctypes.c_int()

    def seen(px: float, py: float) -> Point:
        pdfium_c.FPDF_PageToDevice(page, 0, 0, fine, fine, 0, px, py, x, y)
        return x.value / fine * width * to_mm, y.value / fine * height * to_mm

    origin, right, up = seen(0, 0), seen(1000, 0), seen(0, 1000)
    a, b = (right[0] - origin[0]) / 1000, (right[1] - origin[1]) / 1000
    c, d = (up[0] - origin[0]) / 1000, (up[1] - origin[1]) / 1000
    return lambda px, py: (origin[0] + a * px + c * py, origin[1] + b * px + d * py)


def _strokes(page: Any, to_mm: float) -> Iterator[list[Point]]:
    """Paths that could hold arcs; consecutive strokes that meet are joined, as some programs draw piece by piece."""
    seen = _place_on(page, to_mm)
    held: list[Point] = []
    for points in _paths(page):
        placed = [seen(*point) for point in points]
        if held and _meets(held[-1], placed[0]):
            held += placed[1:]
            continue
        if len(held) > 3:
            yield held
        held = placed
    if len(held) > 3:
        yield held


def _meets(one: Point, other: Point) -> bool:
    return abs(one[0] - other[0]) < 0.02 and abs(one[1] - other[1]) < 0.02


def _paths(page: Any) -> Iterator[list[Point]]:
    left = _MOST_SEGMENTS
    count = min(pdfium_c.FPDFPage_CountObjects(page), _MOST_OBJECTS)
    for thing, outer in _objects(page, count):
        segments = pdfium_c.FPDFPath_CountSegments(thing)
        # Rectangles and the like: five segments, none of them curved.
        if segments <= 0 or left <= 0:
            continue
        left -= segments
        matrix = pdfium_c.FS_MATRIX()
        pdfium_c.FPDFPageObj_GetMatrix(thing, matrix)
        yield from _subpaths(thing, segments, [matrix, *outer])


def _objects(page: Any, count: int) -> Iterator[tuple[Any, list[Any]]]:
    stack: list[tuple[Any, list[Any]]] = []
    for place in range(count):
        stack.append((pdfium_c.FPDFPage_GetObject(page, place), []))
        while stack:
            thing, outer = stack.pop()
            kind = pdfium_c.FPDFPageObj_GetType(thing)
            if kind == pdfium_c.FPDF_PAGEOBJ_PATH:
                yield thing, outer
            elif kind == pdfium_c.FPDF_PAGEOBJ_FORM and len(outer) < 5:
                matrix = pdfium_c.FS_MATRIX()
                pdfium_c.FPDFPageObj_GetMatrix(thing, matrix)
                inside = min(pdfium_c.FPDFFormObj_CountObjects(thing), 20_000)
                stack += [
                    (pdfium_c.FPDFFormObj_GetObject(thing, at), [matrix, *outer]) for at in reversed(range(inside))
                ]


def _subpaths(thing: Any, segments: int, matrices: list[Any]) -> Iterator[list[Point]]:
    x, y = ctypes.c_float(), ctypes.c_float()
    points: list[Point] = []
    curve: list[Point] = []
    for place in range(segments):
        segment = pdfium_c.FPDFPath_GetPathSegment(thing, place)
        pdfium_c.FPDFPathSegment_GetPoint(segment, x, y)
        at = _through(matrices, (x.value, y.value))
        kind = pdfium_c.FPDFPathSegment_GetType(segment)
        if kind == pdfium_c.FPDF_SEGMENT_MOVETO:
            if len(points) > 1:
                yield points
            points = [at]
        elif kind == pdfium_c.FPDF_SEGMENT_LINETO:
            points.append(at)
        else:
            curve.append(at)
            if len(curve) == 3 and points:
                points += _curve(points[-1], *curve)
            curve = [] if len(curve) == 3 else curve
    if len(points) > 1:
        yield points


def _through(matrices: list[Any], point: Point) -> Point:
    x, y = point
    for m in matrices:
        x, y = m.a * x + m.c * y + m.e, m.b * x + m.d * y + m.f
    return x, y


def _curve(a: Point, b: Point, c: Point, d: Point) -> Iterator[Point]:
    for step in range(1, _CURVE_STEPS + 1):
        t = step / _CURVE_STEPS
        weights = ((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3)
        yield (
            sum(w * p[0] for w, p in zip(weights, (a, b, c, d), strict=True)),
            sum(w * p[1] for w, p in zip(weights, (a, b, c, d), strict=True)),
        )


def _cloudy_annotations(page: Any, to_mm: float) -> Iterator[Cloud]:
    """Polygons and rectangles with a border effect: by ISO 32000 the only one there is, is cloudy."""
    seen = _place_on(page, to_mm)
    for place in range(min(pdfium_c.FPDFPage_GetAnnotCount(page), 5000)):
        annotation = pdfium_c.FPDFPage_GetAnnot(page, place)
        if not annotation:
            continue
        try:
            rect = pdfium_c.FS_RECTF()
            if pdfium_c.FPDFAnnot_HasKey(annotation, b"BE") and pdfium_c.FPDFAnnot_GetRect(annotation, rect):
                corners = (
                    (rect.left, rect.bottom),
                    (rect.right, rect.bottom),
                    (rect.right, rect.top),
                    (rect.left, rect.top),
                )
                outline = tuple(seen(*corner) for corner in corners)
                yield Cloud(outline, ((*outline, outline[0]),))
        finally:
            pdfium_c.FPDFPage_CloseAnnot(annotation)
