"""Proving the trail: every entry hashed anew, every repeated column compared, the tree rebuilt."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sqlalchemy import String, select, type_coerce
from sqlalchemy.orm import Session

from nod.core.merkle import Frontier, leaf_hash
from nod.store import journal
from nod.store.database import Database
from nod.store.tables import AuditEntryRow, AuditSubjectRow

_CHUNK = 2000


@dataclass(frozen=True)
class Verification:
    """`fault` is empty for a sound trail and otherwise names the first bad entry."""

    entries: int
    root: str
    fault: str


def verify_trail(database: Database) -> Verification:
    """Recomputes everything from the database; trusts no stored hash."""
    frontier = Frontier()
    with database.read() as session:
        subjects = _subjects(session)
        for row in _entries(session):
            fault = _fault(row, frontier.size + 1, subjects)
            if fault:
                return Verification(frontier.size, frontier.root().hex(), f"entry {frontier.size + 1}: {fault}")
            frontier = frontier.append(leaf_hash(row.body))
        head = journal.trail_head(session)
    if head.size != frontier.size:
        fault = f"entry {frontier.size + 1}: missing, the tree says there are {head.size}"
    else:
        fault = "" if head.root() == frontier.root() else "the stored tree head does not fit the entries"
    return Verification(frontier.size, frontier.root().hex(), fault)


def _entries(session: Session) -> Iterator[Any]:
    """The columns as they are stored: what somebody wrote over them may not be an instant at all."""
    row = AuditEntryRow
    columns = (row.seq, row.body, row.leaf_sha256, row.project_id, row.person_id, row.kind, row.private_to)
    query = select(*columns, type_coerce(row.at, String).label("at")).order_by(row.seq)
    yield from session.execute(query.execution_options(yield_per=_CHUNK))


def _subjects(session: Session) -> Iterator[tuple[int, str, str]]:
    query = select(AuditSubjectRow.seq, AuditSubjectRow.kind, AuditSubjectRow.subject_id)
    rows = session.execute(query.order_by(AuditSubjectRow.seq).execution_options(yield_per=_CHUNK))
    yield from ((row.seq, row.kind, row.subject_id) for row in rows)
    yield (0, "", "")


def _fault(row: Any, expected: int, subjects: Iterator[tuple[int, str, str]]) -> str:
    if row.seq != expected:
        return f"missing, the next is {row.seq}"
    if not isinstance(row.body, bytes) or leaf_hash(row.body) != row.leaf_sha256:
        return "its content is not what was hashed"
    body = json.loads(row.body)
    told = (body["seq"], body["at"], body["project"], body["who"]["id"], body["kind"], body["private_to"])
    if told != (row.seq, row.at, row.project_id, row.person_id, row.kind, row.private_to):
        return "a column differs from what was hashed"
    named = {(each["kind"], each["id"]) for each in (body["subject"], *body["others"])}
    linked = {next(subjects)[1:] for _ in named}
    return "" if linked == named else "its subjects differ from what was hashed"
