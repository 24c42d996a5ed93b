"""The kinds of things: each feature registers its own, and links, search, log, live channel and notices go over all.

A new kind is one entry here, made in its feature's package; see `services.features` for when it is loaded.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from sqlalchemy import ColumnElement
from sqlalchemy.orm import Session

from nod.services.acts.seats import Seat
from nod.services.things.audiences import AudienceOf, seen
from nod.store.tables import Base

Row = TypeVar("Row", bound=Base)
"""A table's class, of rows with an `id` and a `project_id`."""

Find = Callable[[Session, Seat, str, int], Sequence[Any]]
"""Rows that are there for a seat, by words that somebody types, at most so many, the likeliest first."""


def _everybody(seat: Seat, row: Any) -> bool:
    return True


def _never(row: Any) -> bool:
    return False


@dataclass(frozen=True)
class ThingKind(Generic[Row]):
    """A kind of thing. `code` names it in links, in entries of the trail and in addresses of the API.

    `words` and `plural` are the handbook's; `number` and `title` say which one it is (a title may be empty), `address`
    is its path in Nod, `dossier` that of its dossier where this is another. It is found by `find`, or where that is
    None by words anywhere in `named_by`, the newest of `newest` first. `tool` must be on for whoever opens it. `topic`
    is what the live channel calls a change of it. `listed` are the columns that lists need; the others are read only
    when they are asked for. Of what is `part_of` another kind, the log speaks with that. What is
    `placed`, the search shows in a list of its own, with the place where the words are. Whoever sees a thing that
    `has_talk` may talk about it, if `may_talk` allows them; so they may add files to one that `has_files`. Of one that
    `shows_unsaid`, files that were added and not said yet are there for whoever sees it.
    """

    code: str
    words: str
    plural: str
    row: type[Row]
    audience: AudienceOf
    number: Callable[[Row], str]
    title: Callable[[Row], str]
    address: Callable[[Row], str]
    named_by: tuple[Any, ...]
    listed: tuple[Any, ...]
    newest: Any
    topic: str
    tool: str = ""
    find: Find | None = None
    part_of: str = ""
    placed: bool = False
    dossier: Callable[[Row], str] | None = None
    has_talk: bool = True
    has_files: bool = False
    may_talk: Callable[[Seat, Row], bool] = _everybody
    shows_unsaid: Callable[[Row], bool] = _never

    def name(self, row: Row) -> str:
        return f"{self.number(row)} {self.title(row)}".strip()

    def tab(self, row: Row, tab: str) -> str:
        """The path of a tab of its dossier."""
        address = (self.dossier or self.address)(row)
        return f"{address}{'&' if '?' in address else '?'}tab={tab}"

    @property
    def columns(self) -> Any:
        """The table's class, for its columns."""
        return self.row

    def seen(self, seat: Seat, thing_id: Any = None) -> ColumnElement[bool]:
        """A condition for those that are there for a seat: of the kind's own rows, or of a column with ids of it."""
        return seen(self.audience, self.columns.id if thing_id is None else thing_id, seat.eyes)

    @property
    def takes_files(self) -> bool:
        return self.has_talk or self.has_files

    def is_on(self, seat: Seat) -> bool:
        return not self.tool or self.tool in seat.tools


_KINDS: dict[str, ThingKind[Any]] = {}


def thing_kind(kind: ThingKind[Row]) -> ThingKind[Row]:
    """Registers a kind. Raises ValueError for a second one of the same code."""
    if kind.code in _KINDS:
        raise ValueError(f"There is a kind {kind.code} already")
    _KINDS[kind.code] = kind
    return kind


def forget_kind(kind: ThingKind[Any]) -> None:
    """For a kind that was there for a while only."""
    del _KINDS[kind.code]


def thing_kinds() -> Iterator[ThingKind[Any]]:
    """In the order in which they are offered: by their plural, documents first."""
    yield from sorted(_KINDS.values(), key=lambda each: (each.code != "document", each.plural))


def seen_of(code: str, seat: Seat) -> ColumnElement[bool]:
    """A condition for the rows of a kind that a room above registers."""
    return _KINDS[code].seen(seat)


def kind_of(code: str) -> ThingKind[Any] | None:
    return _KINDS.get(code)
