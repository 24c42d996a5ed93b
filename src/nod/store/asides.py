"""Tables under names of their own, for conditions that look at all rows and not at the row at hand."""

from __future__ import annotations

from functools import cache
from typing import Any

from nod.store.tables.base import Base


class Aside:
    """A table under a name of its own, with its columns as the row has them; takes the table's place in a query."""

    def __init__(self, row: type[Base], place: str) -> None:
        self._named = row.__table__.alias(f"{row.__tablename__}_{place}")
        # SQLAlchemy makes the columns as they are first asked for, which two threads must not do at once.
        self._columns = dict(self._named.c)

    def __clause_element__(self) -> Any:
        return self._named

    def __getattr__(self, name: str) -> Any:
        try:
            return self._columns[name]
        except KeyError:
            raise AttributeError(name) from None


@cache
def asides(place: str, *rows: type[Base]) -> tuple[Any, ...]:
    """The same each time for a `place`, which is one condition's: a query that has it twice has it side by side.

    One within itself would look at the row at hand. Made once, as making SQLAlchemy's own aliases with their columns
    takes several times as long as asking the condition.
    """
    return tuple(Aside(row, place) for row in rows)


def aside(place: str, row: type[Base]) -> Any:
    (named,) = asides(place, row)
    return named
