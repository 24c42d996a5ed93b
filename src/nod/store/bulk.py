"""Many rows at once: what the mapper does for each of hundreds is a good part of a large act."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Executable, insert
from sqlalchemy.orm import Session

from nod.store.tables import Base


def rows_of(session: Session, query: Executable) -> list[Any]:
    """Rows of plain columns, as the tables have them with what the session has changed."""
    session.flush()
    return list(session.connection().execute(query).fetchall())


def add_rows(session: Session, to: type[Base], columns: Sequence[str], rows: Sequence[Sequence[Any]]) -> None:
    """`columns` are all that must not be empty: what mapped rows have by default is not put in here."""
    if not rows:
        return
    session.flush()
    connection = session.connection()
    table = Base.metadata.tables[to.__tablename__]
    compiled = insert(table).compile(dialect=connection.dialect, column_keys=list(columns))
    # The statement names them in the table's order.
    names: list[str] = list(compiled.positiontup or ())
    places = [columns.index(each) for each in names]
    kept_as = [table.c[each].type.dialect_impl(connection.dialect).bind_processor(connection.dialect) for each in names]
    takes = [(place, keep or (lambda value: value)) for place, keep in zip(places, kept_as, strict=True)]
    if any(kept_as):
        given = [tuple(keep(row[place]) for place, keep in takes) for row in rows]
    else:
        given = [tuple(row[place] for place in places) for row in rows]
    connection.exec_driver_sql(str(compiled), given)
