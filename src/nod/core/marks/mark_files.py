"""Marks as they go into files of other programs: what all these formats have in common (ISO 32000-1, 12.5)."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from nod.core.marks.mark_paths import extent
from nod.core.marks.marks import CLOUD_ARC_MM, COUNT_MM, MANNERS, SYMBOL_MM, Look, MarkKind, MarkState
from nod.core.sheet.geometry import PageBox, Point

Rect = tuple[float, float, float, float]

SUBTYPES: dict[MarkKind, str] = {
    MarkKind.CLOUD: "Polygon", MarkKind.RECTANGLE: "Square", MarkKind.ELLIPSE: "Circle", MarkKind.LINE: "Line",
    MarkKind.ARROW: "Line", MarkKind.POLYLINE: "PolyLine", MarkKind.POLYGON: "Polygon", MarkKind.FREEHAND: "Ink",
    MarkKind.HIGHLIGHT: "Highlight", MarkKind.TEXT: "FreeText", MarkKind.CALLOUT: "FreeText", MarkKind.PIN: "Text",
    MarkKind.STAMP: "Stamp", MarkKind.SYMBOL: "Stamp", MarkKind.COUNT: "Ink",
    MarkKind.DISTANCE: "Line", MarkKind.PATH: "PolyLine", MarkKind.AREA: "Polygon", MarkKind.PERIMETER: "PolyLine",
    MarkKind.ANGLE: "PolyLine",
}  # fmt: skip
"""The annotation of ISO 32000-1 that comes nearest to each kind. A count becomes crosses of an Ink."""

BY_MANNER = {"underline": "Underline", "squiggly": "Squiggly", "strikeout": "StrikeOut", "insert": "Caret"}
"""And to each manner of a kind, see `MANNERS`."""


@dataclass(frozen=True)
class FiledReply:
    """One answer of a thread; `author` with the company in brackets."""

    id: str
    author: str
    text: str
    at: datetime


@dataclass(frozen=True)
class FiledLink:
    """What a mark leads to: `kind` and `target` as Nod knows it, `words` as everybody does."""

    id: str
    kind: str
    target: str
    words: str
    author: str
    at: datetime

    @property
    def said(self) -> str:
        """What other programs show as an answer."""
        return f"Linked to {self.words}"


@dataclass(frozen=True)
class FiledMeasure:
    """What a mark measures, in words; `mm_per_pt` is None where the sheet has no scale there."""

    words: str
    mm_per_pt: float | None = None
    imperial: bool = False


@dataclass(frozen=True)
class FiledMark:
    """A mark with all that a file can hold of it. Points of user space; `state_by` and `state_at` with a state."""

    id: str
    page: int
    kind: MarkKind
    points: tuple[Point, ...]
    look: Look
    text: str
    label: str
    author: str
    drawn_at: datetime
    changed_at: datetime
    pin_number: int | None = None
    state: MarkState = MarkState.OPEN
    state_by: str = ""
    state_at: datetime | None = None
    replies: tuple[FiledReply, ...] = ()
    rings: tuple[int, ...] = ()
    measured: FiledMeasure | None = None
    discipline: str = ""
    links: tuple[FiledLink, ...] = ()


@dataclass(frozen=True)
class Paper:
    """Where a page's points lie on paper: `per_mm` points of user space to a millimetre."""

    box: PageBox
    user_unit: float = 1.0

    @property
    def per_mm(self) -> float:
        return 72 / 25.4 / self.user_unit


def subtype_of(mark: FiledMark) -> str:
    """The annotation that it is written as."""
    return BY_MANNER.get(mark.look.symbol) or SUBTYPES[mark.kind]


def measured_along(mark: FiledMark) -> tuple[Point, ...]:
    """Of a measure, the points that the standard has: a perimeter is a line that comes back to where it began."""
    outer = mark.points[: mark.rings[0]] if mark.rings else mark.points
    return (*outer, outer[0]) if mark.kind is MarkKind.PERIMETER else outer


def crosses_of(mark: FiledMark, paper: Paper) -> list[tuple[Point, Point]]:
    """Of a count, two strokes that cross on each of its points."""
    half = COUNT_MM / 4 * paper.per_mm
    return [
        stroke
        for x, y in mark.points
        for stroke in (((x - half, y - half), (x + half, y + half)), ((x - half, y + half), (x + half, y - half)))
    ]


def contents_of(mark: FiledMark) -> str:
    """What other programs show as the text: what was measured, then what was written."""
    return "\n".join(part for part in (mark.measured.words if mark.measured else "", mark.text) if part)


def subject_of(mark: FiledMark) -> str:
    """What other programs show as the subject: the kind, a pin with its number, and the label."""
    name = MANNERS.get(mark.kind, {}).get(mark.look.symbol) or mark.kind.value.capitalize()
    if mark.kind is MarkKind.PIN and mark.pin_number:
        name = f"Pin {mark.pin_number}"
    return f"{name}, {mark.label}" if mark.label else name


def rect_of(mark: FiledMark, paper: Paper) -> Rect:
    """Left, low, right, high of all that the mark's ink covers, in points of user space."""
    left, low, right, high = extent(mark.points)
    pad = _pad_mm(mark) * paper.per_mm
    if mark.kind is MarkKind.PIN:
        # The pin stands on its point, whichever way the page is turned.
        pad = PIN_MM * paper.per_mm
    return left - pad, low - pad, right + pad, high + pad


PIN_MM = 9.0
_VALUE_MM = 25.0
"""Room for the words of a value beside the shortest line."""


def _pad_mm(mark: FiledMark) -> float:
    half = mark.look.weight_mm / 2 + 0.3
    wider = {
        MarkKind.CLOUD: CLOUD_ARC_MM * 0.6, MarkKind.ARROW: head_mm(mark.look), MarkKind.CALLOUT: head_mm(mark.look),
        MarkKind.DISTANCE: _VALUE_MM, MarkKind.PATH: _VALUE_MM, MarkKind.AREA: _VALUE_MM,
        MarkKind.PERIMETER: _VALUE_MM, MarkKind.ANGLE: _VALUE_MM, MarkKind.SYMBOL: SYMBOL_MM / 2,
        MarkKind.COUNT: COUNT_MM / 2, MarkKind.HIGHLIGHT: 0.0,
    }  # fmt: skip
    return half + wider.get(mark.kind, 0.0)


def head_mm(look: Look) -> float:
    """The length of an arrow's head."""
    return max(3.0, 6 * look.weight_mm)


@dataclass(frozen=True)
class SummaryHead:
    """What stands on top of every page; `zone` and the words of `disciplines`, by their codes, are the project's."""

    title: str
    made: str
    zone: str
    disciplines: dict[str, str]
