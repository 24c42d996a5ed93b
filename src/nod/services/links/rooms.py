"""What links to things of a kind offer: each feature says it for its own kind."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.services.acts.context import Act
from nod.services.acts.seats import Seat

MayGive = Callable[[Seat, Any], bool]
NamesPerson = Callable[[Session, Any, str], bool]


def _nobody(_session: Session, _row: Any, _person_id: str) -> bool:
    return False


def _nothing(_act: Act, _row: Any, _name: str, _text: str) -> None:
    pass


@dataclass(frozen=True)
class LinkRoom:
    """`offers` are acts of `core.links.links.ALLOWS`. `names` tells whether a thing itself names a person: such a
    person's link opens in their own right, whatever becomes of who gave it. `heard` tells whoever must know at once
    of what a guest has said there.
    """

    kind: str
    offers: tuple[str, ...]
    may_give: MayGive
    names: NamesPerson = _nobody
    heard: Callable[[Act, Any, str, str], None] = _nothing


_ROOMS: dict[str, LinkRoom] = {}


def link_room(room: LinkRoom) -> LinkRoom:
    """Registers it. Raises ValueError for a second one of a kind."""
    if room.kind in _ROOMS:
        raise ValueError(f"There is a room for links to {room.kind} already")
    _ROOMS[room.kind] = room
    return room


def room_of(kind: str) -> LinkRoom | None:
    return _ROOMS.get(kind)


def forget_room(kind: str) -> None:
    """For a kind that was there for a while only."""
    _ROOMS.pop(kind, None)


def may_file_there(seat: Seat, row: Any) -> bool:
    """For things with a folder: who may send them out may give a link to them."""
    return seat.at(row.folder_id) >= Level.FILE
