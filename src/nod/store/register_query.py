"""The register's list: filtered, sorted, a page at a time by key, on indexes throughout."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, String, TextClause, and_, func, literal_column, or_, select, text
from sqlalchemy.orm import Session

from nod.store.tables import DocumentRow

SORTABLE = ("number", "title", "discipline", "revision", "status", "verdict", "with_whom", "due_on", "filed_at")
_FEW = 1000
FILTERS = ("discipline", "status", "verdict")
_COLUMNS = (
    DocumentRow.seq, DocumentRow.id, DocumentRow.number, DocumentRow.title, DocumentRow.discipline,
    DocumentRow.revision_id, DocumentRow.revision, DocumentRow.status, DocumentRow.sheet_size, DocumentRow.verdict,
    DocumentRow.with_whom, DocumentRow.since_at, DocumentRow.due_on, DocumentRow.filed_at, DocumentRow.version,
)  # fmt: skip


@dataclass(frozen=True)
class RegisterView:
    """What the list shows. `cursor` is what the page before answered; empty for the first.

    `folders` are those the viewer sees; None for all.
    """

    project_id: str
    words: str = ""
    filters: tuple[tuple[str, str], ...] = ()
    sort: str = "number"
    descending: bool = False
    cursor: str = ""
    limit: int = 100
    folders: frozenset[str] | None = None


@dataclass(frozen=True)
class RegisterPage:
    rows: list[Any]
    cursor: str


def read_page(session: Session, view: RegisterView, total: int) -> RegisterPage:
    """One page in order; empty values sort first going up. Raises KeyError for a column that does not sort.

    `total` is what `count` says of the same view: where folders leave few lines, these are looked up, not walked to.
    """
    if view.sort not in SORTABLE:
        raise KeyError(view.sort)
    column = getattr(DocumentRow, view.sort)
    query = _filtered(session, select(*_COLUMNS), view, few=total <= _FEW)
    order = (column.desc(), DocumentRow.seq.desc()) if view.descending else (column, DocumentRow.seq)
    if view.cursor:
        query = query.where(_beyond(column, *json.loads(view.cursor), descending=view.descending))
    rows = list(session.execute(query.order_by(*order).limit(view.limit + 1)))
    more = len(rows) > view.limit
    rows = rows[: view.limit]
    return RegisterPage(rows, _cursor(rows[-1], view.sort) if more else "")


def count(session: Session, view: RegisterView) -> int:
    """How many lines the filters leave."""
    # Without a filter the folders' own ranges of their index are counted, and nothing else is looked at.
    by_folder = not view.filters and not view.words
    query = _filtered(session, select(func.count()).select_from(DocumentRow), view, few=by_folder)
    return int(session.scalar(query) or 0)


def _cursor(row: Any, sort: str) -> str:
    return json.dumps([_plain(getattr(row, sort)), row.seq])


def _plain(value: Any) -> Any:
    return value.isoformat() if hasattr(value, "isoformat") else value


def _beyond(column: Any, value: Any, seq: int, *, descending: bool) -> ColumnElement[bool]:
    """Rows after (value, seq) in the order. NULL is before everything going up and after everything going down."""
    later = DocumentRow.seq < seq if descending else DocumentRow.seq > seq
    if value is None:
        return and_(column.is_(None), later) if descending else or_(and_(column.is_(None), later), column.is_not(None))
    value = _typed(column, value)
    if descending:
        return or_(column < value, and_(column == value, later), column.is_(None))
    return or_(column > value, and_(column == value, later))


def _typed(column: Any, value: Any) -> Any:
    python_type = column.type.python_type
    return python_type.fromisoformat(value) if hasattr(python_type, "fromisoformat") else value


def _filtered(session: Session, query: Any, view: RegisterView, *, few: bool = False) -> Any:
    match = word_query(view.words)
    hits = _few_hits(session, match) if match else None
    # With few hits they are looked up one by one; the plus keeps SQLite from walking the project's index instead.
    project = DocumentRow.project_id if hits is None else literal_column("+document.project_id", String)
    query = query.where(project == view.project_id)
    if view.folders is not None:
        # The plus keeps SQLite on the index of the sort, which ends with the folder; few lines come by their folder.
        folder = DocumentRow.folder_id if few else literal_column("+document.folder_id", String)
        query = query.where(folder.in_(view.folders))
    for name, value in view.filters:
        query = query.where(getattr(DocumentRow, name) == value)
    if hits is not None:
        return query.where(DocumentRow.seq.in_(hits))
    if match:
        return query.where(DocumentRow.seq.in_(_hits(match).columns(DocumentRow.seq)))
    return query


def _hits(match: str, limit: str = "") -> TextClause:
    """`limit` is a clause of ours, never anything that was typed."""
    statement = f"SELECT rowid FROM document_words WHERE document_words MATCH :words {limit}"  # noqa: S608
    return text(statement).bindparams(words=match)


def _few_hits(session: Session, match: str) -> list[int] | None:
    """The lines that have the words, or None where they are many and walking the sorted index finds a page sooner."""
    found = list(session.scalars(_hits(match, f"LIMIT {_FEW + 1}")))
    return found if len(found) <= _FEW else None


def word_query(words: str) -> str:
    """What was typed as an FTS5 query: every word as a prefix, all of them; nothing typed can be an operator."""
    return " ".join(f'"{word}"*' for word in re.findall(r"\w+", words)[:12])
