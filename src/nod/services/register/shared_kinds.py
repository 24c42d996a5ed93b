"""Lists of documents as things that a link can lead to: a folder with all below it, a drawing set, a kept view."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import urlencode

from sqlalchemy import ColumnElement, Select, exists, select

from nod.core.access.levels import Level
from nod.services.acts.seats import Seat
from nod.services.links.rooms import LinkRoom, link_room
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside
from nod.store.tables import DrawingSetRow, FolderRow, SavedViewRow


def _folder(folder_id: Any) -> Select[Any]:
    row = aside("register_folder", FolderRow)
    return select(row.id).where(row.id == folder_id)


def _owner(view_id: Any) -> Select[Any]:
    row = aside("register_owner", SavedViewRow)
    return select(row.person_id).where(row.id == view_id)


def _is_shared(view_id: Any) -> ColumnElement[bool]:
    row = aside("register_is_shared", SavedViewRow)
    return exists(select(row.id).where(row.id == view_id, row.shared))


def asked_in(content: dict[str, Any]) -> tuple[str, str]:
    """The words and the filters of a kept view, as the register's list takes them."""
    words, filters = content.get("words"), content.get("filters")
    return words if isinstance(words, str) else "", json.dumps(filters) if isinstance(filters, list) else ""


def _address_of_view(row: SavedViewRow) -> str:
    words, filters = asked_in(row.content)
    search = {key: value for key, value in (("words", words), ("filters", filters)) if value}
    return f"/register?{urlencode(search)}" if search else "/register"


FOLDER = thing_kind(
    ThingKind(
        code="shared_folder",
        words="folder",
        plural="folders",
        row=FolderRow,
        audience=AudienceOf(folders=(_folder,)),
        number=lambda row: "",
        title=lambda row: row.name,
        address=lambda row: f"/register?{urlencode({'filters': json.dumps([['folder', 'is', row.id]])})}",
        named_by=(),
        listed=(FolderRow.id, FolderRow.name),
        newest=FolderRow.name,
        topic="folders",
        find=lambda session, seat, words, most: [],
        part_of="document",
        has_talk=False,
    )
)

DRAWING_SET = thing_kind(
    ThingKind(
        code="shared_set",
        words="drawing set",
        plural="drawing sets",
        row=DrawingSetRow,
        audience=AudienceOf(),
        number=lambda row: "",
        title=lambda row: row.name,
        address=lambda row: f"/register/sets?set={row.id}",
        named_by=(),
        listed=(DrawingSetRow.id, DrawingSetRow.name, DrawingSetRow.removed),
        newest=DrawingSetRow.name,
        topic="sets",
        find=lambda session, seat, words, most: [],
        part_of="document",
        has_talk=False,
    )
)

VIEW = thing_kind(
    ThingKind(
        code="shared_view",
        words="list",
        plural="lists",
        row=SavedViewRow,
        audience=AudienceOf(people=(_owner,), is_open=_is_shared, leads=False, stewards=False),
        number=lambda row: "",
        title=lambda row: row.name,
        address=_address_of_view,
        named_by=(),
        listed=(SavedViewRow.id, SavedViewRow.name, SavedViewRow.content, SavedViewRow.of),
        newest=SavedViewRow.name,
        topic="views",
        find=lambda session, seat, words, most: [],
        part_of="document",
        has_talk=False,
    )
)


def _may_send(seat: Seat) -> bool:
    return seat.level >= Level.FILE


LISTS = (
    link_room(LinkRoom(FOLDER.code, ("look", "download"), lambda seat, row: seat.at(row.id) >= Level.FILE)),
    link_room(LinkRoom(DRAWING_SET.code, ("look", "download"), lambda seat, row: _may_send(seat) and not row.removed)),
    link_room(LinkRoom(VIEW.code, ("look", "download"), lambda seat, row: _may_send(seat) and row.of == "register")),
)
