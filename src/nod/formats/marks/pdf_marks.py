"""Marks as annotations of a PDF (ISO 32000-1, 12.5), with appearances, threads and states, readable everywhere."""

from __future__ import annotations

import io
import json
from collections.abc import Callable, Iterable, Sequence
from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name, String
from reportlab.pdfgen.canvas import Canvas

from nod.core.marks import mark_paths
from nod.core.marks.annotation_shapes import SIGN
from nod.core.marks.annotations import link_words, own_words
from nod.core.marks.mark_files import (
    BY_MANNER,
    FiledLink,
    FiledMark,
    FiledReply,
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
from nod.formats.files.pdf_trailer import mend_trailer
from nod.formats.files.unfit import CannotAnnotate
from nod.formats.marks.mark_ink import draw_mark, register_fonts
from nod.formats.marks.pdf_annotations import place_of, take_out
from nod.formats.marks.pdf_papers import PRIVATE, PRIVATE_LINK, paper_of

_PRINTED, _HIDDEN = 4, 2
_BOXED = (MarkKind.TEXT, MarkKind.CALLOUT, MarkKind.STAMP)


def annotate(source: Path, target: Path, marks: Sequence[FiledMark], gone: frozenset[str] = frozenset()) -> None:
    """Writes a copy of the file with the marks on its pages. Raises CannotAnnotate; the source stays as it is.

    An annotation of the file that one of the marks came from makes room for it, with its answers; so do those named in
    `gone`, which were taken in and then taken away. One that has a picture or a file of its own stays, and gets the
    answers and the state. All others are left as they are.
    """
    try:
        with pikepdf.open(source) as pdf:
            papers = [paper_of(page) for page in pdf.pages]
            staying = take_out(pdf, gone | {mark.id for mark in marks}, gone)
            here = [mark for mark in marks if mark.page < len(papers)]
            for mark in here:
                if mark.id in staying:
                    _stay(pdf, pdf.pages[mark.page], mark, staying[mark.id])
            here = [mark for mark in here if mark.id not in staying]
            for mark, form in zip(here, _appearances(pdf, here, papers), strict=True):
                _add(pdf, pdf.pages[mark.page], mark, papers[mark.page], form)
            mend_trailer(pdf)
            # What the file has compressed stays so: decoding a set of drawings takes longer than all the rest.
            pdf.save(target, stream_decode_level=pikepdf.StreamDecodeLevel.none, compress_streams=True)
    except (pikepdf.PdfError, pikepdf.PasswordError) as error:
        raise CannotAnnotate("The file is locked or damaged, so no marks can be written into it.") from error


def _appearances(pdf: pikepdf.Pdf, marks: Sequence[FiledMark], papers: Sequence[Paper]) -> list[Any]:
    """One form for each mark, as large as its rectangle; all share their fonts."""
    if not marks:
        return []
    register_fonts()
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1)
    for mark in marks:
        left, low, right, high = rect_of(mark, papers[mark.page])
        canvas.setPageSize((right - left, high - low))
        canvas.translate(-left, -low)
        draw_mark(canvas, mark, papers[mark.page])
        canvas.showPage()
    canvas.save()
    with pikepdf.open(out) as drawn:
        return [pdf.copy_foreign(page.as_form_xobject()) for page in drawn.pages]


def _stay(pdf: pikepdf.Pdf, page: pikepdf.Page, mark: FiledMark, there: Any) -> None:
    """The annotation as it is, where the mark lies now, with the mark's words and thread."""
    left, low, right, high = place_of(there)
    now = mark_paths.extent(mark.points)
    if len(mark.points) == 1:
        over, up = now[0] - (left + right) / 2, now[1] - (low + high) / 2
        now = (left + over, low + up, right + over, high + up)
    if max(abs(a - b) for a, b in zip(now, (left, low, right, high), strict=True)) > _TO_BE_MOVED_PT:
        there.Rect = _numbers(now)
    if mark.text and mark.text != str(there.get("/Contents", "")).strip():
        there.Contents = String(mark.text)
    _add_thread(pdf, page, mark, there, now)


_TO_BE_MOVED_PT = 3.0
"""More than what a file says of the margin around a picture."""


def _add(pdf: pikepdf.Pdf, page: pikepdf.Page, mark: FiledMark, paper: Paper, form: Any) -> None:
    rect = rect_of(mark, paper)
    parent = pdf.make_indirect(_annotation(mark, paper, rect, form))
    parent.P = page.obj
    page.obj.Annots = Array([*page.obj.get("/Annots", Array()), parent])
    _add_thread(pdf, page, mark, parent, rect)


def _add_thread(pdf: pikepdf.Pdf, page: pikepdf.Page, mark: FiledMark, parent: Any, rect: Rect) -> None:
    threads = [_reply(mark, reply, parent, rect) for reply in mark.replies]
    threads += [_link(mark, link, parent, rect) for link in mark.links]
    if mark.state is not MarkState.OPEN:
        threads.append(_state(mark, parent, rect))
    empty = pdf.make_stream(b"", Dictionary(Type=Name.XObject, Subtype=Name.Form, BBox=Array([0, 0, 0, 0])))
    added = []
    for each in threads:
        # Without an appearance, even an empty one, some readers draw an icon for every answer.
        each.AP = Dictionary(N=empty)
        added.append(pdf.make_indirect(each))
    for each in added:
        each.P = page.obj
    if added:
        page.obj.Annots = Array([*page.obj.get("/Annots", Array()), *added])


def _annotation(mark: FiledMark, paper: Paper, rect: Rect, form: Any) -> Dictionary:
    look = mark.look
    made = Dictionary(
        Type=Name.Annot, Subtype=Name(f"/{subtype_of(mark)}"), Rect=_numbers(rect), NM=String(mark.id),
        T=String(mark.author), Contents=String(contents_of(mark)), M=String(pdf_date(mark.changed_at)),
        CreationDate=String(pdf_date(mark.drawn_at)), F=_PRINTED, C=_colour(look.colour), CA=_number(look.opacity),
        AP=Dictionary(N=form), Subj=String(subject_of(mark)),
    )  # fmt: skip
    if mark.kind not in (MarkKind.HIGHLIGHT, MarkKind.PIN, MarkKind.SYMBOL, MarkKind.STAMP):
        made.BS = Dictionary(Type=Name.Border, W=_number(look.weight_mm * paper.per_mm), S=Name.S)
        if look.dashed:
            made.BS.S, made.BS.D = Name.D, _numbers((2.4 * paper.per_mm, 1.4 * paper.per_mm))
    if look.fill and mark.kind not in _BOXED:
        made.IC = _colour(look.fill)
    _geometry(made, mark, paper)
    made[PRIVATE] = String(json.dumps(own_words(mark), separators=(",", ":")))
    return made


def _geometry(made: Dictionary, mark: FiledMark, paper: Paper) -> None:
    """What says where it lies, by subtype (ISO 32000-1, 12.5.6)."""
    own = _GEOMETRY.get(mark.kind)
    for key, value in (own(made, mark, paper) if own else {}).items():
        made[f"/{key}"] = value


def _along(_made: Dictionary, mark: FiledMark, _paper: Paper) -> dict[str, Any]:
    return {"Vertices": _flat(mark.points)}


def _cloud(_made: Dictionary, mark: FiledMark, _paper: Paper) -> dict[str, Any]:
    return {"Vertices": _flat(mark.points), "IT": Name.PolygonCloud, "BE": Dictionary(S=Name.C, I=1)}


def _line(_made: Dictionary, mark: FiledMark, _paper: Paper) -> dict[str, Any]:
    end = Name.OpenArrow if mark.kind is MarkKind.ARROW else _NONE
    return {"L": _flat(mark.points), "LE": Array([_NONE, end])}


def _ink(_made: Dictionary, mark: FiledMark, _paper: Paper) -> dict[str, Any]:
    strokes = mark_paths.outlines(mark.points, mark.rings)
    return {"InkList": Array([_flat(stroke) for stroke in strokes])}


def _crosses(_made: Dictionary, mark: FiledMark, paper: Paper) -> dict[str, Any]:
    return {"InkList": Array([_flat(stroke) for stroke in crosses_of(mark, paper)])}


def _quads(_made: Dictionary, mark: FiledMark, _paper: Paper) -> dict[str, Any]:
    boxes = (mark.points[place : place + 2] for place in range(0, len(mark.points), 2))
    return {"QuadPoints": _numbers(value for corners in boxes for value in quad(corners))}


def _box(made: Dictionary, mark: FiledMark, _paper: Paper) -> dict[str, Any]:
    return {"RD": _numbers(inset([float(value) for value in made.Rect], mark.points))}


def _text(made: Dictionary, mark: FiledMark, paper: Paper) -> dict[str, Any]:
    red, green, blue = _rgb(mark.look.colour)
    size = mark.look.type_mm * paper.per_mm
    style = String(f"/Helv {size:.2f} Tf {red:.3f} {green:.3f} {blue:.3f} rg")
    return {**_box(made, mark, paper), "DA": style, "Rotate": paper.box.rotation}


def _callout(made: Dictionary, mark: FiledMark, paper: Paper) -> dict[str, Any]:
    way = _flat(reversed(mark_paths.leader(mark.points)))
    return {**_text(made, mark, paper), "IT": Name.FreeTextCallout, "CL": way, "LE": Name.OpenArrow}


def _measure(made: Dictionary, mark: FiledMark, paper: Paper) -> dict[str, Any]:
    """Measures are dimensions in the standard's words; the holes of an area stand in our own dictionary only."""
    line = mark.kind is MarkKind.DISTANCE
    along = _flat(measured_along(mark))
    found: dict[str, Any] = {"L": along, "LE": Array([Name.Butt, Name.Butt])} if line else {"Vertices": along}
    found["IT"] = Name(INTENTS[mark.kind])
    if mark.measured and mark.measured.mm_per_pt:
        found["Measure"] = _measure_dictionary(mark.measured.mm_per_pt, imperial=mark.measured.imperial)
    if mark.kind is MarkKind.ANGLE:
        # What tells it from a path: no scale changes an angle.
        found.setdefault("Measure", _measure_dictionary(25.4 / 72, imperial=False))
        found["Measure"].T = Array([Dictionary(U=String("°"), C=1, D=10)])
    return found


INTENTS = {
    MarkKind.DISTANCE: "/LineDimension", MarkKind.PATH: "/PolyLineDimension", MarkKind.AREA: "/PolygonDimension",
    MarkKind.PERIMETER: "/PolyLineDimension", MarkKind.ANGLE: "/PolyLineDimension",
}  # fmt: skip


def _measure_dictionary(mm_per_pt: float, *, imperial: bool) -> Dictionary:
    """ISO 32000-1, tables 261 to 263: points become metres or feet by /X, these stand for /D and /A as they are."""
    size, unit, square = (304.8, "ft", "sq ft") if imperial else (1000.0, "m", "m²")
    ratio = f"1 pt = {mm_per_pt / size:.6g} {unit}"
    return Dictionary(
        Type=Name.Measure, Subtype=Name("/RL"), R=String(ratio),
        X=Array([Dictionary(U=String(unit), C=_number(mm_per_pt / size, 12), D=1000)]),
        D=Array([Dictionary(U=String(unit), C=1, D=1000)]), A=Array([Dictionary(U=String(square), C=1, D=1000)]),
    )  # fmt: skip


def _icon(_made: Dictionary, mark: FiledMark, _paper: Paper) -> dict[str, Any]:
    if mark.look.symbol in BY_MANNER:
        return {}
    names = {MarkKind.PIN: "Note", MarkKind.STAMP: "#Nod", MarkKind.SYMBOL: f"{SIGN}{mark.look.symbol}"}
    return {"Name": Name(f"/{names[mark.kind]}")}


_NONE = Name("/None")
_GEOMETRY: dict[MarkKind, Callable[[Dictionary, FiledMark, Paper], dict[str, Any]]] = {
    MarkKind.CLOUD: _cloud, MarkKind.POLYGON: _along, MarkKind.POLYLINE: _along, MarkKind.LINE: _line,
    MarkKind.ARROW: _line, MarkKind.FREEHAND: _ink, MarkKind.COUNT: _crosses, MarkKind.HIGHLIGHT: _quads,
    MarkKind.RECTANGLE: _box, MarkKind.ELLIPSE: _box, MarkKind.TEXT: _text, MarkKind.CALLOUT: _callout,
    MarkKind.PIN: _icon, MarkKind.STAMP: _icon, MarkKind.SYMBOL: _icon,
    MarkKind.DISTANCE: _measure, MarkKind.PATH: _measure, MarkKind.AREA: _measure, MarkKind.PERIMETER: _measure,
    MarkKind.ANGLE: _measure,
}  # fmt: skip


def quad(corners: Sequence[Point]) -> tuple[float, ...]:
    """Upper left, upper right, lower left, lower right: the order that readers take, whatever the standard's figure."""
    left, low, right, high = mark_paths.extent(corners)
    return left, high, right, high, left, low, right, low


def inset(rect: Sequence[float], points: Sequence[Point]) -> tuple[float, float, float, float]:
    """From the rectangle to the box that was drawn: left, top, right, bottom in the order of the standard's /RD."""
    left, low, right, high = mark_paths.extent(points[:2])
    return left - rect[0], rect[3] - high, rect[2] - right, low - rect[1]


def _reply(mark: FiledMark, reply: FiledReply, parent: Any, rect: Rect) -> Dictionary:
    return Dictionary(
        Type=Name.Annot, Subtype=Name.Text, Rect=_numbers(rect), NM=String(reply.id), T=String(reply.author),
        Contents=String(reply.text), M=String(pdf_date(reply.at)), CreationDate=String(pdf_date(reply.at)),
        IRT=parent, RT=Name.R, F=_PRINTED | _HIDDEN, Subj=String(f"Answer to {subject_of(mark)}"),
    )  # fmt: skip


def _link(mark: FiledMark, link: FiledLink, parent: Any, rect: Rect) -> Dictionary:
    """The standard has no link of a markup to anything, so that it is said in the thread, where everybody reads it."""
    made = _reply(mark, FiledReply(link.id, link.author, link.said, link.at), parent, rect)
    made[PRIVATE_LINK] = String(json.dumps(link_words(link), separators=(",", ":")))
    return made


def _state(mark: FiledMark, parent: Any, rect: Rect) -> Dictionary:
    at = pdf_date(mark.state_at or mark.changed_at)
    return Dictionary(
        Type=Name.Annot, Subtype=Name.Text, Rect=_numbers(rect), NM=String(f"{mark.id}-state"),
        T=String(mark.state_by or mark.author), Contents=String(mark.state.value.capitalize()), M=String(at),
        CreationDate=String(at), IRT=parent, RT=Name.R, F=_PRINTED | _HIDDEN, StateModel=String("Review"),
        State=String(IN_FILES[mark.state]),
    )  # fmt: skip


def pdf_date(at: datetime) -> str:
    """ISO 32000-1, 7.9.4, in UTC."""
    return f"D:{at.astimezone(UTC):%Y%m%d%H%M%S}+00'00'"


def _rgb(colour: str) -> tuple[float, float, float]:
    digits = INKS[colour].removeprefix("#")
    red, green, blue = (int(digits[place : place + 2], 16) / 255 for place in (0, 2, 4))
    return red, green, blue


def _colour(colour: str) -> Array:
    return _numbers(_rgb(colour))


def _flat(points: Iterable[Point]) -> Array:
    return _numbers(value for point in points for value in point)


def _numbers(values: Iterable[float]) -> Array:
    return Array([_number(value) for value in values])


def _number(value: float, decimals: int = 5) -> Decimal:
    return Decimal(f"{value:.{decimals}f}".rstrip("0").rstrip("."))
