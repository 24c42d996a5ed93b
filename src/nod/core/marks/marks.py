"""Marks on a sheet: their shapes and looks, and who may do what with them in pencil and in ink (handbook §6)."""

from __future__ import annotations

import math
from collections.abc import Container
from dataclasses import dataclass
from enum import StrEnum

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.sheet.geometry import Point

LONGEST_LABEL = 80


class MarkKind(StrEnum):
    """What is drawn. The points of each are told by `POINTS`."""

    CLOUD = "cloud"
    RECTANGLE = "rectangle"
    ELLIPSE = "ellipse"
    LINE = "line"
    ARROW = "arrow"
    POLYLINE = "polyline"
    POLYGON = "polygon"
    FREEHAND = "freehand"
    HIGHLIGHT = "highlight"
    TEXT = "text"
    CALLOUT = "callout"
    PIN = "pin"
    STAMP = "stamp"
    SYMBOL = "symbol"
    COUNT = "count"
    DISTANCE = "distance"
    PATH = "path"
    AREA = "area"
    PERIMETER = "perimeter"
    ANGLE = "angle"


MEASURES = frozenset({MarkKind.DISTANCE, MarkKind.PATH, MarkKind.AREA, MarkKind.PERIMETER, MarkKind.ANGLE})
"""Kinds whose value depends on where they lie and on the scale there; see `core.marks.measures`."""


class MarkState(StrEnum):
    """The review states; in files those of the review model of ISO 32000-1 table 171."""

    OPEN = "open"
    AGREED = "agreed"
    DECLINED = "declined"
    DONE = "done"
    DROPPED = "dropped"


IN_FILES: dict[MarkState, str] = {
    MarkState.OPEN: "None", MarkState.AGREED: "Accepted", MarkState.DECLINED: "Rejected", MarkState.DONE: "Completed",
    MarkState.DROPPED: "Cancelled",
}  # fmt: skip

POINTS: dict[MarkKind, tuple[int, int]] = {
    MarkKind.CLOUD: (3, 1000), MarkKind.RECTANGLE: (2, 2), MarkKind.ELLIPSE: (2, 2), MarkKind.LINE: (2, 2),
    MarkKind.ARROW: (2, 2), MarkKind.POLYLINE: (2, 2000), MarkKind.POLYGON: (3, 2000), MarkKind.FREEHAND: (2, 5000),
    MarkKind.HIGHLIGHT: (2, 400), MarkKind.TEXT: (2, 2), MarkKind.CALLOUT: (3, 4), MarkKind.PIN: (1, 1),
    MarkKind.STAMP: (2, 2), MarkKind.SYMBOL: (1, 1), MarkKind.COUNT: (1, 5000),
    MarkKind.DISTANCE: (2, 2), MarkKind.PATH: (2, 2000), MarkKind.AREA: (3, 2000), MarkKind.PERIMETER: (3, 2000),
    MarkKind.ANGLE: (3, 3),
}  # fmt: skip
"""The fewest and the most. Boxes are given by two opposite corners, a highlight by as many boxes as it has lines, a
callout by the box of its text and then its leader from the tip inwards; an angle has its apex in the middle."""

INKS: dict[str, str] = {
    "red": "#b5301f", "orange": "#a85b00", "yellow": "#8a7400", "green": "#1f6650", "blue": "#0b5fa5",
    "violet": "#6b3fa0", "pink": "#c2397f", "black": "#22303a",
}  # fmt: skip
"""Eight that stay apart for colour-blind eyes, each at least 4.5 : 1 on white."""

SYMBOLS: dict[str, str] = {
    "tick": "in order", "cross": "wrong", "question": "unclear", "attention": "mind this", "look": "look here",
}  # fmt: skip

MANNERS: dict[MarkKind, dict[str, str]] = {
    MarkKind.HIGHLIGHT: {
        "underline": "Underlined", "squiggly": "Underlined by a wave", "strikeout": "Struck out",
    },
    MarkKind.PIN: {"insert": "To be put in"},
}  # fmt: skip
"""What other programs tell apart by kinds of their own, as ways of ours: such a mark leaves as what it came as."""

CLOUD_ARC_MM = 7.0
SYMBOL_MM = 8.0
COUNT_MM = 5.0
TICK_MM = 3.0
VALUE_MM = 3.0
"""On paper, whatever the scale of the view."""


@dataclass(frozen=True)
class Look:
    """Line weight and type height are millimetres on paper, so that print and screen agree.

    `fill` is the name of an ink, empty for none. `symbol` says which a symbol is, and the manner of some other kinds.
    """

    colour: str = "red"
    weight_mm: float = 0.5
    fill: str = ""
    opacity: float = 1.0
    dashed: bool = False
    type_mm: float = 3.5
    symbol: str = ""


@dataclass(frozen=True)
class Shape:
    """What is drawn: points in PDF points of the unrotated page."""

    kind: MarkKind
    points: tuple[Point, ...]
    look: Look


def check_shape(shape: Shape) -> None:
    """Raises RuleBroken(`shape_unfit`) for a wrong number of points, a place off any paper or an impossible look."""
    fewest, most = POINTS[shape.kind]
    if not fewest <= len(shape.points) <= most or (shape.kind is MarkKind.HIGHLIGHT and len(shape.points) % 2):
        raise RuleBroken("shape_unfit", f"A {shape.kind} has {fewest} to {most} points.", shape.kind)
    if any(not math.isfinite(value) or abs(value) > 20_000 for point in shape.points for value in point):
        raise RuleBroken("shape_unfit", "The mark lies off the sheet.", shape.kind)
    check_look(shape.kind, shape.look)


def check_look(kind: MarkKind, look: Look) -> None:
    """Raises RuleBroken(`shape_unfit`)."""
    for colour in (look.colour, look.fill or look.colour):
        if colour not in INKS:
            raise RuleBroken("shape_unfit", f"There is no colour {colour[:20]}.", colour[:20])
    for value, fewest, most, words in (
        (look.weight_mm, 0.05, 10, "Lines are from 0.05 to 10 mm wide."),
        (look.opacity, 0.05, 1, "The opacity is from 5 to 100 %."),
        (look.type_mm, 1, 100, "Text is from 1 to 100 mm high."),
    ):
        if not fewest <= value <= most:
            raise RuleBroken("shape_unfit", words, kind)
    known = SYMBOLS if kind is MarkKind.SYMBOL else {"": "", **MANNERS.get(kind, {})}
    if look.symbol not in known:
        raise RuleBroken("shape_unfit", "A symbol is one of those that there are.", look.symbol[:20])


def check_discipline(code: str, known: Container[str]) -> str:
    """Empty for none. Raises RuleBroken for one that the project does not have."""
    if code and code not in known:
        raise RuleBroken("discipline_unknown", f"The project has no discipline {code[:20]}.", code[:20])
    return code


def check_label(label: str) -> str:
    """A short word by which marks are put together. Raises RuleBroken if it is too long."""
    tidy = " ".join(label.split())
    if len(tidy) > LONGEST_LABEL:
        raise RuleBroken("text_too_long", f"The label is longer than {LONGEST_LABEL} characters.")
    return tidy


def check_may_change(author: str, person: str, *, answered: bool) -> None:
    """One's own mark may be moved, reworded and taken away until somebody has answered it."""
    if author != person:
        raise NotAllowed("not_your_mark", "Only its author changes a mark. Reply to it instead.")
    if answered:
        raise RuleBroken("mark_answered", "This mark has been answered and stays as it is. Reply to it instead.")
