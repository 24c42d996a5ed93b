"""The scales that a PDF itself states: viewports with a measure dictionary (ISO 32000-1, 12.9)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import pikepdf

UNIT_MM = {
    "mm": 1.0, "cm": 10.0, "m": 1000.0, "km": 1e6, "in": 25.4, '"': 25.4, "ft": 304.8, "'": 304.8, "yd": 914.4,
    "mi": 1609344.0,
}  # fmt: skip
"""The unit that /X and /D are told in is free text (table 263); these are the usual ones."""
_MOST = 200
_UNEVEN = 0.001


@dataclass(frozen=True)
class FileScale:
    """A region of a page in points of user space; `mm_per_pt` is None where `trouble` says why it is of no use."""

    box: tuple[float, float, float, float]
    mm_per_pt: float | None
    name: str = ""
    trouble: str = ""


def file_scales(page: pikepdf.Page) -> Iterator[FileScale]:
    """Those of a page."""
    viewports = page.obj.get("/VP")
    if not isinstance(viewports, pikepdf.Array):
        return
    for place in range(min(len(viewports), _MOST)):
        viewport = viewports[place]
        measure = viewport.get("/Measure") if isinstance(viewport, pikepdf.Dictionary) else None
        box = _box(viewport.get("/BBox")) if isinstance(viewport, pikepdf.Dictionary) else None
        # The standard asks for a box; without one the whole page is meant.
        box = box or _box(page.mediabox)
        if isinstance(measure, pikepdf.Dictionary) and box is not None:
            yield _scale(box, str(viewport.get("/Name", "")), measure)


def _scale(box: tuple[float, float, float, float], name: str, measure: Any) -> FileScale:
    if measure.get("/Subtype") == pikepdf.Name("/GEO"):
        return FileScale(
            box, None, name, "The file places this part by geographic coordinates, which Nod does not measure by."
        )
    across = mm_by_unit(measure.get("/X"))
    upwards = mm_by_unit(measure.get("/Y")) if "/Y" in measure else across
    if across is None or upwards is None:
        return FileScale(box, None, name, "The file states a scale here in a unit that Nod does not know.")
    if abs(across - upwards) > _UNEVEN * across:
        return FileScale(
            box, None, name, "The file states another scale across than upwards, which Nod does not measure by."
        )
    return FileScale(box, across, name)


def mm_by_unit(formats: Any) -> float | None:
    """Millimetres to a point, of a number format array: its first says the factor and the unit."""
    if not (isinstance(formats, pikepdf.Array) and len(formats)):
        return None
    first = formats[0]
    if not isinstance(first, pikepdf.Dictionary):
        return None
    unit = UNIT_MM.get(str(first.get("/U", "")).strip().lower())
    factor = _number(first.get("/C"))
    return factor * unit if unit and factor > 0 else None


def _box(value: Any) -> tuple[float, float, float, float] | None:
    if not isinstance(value, pikepdf.Array) or len(value) != 4:
        return None
    a, b, c, d = (_number(each) for each in value)
    return min(a, c), min(b, d), max(a, c), max(b, d)


def _number(value: Any) -> float:
    try:
        return float(value)
    except (TypeError, ValueError):
        return 0.0
