"""One annotation as values, and the shape that Nod makes of it where another program wrote it (ISO 32000-1, 12.5.6)."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nod.core.marks.mark_files import BY_MANNER, Paper, Rect
from nod.core.marks.mark_paths import extent
from nod.core.marks.marks import COUNT_MM, INKS, SYMBOLS, Look, MarkKind
from nod.core.sheet.geometry import Point

Rgb = tuple[float, float, float]
_ARROWS = frozenset({"OpenArrow", "ClosedArrow", "ROpenArrow", "RClosedArrow"})
TOLERANCE_PT = 0.1
_MANNERS = {subtype: manner for manner, subtype in BY_MANNER.items()}
STAMPS = frozenset(
    {
        "Approved", "AsIs", "Confidential", "Departmental", "Draft", "Experimental", "Expired", "Final", "ForComment",
        "ForPublicRelease", "NotApproved", "NotForPublicRelease", "Sold", "TopSecret",
    }
)  # fmt: skip
"""The names that every program knows (ISO 32000-1, table 181)."""
SIGN = "#Nod-"
"""Before the name of a symbol in /Name of a stamp (ISO 32000-1, table 181)."""


@dataclass(frozen=True)
class Annotation:
    """One annotation. Points of user space. `strokes` are of an Ink, `points` of everything else that has some.

    `inset` is /RD: left, top, right, bottom. `own` is what Nod wrote beside it, None for other programs' ones.
    """

    subtype: str
    page: int
    rect: Rect
    id: str = ""
    text: str = ""
    author: str = ""
    made_at: datetime | None = None
    changed_at: datetime | None = None
    points: tuple[Point, ...] = ()
    strokes: tuple[tuple[Point, ...], ...] = ()
    inset: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    leader: tuple[Point, ...] = ()
    ends: tuple[str, str] = ("None", "None")
    intent: str = ""
    icon: str = ""
    has_picture: bool = False
    """Whether it has an appearance of its own."""
    measures_angles: bool = False
    """Whether its measure dictionary has a format for angles (ISO 32000-1, table 262, /T)."""
    cloudy: bool = False
    dashed: bool = False
    colour: Rgb | None = None
    fill: Rgb | None = None
    width_pt: float | None = None
    type_pt: float | None = None
    opacity: float = 1.0
    reply_to: str = ""
    state_model: str = ""
    state: str = ""
    own: Mapping[str, Any] | None = None
    leads_to: tuple[str, str, str] | None = None
    """Of an answer by which Nod says what a mark is linked to: kind, target and words."""


def middle_of(points: Sequence[Point]) -> Point:
    left, low, right, high = extent(points)
    return (left + right) / 2, (low + high) / 2


def inner_of(each: Annotation) -> tuple[Point, Point]:
    """The box that was drawn, within the rectangle that its ink covers."""
    left, top, right, bottom = each.inset
    a, b, c, d = each.rect
    return (a + left, b + bottom), (c - right, d - top)


def shape_of(each: Annotation, paper: Paper) -> tuple[MarkKind, tuple[Point, ...], tuple[int, ...], str]:
    """Kind, points, outlines, and a label for what is shown as something else."""
    if each.subtype == "Ink" and (counted := _crossed(each.strokes, COUNT_MM / 2 * paper.per_mm)):
        return MarkKind.COUNT, counted, (), ""
    made = _SHAPES.get(each.subtype)
    if made is None:
        return MarkKind.PIN, (middle_of(inner_of(each)),), (), f"a {each.subtype or 'nameless'} of the file"
    kind, points, rings = made(each)
    return kind, points, rings, ""


Made = tuple[MarkKind, tuple[Point, ...], tuple[int, ...]]


def _square(each: Annotation) -> Made:
    (left, low), (right, high) = inner_of(each)
    if each.cloudy:
        return MarkKind.CLOUD, ((left, low), (right, low), (right, high), (left, high)), ()
    return MarkKind.RECTANGLE, ((left, low), (right, high)), ()


def _line(each: Annotation) -> Made:
    if each.intent == "LineDimension":
        return MarkKind.DISTANCE, each.points[:2], ()
    if each.ends[0] in _ARROWS and each.ends[1] not in _ARROWS:
        return MarkKind.ARROW, tuple(reversed(each.points[:2])), ()
    return MarkKind.ARROW if each.ends[1] in _ARROWS else MarkKind.LINE, each.points[:2], ()


def _polygon(each: Annotation) -> Made:
    if each.intent == "PolygonDimension":
        return MarkKind.AREA, each.points, ()
    return MarkKind.CLOUD if each.cloudy or each.intent == "PolygonCloud" else MarkKind.POLYGON, each.points, ()


def _polyline(each: Annotation) -> Made:
    points = each.points
    if each.intent != "PolyLineDimension":
        return MarkKind.POLYLINE, points, ()
    if each.measures_angles and len(points) == 3:
        return MarkKind.ANGLE, points, ()
    if len(points) > 3 and math.dist(points[0], points[-1]) <= TOLERANCE_PT:
        return MarkKind.PERIMETER, points[:-1], ()
    return MarkKind.PATH, points, ()


def _crossed(strokes: Sequence[Sequence[Point]], size: float) -> tuple[Point, ...]:
    """Where strokes cross in pairs of that size, as Nod writes a count; empty where they are no such pairs."""
    found: list[Point] = []
    for one, other in zip(strokes[::2], strokes[1::2], strict=False):
        if len(one) != 2 or len(other) != 2:
            return ()
        (a, b), (c, d) = one
        if (
            max(math.dist(other[0], (a, d)), math.dist(other[1], (c, b)), abs(c - a - size), abs(d - b - size))
            > TOLERANCE_PT
        ):
            return ()
        found.append(((a + c) / 2, (b + d) / 2))
    return tuple(found) if len(strokes) % 2 == 0 else ()


def _ink(each: Annotation) -> Made:
    strokes = [stroke if len(stroke) > 1 else stroke * 2 for stroke in each.strokes if stroke]
    rings = tuple(len(stroke) for stroke in strokes) if len(strokes) > 1 else ()
    return MarkKind.FREEHAND, tuple(point for stroke in strokes for point in stroke), rings


def _free_text(each: Annotation) -> Made:
    box = inner_of(each)
    if len(each.leader) < 2:
        return MarkKind.TEXT, box, ()
    tip, *knee = each.leader[:-1] if len(each.leader) > 2 else each.leader[:1]
    return MarkKind.CALLOUT, (*box, tip, *knee[:1]), ()


def _marked(each: Annotation) -> Made:
    return MarkKind.HIGHLIGHT, _highlighted(each), ()


def _highlighted(each: Annotation) -> tuple[Point, ...]:
    """Two corners for each four points; of the rectangle where a file gives none."""
    quads = [each.points[at : at + 4] for at in range(0, len(each.points) - 3, 4)]
    boxes = [extent(quad) for quad in quads] or [(*inner_of(each)[0], *inner_of(each)[1])]
    return tuple(corner for a, b, c, d in boxes for corner in ((a, b), (c, d)))


def _pinned(each: Annotation) -> Made:
    return MarkKind.PIN, (middle_of(inner_of(each)),), ()


def _stamped(each: Annotation) -> Made:
    if sign_of(each):
        return MarkKind.SYMBOL, (middle_of(inner_of(each)),), ()
    return MarkKind.STAMP, inner_of(each), ()


def sign_of(each: Annotation) -> str:
    """Which symbol a stamp of Nod's is, in other programs' keeping too."""
    name = each.icon.removeprefix(SIGN)
    return name if each.subtype == "Stamp" and name != each.icon and name in SYMBOLS else ""


_SHAPES: dict[str, Callable[[Annotation], Made]] = {
    "Square": _square, "Circle": lambda each: (MarkKind.ELLIPSE, inner_of(each), ()), "Line": _line,
    "Polygon": _polygon, "PolyLine": _polyline, "Ink": _ink, "FreeText": _free_text, "Highlight": _marked,
    "Underline": _marked, "Squiggly": _marked, "StrikeOut": _marked, "Text": _pinned, "Caret": _pinned,
    "Stamp": _stamped,
}  # fmt: skip


def look_of(each: Annotation, kind: MarkKind, paper: Paper) -> Look:
    weight = each.width_pt / paper.per_mm if each.width_pt is not None else 0.35
    height = each.type_pt / paper.per_mm if each.type_pt else 3.5
    return Look(
        colour=nearest_ink(each.colour) if each.colour else "red", weight_mm=min(max(weight, 0.05), 10.0),
        fill=nearest_ink(each.fill) if each.fill and kind is not MarkKind.PIN else "",
        opacity=min(max(each.opacity, 0.05), 1.0), dashed=each.dashed, type_mm=min(max(height, 1.0), 100.0),
        symbol=_MANNERS.get(each.subtype, "") or sign_of(each),
    )  # fmt: skip


def nearest_ink(colour: Rgb) -> str:
    """The ink that is nearest to a colour (0 to 1 each)."""

    def apart(hexes: str) -> float:
        other = [int(hexes[at : at + 2], 16) / 255 for at in (1, 3, 5)]
        return math.dist(colour, other)

    return min(INKS, key=lambda name: apart(INKS[name]))
