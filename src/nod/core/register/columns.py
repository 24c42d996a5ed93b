"""The columns of the register: what each is called, what may be asked of it, who may change it (handbook §4)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from nod.core.access.levels import Level
from nod.core.register.came_by import WAYS
from nod.core.register.in_force import RELEASES


class Kind(StrEnum):
    """How a column's values are compared."""

    TEXT = "text"
    CODE = "code"
    DATE = "date"
    NUMBER = "number"
    YES_NO = "yes_no"


@dataclass(frozen=True)
class Column:
    """`width` in pixels of a list. `change` is the level that changing it in the list needs; NONE where it cannot be.

    `choices` are the values a CODE column can have, where these are fixed: code to words.
    """

    key: str
    head: str
    kind: Kind = Kind.TEXT
    width: int = 120
    groups: bool = False
    change: Level = Level.NONE
    choices: Mapping[str, str] | None = None
    folder_id: str = ""


_SIZE = Column("size_bytes", "Size", Kind.NUMBER, 84)
COLUMNS: tuple[Column, ...] = (
    Column("number", "Number", width=200),
    Column("title", "Title", width=260, change=Level.KEEP),
    Column("discipline", "Discipline", Kind.CODE, 134, groups=True, change=Level.FILE),
    Column("revision", "Rev", Kind.CODE, 56, groups=True),
    Column("in_force", "In force", Kind.CODE, 76, groups=True),
    Column("status", "Status", Kind.CODE, 66, groups=True, change=Level.KEEP),
    Column("verdict", "Verdict", Kind.CODE, 66, groups=True),
    Column("with_whom", "With", width=148, groups=True),
    Column("since_at", "Since", Kind.DATE, 72),
    Column("due_on", "Due", Kind.DATE, 118),
    Column("originator", "Company", Kind.CODE, 90, groups=True, change=Level.FILE),
    Column("form", "Form", Kind.CODE, 80, groups=True, change=Level.FILE),
    Column("zone", "Zone", Kind.CODE, 70, groups=True, change=Level.FILE),
    Column("level", "Level", Kind.CODE, 70, groups=True, change=Level.FILE),
    Column("scale", "Scale", Kind.CODE, 76, groups=True, change=Level.FILE),
    Column("sheet_size", "Sheet", Kind.CODE, 90, groups=True),
    Column("folder", "Folder", Kind.CODE, 200, groups=True, change=Level.KEEP),
    Column("sets", "Drawing set", Kind.CODE, 170, groups=True),
    Column("purpose", "Purpose", width=140, groups=True, change=Level.FILE),
    Column("release", "Release", Kind.CODE, 170, groups=True, choices=RELEASES),
    Column("kind", "Kind", Kind.CODE, 70, True, choices={"sheet": "sheet", "file": "file", "model": "model"}),
    Column("filed_at", "Filed", Kind.DATE, 72),
    Column("filed_by", "Filed by", width=140, groups=True),
    Column("came_from", "Came from", width=170, groups=True),
    Column("came_person", "From whom", width=140, groups=True),
    Column(
        "came_by", "Came by", Kind.CODE, 110, groups=True, choices={code: each for code, each in WAYS.items() if code}
    ),
    Column("arrived_at", "Arrived", Kind.DATE, 72),
    Column("file_name", "File name", width=260),
    Column("file_kinds", "Files", width=90, groups=True),
    _SIZE,
    Column("sha256", "SHA-256", width=130),
    Column("checked_out", "Checked out by", width=140, groups=True),
    Column("withdrawn", "Withdrawn", Kind.YES_NO, 90),
)
USUAL = (
    "number",
    "title",
    "discipline",
    "revision",
    "in_force",
    "status",
    "verdict",
    "with_whom",
    "since_at",
    "due_on",
)
FIELD = "field:"
"""What the key of a typed field's column begins with; its id follows."""

OFF_THE_SHEET: dict[str, Column] = {
    "date": Column(FIELD + "sheet_date", "Date on sheet", width=110, change=Level.FILE),
    "drawn by": Column(FIELD + "drawn_by", "Drawn by", width=110, groups=True, change=Level.FILE),
    "folio": Column(FIELD + "folio", "Folio", width=80, change=Level.FILE),
}
"""Fields that every project has, by the name of the zone that reads them: they say what the current sheet says."""

_FIELD_KINDS = {"text": Kind.TEXT, "number": Kind.NUMBER, "date": Kind.DATE, "choice": Kind.CODE, "yes_no": Kind.YES_NO}
_FIELD_WIDTHS = {Kind.TEXT: 150, Kind.NUMBER: 90, Kind.DATE: 84, Kind.CODE: 130, Kind.YES_NO: 80}


def field_columns(fields: Iterable[Mapping[str, Any]]) -> list[Column]:
    """The columns of a project's typed fields, as its rules keep these."""
    return [field_column(each["id"], each["name"], each["kind"], each["choices"], each["folder_id"]) for each in fields]


def field_column(id: str, name: str, kind: str, choices: Iterable[str], folder_id: str = "") -> Column:
    """The column of one of the project's typed fields."""
    compared = _FIELD_KINDS[kind]
    listed = {each: each for each in choices} if compared is Kind.CODE else None
    groups = compared in (Kind.CODE, Kind.YES_NO, Kind.TEXT)
    return Column(FIELD + id, name, compared, _FIELD_WIDTHS[compared], groups, Level.FILE, listed, folder_id)
