"""Annotations out of a PDF that anybody may have written; nothing odd in one of them keeps the others away."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta, timezone
from decimal import Decimal
from pathlib import Path
from typing import Any

import pikepdf

from nod.core.annotations import Annotation, Rgb, named, readable, readable_link
from nod.core.geometry import Point
from nod.core.mark_files import Paper, Rect
from nod.formats.pdf_marks import PRIVATE, PRIVATE_LINK, paper_of
from nod.formats.unfit import CannotAnnotate

MOST_ANNOTATIONS = 20_000
_MOST_POINTS = 50_000
_DATE = re.compile(
    r"D?:?(\d{4})(\d{2})?(\d{2})?(\d{2})?(\d{2})?(\d{2})?(?:([+-])(\d{2})'?(\d{2})?'?|Z(?:00'?00'?)?)?'?$"
)
_TYPE_SIZE = re.compile(r"([\d.]{1,12})\s{1,9}Tf")
_TAGS = re.compile(r"<[^<>]*>")


def read_annotations(source: Path) -> tuple[list[Annotation], list[Paper]]:
    """All annotations of a file in their order, each with an id, and its pages' papers. Raises CannotAnnotate."""
    try:
        with pikepdf.open(source) as pdf:
            papers = [paper_of(page) for page in pdf.pages]
            return list(_all(pdf)), papers
    except (pikepdf.PdfError, pikepdf.PasswordError, ValueError, TypeError) as error:
        raise CannotAnnotate("The file is locked or damaged, so no marks can be read from it.") from error


def _all(pdf: pikepdf.Pdf) -> Iterator[Annotation]:
    names: dict[tuple[int, int], str] = {}
    waiting: list[tuple[Any, int]] = []
    for place, page in enumerate(pdf.pages):
        waiting += [(each, place) for each in _array(page.obj.get("/Annots")) if isinstance(each, pikepdf.Dictionary)]
    found = []
    for each, place in waiting[:MOST_ANNOTATIONS]:
        read = named(_read(each, place))
        found.append((each, read))
        names[each.objgen] = read.id
    for each, read in found:
        parent = each.get("/IRT")
        if isinstance(parent, pikepdf.Dictionary):
            name = names.get(parent.objgen, _text(parent.get("/NM"))) if parent.objgen != (0, 0) else ""
            # A group is drawn as one, and is no thread.
            grouped = _name(each.get("/RT")) == "Group"
            yield read if grouped or not name else Annotation(**{**vars(read), "reply_to": name})
        else:
            yield read


def _read(each: pikepdf.Dictionary, page: int) -> Annotation:
    subtype = _name(each.get("/Subtype"))
    rect = _rect(each.get("/Rect"))
    border, effect = each.get("/BS"), each.get("/BE")
    ends = each.get("/LE")
    return Annotation(
        subtype=subtype, page=page, rect=rect, id=_text(each.get("/NM"))[:200], text=_contents(each),
        author=_text(each.get("/T"))[:200], made_at=read_date(_text(each.get("/CreationDate"))),
        changed_at=read_date(_text(each.get("/M"))), points=_points_of(each, subtype),
        strokes=tuple(_pairs(stroke) for stroke in _array(each.get("/InkList"))), inset=_inset(each, rect),
        leader=_pairs(each.get("/CL")), ends=_ends(ends), intent=_name(each.get("/IT")), icon=_name(each.get("/Name")),
        cloudy=isinstance(effect, pikepdf.Dictionary) and _name(effect.get("/S")) == "C",
        dashed=isinstance(border, pikepdf.Dictionary) and _name(border.get("/S")) == "D",
        colour=_colour(each.get("/C")), fill=_colour(each.get("/IC")), width_pt=_width(each),
        type_pt=_type_size(_text(each.get("/DA"))), opacity=_number(each.get("/CA"), 1.0),
        state_model=_text(each.get("/StateModel")), state=_text(each.get("/State")),
        own=readable(_own(each.get(PRIVATE))), leads_to=readable_link(_own(each.get(PRIVATE_LINK))),
    )  # fmt: skip


def _points_of(each: pikepdf.Dictionary, subtype: str) -> tuple[Point, ...]:
    key = {"Line": "/L", "Highlight": "/QuadPoints", "Underline": "/QuadPoints", "Squiggly": "/QuadPoints",
           "StrikeOut": "/QuadPoints"}.get(subtype, "/Vertices")  # fmt: skip
    return _pairs(each.get(key))


def _array(value: Any) -> Iterator[Any]:
    if isinstance(value, pikepdf.Array):
        for place in range(len(value)):
            yield value[place]


def _pairs(value: Any) -> tuple[Point, ...]:
    numbers = [_number(each, 0.0) for each in _array(value)][: 2 * _MOST_POINTS]
    return tuple(zip(numbers[::2], numbers[1::2], strict=False))


def _rect(value: Any) -> Rect:
    numbers = [_number(each, 0.0) for each in _array(value)]
    if len(numbers) != 4:
        return 0.0, 0.0, 0.0, 0.0
    a, b, c, d = numbers
    return min(a, c), min(b, d), max(a, c), max(b, d)


def _inset(each: pikepdf.Dictionary, rect: Rect) -> tuple[float, float, float, float]:
    """What /RD says; where it says nothing, half the line lies outside of the box, as most programs draw it."""
    numbers = [_number(value, 0.0) for value in _array(each.get("/RD"))]
    if (
        len(numbers) == 4
        and numbers[0] + numbers[2] < rect[2] - rect[0]
        and numbers[1] + numbers[3] < rect[3] - rect[1]
    ):
        return numbers[0], numbers[1], numbers[2], numbers[3]
    return 0.0, 0.0, 0.0, 0.0


def _ends(value: Any) -> tuple[str, str]:
    names = [_name(each) for each in _array(value)]
    if isinstance(value, pikepdf.Name):
        return "None", _name(value)
    return (names[0], names[1]) if len(names) == 2 else ("None", "None")


def _name(value: Any) -> str:
    return str(value)[1:] if isinstance(value, pikepdf.Name) else ""


def _text(value: Any) -> str:
    return str(value).replace("\r\n", "\n").replace("\r", "\n") if isinstance(value, pikepdf.String) else ""


def _contents(each: pikepdf.Dictionary) -> str:
    plain = _text(each.get("/Contents"))
    if plain or not isinstance(each.get("/RC"), pikepdf.String):
        return plain
    return " ".join(_TAGS.sub(" ", _text(each.get("/RC"))).split())


def _number(value: Any, otherwise: float) -> float:
    if isinstance(value, (int, float, Decimal)) and not isinstance(value, bool) and abs(float(value)) < 1e9:
        return float(value)
    return otherwise


def _colour(value: Any) -> Rgb | None:
    numbers = [min(max(_number(each, 0.0), 0.0), 1.0) for each in _array(value)]
    if len(numbers) == 1:
        return numbers[0], numbers[0], numbers[0]
    if len(numbers) == 3:
        return numbers[0], numbers[1], numbers[2]
    if len(numbers) == 4:
        c, m, y, k = numbers
        return (1 - c) * (1 - k), (1 - m) * (1 - k), (1 - y) * (1 - k)
    return None


def _width(each: pikepdf.Dictionary) -> float | None:
    style = each.get("/BS")
    if isinstance(style, pikepdf.Dictionary) and "/W" in style:
        return _number(style.get("/W"), 1.0)
    border = [_number(value, 1.0) for value in _array(each.get("/Border"))]
    return border[2] if len(border) >= 3 else None


def _type_size(style: str) -> float | None:
    found = _TYPE_SIZE.search(style)
    return float(found[1]) if found and found[1].count(".") < 2 and float(found[1]) > 0 else None


def read_date(text: str) -> datetime | None:
    """ISO 32000-1, 7.9.4, and what programs make of it; None for what is no date. Without a zone it is UTC."""
    found = _DATE.match(text.strip())
    if not found:
        return None
    year, month, day, hour, minute, second = (int(part) if part else None for part in found.groups()[:6])
    sign, hours, minutes = found.groups()[6:]
    try:
        offset = timedelta(hours=int(hours or 0), minutes=int(minutes or 0)) * (-1 if sign == "-" else 1)
        zone = timezone(offset) if sign else UTC
        when = datetime(year or 1, month or 1, day or 1, hour or 0, minute or 0, second or 0, tzinfo=zone)
        return when.astimezone(UTC)
    except (ValueError, OverflowError):
        return None


def _own(value: Any) -> Any:
    """Nod's own words beside an annotation, where there are some."""
    if not isinstance(value, pikepdf.String):
        return None
    try:
        return json.loads(str(value))
    except (ValueError, RecursionError):
        return None
