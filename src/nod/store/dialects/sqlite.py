"""What SQLite says in its own words: adding what may be there, the later of two, many values at once, words.

The full-text indexes (FTS5) have the row numbers of what they are about: `document.seq`, `page_text.seq`,
`thread.seq`, `letter_message.seq`.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from enum import StrEnum
from functools import cache
from typing import Any

from sqlalchemy import ColumnElement, FromClause, Table, column, func, literal_column, select, table, text
from sqlalchemy.dialects.sqlite import Insert, insert
from sqlalchemy.orm import Session

from nod.store.tables.base import Base

_ADD_SHEET_WORDS = text("INSERT INTO sheet_words (rowid, words) VALUES (:seq, :words)")
_ADD_LETTER_WORDS = text("INSERT OR REPLACE INTO letter_words (rowid, words) VALUES (:seq, :words)")


class WordIndex(StrEnum):
    """The indexes of words, called by their tables."""

    DOCUMENTS = "document_words"
    SHEETS = "sheet_words"
    THREADS = "thread_words"
    LETTERS = "letter_words"


def add_unless_there(to: Any, *keys: str, **row: Any) -> Insert:
    """Adds a row, or leaves what has the same `keys`; without keys, whatever it would clash with."""
    return insert(to).values(**row).on_conflict_do_nothing(index_elements=keys or None)


@cache
def _adding(to: type[Base], keys: tuple[str, ...]) -> Insert:
    return insert(Base.metadata.tables[to.__tablename__]).on_conflict_do_nothing(index_elements=keys)


def put_unless_there(session: Session, to: type[Base], *keys: str, **row: Any) -> bool:
    """Adds a row; False where one with the same `keys` was there, which is left as it is."""
    session.flush()
    done: Any = session.connection().execute(_adding(to, keys), row)
    return bool(done.rowcount)


def add_or_replace(to: Table, row: dict[str, Any], *changed: str) -> Insert:
    """Adds a row, or gives the one with the same key the new values of `changed`."""
    adding = insert(to).values(**row)
    return adding.on_conflict_do_update(set_={each: adding.excluded[each] for each in changed})


def later_of(a: Any, b: Any) -> ColumnElement[Any]:
    """The greater of two values of one row."""
    return func.max(a, b)


def one_of(value: Any, among: Iterable[str]) -> ColumnElement[bool]:
    """Whether a value is among so many that they are handed over as one."""
    many = func.json_each(json.dumps(list(among))).table_valued("value")
    return value.in_(select(many.c.value))  # type: ignore[no-any-return]


def unindexed(value: Any) -> ColumnElement[Any]:
    """The same value, but not a way in: other conditions choose which index is walked."""
    return literal_column(f"+{value.table.name}.{value.name}", value.type)


def words_in(index: WordIndex, query: str) -> tuple[FromClause, ColumnElement[Any], ColumnElement[bool]]:
    """The index, the row number in it, and the condition that the query is met there; all must be in one statement."""
    rows = table(index.value, column("rowid"))
    return rows, rows.c.rowid, literal_column(index.value).op("MATCH")(query)


def add_sheet_words(session: Session, seq: int, words: str) -> None:
    """Makes the words of a page findable under its number."""
    session.execute(_ADD_SHEET_WORDS, {"seq": seq, "words": words})


def add_letter_words(session: Session, seq: int, words: str) -> None:
    """Makes the words of a message findable under its number, in place of those it had."""
    session.execute(_ADD_LETTER_WORDS, {"seq": seq, "words": words})
