"""Marks on a sheet: their shapes, and who may do what with them in pencil and in ink (handbook §6)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from nod.core.geometry import Point
from nod.core.refusals import NotAllowed, RuleBroken

LONGEST_TEXT = 4000


class MarkKind(StrEnum):
    CLOUD = "cloud"
    PIN = "pin"


class MarkState(StrEnum):
    """The review states; in files None, Accepted, Rejected, Completed of ISO 32000-1 table 171."""

    OPEN = "open"
    AGREED = "agreed"
    DECLINED = "declined"
    DONE = "done"


_POINTS = {MarkKind.CLOUD: (3, 200), MarkKind.PIN: (1, 1)}
COLOURS = ("red", "blue", "green", "orange")


@dataclass(frozen=True)
class Shape:
    """What is drawn: points in PDF points of the unrotated page; a cloud is a closed polygon."""

    kind: MarkKind
    points: tuple[Point, ...]
    colour: str


def check_shape(shape: Shape) -> None:
    """Raises RuleBroken(`shape_unfit`) for a wrong number of points, a place off any paper or an unknown colour."""
    fewest, most = _POINTS[shape.kind]
    if not fewest <= len(shape.points) <= most:
        raise RuleBroken("shape_unfit", f"A {shape.kind} has {fewest} to {most} points.", shape.kind)
    if any(not math.isfinite(value) or abs(value) > 20_000 for point in shape.points for value in point):
        raise RuleBroken("shape_unfit", "The mark lies off the sheet.", shape.kind)
    if shape.colour not in COLOURS:
        raise RuleBroken("shape_unfit", f"There is no colour {shape.colour}.", shape.colour)


def check_text(text: str, *, required: bool) -> str:
    """The text without white space at its ends. Raises RuleBroken if it is too long, or missing where required."""
    tidy = text.strip()
    if required and not tidy:
        raise RuleBroken("text_missing", "Write something first.")
    if len(tidy) > LONGEST_TEXT:
        raise RuleBroken("text_too_long", f"The text is longer than {LONGEST_TEXT} characters.")
    return tidy


def check_may_change(author: str, person: str, *, answered: bool) -> None:
    """One's own mark may be moved, reworded and taken away until somebody has answered it."""
    if author != person:
        raise NotAllowed("not_your_mark", "Only its author changes a mark. Reply to it instead.")
    if answered:
        raise RuleBroken("mark_answered", "This mark has been answered and stays as it is. Reply to it instead.")
