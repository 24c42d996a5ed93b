"""Many rows of one table at once: what hundreds of mapped inserts would cost is a good part of a large act."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import insert
from sqlalchemy.orm import Session

from nod.store.tables import Base

Plain = str | int | bytes | None


def add_rows(session: Session, to: type[Base], columns: Sequence[str], rows: Sequence[Sequence[Plain]]) -> None:
    """`columns` are all that the database fills in by no default of its own. Their values go there as they are: a day,
    an instant or a list is for mapped rows."""
    if not rows:
        return
    connection = session.connection()
    adding = insert(Base.metadata.tables[to.__tablename__])
    compiled = adding.compile(dialect=connection.dialect, column_keys=list(columns))
    # The statement names them in the table's order.
    places = [columns.index(each) for each in compiled.positiontup or ()]
    ordered = rows if places == list(range(len(columns))) else [[row[place] for place in places] for row in rows]
    connection.exec_driver_sql(str(compiled), [tuple(row) for row in ordered])
