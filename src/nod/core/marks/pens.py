"""Pens: what a mark looks like before it is drawn, in rolls (handbook §6)."""

from __future__ import annotations

from collections.abc import Collection, Container, Mapping
from dataclasses import dataclass, field

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.marks import INKS, Look, MarkKind, check_discipline, check_label, check_look
from nod.core.threads.threads import check_text

MOST_PENS = 60


@dataclass(frozen=True)
class Pen:
    """`text` is written on what it draws, like the words of a stamp; `discipline` is a code of the project's."""

    name: str
    kind: MarkKind
    look: Look
    label: str = ""
    text: str = ""
    discipline: str = ""


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


@dataclass(frozen=True)
class InkConvention:
    """Which ink a discipline's or a company's marks are drawn in, by its code; `by` empty for no convention."""

    by: str = ""
    inks: Mapping[str, str] = field(default_factory=dict)

    def ink_for(self, discipline: str, company: str) -> str:
        """Empty where the convention says nothing."""
        code = {"discipline": discipline, "company": company}.get(self.by, "")
        return self.inks.get(code, "")


def check_convention(convention: InkConvention, known: Collection[str]) -> InkConvention:
    """Tidied: without what has no ink. Raises RuleBroken naming what is not known."""
    if not convention.by:
        return InkConvention()
    for code, ink in convention.inks.items():
        if code not in known:
            raise RuleBroken("code_unknown", f"The project has no {convention.by} {code[:20]}.", code[:20])
        if ink and ink not in INKS:
            raise RuleBroken("ink_unknown", f"There is no ink {ink[:20]}.", code)
    return InkConvention(convention.by, {code: ink for code, ink in convention.inks.items() if ink})


def check_pens(pens: list[Pen], disciplines: Container[str]) -> list[Pen]:
    """Tidied. Raises RuleBroken naming the pen, or the discipline that the project does not have."""
    if len(pens) > MOST_PENS:
        raise RuleBroken("too_many_pens", f"A roll has at most {MOST_PENS} pens.")
    tidy = []
    for pen in pens:
        name = check_label(pen.name)
        if not name:
            raise RuleBroken("name_missing", "Every pen has a name.")
        check_look(pen.kind, pen.look)
        text, discipline = check_text(pen.text, required=False), check_discipline(pen.discipline, disciplines)
        tidy.append(Pen(name, pen.kind, pen.look, check_label(pen.label), text, discipline))
    return tidy
