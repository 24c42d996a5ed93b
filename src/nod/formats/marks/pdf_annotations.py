"""The annotations of a PDF that anybody may have written; nothing odd in one of them keeps the others away."""

from __future__ import annotations

import json
import re
from collections.abc import Collection, Iterator, Mapping
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone
from decimal import Decimal
from typing import Any

import pikepdf

from nod.core.marks.annotation_shapes import Annotation, Rgb, sign_of
from nod.core.marks.annotations import apart, readable, readable_link, thread_of
from nod.core.marks.mark_files import Rect
from nod.core.sheet.geometry import Point
from nod.formats.marks.pdf_papers import PRIVATE, PRIVATE_LINK

MOST_ANNOTATIONS = 20_000
_MOST_POINTS = 50_000
_DATE = re.compile(
    r"D?:?(\d{4})(\d{2})?(\d{2})?(\d{2})?(\d{2})?(\d{2})?(?:([+-])(\d{2})'?(\d{2})?'?|Z(?:00'?00'?)?)?'?$"
)
_TYPE_SIZE = re.compile(r"([\d.]{1,12})\s{1,9}Tf")
_TAGS = re.compile(r"<[^<>]*>")


Found = tuple[pikepdf.Dictionary, Annotation]


def all_annotations(pdf: pikepdf.Pdf) -> list[Found]:
    """The file's annotations in their order, each with an id that no other one of the file has."""
    read: list[Found] = []
    for place, page in enumerate(pdf.pages):
        for each in _array(page.obj.get("/Annots")):
            if isinstance(each, pikepdf.Dictionary) and len(read) < MOST_ANNOTATIONS:
                read.append((each, _read(each, place)))
    found = list(zip((each for each, _ in read), apart([each for _, each in read]), strict=True))
    names = {each.objgen: annotation.id for each, annotation in found if each.objgen != (0, 0)}
    return [(each, _answering(each, annotation, names)) for each, annotation in found]


def _answering(each: pikepdf.Dictionary, read: Annotation, names: dict[tuple[int, int], str]) -> Annotation:
    """With what it answers, by the object that it names: its name may be another's, too."""
    if not read.reply_to:
        return read
    name = names.get(each.IRT.objgen, _text(each.IRT.get("/NM")))
    return replace(read, reply_to=name)


def _answered(each: pikepdf.Dictionary) -> str:
    """The name of what it answers, or a sign for one without a name; empty for what answers nothing."""
    parent = each.get("/IRT")
    # A group is drawn as one, and is no thread.
    if not isinstance(parent, pikepdf.Dictionary) or parent.objgen == (0, 0) or _name(each.get("/RT")) == "Group":
        return ""
    return _text(parent.get("/NM")) or "nameless"


_OTHERS_OWN = frozenset({"FileAttachment", "Sound", "Movie", "RichMedia", "3D", "Redact", "Projection"})
"""What these bring along is nothing that Nod has (ISO 32000-2, table 171)."""


def _is_others_own(annotation: Annotation) -> bool:
    """Whether it has a picture, a file or the like that a mark of Nod's would not have."""
    picture = annotation.subtype == "Stamp" and annotation.has_picture and not sign_of(annotation)
    left, low, right, high = annotation.rect
    there = left < right and low < high and annotation.own is None and not annotation.reply_to
    return there and (annotation.subtype in _OTHERS_OWN or picture)


def take_out(pdf: pikepdf.Pdf, names: Collection[str], gone_for_good: Collection[str] = ()) -> dict[str, Any]:
    """Removes the annotations of these names, what answers them, and the windows that belong to any of these.

    What has a picture or a file of its own stays, and is returned by its name, unless it is among `gone_for_good`.
    """
    found = all_annotations(pdf)
    staying = {
        annotation.id: each
        for each, annotation in found
        if _is_others_own(annotation) and annotation.id in names and annotation.id not in gone_for_good
    }
    parents = {annotation.id: annotation.reply_to for _, annotation in found if annotation.reply_to}
    gone = [
        (each, annotation)
        for each, annotation in found
        if thread_of(annotation.reply_to or annotation.id, parents) in names
        and (annotation.reply_to or annotation.id not in staying)
    ]
    objects = {each.objgen for each, _ in gone if each.objgen != (0, 0)}
    direct = {(annotation.page, annotation.id) for each, annotation in gone if each.objgen == (0, 0)}
    if not gone:
        return _referred_to(pdf, staying)
    by_page: dict[int, list[pikepdf.Dictionary]] = {}
    for each, annotation in found:
        owner = each.get("/Parent") if annotation.subtype == "Popup" else None
        owned = isinstance(owner, pikepdf.Dictionary) and owner.objgen in objects
        if not (owned or each.objgen in objects or (annotation.page, annotation.id) in direct):
            by_page.setdefault(annotation.page, []).append(each)
    for place in {annotation.page for _, annotation in gone}:
        pdf.pages[place].obj.Annots = pikepdf.Array(by_page.get(place, []))
    return _referred_to(pdf, staying)


def place_of(each: pikepdf.Dictionary) -> Rect:
    """Its rectangle, corners in order; nothing but zeros for one that is none."""
    return _rect(each.get("/Rect"))


def _referred_to(pdf: pikepdf.Pdf, staying: Mapping[str, pikepdf.Dictionary]) -> dict[str, Any]:
    """As objects that answers can refer to."""
    if all(each.objgen != (0, 0) for each in staying.values()):
        return dict(staying)
    for page in pdf.pages:
        for place, each in enumerate(_array(page.obj.get("/Annots"))):
            if isinstance(each, pikepdf.Dictionary) and each.objgen == (0, 0):
                page.obj.Annots[place] = pdf.make_indirect(each)
    return {annotation.id: each for each, annotation in all_annotations(pdf) if annotation.id in staying}


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
        has_picture=_has_picture(each), measures_angles=_measures_angles(each.get("/Measure")),
        cloudy=isinstance(effect, pikepdf.Dictionary) and _name(effect.get("/S")) == "C",
        dashed=isinstance(border, pikepdf.Dictionary) and _name(border.get("/S")) == "D",
        colour=_colour(each.get("/C")), fill=_colour(each.get("/IC")), width_pt=_width(each),
        type_pt=_type_size(_text(each.get("/DA"))), opacity=_number(each.get("/CA"), 1.0),
        state_model=_text(each.get("/StateModel")), state=_text(each.get("/State")),
        reply_to=_answered(each), own=readable(_own(each.get(PRIVATE))),
        leads_to=readable_link(_own(each.get(PRIVATE_LINK))),
    )  # fmt: skip


def _has_picture(each: pikepdf.Dictionary) -> bool:
    appearance = each.get("/AP")
    return isinstance(appearance, pikepdf.Dictionary) and isinstance(appearance.get("/N"), pikepdf.Stream)


def _measures_angles(measure: Any) -> bool:
    return isinstance(measure, pikepdf.Dictionary) and "/T" in measure


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
    if isinstance(value, bool) or not isinstance(value, (int, float, Decimal)):
        return otherwise
    # Compared before it is made into a number of the machine's: whole ones may have any length.
    number: Any = value
    return float(number) if -(10**9) < number < 10**9 else otherwise


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
