"""The register's list: filtered, sorted, grouped, a page at a time by key, on indexes where there is one."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, and_, exists, false, func, literal_column, or_, select
from sqlalchemy.exc import DBAPIError, StatementError
from sqlalchemy.orm import Session, aliased

from nod.core.register.columns import Column
from nod.core.register.filters import Filter, Sort
from nod.core.register.number_shapes import fold
from nod.store.dialects.sqlite import WordIndex, unindexed, words_in
from nod.store.register_columns import Expression, condition, expression
from nod.store.tables import NO_COPY, DocumentRow

_FEW = 1000
_UTC = ZoneInfo("UTC")
_COLUMNS = tuple(
    getattr(DocumentRow, each.key)
    for each in DocumentRow.__table__.columns
    if each.key not in ("project_id", "home_folder_id", "shapes", "field_words", "withdrawn_why", "checked_out_note")
)


@dataclass(frozen=True)
class RegisterView:
    """What the list shows. `cursor` is what the page before answered; empty for the first.

    `columns` are those of the project by key. `folders` are those the viewer sees, None for all; `paths` has the path
    of each. `shut` are keys of groups whose lines are left out; `from_end` begins with the last page and goes back.
    `has_copies`: there are copies in the project. `among` leaves only some documents. Filters must have been checked.
    """

    project_id: str
    columns: Mapping[str, Column]
    words: str = ""
    filters: tuple[Filter, ...] = ()
    sorts: tuple[Sort, ...] = (Sort("number"),)
    group: str = ""
    shut: tuple[str, ...] = ()
    cursor: str = ""
    limit: int = 100
    from_end: bool = False
    folders: frozenset[str] | None = None
    has_copies: bool = False
    among: ColumnElement[bool] | None = None
    paths: Mapping[str, str] = field(default_factory=dict)
    zone: ZoneInfo = _UTC


@dataclass(frozen=True)
class RegisterPage:
    """`rows` have the columns of a document, and `group_key` where the view groups."""

    rows: list[Any]
    cursor: str


@dataclass(frozen=True)
class Hits:
    """The lines that have a view's words: `rows` where they are few, None where they are many or none are asked for."""

    match: str = ""
    rows: tuple[int, ...] | None = None


def copies_of_seen(project_id: str, folders: frozenset[str] | None) -> Select[int]:
    """Row numbers of copies whose document lies in one of these folders, or in any: they are no lines of their own."""
    copy = aliased(DocumentRow)
    query = select(copy.seq).where(copy.project_id == project_id, copy.copy_of != NO_COPY)
    return query if folders is None else query.where(copy.home_folder_id.in_(folders))


def has_copies(session: Session, project_id: str) -> bool:
    copies = exists().where(DocumentRow.project_id == project_id, DocumentRow.copy_of != NO_COPY)
    return bool(session.scalar(select(copies)))


def hits_of(session: Session, words: str) -> Hits:
    """Asked once for a list: few hits are looked up one by one, many are met while walking the sorted index."""
    match = word_query(words)
    if not match:
        return Hits()
    found = tuple(session.scalars(_hits(match).limit(_FEW + 1)))
    return Hits(match, found if len(found) <= _FEW else None)


def read_page(session: Session, view: RegisterView, total: int, hits: Hits | None = None) -> RegisterPage:
    """One page in the list's order; empty values sort first going up. Raises ValueError for a cursor that is none.

    `total` is what `count` says of the same view: where folders leave few lines, these are looked up, not walked to.
    """
    group = _expression(view, view.group) if view.group else None
    ordered = _ordered(view, group)
    columns = (*_COLUMNS, *([group.key.label("group_key")] if group else []))
    hits = hits or hits_of(session, view.words)
    query = _joined(_filtered(select(*columns), view, hits, few=total <= _FEW), [each for each, _ in ordered])
    if group and view.shut:
        query = query.where(func.coalesce(group.key, "").not_in(view.shut))
    down = ordered[-1][1] if ordered else False
    turned = view.from_end
    keys = [*((each.value, descending != turned) for each, descending in ordered), (DocumentRow.seq, down != turned)]
    for place, (value, _) in enumerate(keys):
        query = query.add_columns(value.label(f"_at{place}"))
    if view.cursor:
        query = query.where(_beyond(keys, _read_cursor(view.cursor, len(keys))))
    query = query.order_by(*(value.desc() if descending else value for value, descending in keys))
    try:
        rows = list(session.execute(query.limit(view.limit + 1)))
    except StatementError as error:
        if isinstance(error, DBAPIError):
            raise
        # A value of another kind than the column's, as no cursor of ours has.
        raise ValueError(view.cursor) from error
    more = len(rows) > view.limit
    rows = rows[: view.limit]
    cursor = _cursor(rows[-1], len(keys)) if more else ""
    return RegisterPage(rows[::-1] if turned else rows, cursor)


def _expression(view: RegisterView, key: str) -> Expression:
    return expression(key, view.paths, view.columns)


def _ordered(view: RegisterView, group: Expression | None) -> list[tuple[Expression, bool]]:
    """What the list is sorted by, the group first."""
    sorts = {each.column: each.descending for each in view.sorts}
    down = sorts.pop(view.group, False)
    rest = [(_expression(view, key), descending) for key, descending in sorts.items()]
    return [(group, down), *rest] if group else rest


def _joined(query: Any, expressions: list[Expression]) -> Any:
    for each in expressions:
        query = each.join(query)
    return query


def count(session: Session, view: RegisterView, hits: Hits | None = None) -> int:
    """How many lines the filters leave."""
    hits = hits or hits_of(session, view.words)
    if hits.match and hits.rows is None and not view.filters and view.folders is None and view.among is None:
        others = _count_others(session, view, hits)
        if others is not None:
            return int(session.scalar(_hits(hits.match).with_only_columns(func.count())) or 0) - others
    # Without a filter the folders' own ranges of their index are counted, and nothing else is looked at.
    by_folder = not view.filters and not view.words and view.among is None
    query = _filtered(select(func.count()).select_from(DocumentRow), view, hits, few=by_folder, with_doubles=by_folder)
    total = int(session.scalar(query) or 0)
    return total - _doubles(session, view) if by_folder and view.has_copies else total


def _doubles(session: Session, view: RegisterView) -> int:
    """Counted by themselves: a look at each of all lines would take longer than to count them."""
    of_seen = DocumentRow.seq.in_(copies_of_seen(view.project_id, view.folders))
    query = select(func.count()).select_from(DocumentRow).where(of_seen, DocumentRow.withdrawn.is_(False))
    if view.folders is not None:
        query = query.where(unindexed(DocumentRow.folder_id).in_(view.folders))
    return int(session.scalar(query) or 0)


def _count_others(session: Session, view: RegisterView, hits: Hits) -> int | None:
    """Hits that are no lines of the view: of other projects, or withdrawn. None where these documents are many.

    The index itself counts many hits at once; only the few documents that do not belong have to be looked at.
    """
    own = DocumentRow.project_id
    # Ranges of indexes: one condition with OR would look at every document.
    withdrawn: ColumnElement[bool] = literal_column("document.withdrawn")
    copies = DocumentRow.seq.in_(copies_of_seen(view.project_id, None)) & ~withdrawn
    ranges = (own < view.project_id, own > view.project_id, (own == view.project_id) & withdrawn, copies)
    others: list[int] = []
    for each in ranges:
        others += session.scalars(select(DocumentRow.seq).where(each).limit(_FEW + 1))
        if len(others) > _FEW:
            return None
    among = _hits(hits.match)
    both = select(DocumentRow.seq).where(DocumentRow.seq.in_(others), DocumentRow.seq.in_(among))
    return len(session.scalars(both).all()) if others else 0


def groups(session: Session, view: RegisterView) -> list[tuple[Any, int]]:
    """Each key of the view's group with its count, in the order of the list; None or '' for none."""
    group = _expression(view, view.group)
    hits = hits_of(session, view.words)
    query = group.join(_filtered(select(group.key, func.count()).select_from(DocumentRow), view, hits))
    down = any(each.descending for each in view.sorts if each.column == view.group)
    query = query.group_by(group.key).order_by(group.value.desc() if down else group.value)
    return [(key, found) for key, found in session.execute(query)]


def ids(session: Session, view: RegisterView, most: int) -> list[str]:
    """The documents of the view, at most that many."""
    query = _filtered(select(DocumentRow.id), view, hits_of(session, view.words)).order_by(DocumentRow.number)
    return list(session.scalars(query.limit(most)))


def _cursor(row: Any, count: int) -> str:
    return json.dumps([_plain(getattr(row, f"_at{place}")) for place in range(count)])


def _read_cursor(cursor: str, count: int) -> list[Any]:
    values = json.loads(cursor)
    if not isinstance(values, list) or len(values) != count or not isinstance(values[-1], int):
        raise ValueError(cursor)
    if not all(_is_key(each) for each in values):
        raise ValueError(cursor)
    return values


def _is_key(value: Any) -> bool:
    """What stands in a cursor of ours; the database takes no larger numbers than these."""
    if isinstance(value, bool):
        return False
    return value is None or isinstance(value, str) or (isinstance(value, int | float) and abs(value) < 2**53)


def _plain(value: Any) -> Any:
    return value.isoformat() if hasattr(value, "isoformat") else value


def _beyond(keys: list[tuple[Any, bool]], values: list[Any]) -> ColumnElement[bool]:
    """Rows after these values in the order. NULL is before everything going up and after everything going down."""
    (column, descending), value = keys[0], values[0]
    after = _after(column, value, descending=descending)
    if len(keys) == 1:
        return after
    same = column.is_(None) if value is None else column == _typed(column, value)
    return or_(after, and_(same, _beyond(keys[1:], values[1:])))


def _after(column: Any, value: Any, *, descending: bool) -> ColumnElement[bool]:
    if value is None:
        return false() if descending else column.is_not(None)
    value = _typed(column, value)
    if descending:
        # A column that has a value on every line needs no look at those that have none.
        return column < value if _always(column) else or_(column < value, column.is_(None))
    return column > value  # type: ignore[no-any-return]


def _always(column: Any) -> bool:
    return not getattr(column, "nullable", True) and getattr(column, "class_", None) is DocumentRow


def _typed(column: Any, value: Any) -> Any:
    python_type = column.type.python_type if not isinstance(value, int | float) else type(value)
    return python_type.fromisoformat(value) if hasattr(python_type, "fromisoformat") else value


def _filtered(
    query: Any, view: RegisterView, hits: Hits, *, few: bool = False, with_doubles: bool = False
) -> Any:  # fmt: skip
    """`with_doubles`: with the copies, too, of what the viewer sees where it lies."""
    # With few hits they are looked up one by one, not met while walking the project.
    project = DocumentRow.project_id if hits.rows is None else unindexed(DocumentRow.project_id)
    query = query.where(project == view.project_id)
    if view.folders is not None:
        # The index of the sort is walked, which ends with the folder; few lines come by their folder.
        folder = DocumentRow.folder_id if few else unindexed(DocumentRow.folder_id)
        query = query.where(folder.in_(view.folders))
    if view.has_copies and not with_doubles:
        query = query.where(DocumentRow.seq.not_in(copies_of_seen(view.project_id, view.folders)))
    if not any(each.column == "withdrawn" for each in view.filters):
        query = query.where(DocumentRow.withdrawn.is_(False))
    for each in view.filters:
        query = query.where(_condition(each, view))
    if view.among is not None:
        query = query.where(view.among)
    if hits.rows is not None:
        return query.where(DocumentRow.seq.in_(hits.rows))
    if hits.match:
        return query.where(DocumentRow.seq.in_(_hits(hits.match)))
    return query


def _condition(each: Filter, view: RegisterView) -> ColumnElement[bool]:
    """In a folder is also what has a copy there, for whoever sees both."""
    own = condition(each, view.columns, view.zone)
    if not (each.column == "folder" and each.op == "is" and view.has_copies):
        return own
    copy, line = aliased(DocumentRow), aliased(DocumentRow)
    lying = select(copy.copy_of).where(copy.copy_of != NO_COPY, ~copy.withdrawn, copy.folder_id.in_(each.values))
    there = select(line.seq).where(line.id.in_(lying))
    return own | DocumentRow.seq.in_(there)


def _hits(match: str) -> Select[int]:
    """The row numbers of the documents that are met."""
    index, seq, met = words_in(WordIndex.DOCUMENTS, match)
    return select(seq).select_from(index).where(met)


def word_query(words: str) -> str:
    """What was typed as an FTS5 query over numbers, titles and fields; nothing typed can be an operator.

    Every word is a prefix and all must be there; a word with a figure in it may also be a piece of a number, typed
    without its separators or with O for 0.
    """
    return " AND ".join(filter(None, (_word(each) for each in words.split()[:12])))


def _word(word: str) -> str:
    parts = [part for part in re.findall(r"[^\W_]+", word)][:12]
    if not parts:
        return ""
    plain = " ".join(f'"{part}"*' for part in parts)
    shape = fold(word)
    # A word without separators and look-alikes is found among the shapes as it is.
    if not shape or (len(parts) == 1 and (shape == word.upper() or not re.search(r"\d", shape))):
        return f"({plain})"
    return f'(({plain}) OR (shapes : "{shape}"*))'


def plain_words(words: str) -> str:
    """What was typed as an FTS5 query over text: every word as a prefix, all of them."""
    return " ".join(f'"{word}"*' for word in re.findall(r"[^\W_]+", words)[:12])
