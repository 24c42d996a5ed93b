"""Marks as they are stored or come out of files, by whomever they were written: read without ever failing."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.marks import INKS, MANNERS, SYMBOLS, Look, MarkKind, Shape, check_shape
from nod.core.marks.measures import check_rings
from nod.core.sheet.geometry import Point

FURTHEST_PT = 20_000.0


@dataclass(frozen=True)
class StoredShape:
    """What is drawn. Not `sound`: it cannot be drawn as it is stored, and a pin stands for it where it would begin."""

    kind: MarkKind
    points: tuple[Point, ...]
    rings: tuple[int, ...]
    look: Look
    sound: bool = True


def read_shape(kind: Any, points: Any, rings: Any, look: Any) -> StoredShape:
    """Never raises; what passes `check_mark` comes back as it was stored."""
    found = StoredShape(read_kind(kind), read_points(points), read_rings(rings), read_look(look))
    if found.kind.value == kind and len(found.points) == _count(points) and len(found.rings) == _count(rings):
        try:
            check_mark(Shape(found.kind, found.points, found.look), found.rings)
        except RuleBroken:
            pass
        else:
            return found
    return StoredShape(MarkKind.PIN, (found.points or ((0.0, 0.0),))[:1], (), Look(colour=found.look.colour), False)


def check_mark(shape: Shape, rings: tuple[int, ...]) -> None:
    """What a mark must be, through whatever door it comes: by hand or out of a file. Raises RuleBroken."""
    check_shape(shape)
    check_rings(shape.kind, len(shape.points), rings)


def _count(value: Any) -> int:
    return len(value) if isinstance(value, list | tuple) else -1


def read_kind(value: Any) -> MarkKind:
    """A pin for what is no kind."""
    return MarkKind(value) if isinstance(value, str) and value in _KINDS else MarkKind.PIN


_KINDS = frozenset(each.value for each in MarkKind)


def read_points(values: Any) -> tuple[Point, ...]:
    """Those that are two numbers on some paper."""
    found = (_point(each) for each in values) if isinstance(values, list | tuple) else ()
    return tuple(each for each in found if each is not None)


def _point(value: Any) -> Point | None:
    if not isinstance(value, list | tuple) or len(value) != 2:
        return None
    x, y = (_number(each, math.nan, -FURTHEST_PT, FURTHEST_PT) for each in value)
    return None if math.isnan(x) or math.isnan(y) else (x, y)


def _number(value: Any, otherwise: float, least: float, most: float) -> float:
    """Whole numbers of any length are compared before they are made into one of the machine's."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not least <= value <= most:
        return otherwise
    return float(value)


def read_rings(values: Any) -> tuple[int, ...]:
    found: Iterable[Any] = values if isinstance(values, list | tuple) else ()
    return tuple(each for each in found if isinstance(each, int) and not isinstance(each, bool) and 0 < each <= 100_000)


_WAYS = ("", *SYMBOLS, *(manner for those in MANNERS.values() for manner in those))


def read_look(value: Any) -> Look:
    """Field by field; the usual where one says what it cannot."""
    said = value if isinstance(value, dict) else {}
    usual = Look()

    def word(key: str, known: Iterable[str], otherwise: str) -> str:
        found = said.get(key)
        return found if isinstance(found, str) and found in known else otherwise

    return Look(
        colour=word("colour", INKS, usual.colour), weight_mm=_number(said.get("weight_mm"), usual.weight_mm, 0.05, 10),
        fill=word("fill", ("", *INKS), ""), opacity=_number(said.get("opacity"), usual.opacity, 0.05, 1),
        dashed=said.get("dashed") is True, type_mm=_number(said.get("type_mm"), usual.type_mm, 1, 100),
        symbol=word("symbol", _WAYS, ""),
    )  # fmt: skip
