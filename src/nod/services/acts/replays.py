"""Replaying the trail: what the tables must say, if only what is in the entries has happened to them.

Each feature registers how its entries make its rows; a row that differs was changed by something that is no entry.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.store import journal
from nod.store.database import Database

Row = dict[str, Any]
Rows = dict[str, Row]
"""By id; columns in words."""
Body = dict[str, Any]
"""An entry, see `store.journal`."""

Step = Callable[[Rows, Body], None]

_AT_ONCE = 10_000


@dataclass(frozen=True)
class Replay:
    """`begin` gives the steps that take an entry of a kind into the rows that are expected; `actual` reads the tables.

    Only columns that the expected row has are compared: what entries do not speak of, they cannot prove.
    """

    words: str
    begin: Callable[[Session], Mapping[FactKind, Step]]
    actual: Callable[[Session], Iterable[tuple[str, Row]]]


_REPLAYS: list[Replay] = []


def replay(of: Replay) -> Replay:
    _REPLAYS.append(of)
    return of


def replayed_words() -> str:
    """All that is replayed, as one says it."""
    *others, last = sorted(f"{each.words}s" for each in _REPLAYS)
    return f"{', '.join(others)} and {last}"


def subject_of(body: Body) -> str:
    return str(body["subject"]["id"])


def others_of(body: Body, kind: str) -> list[str]:
    """Ids of the things of a kind that the entry names besides its subject, in its order."""
    return [each["id"] for each in body["others"] if each["kind"] == kind]


def table_faults(database: Database) -> Iterator[str]:
    """Every row that differs from what the entries made of it, in words. Entries are read once, in their order."""
    expected: list[Rows] = [{} for _ in _REPLAYS]
    steps: dict[str, list[tuple[Rows, Step]]] = {}
    with database.read() as session:
        for rows, each in zip(expected, _REPLAYS, strict=True):
            for kind, step in each.begin(session).items():
                steps.setdefault(kind.value, []).append((rows, step))
        for body in _bodies(session):
            for rows, step in steps.get(body["kind"], ()):
                step(rows, body)
        for rows, each in zip(expected, _REPLAYS, strict=True):
            yield from _differences(each, rows, dict(each.actual(session)))


def _bodies(session: Session) -> Iterator[Body]:
    first, last = journal.entry_range(session)
    for start in range(first, last + 1, _AT_ONCE):
        for _, body, *_ in journal.entries_between(session, start, start + _AT_ONCE):
            yield json.loads(body)


def _differences(of: Replay, expected: Rows, actual: Rows) -> Iterator[str]:
    for row_id, row in expected.items():
        found = actual.get(row_id)
        name = f"{of.words} {row.get('name') or row_id}"
        if found is None:
            yield f"{name}: it is not there, and the trail says that it was made"
            continue
        for column, value in row.items():
            if column != "name" and found.get(column) != value:
                yield f"{name}: its {column} is {_said(found.get(column))}, and by the trail {_said(value)}"
    for row_id in actual.keys() - expected.keys():
        yield f"{of.words} {actual[row_id].get('name') or row_id}: it is there, and no entry made it"


def _said(value: Any) -> str:
    return "nothing" if value in ("", None) else f"“{value}”" if isinstance(value, str) else str(value)
