"""Marks as XFDF and back (ISO 19444-1): the annotations of a PDF as XML, without the sheet."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Any

from lxml import etree

from nod.core.acts.plain_text import clean_text
from nod.core.marks import mark_paths
from nod.core.marks.annotation_shapes import SIGN, Annotation, Rgb
from nod.core.marks.annotations import apart, link_words, own_words, readable, readable_link
from nod.core.marks.mark_files import (
    FiledMark,
    Paper,
    Rect,
    contents_of,
    crosses_of,
    measured_along,
    rect_of,
    subject_of,
    subtype_of,
)
from nod.core.marks.marks import IN_FILES, INKS, MarkKind, MarkState
from nod.core.sheet.geometry import Point
from nod.formats.files.unfit import NotXfdf
from nod.formats.marks.pdf_annotations import read_date
from nod.formats.marks.pdf_marks import INTENTS, inset, pdf_date, quad

NAMESPACE = "http://ns.adobe.com/xfdf/"
"""Of the standard, which keeps the address of where it was first published."""
_OWN = "urn:nod:mark"
_ELEMENTS = {
    "square": "Square", "circle": "Circle", "line": "Line", "polygon": "Polygon", "polyline": "PolyLine", "ink": "Ink",
    "freetext": "FreeText", "highlight": "Highlight", "underline": "Underline", "squiggly": "Squiggly",
    "strikeout": "StrikeOut", "text": "Text", "stamp": "Stamp", "caret": "Caret", "fileattachment": "FileAttachment",
    "sound": "Sound", "link": "Link", "popup": "Popup", "redact": "Redact",
}  # fmt: skip
_BOXED = (MarkKind.TEXT, MarkKind.CALLOUT, MarkKind.RECTANGLE, MarkKind.ELLIPSE)
_MOST = 20_000


def write_xfdf(marks: Sequence[FiledMark], papers: Sequence[Paper], file_name: str) -> bytes:
    """`papers` of the sheet's pages; `file_name` of the PDF that the marks lie on."""
    root = etree.Element(f"{{{NAMESPACE}}}xfdf", nsmap={None: NAMESPACE, "nod": _OWN})
    etree.SubElement(root, f"{{{NAMESPACE}}}f", href=file_name)
    annots = etree.SubElement(root, f"{{{NAMESPACE}}}annots")
    for mark in marks:
        if mark.page < len(papers):
            _write(annots, mark, papers[mark.page])
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def _write(annots: etree._Element, mark: FiledMark, paper: Paper) -> None:
    rect = rect_of(mark, paper)
    given = {
        "page": str(mark.page), "rect": _numbers(rect), "name": mark.id, "title": clean_text(mark.author),
        "subject": clean_text(subject_of(mark)), "date": pdf_date(mark.changed_at),
        "creationdate": pdf_date(mark.drawn_at),
        "color": INKS[mark.look.colour], "opacity": f"{mark.look.opacity:g}", "flags": "print",
        **_geometry(mark, paper, rect),
    }  # fmt: skip
    if mark.kind is MarkKind.SYMBOL:
        given["icon"] = f"{SIGN}{mark.look.symbol}"
    if mark.look.fill and mark.kind not in (MarkKind.TEXT, MarkKind.CALLOUT, MarkKind.STAMP):
        given["interior-color"] = INKS[mark.look.fill]
    element = etree.SubElement(annots, f"{{{NAMESPACE}}}{subtype_of(mark).lower()}", **given)
    etree.SubElement(element, f"{{{NAMESPACE}}}contents").text = clean_text(contents_of(mark))
    _children(element, mark, paper)
    etree.SubElement(element, f"{{{_OWN}}}mark").text = json.dumps(own_words(mark), separators=(",", ":"))
    for reply in mark.replies:
        answer = {"title": clean_text(reply.author), "date": pdf_date(reply.at), "name": reply.id, "inreplyto": mark.id}
        _note(annots, mark, rect, reply.text, answer)
    for link in mark.links:
        answer = {"title": clean_text(link.author), "date": pdf_date(link.at), "name": link.id, "inreplyto": mark.id}
        note = _note(annots, mark, rect, link.said, answer)
        etree.SubElement(note, f"{{{_OWN}}}link").text = json.dumps(link_words(link), separators=(",", ":"))
    if mark.state is not MarkState.OPEN:
        said = {
            "title": clean_text(mark.state_by or mark.author), "date": pdf_date(mark.state_at or mark.changed_at),
            "name": f"{mark.id}-state", "inreplyto": mark.id, "statemodel": "Review", "state": IN_FILES[mark.state],
        }  # fmt: skip
        _note(annots, mark, rect, mark.state.value.capitalize(), said)


def _note(annots: etree._Element, mark: FiledMark, rect: Rect, text: str, given: dict[str, str]) -> etree._Element:
    note = etree.SubElement(
        annots, f"{{{NAMESPACE}}}text", page=str(mark.page), rect=_numbers(rect), flags="print,hidden", **given
    )
    etree.SubElement(note, f"{{{NAMESPACE}}}contents").text = clean_text(text)
    return note


def _geometry(mark: FiledMark, paper: Paper, rect: Rect) -> dict[str, str]:
    kind, points = mark.kind, mark.points
    given: dict[str, str] = {}
    if kind not in (MarkKind.HIGHLIGHT, MarkKind.PIN, MarkKind.SYMBOL, MarkKind.STAMP):
        given["width"] = f"{mark.look.weight_mm * paper.per_mm:.5g}"
        given["style"] = "dash" if mark.look.dashed else "solid"
    if kind in INTENTS:
        given["intent"] = INTENTS[kind].removeprefix("/")
    if kind is MarkKind.CLOUD:
        given |= {"style": "cloudy", "intensity": "1", "intent": "PolygonCloud"}
    if kind in (MarkKind.LINE, MarkKind.ARROW, MarkKind.DISTANCE):
        given |= {"start": _numbers(points[0]), "end": _numbers(points[1])}
        given |= {"head": "None", "tail": "OpenArrow"} if kind is MarkKind.ARROW else {}
    if kind is MarkKind.HIGHLIGHT:
        pairs = [points[at : at + 2] for at in range(0, len(points), 2)]
        given["coords"] = _numbers(value for pair in pairs for value in quad(pair))
    if kind in _BOXED:
        given["fringe"] = _numbers(inset(rect, points))
    if kind is MarkKind.CALLOUT:
        given["intent"] = "FreeTextCallout"
    return given


def _children(element: etree._Element, mark: FiledMark, paper: Paper) -> None:
    if subtype_of(mark) in ("Polygon", "PolyLine"):
        etree.SubElement(element, f"{{{NAMESPACE}}}vertices").text = _pairs_text(measured_along(mark))
    if mark.kind is MarkKind.ANGLE:
        # From memory of the standard's elements; read back by the same name.
        measure = etree.SubElement(element, f"{{{NAMESPACE}}}measure")
        etree.SubElement(measure, f"{{{NAMESPACE}}}angle", u="°", c="1", d="10")
    if subtype_of(mark) == "Ink":
        strokes: Iterable[Sequence[Point]] = mark_paths.outlines(mark.points, mark.rings)
        if mark.kind is MarkKind.COUNT:
            strokes = crosses_of(mark, paper)
        listed = etree.SubElement(element, f"{{{NAMESPACE}}}inklist")
        for stroke in strokes:
            etree.SubElement(listed, f"{{{NAMESPACE}}}gesture").text = _pairs_text(stroke)
    if mark.kind is MarkKind.CALLOUT:
        way = list(reversed(mark_paths.leader(mark.points)))
        etree.SubElement(element, f"{{{NAMESPACE}}}callout").text = _numbers(value for point in way for value in point)


def _numbers(values: Iterable[float]) -> str:
    return ",".join(f"{value:.5f}".rstrip("0").rstrip(".") for value in values)


def _pairs_text(points: Iterable[Point]) -> str:
    return ";".join(_numbers(point) for point in points)


def read_xfdf(content: bytes) -> list[Annotation]:
    """All annotations in their order, each with an id. Raises NotXfdf. Entities and outside files are never read."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(content, parser)
    except etree.XMLSyntaxError as error:
        raise NotXfdf("The file is no XFDF: its XML is broken.") from error
    if etree.QName(root).localname != "xfdf" or root.getroottree().docinfo.doctype:
        raise NotXfdf("The file is no XFDF.")
    found = [each for each in root.iter() if isinstance(each.tag, str) and _local(each) in _ELEMENTS]
    return apart([_read(each) for each in found[:_MOST]])


def _local(element: etree._Element) -> str:
    return str(etree.QName(element).localname)


def _read(each: etree._Element) -> Annotation:
    given, subtype = each.attrib, _ELEMENTS[_local(each)]
    style = given.get("style", "")
    return Annotation(
        subtype=subtype, page=_whole(given.get("page", "0")), rect=_rect(given.get("rect", "")),
        id=given.get("name", "")[:200],
        text=_child(each, "contents") or _rich(each), author=given.get("title", "")[:200],
        made_at=_date(given.get("creationdate", "")), changed_at=_date(given.get("date", "")),
        points=_points(each, subtype), strokes=_strokes(each), inset=_fringe(given.get("fringe", "")),
        leader=_pairs(given.get("callout", "") or _child(each, "callout")),
        ends=(given.get("head", "None"), given.get("tail", "None")),
        intent=given.get("intent", given.get("IT", "")),
        icon=given.get("icon", ""), measures_angles=each.find("{*}measure/{*}angle") is not None,
        cloudy=style == "cloudy", dashed=style == "dash",
        colour=_colour(given.get("color", "")), fill=_colour(given.get("interior-color", "")),
        width_pt=_number(given.get("width", "")), opacity=_number(given.get("opacity", "")) or 1.0,
        reply_to="" if given.get("replyType") == "group" else given.get("inreplyto", ""),
        state_model=given.get("statemodel", ""), state=given.get("state", ""), own=readable(_own(each, "mark")),
        leads_to=readable_link(_own(each, "link")),
    )  # fmt: skip


def _child(each: etree._Element, name: str) -> str:
    found = each.find(f"{{*}}{name}")
    return str(found.text or "") if found is not None else ""


def _rich(each: etree._Element) -> str:
    found = each.find("{*}contents-richtext")
    return " ".join("".join(map(str, found.itertext())).split()) if found is not None else ""


def _points(each: etree._Element, subtype: str) -> tuple[Point, ...]:
    given = each.attrib
    if subtype == "Line":
        return _pairs(f"{given.get('start', '')},{given.get('end', '')}")
    return _pairs(given.get("coords", "")) or _pairs(_child(each, "vertices").replace(";", ","))


def _strokes(each: etree._Element) -> tuple[tuple[Point, ...], ...]:
    gestures = each.iterfind("{*}inklist/{*}gesture")
    return tuple(_pairs((gesture.text or "").replace(";", ",")) for gesture in gestures)


def _pairs(text: str) -> tuple[Point, ...]:
    values = [_number(part) for part in text.split(",")]
    numbers = [value for value in values if value is not None]
    return tuple(zip(numbers[::2], numbers[1::2], strict=False))


def _rect(text: str) -> Rect:
    points = _pairs(text)
    return mark_paths.extent(points) if len(points) == 2 else (0.0, 0.0, 0.0, 0.0)


def _fringe(text: str) -> tuple[float, float, float, float]:
    points = _pairs(text)
    return (*points[0], *points[1]) if len(points) == 2 else (0.0, 0.0, 0.0, 0.0)


def _number(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if abs(value) < 1e9 else None


def _whole(text: str) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 7 else -1


def _colour(text: str) -> Rgb | None:
    digits = text.removeprefix("#")
    if len(digits) != 6 or any(each not in "0123456789abcdefABCDEF" for each in digits):
        return None
    red, green, blue = (int(digits[at : at + 2], 16) / 255 for at in (0, 2, 4))
    return red, green, blue


def _date(text: str) -> datetime | None:
    return read_date(text)


def _own(each: etree._Element, name: str) -> Any:
    found = each.find(f"{{{_OWN}}}{name}")
    try:
        return json.loads(found.text or "") if found is not None else None
    except (ValueError, RecursionError):
        return None
