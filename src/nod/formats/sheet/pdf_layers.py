"""Layers of a PDF (optional content, ISO 32000-1, 8.11): which there are, and a copy in which some are off."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name

from nod.core.acts.plain_text import clean_text
from nod.formats.files.pdf_trailer import mend_trailer

_MOST = 1000


@dataclass(frozen=True)
class Layer:
    """`on` when the file is opened. Layers have no name that is theirs alone; they are known by their place."""

    name: str
    on: bool


def read_layers(source: Path) -> list[Layer]:
    """In the file's order; none of a file that cannot be read."""
    try:
        with pikepdf.open(source) as pdf:
            properties = pdf.Root.get("/OCProperties")
            if not isinstance(properties, Dictionary):
                return []
            off = _off_at_first(properties)
            names = ((clean_text(str(group.get("/Name", ""))), group) for group in _groups(properties))
            return [Layer(name, group.objgen not in off) for name, group in names]
    except (pikepdf.PdfError, pikepdf.PasswordError):
        return []


def _groups(properties: Any) -> Iterator[Any]:
    listed = properties.get("/OCGs")
    if isinstance(listed, Array):
        for place in range(min(len(listed), _MOST)):
            if isinstance(listed[place], Dictionary):
                yield listed[place]


def _off_at_first(properties: Any) -> set[tuple[int, int]]:
    first = properties.get("/D")
    if not isinstance(first, Dictionary):
        return set()
    everything = {group.objgen for group in _groups(properties)} if first.get("/BaseState") == Name.OFF else set()
    return (everything | _named(first.get("/OFF"))) - (_named(first.get("/ON")) if everything else set())


def _named(listed: Any) -> set[tuple[int, int]]:
    if not isinstance(listed, Array):
        return set()
    return {listed[place].objgen for place in range(len(listed)) if isinstance(listed[place], Dictionary)}


def with_layers(source: Path, target: Path, off: frozenset[int]) -> None:
    """A copy for looking at, with just these layers off by their places. Raises pikepdf.PdfError."""
    with pikepdf.open(source) as pdf:
        properties = pdf.Root.OCProperties
        groups = list(_groups(properties))
        on, hidden = ([each for place, each in enumerate(groups) if (place in off) is gone] for gone in (False, True))
        # What a viewer switches by zoom or by use would bring back what was switched off by hand.
        properties.D = Dictionary(BaseState=Name.ON, ON=Array(on), OFF=Array(hidden))
        mend_trailer(pdf)
        pdf.save(target, stream_decode_level=pikepdf.StreamDecodeLevel.none, compress_streams=False)
