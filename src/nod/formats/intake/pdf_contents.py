"""What lies in a PDF beside its drawing: layers, links, annotations, measure scales, labels, active content."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

import pikepdf

from nod.core.acts.plain_text import clean_text
from nod.formats.intake.pdf_measures import FileScale, file_scales

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
_TO_FILES = (pikepdf.Name.GoToR, pikepdf.Name.Launch)
_POINT_MM = 25.4 / 72
_LONGEST_NAME = 200
MOST_REFERENCES = 200


@dataclass(frozen=True)
class PageContents:
    """`annotations` counts by subtype (`?` without one); `drawn` is how many bring their own look.

    `links` are those that lead somewhere; `files` names the other files that some lead to. `scales` are the ratios of
    the page's measure dictionaries: real to paper; `file_scales` are the parts of the page they hold for, with those
    that Nod cannot measure by.
    """

    annotations: Mapping[str, int] = field(default_factory=dict)
    drawn: int = 0
    links: int = 0
    files: tuple[str, ...] = ()
    scales: tuple[float, ...] = ()
    file_scales: tuple[FileScale, ...] = ()


@dataclass(frozen=True)
class FileContents:
    """`layers` in the file's order, `labels` of the pages where there are some; `encryption` like `R6 V5 256bit`.

    `references` are the names of the files that it needs or leads to, without their paths.
    """

    layers: tuple[str, ...] = ()
    labels: tuple[str, ...] = ()
    encryption: str = ""
    active: tuple[str, ...] = ()
    references: tuple[str, ...] = ()


def file_contents(pdf: pikepdf.Pdf) -> FileContents:
    return FileContents(_layers(pdf), _labels(pdf), _encryption(pdf), tuple(sorted(set(_active_content(pdf)))))


def page_contents(page: pikepdf.Page, user_unit: float) -> PageContents:
    """Never raises for odd annotations: what cannot be read is counted as `?`."""
    subtypes: Counter[str] = Counter()
    drawn = links = 0
    files: list[str] = []
    for each in _array(page.obj.get("/Annots"), _MOST_ANNOTATIONS):
        kind = each.get("/Subtype") if isinstance(each, pikepdf.Dictionary) else None
        subtypes[str(kind)[1:] if isinstance(kind, pikepdf.Name) else "?"] += 1
        if isinstance(each, pikepdf.Dictionary):
            drawn += "/AP" in each
            links += kind == pikepdf.Name.Link and ("/A" in each or "/Dest" in each)
            files += _file_of(each.get("/A"))
    scales = tuple(file_scales(page))
    ratios = tuple(each.mm_per_pt / (_POINT_MM * user_unit) for each in scales if each.mm_per_pt)
    return PageContents(dict(subtypes), drawn, links, tuple(files), ratios, scales)


def _file_of(action: Any) -> list[str]:
    """The file that an action leads to: GoToR, Launch (ISO 32000-1, 12.6.4) with its specification (7.11)."""
    if not isinstance(action, pikepdf.Dictionary) or action.get("/S") not in _TO_FILES:
        return []
    told = action.get("/F")
    if isinstance(told, pikepdf.Dictionary):
        told = told.get("/UF") or told.get("/F")
    name = without_path(str(told)) if isinstance(told, pikepdf.String) else ""
    return [name] if name else []


def without_path(told: str) -> str:
    """The name of a file, whichever way its path is written."""
    return re.split(r"[\\/:]", clean_text(told).strip())[-1][:_LONGEST_NAME]


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
    return tuple(clean_text(str(group.get("/Name", ""))) for group in groups if isinstance(group, pikepdf.Dictionary))


def _labels(pdf: pikepdf.Pdf) -> tuple[str, ...]:
    if "/PageLabels" not in pdf.Root:
        return ()
    try:
        return tuple(clean_text(str(page.label)) for page in pdf.pages)
    except (pikepdf.PdfError, ValueError, RuntimeError):
        return ()


def _encryption(pdf: pikepdf.Pdf) -> str:
    if not pdf.is_encrypted:
        return ""
    return f"R{pdf.encryption.R} V{pdf.encryption.V} {pdf.encryption.bits}bit"


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
