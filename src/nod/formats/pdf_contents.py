"""What lies in a PDF beside its drawing: layers, links, annotations, measure scales, labels, active content."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

import pikepdf

_MOST_OBJECTS = 200_000
_MOST_LAYERS = 1000
_MOST_ANNOTATIONS = 20_000
_ACTIVE = {
    "/JavaScript": "a script",
    "/Launch": "an action that starts a program",
    "/SubmitForm": "an action that sends data",
    "/ImportData": "an action that reads data",
    "/GoToE": "a jump into an embedded file",
}
_POINT_MM = 25.4 / 72
# ISO 32000-2, table 268: the unit that /R's ratio and /X's factor are told in is free text; these are the usual ones.
_UNIT_MM = {
    "mm": 1.0, "cm": 10.0, "m": 1000.0, "km": 1e6, "in": 25.4, '"': 25.4, "ft": 304.8, "'": 304.8, "yd": 914.4,
    "mi": 1609344.0,
}  # fmt: skip


@dataclass(frozen=True)
class PageContents:
    """`annotations` counts by subtype (`?` without one); `drawn` is how many bring their own look.

    `links` are those that lead somewhere. `scales` are the ratios of the page's measure dictionaries: real to paper.
    """

    annotations: Mapping[str, int] = field(default_factory=dict)
    drawn: int = 0
    links: int = 0
    scales: tuple[float, ...] = ()


@dataclass(frozen=True)
class FileContents:
    """`layers` in the file's order, `labels` of the pages where there are some; `encryption` like `R6 V5 256bit`."""

    layers: tuple[str, ...] = ()
    labels: tuple[str, ...] = ()
    encryption: str = ""
    active: tuple[str, ...] = ()


def file_contents(pdf: pikepdf.Pdf) -> FileContents:
    return FileContents(_layers(pdf), _labels(pdf), _encryption(pdf), tuple(sorted(set(_active_content(pdf)))))


def page_contents(page: pikepdf.Page, user_unit: float) -> PageContents:
    """Never raises for odd annotations: what cannot be read is counted as `?`."""
    subtypes: Counter[str] = Counter()
    drawn = links = 0
    for each in _array(page.obj.get("/Annots"), _MOST_ANNOTATIONS):
        kind = each.get("/Subtype") if isinstance(each, pikepdf.Dictionary) else None
        subtypes[str(kind)[1:] if isinstance(kind, pikepdf.Name) else "?"] += 1
        if isinstance(each, pikepdf.Dictionary):
            drawn += "/AP" in each
            links += kind == pikepdf.Name.Link and ("/A" in each or "/Dest" in each)
    return PageContents(dict(subtypes), drawn, links, tuple(_scales(page, user_unit)))


def _array(value: Any, most: int) -> Iterator[Any]:
    if isinstance(value, pikepdf.Array):
        for place, each in enumerate(value):
            if place >= most:
                return
            yield each


def _layers(pdf: pikepdf.Pdf) -> tuple[str, ...]:
    properties = pdf.Root.get("/OCProperties")
    if not isinstance(properties, pikepdf.Dictionary):
        return ()
    groups = _array(properties.get("/OCGs"), _MOST_LAYERS)
    return tuple(str(group.get("/Name", "")) for group in groups if isinstance(group, pikepdf.Dictionary))


def _labels(pdf: pikepdf.Pdf) -> tuple[str, ...]:
    if "/PageLabels" not in pdf.Root:
        return ()
    try:
        return tuple(str(page.label) for page in pdf.pages)
    except (pikepdf.PdfError, ValueError, RuntimeError):
        return ()


def _encryption(pdf: pikepdf.Pdf) -> str:
    if not pdf.is_encrypted:
        return ""
    return f"R{pdf.encryption.R} V{pdf.encryption.V} {pdf.encryption.bits}bit"


def _scales(page: pikepdf.Page, user_unit: float) -> Iterator[float]:
    """Of each viewport with a rectilinear measure (ISO 32000-1, 12.9): the factor along x against the paper."""
    for viewport in _array(page.obj.get("/VP"), 200):
        measure = viewport.get("/Measure") if isinstance(viewport, pikepdf.Dictionary) else None
        first = next(_array(measure.get("/X"), 1), None) if isinstance(measure, pikepdf.Dictionary) else None
        if isinstance(first, pikepdf.Dictionary):
            unit = _UNIT_MM.get(str(first.get("/U", "")).strip().lower())
            factor = _number(first.get("/C"))
            if unit and factor > 0:
                yield factor * unit / (_POINT_MM * user_unit)


def _number(value: Any) -> float:
    try:
        return float(value)
    except (TypeError, ValueError):
        return 0.0


def _active_content(pdf: pikepdf.Pdf) -> Iterator[str]:
    names = pdf.Root.get("/Names")
    if isinstance(names, pikepdf.Dictionary):
        if "/EmbeddedFiles" in names:
            yield "embedded files"
        if "/JavaScript" in names:
            yield "a script"
    for place, thing in enumerate(pdf.objects):
        if place >= _MOST_OBJECTS:
            return
        if isinstance(thing, pikepdf.Dictionary):
            yield from _actions(thing)


def _actions(thing: pikepdf.Dictionary) -> Iterator[str]:
    yield from _action(thing)
    for key in ("/A", "/OpenAction"):
        yield from _action(thing.get(key))
    triggered = thing.get("/AA")
    if isinstance(triggered, pikepdf.Dictionary):
        for _, action in triggered.items():
            yield from _action(action)
    if thing.get("/Subtype") == pikepdf.Name.FileAttachment:
        yield "embedded files"


def _action(thing: Any) -> Iterator[str]:
    if (
        isinstance(thing, pikepdf.Dictionary)
        and isinstance(kind := thing.get("/S"), pikepdf.Name)
        and str(kind) in _ACTIVE
    ):
        yield _ACTIVE[str(kind)]
