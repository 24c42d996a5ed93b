"""A sheet while it is being drawn: where the drawing lies on it, which revision it is, and what to cloud."""

from __future__ import annotations

import random
from dataclasses import dataclass, field

from nod.demo.sheets.frame import SIZES_MM, SheetSpec
from nod.demo.sheets.pen import Pen


class Layout:
    """A grid of bays: nine by five of 60 mm on A1 (6 m at 1:100), six by four of 34 mm on A3."""

    def __init__(self, spec: SheetSpec) -> None:
        width, height = SIZES_MM[spec.size]
        large = spec.size == "A1"
        self.step = 60.0 if large else 34.0
        self.columns = 9 if large else 6
        self.rows = 5 if large else 4
        self.left = (width - 200 - self.columns * self.step) / 2 + 40 if large else 55
        self.bottom = (height - self.rows * self.step) / 2 + 20

    def at(self, column: float, row: float) -> tuple[float, float]:
        return self.left + column * self.step, self.bottom + row * self.step


@dataclass
class Board:
    """`revision` counts from 0. A part that came with a revision is drawn with `since`, and clouded by `cloud`.

    `changes` are revisions with the places that they changed.
    """

    pen: Pen
    spec: SheetSpec
    layout: Layout
    revision: int
    changes: list[tuple[int, float, float, float, float]] = field(default_factory=list)

    @property
    def lots(self) -> random.Random:
        """The same variety for every revision of a sheet."""
        return random.Random(self.spec.number)  # noqa: S311 - variety, not secrets

    def place(self, x: float, y: float) -> tuple[float, float]:
        """Metres of the building, from the corner A1 of the grid, to millimetres on a sheet at 1:100."""
        return self.layout.left + x * 10, self.layout.bottom + y * 10

    def since(self, revision: int) -> bool:
        return self.revision >= revision

    def cloud(self, revision: int, x: float, y: float, width: float, height: float) -> None:
        """Millimetres on the sheet. What was changed before keeps its mark and loses its cloud (common practice)."""
        if self.revision >= revision:
            self.changes.append((revision, x, y, width, height))
