"""What was done under a key is not done again; who asks once more gets the answer that was given."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete
from sqlalchemy.orm import Session

from nod.core.acts.once import Once
from nod.core.acts.refusals import DoneAlready, RuleBroken
from nod.store.database import Database
from nod.store.tables import DoneOnceRow

_KEPT = timedelta(days=2)


@dataclass(frozen=True)
class GivenAnswer:
    status: int
    body: str


def given_answer(database: Database, person_id: str, once: Once) -> GivenAnswer | None:
    """The answer that was given under this key; None if nothing was done under it, or its answer is not known (yet).

    Raises RuleBroken if it was done with other contents.
    """
    with database.read() as session:
        row = session.get(DoneOnceRow, (person_id, once.key))
        if row is None:
            return None
        _check_contents(row, once)
        return GivenAnswer(row.status, row.body) if row.status else None


def take_key(session: Session, person_id: str, once: Once, at: datetime) -> None:
    """In the transaction of the act: the key is used up with it. Raises DoneAlready if it is."""
    row = session.get(DoneOnceRow, (person_id, once.key))
    if row:
        _check_contents(row, once)
        raise DoneAlready(once.key)
    session.execute(delete(DoneOnceRow).where(DoneOnceRow.at < at - _KEPT))
    session.add(DoneOnceRow(person_id=person_id, key=once.key, fingerprint=once.fingerprint, at=at, status=0, body=""))
    session.flush()
    once.taken = True


def settle_key(database: Database, person_id: str, once: Once, status: int, body: str) -> None:
    """After the act: keeps its answer. Where it was refused after all, the key is free again.

    After a fault of ours it is not: the act was done, and only its answer was not made.
    """
    with database.write() as session:
        row = session.get(DoneOnceRow, (person_id, once.key))
        if row is None:
            return
        if 400 <= status < 500:
            session.delete(row)
        elif status < 400:
            row.status, row.body = status, body


def _check_contents(row: DoneOnceRow, once: Once) -> None:
    if row.fingerprint != once.fingerprint:
        raise RuleBroken(
            "done_otherwise",
            "This was done a moment ago, as it was filled in then. Look at what is there before you do it again.",
        )
