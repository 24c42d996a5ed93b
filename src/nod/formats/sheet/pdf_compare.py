"""Two pages drawn, laid over each other and compared. Only in processes of their own (see pdf_look)."""

from __future__ import annotations

import ctypes
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt
import pypdfium2.raw as pdfium_c
from PIL import Image

from nod.core.compare.clouds import Cloud, Point, find_clouds
from nod.core.compare.comparison import IDENTITY, PX_PER_MM, Matrix, Picture, compare, darkest
from nod.core.compare.laid import FOUND, Box, ComparedPages, Laying, Rows, Shown
from nod.formats.sheet.leaf import Leaf
from nod.formats.sheet.pdf_look import FIRST_LEVEL, TILE_PX, TOP_LEVEL, CannotDraw, Looker, size_at
from nod.formats.sheet.pdf_words import read_words
from nod.formats.sheet.strips import encode

_POINT_MM = 25.4 / 72
_MOST_OBJECTS = 300_000
_MOST_SEGMENTS = 600_000
_CURVE_STEPS = 6
_MOST_PIXELS = 80_000_000
_RUST, _SEA, _GREY = (0xB5, 0x50, 0x2E), (0x00, 0x7C, 0x89), (0x8A, 0x8F, 0x94)
_HATCH = 8
Pixels = tuple[int, int, int, int]


def compare_pages(
    looker: Looker, before: Leaf, after: Leaf, left_out: tuple[Box, ...], strict: bool, laying: Laying = FOUND
) -> ComparedPages:
    """Raises CannotDraw. Both are drawn in their true size on paper as large as the second.

    `strict`: both claim to be the same revision, so clouds and what is `left_out` elsewhere count as any other ink.
    """
    first, second = looker.page(before.path, before.place), looker.page(after.path, after.place)
    size, own = _size_mm(second, after), _size_mm(first, before)
    scale = min(PX_PER_MM, (_MOST_PIXELS / (size[0] * size[1])) ** 0.5)
    sheet, of_first = _pixels(size, scale), _pixels(own, scale)
    starts = _starts(laying, own, size, scale)

    def redraw(matrix: Matrix) -> Picture:
        return _drawn(first, of_first, (0, 0, *sheet), matrix)[:count]

    count = 3
    pictures = _without_colour(redraw(starts[0]), _drawn(second, sheet))
    count = len(pictures[0])
    places: dict[str, Any] = {"px_per_mm": scale, "redraw": redraw, "starts": starts, "fixed": laying.moved is not None}
    if not (strict or np.array_equal(*pictures)):
        clouds, old = page_clouds(second, after.user_unit), page_clouds(first, before.user_unit)
        places |= {"clouds": clouds, "old_clouds": old, "left_out": left_out}
    return ComparedPages(compare(*pictures, **places), size, _same_words(first, second))


def _size_mm(page: Any, leaf: Leaf) -> tuple[float, float]:
    to_mm = _POINT_MM * leaf.user_unit
    return page.get_width() * to_mm, page.get_height() * to_mm


def _pixels(size_mm: tuple[float, float], scale: float) -> tuple[int, int]:
    return max(1, round(size_mm[0] * scale)), max(1, round(size_mm[1] * scale))


def _starts(laying: Laying, own: tuple[float, float], size: tuple[float, float], scale: float) -> list[Matrix]:
    """In pixels: as on paper; then as large as the second's paper, or as its scale is larger, middle on middle."""
    if laying.moved is not None:
        matrix = np.array(laying.moved, np.float64)
        matrix[:, 2] *= scale
        return [matrix]
    grown = [size[0] / own[0], laying.enlarged]
    found: list[Matrix] = [IDENTITY]
    for by in grown:
        if all(abs(by - each[0, 0]) > 0.002 for each in found):
            shift = [(size[axis] - by * own[axis]) / 2 * scale for axis in (0, 1)]
            found.append(np.array([[by, 0.0, shift[0]], [0.0, by, shift[1]]]))
    return found


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
    """A place of both as one picture: only in the first rust and hatched, only in the second sea, both grey.

    `box` in millimetres of the second page as seen; `moved` as `compare` found it.
    """
    first, second = looker.page(before.path, before.place), looker.page(after.path, after.place)
    scale = width_px / max(box[2] - box[0], 1.0)
    left, upper, right, lower = (round(value * scale) for value in box)
    old, new = _both(first, second, (before, after), (left, upper, right, lower), scale, moved)
    return encode(Image.fromarray(_mixed(old, new)))


def laid_tile(
    looker: Looker, before: Leaf, after: Leaf, moved: Rows, shown: Shown, level: int, column: int, row: int
) -> bytes:
    """A tile of the second page as `Looker.tile` cuts it, with the first laid over it, or one of them alone.

    Raises CannotDraw.
    """
    first, second = looker.page(before.path, before.place), looker.page(after.path, after.place)
    width, height = size_at(second.get_width(), second.get_height(), level)
    left, top = column * TILE_PX, row * TILE_PX
    if not (FIRST_LEVEL <= level <= TOP_LEVEL and 0 <= left < width and 0 <= top < height):
        raise CannotDraw("tile outside the page")
    box = (left, top, min(left + TILE_PX, width), min(top + TILE_PX, height))
    if shown == "second":
        return encode(Image.fromarray(_seen(_drawn(second, (width, height), box))))
    scale = 2**level / max(_size_mm(second, after))
    old, new = _both(first, second, (before, after), box, scale, moved, only_first=shown == "first")
    return encode(Image.fromarray(_seen(old) if shown == "first" else _mixed(old, new)))


def _seen(picture: Picture) -> Any:
    return np.ascontiguousarray(np.moveaxis(picture, 0, -1))


def _both(
    first: Any,
    second: Any,
    leaves: tuple[Leaf, Leaf],
    box: Pixels,
    scale: float,
    moved: Rows,
    *,
    only_first: bool = False,
) -> tuple[Picture, Picture]:
    """The same part of both, at `scale` pixels to a millimetre of the second."""
    before, after = leaves
    matrix = np.array(moved, np.float64)
    matrix[:, 2] *= scale
    old = _drawn(first, _pixels(_size_mm(first, before), scale), box, matrix)
    return old, old if only_first else _drawn(second, _pixels(_size_mm(second, after), scale), box)


def _mixed(old: Picture, new: Picture) -> Any:
    a, b = (np.asarray(255 - darkest(each), np.uint8) for each in (old, new))
    around = np.ones((3, 3), np.uint8)
    only_a, only_b = cv2.subtract(a, cv2.dilate(b, around)), cv2.subtract(b, cv2.dilate(a, around))
    both = cv2.subtract(cv2.max(a, b), cv2.add(only_a, only_b))
    only_a = cv2.multiply(only_a, _hatch(a.shape), scale=1 / 255)
    inks = ((both, _GREY), (only_a, _RUST), (only_b, _SEA))
    # Each ink takes from the white of the paper what it lacks of it; by tables, as a tile must not be waited for.
    taken = [[cv2.LUT(ink, _share_of(255 - colour[plane])) for ink, colour in inks] for plane in range(3)]
    return cv2.merge([255 - cv2.add(cv2.add(one, two), three) for one, two, three in taken])


@lru_cache(64)
def _share_of(value: int) -> npt.NDArray[np.uint8]:
    return np.round(np.arange(256) * value / 255).astype(np.uint8)


@lru_cache(64)
def _hatch(shape: tuple[int, int]) -> npt.NDArray[np.uint8]:
    rows, columns = np.indices(shape)
    return np.where((rows + columns) % _HATCH < _HATCH * 0.7, 255, 64).astype(np.uint8)


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
    for points in page_paths(page):
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


def page_paths(page: Any) -> Iterator[list[Point]]:
    """What is drawn with lines, each path as its points in user space; curves in short steps."""
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
