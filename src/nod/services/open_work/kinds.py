"""The kinds of open work: each feature registers what it wants of people, and how the Desk says it."""

from __future__ import annotations

from collections import namedtuple
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from sqlalchemy.orm import Session

from nod.core.acts.working_days import ProjectClock
from nod.services.acts.answers import Standing
from nod.services.acts.late import LateBy
from nod.store.tables import OpenWorkRow

Work: Any = namedtuple("Work", OpenWorkRow.__table__.columns.keys())  # type: ignore[misc] # the table has the fields
"""An `OpenWorkRow` as plain values: of these there may be many."""

Opened = tuple[Any, Any]
"""Open work and the row of its thing."""


class Said(NamedTuple):
    """What a line says: which one it is, more about it, and the word on its button."""

    name: str
    detail: str
    act: str


Say = Callable[[Session, Sequence[Opened]], Mapping[str, Said]]
"""By id of the work."""

Expect = Callable[[Session, ProjectClock, LateBy, Sequence[OpenWorkRow]], Mapping[str, tuple[str, Standing]]]
"""What is coming, by id of the work: what it waits for, and where that stands, with the day expected."""


@dataclass(frozen=True)
class WorkKind:
    """`code` names it in `OpenWorkRow.kind`, `thing_kind` is what it is wanted on.

    `mine` says it to whoever has it, `theirs` to whoever waits for it or looks after what is late; `expect` where it
    can be seen coming. `order` is its place among others on the Desk; None for what the Desk does not show.
    """

    code: str
    thing_kind: str
    order: int | None = None
    mine: Say | None = None
    theirs: Say | None = None
    expect: Expect | None = None


_KINDS: dict[str, WorkKind] = {}


def work_kind(kind: WorkKind) -> WorkKind:
    """Registers a kind. Raises ValueError for a second one of the same code."""
    if kind.code in _KINDS:
        raise ValueError(f"There is a kind {kind.code} already")
    _KINDS[kind.code] = kind
    return kind


def work_kinds() -> Iterator[WorkKind]:
    yield from _KINDS.values()
