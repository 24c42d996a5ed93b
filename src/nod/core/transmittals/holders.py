"""Who holds which revision of a document: by what was sent and handed over, against what is in force (handbook §10)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum


class CellState(StrEnum):
    """How a company's copy of a document stands to what people are to work from now."""

    IN_STEP = "in_step"
    NOT_ACKNOWLEDGED = "not_acknowledged"
    BEHIND = "behind"
    AHEAD = "ahead"
    WITHDRAWN = "withdrawn"
    NEVER = "never"


STATE_WORDS: dict[CellState, str] = {
    CellState.IN_STEP: "in step",
    CellState.NOT_ACKNOWLEDGED: "not acknowledged",
    CellState.BEHIND: "behind",
    CellState.AHEAD: "has what is not released",
    CellState.WITHDRAWN: "holds what is withdrawn",
    CellState.NEVER: "never sent",
}


@dataclass(frozen=True)
class Sending:
    """A revision that went to somebody of a company, or was handed over on paper. What is void is none.

    `place` orders the revisions of the document. `wanted`: that they acknowledge it, which nobody does of a copy for
    information or of paper.
    """

    place: int
    at: datetime
    opened_at: datetime | None = None
    acknowledged_at: datetime | None = None
    wanted: bool = True


@dataclass(frozen=True)
class Held:
    """What a company has: the highest revision that was sent to it, since its first sending.

    `opened_at`, `acknowledged_at`: by the first of its people who did. `older_at`: when an older one went to it by
    mistake since, which takes nothing away.
    """

    place: int
    sent_at: datetime
    opened_at: datetime | None
    acknowledged_at: datetime | None
    wanted: bool
    older_at: datetime | None


@dataclass(frozen=True)
class Places:
    """A document's revisions as places in their order. `in_force` is None where nothing is.

    `released` are those that were released at some time, with their codes, in order.
    """

    in_force: int | None
    released: Sequence[tuple[int, str]] = ()
    withdrawn: bool = False


@dataclass(frozen=True)
class Cell:
    """`behind` has the codes of the released revisions that the company has not, the older first."""

    state: CellState
    behind: tuple[str, ...] = ()


def held_of(sendings: Iterable[Sending]) -> Held | None:
    """None where nothing was sent."""
    found = sorted(sendings, key=lambda each: each.at)
    if not found:
        return None
    highest = max(each.place for each in found)
    of_it = [each for each in found if each.place == highest]
    since = of_it[0].at
    older = [each.at for each in found if each.place < highest and each.at > since]
    return Held(
        highest, since, _first(each.opened_at for each in of_it), _first(each.acknowledged_at for each in of_it),
        any(each.wanted for each in of_it), max(older, default=None),
    )  # fmt: skip


def _first(instants: Iterable[datetime | None]) -> datetime | None:
    return min((each for each in instants if each is not None), default=None)


def cell_of(held: Held | None, places: Places) -> Cell:
    """C02 that is not released takes nobody with C01 out of step; released, it leaves them behind."""
    if held is None:
        return Cell(CellState.NEVER)
    if places.withdrawn:
        return Cell(CellState.WITHDRAWN)
    if places.in_force is None or held.place > places.in_force:
        return Cell(CellState.AHEAD)
    if held.place < places.in_force:
        missing = tuple(code for place, code in places.released if held.place < place <= places.in_force)
        return Cell(CellState.BEHIND, missing)
    waits = held.wanted and held.acknowledged_at is None
    return Cell(CellState.NOT_ACKNOWLEDGED if waits else CellState.IN_STEP)
