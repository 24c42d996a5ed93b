"""Pens: what a mark looks like before it is drawn, in rolls (handbook §6)."""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.marks import Look, MarkKind, check_label, check_look, check_text
from nod.core.refusals import RuleBroken

MOST_PENS = 60


@dataclass(frozen=True)
class Pen:
    """`text` is written on what it draws, like the words of a stamp."""

    name: str
    kind: MarkKind
    look: Look
    label: str = ""
    text: str = ""


FIRST_ROLL: tuple[Pen, ...] = (
    Pen("Cloud", MarkKind.CLOUD, Look()),
    Pen("Pin", MarkKind.PIN, Look("blue")),
    Pen("Callout", MarkKind.CALLOUT, Look()),
    Pen("Arrow", MarkKind.ARROW, Look()),
    Pen("Box", MarkKind.RECTANGLE, Look()),
    Pen("Highlight", MarkKind.HIGHLIGHT, Look("yellow", opacity=0.35)),
    Pen("Freehand", MarkKind.FREEHAND, Look()),
    Pen("Text", MarkKind.TEXT, Look()),
    Pen("Count", MarkKind.COUNT, Look("green")),
    Pen("In order", MarkKind.SYMBOL, Look("green", symbol="tick")),
    Pen("Wrong", MarkKind.SYMBOL, Look(symbol="cross")),
    Pen("Unclear", MarkKind.SYMBOL, Look("blue", symbol="question")),
    Pen("Seen", MarkKind.STAMP, Look("green", type_mm=7.0), text="SEEN"),
    Pen("Line", MarkKind.LINE, Look()),
    Pen("Ellipse", MarkKind.ELLIPSE, Look()),
    Pen("Polyline", MarkKind.POLYLINE, Look()),
    Pen("Polygon", MarkKind.POLYGON, Look()),
)
"""What everybody has who has put together no roll of their own; the first nine lie under the keys 1 to 9."""


def check_pens(pens: list[Pen]) -> list[Pen]:
    """Tidied. Raises RuleBroken naming the pen."""
    if len(pens) > MOST_PENS:
        raise RuleBroken("too_many_pens", f"A roll has at most {MOST_PENS} pens.")
    tidy = []
    for pen in pens:
        name = check_label(pen.name)
        if not name:
            raise RuleBroken("name_missing", "Every pen has a name.")
        check_look(pen.kind, pen.look)
        tidy.append(Pen(name, pen.kind, pen.look, check_label(pen.label), check_text(pen.text, required=False)))
    return tidy
