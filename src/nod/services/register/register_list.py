"""The register's list: its columns for a project, its pages, its groups (handbook §4)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import RuleBroken
from nod.core.register.came_by import WAYS
from nod.core.register.columns import COLUMNS, FIELD, OFF_THE_SHEET, USUAL, Column, field_columns
from nod.core.register.filters import Filter, Sort, check_filters, check_sorts, words_of
from nod.services.access.folders import folder_paths
from nod.services.acts.addressed import json_list, strings_in
from nod.services.acts.answers import Answered, Standing
from nod.services.acts.context import Context
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat, tree_of
from nod.services.register.copies_shown import CopyShown, copies_seen
from nod.services.register.sayings import Sayings
from nod.store import register_query
from nod.store.register_query import RegisterView
from nod.store.tables import (
    DocumentValueRow,
    DrawingSetRow,
    PersonRow,
    ProjectRow,
    SetSheetRow,
)


class DocumentLine(Answered):
    """One line of the register. `fields` has the values of typed fields by their id; `group` the key of its group.

    `is_copy`: what came later where it came from is not here. `also_in` are its copies, for a document that has such.
    """

    id: str
    number: str
    title: str
    kind: str
    discipline: str
    originator: str
    form: str
    zone: str
    level: str
    scale: str
    revision_id: str
    revision: str
    in_force_id: str
    in_force: str
    release: str
    status: str
    purpose: str
    sheet_size: str
    folder_id: str
    folder: str
    is_copy: bool
    also_in: list[CopyShown]
    sets: list[str]
    verdict: str
    standing: Standing
    filed_at: datetime
    filed_by: str
    came_from: str
    came_person: str
    came_by: str
    arrived_at: datetime | None
    file_name: str
    file_kinds: str
    size_bytes: int
    sha256: str
    checked_out: str
    checked_out_at: datetime | None
    withdrawn: bool
    fields: dict[str, str]
    group: str
    version: int


class GroupShown(Answered):
    """`key` is empty for those without a value."""

    key: str
    words: str
    count: int


class RegisterPage(Answered):
    """`cursor` fetches the lines that follow; empty at the end. `total` counts what the filters leave.

    `filter_words` says each filter in words, in their order. `groups` only where the list groups, on its first page.
    """

    lines: list[DocumentLine]
    cursor: str
    total: int
    filter_words: list[str]
    groups: list[GroupShown]


class Choice(Answered):
    code: str
    words: str


class ColumnShown(Answered):
    """`kind` says how it can be filtered, `change` the level that changing it needs: `none` where it cannot be."""

    key: str
    head: str
    kind: str
    width: int
    groups: bool
    sorts: bool
    change: str
    choices: list[Choice]
    folder_id: str


class RegisterColumns(Answered):
    """All columns the register can show, and those shown unless others are chosen."""

    columns: list[ColumnShown]
    usual: list[str]


@dataclass(frozen=True)
class AskedView:
    """A view as an address has it; `filters`, `sorts` and `shut` are JSON, see `web.register` for its query."""

    project_id: str
    words: str = ""
    filters: str = ""
    sorts: str = ""
    group: str = ""
    shut: str = ""
    cursor: str = ""
    limit: int = 100
    from_end: bool = False


def columns_of(project: ProjectRow) -> dict[str, Column]:
    """The register's columns in a project, typed fields last."""
    own = field_columns(project.rules["fields"])
    return {column.key: column for column in (*COLUMNS, *OFF_THE_SHEET.values(), *own)}


def read_columns(context: Context, actor: Actor, project_id: str) -> RegisterColumns:
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        say = Sayings(session, seat)
        columns = columns_of(seat.project).values()
        return RegisterColumns(
            columns=[_column(each, say) for each in columns if not each.folder_id or say.sees(each.folder_id)],
            usual=list(USUAL),
        )


def _column(column: Column, say: Sayings) -> ColumnShown:
    choices = column.choices if column.choices is not None else say.choices(column.key)
    return ColumnShown(
        key=column.key, head=column.head, kind=column.kind.value, width=column.width, groups=column.groups,
        sorts=column.key != "sets", change=column.change.name.lower(), folder_id=column.folder_id,
        choices=[Choice(code=code, words=words) for code, words in choices.items()],
    )  # fmt: skip


def read_view(session: Session, seat: Seat, asked: AskedView) -> RegisterView:
    """What was asked for, checked. Raises RuleBroken for what is no view of this register."""
    columns = columns_of(seat.project)
    filters = check_filters((Filter(each[0], each[1], tuple(each[2:])) for each in _lists(asked.filters, 2)), columns)
    sorts = check_sorts((Sort(each[0], each[1:] == ["down"]) for each in _lists(asked.sorts, 1)), columns)
    if asked.group and not (asked.group in columns and columns[asked.group].groups):
        raise RuleBroken("view_unknown", "This list cannot be grouped like that.", asked.group)
    tree = tree_of(session, seat.project.id)
    return RegisterView(
        project_id=asked.project_id, columns=columns, words=asked.words,
        filters=tuple(_with_folders_below(each, tree) for each in filters),
        sorts=tuple(each for each in sorts if each.column != "sets") or (Sort("number"),),
        group=asked.group, shut=strings_in(asked.shut), cursor=asked.cursor, limit=asked.limit,
        from_end=asked.from_end,
        folders=None if seat.runs else frozenset(seat.levels),
        has_copies=register_query.has_copies(session, seat.project.id),
        paths=folder_paths(session, seat) if _needs_paths(asked, sorts) else {},
        zone=ZoneInfo(seat.project.time_zone),
    )  # fmt: skip


def _needs_paths(asked: AskedView, sorts: Iterable[Sort]) -> bool:
    return asked.group == "folder" or any(each.column == "folder" for each in sorts)


def _lists(text: str, at_least: int) -> list[list[str]]:
    found = json_list(text)
    for each in found:
        if not isinstance(each, list) or len(each) < at_least or not all(isinstance(one, str) for one in each):
            raise RuleBroken("view_unknown", "This list cannot be shown: its address is damaged.")
    return found


def _with_folders_below(each: Filter, tree: dict[str, str | None]) -> Filter:
    """A folder stands for itself and all below."""
    if each.column != "folder" or not each.values:
        return each
    wanted = set(each.values)
    below = [folder for folder in tree if wanted & set(_upward(tree, folder))]
    return replace(each, values=tuple(below or ["nowhere"]))


def _upward(tree: dict[str, str | None], folder: str | None) -> Iterable[str]:
    while folder:
        yield folder
        folder = tree[folder]


def list_register(context: Context, actor: Actor, asked: AskedView) -> RegisterPage:
    """Raises RuleBroken for a column that is none, a filter that cannot be, a cursor that is not one of ours."""
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        view = read_view(session, seat, asked)
        say = Sayings(session, seat)
        hits = register_query.hits_of(session, view.words)
        total = register_query.count(session, view, hits)
        try:
            page = register_query.read_page(session, view, total, hits)
        except (ValueError, TypeError, AttributeError, RecursionError) as error:
            raise RuleBroken("view_unknown", "This list cannot be continued from there.", asked.cursor[:80]) from error
        grouped = register_query.groups(session, view) if view.group and not asked.cursor else []
        asked_filters = [Filter(each[0], each[1], tuple(each[2:])) for each in _lists(asked.filters, 2)]
        return RegisterPage(
            lines=lines_of(session, seat, context.clock.now(), page.rows, say),
            cursor=page.cursor,
            total=total,
            filter_words=[words_of(each, view.columns[each.column], say) for each in asked_filters],
            groups=_groups(view.group, grouped, say),
        )


def list_values(context: Context, actor: Actor, project_id: str, column: str) -> list[GroupShown]:
    """The values that a column has in the register as one sees it, with how many documents have each."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        if not column:
            raise RuleBroken("view_unknown", "Say of which column the values are wanted.")
        view = read_view(session, seat, AskedView(project_id, group=column))
        found = register_query.groups(session, view)
        if column == "folder":
            # As the filter takes them: a folder is itself and all below.
            found = _with_below(dict(found), tree_of(session, project_id), view.paths)
        return _groups(column, found, Sayings(session, seat))


def _with_below(
    counts: Mapping[str, int], tree: dict[str, str | None], paths: Mapping[str, str]
) -> list[tuple[str, int]]:  # fmt: skip
    """Folders that are seen and hold something, by path, with what is in them and below."""
    total: Counter[str] = Counter()
    for folder, count in counts.items():
        for above in _upward(tree, folder):
            total[above] += count
    return [(folder, total[folder]) for folder in sorted(paths, key=paths.__getitem__) if total[folder]]


def _groups(column: str, found: Sequence[tuple[Any, int]], say: Sayings) -> list[GroupShown]:
    return [GroupShown(key=key or "", words=say(column, key) if key else "none", count=count) for key, count in found]


def lines_of(
    session: Session, seat: Seat, now: datetime, rows: Sequence[Any], say: Sayings | None = None
) -> list[DocumentLine]:
    """Rows of documents as lines, with what stands in other tables fetched for all at once."""
    say = say or Sayings(session, seat)
    late = LateBy(session, seat.project, now)
    known = {key.removeprefix(FIELD) for key in columns_of(seat.project)}
    around = _Around(session, rows, known, copies_seen(session, seat, [row.id for row in rows], say.paths))
    return [_line(row, late, say, around) for row in rows]


class _Around:
    def __init__(
        self, session: Session, rows: Sequence[Any], known: set[str], copies: Mapping[str, list[CopyShown]]
    ) -> None:  # fmt: skip
        self.copies = copies
        people = {row.filed_by for row in rows} | {row.checked_out_by for row in rows}
        self.people: dict[str, str] = dict(
            session.execute(select(PersonRow.id, PersonRow.name).where(PersonRow.id.in_(people))).all()
        )
        self.values: dict[int, dict[str, str]] = {}
        query = select(DocumentValueRow.seq, DocumentValueRow.field, DocumentValueRow.value)
        for seq, field, value in session.execute(query.where(DocumentValueRow.seq.in_([row.seq for row in rows]))):
            if field in known:
                self.values.setdefault(seq, {})[field] = value
        self.sets: dict[str, list[str]] = {}
        standing = (
            select(SetSheetRow.document_id, DrawingSetRow.name)
            .join(DrawingSetRow, DrawingSetRow.id == SetSheetRow.set_id)
            .where(SetSheetRow.document_id.in_([row.id for row in rows]), ~DrawingSetRow.removed)
        )
        for document_id, name in session.execute(standing.order_by(DrawingSetRow.name)):
            self.sets.setdefault(document_id, []).append(name)


_AS_THEY_ARE = (
    "id", "number", "title", "kind", "discipline", "originator", "form", "zone", "level", "scale", "revision_id",
    "revision", "in_force_id", "in_force", "release", "status", "purpose",
    "sheet_size", "folder_id", "verdict", "filed_at", "came_from", "arrived_at",
    "file_name", "file_kinds", "came_person", "size_bytes", "sha256", "checked_out_at", "withdrawn", "version",
)  # fmt: skip


def _line(row: Any, late: LateBy, say: Sayings, around: _Around) -> DocumentLine:
    return DocumentLine.model_construct(
        **{key: getattr(row, key) for key in _AS_THEY_ARE},
        standing=Standing(
            with_whom=row.with_whom, since_at=row.since_at, due_on=row.due_on, days_late=late(row.due_on)
        ),
        folder=say.paths.get(row.folder_id, ""),
        is_copy=bool(row.copy_of),
        also_in=around.copies.get(row.id, []),
        came_by=WAYS.get(row.came_by, ""),
        sets=around.sets.get(row.id, []),
        filed_by=around.people.get(row.filed_by, ""),
        checked_out=around.people.get(row.checked_out_by, ""),
        fields=around.values.get(row.seq, {}),
        group=getattr(row, "group_key", "") or "",
    )


def may_change(seat: Seat, folder_id: str, column: Column) -> bool:
    return column.change > Level.NONE and seat.at(folder_id) >= column.change


def field_ids(project: ProjectRow) -> set[str]:
    return {key.removeprefix(FIELD) for key in columns_of(project) if key.startswith(FIELD)}
