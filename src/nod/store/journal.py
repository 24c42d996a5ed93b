"""What every act writes beside its own rows, in the same transaction: trail, outbox, live events."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, insert, select, update
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience
from nod.core.notices import HEARD
from nod.core.trail.entries import Fact, Subject, instant_text
from nod.core.trail.merkle import Frontier, leaf_hash
from nod.store.bulk import add_rows
from nod.store.canonical import canonical_json
from nod.store.database import TOLD
from nod.store.dialects.sqlite import put_unless_there
from nod.store.ids import new_id
from nod.store.tables import (
    AuditEntryRow,
    AuditSubjectRow,
    Base,
    OutboxRow,
    TrailHeadRow,
)

HASH_BYTES = 32

_HEAD = "nod_head"

_tables = Base.metadata.tables
_head = _tables[TrailHeadRow.__tablename__]
_ADD_ENTRY = insert(_tables[AuditEntryRow.__tablename__])
_READ_HEAD = select(_head.c.size, _head.c.heads)
_SET_HEAD = update(_head).values(size=bindparam("new_size"), heads=bindparam("new_heads"))
_outbox = _tables[OutboxRow.__tablename__]
_SET_TOLD = update(_outbox).where(_outbox.c.key == bindparam("of")).values(payload=bindparam("told"))


@dataclass(frozen=True)
class Witness:
    """Who did it, from which company, and from where."""

    person_id: str
    name: str
    company: str
    came_from: str


def record(session: Session, at: datetime, who: Witness, project_id: str, fact: Fact) -> int:
    """Append one entry to the trail; returns its number, counted from 1."""
    return record_all(session, at, who, project_id, [fact])


def record_all(session: Session, at: datetime, who: Witness, project_id: str, facts: Sequence[Fact]) -> int:
    """Append entries to the trail, at least one, in their order; returns the number of the last, counted from 1.

    Plain statements instead of mapped rows: an act may write thousands of entries, and none is ever changed. The tree's
    frontier is read once in a transaction: nobody else writes while it lasts, and it is undone as a whole.
    """
    connection = session.connection()
    frontier = session.info.get(_HEAD) or trail_head(session)
    entries, subjects, heard = [], [], list[int]()
    for fact in facts:
        seq = frontier.size + 1
        body = canonical_json(_body(seq, at, who, project_id, fact))
        leaf = leaf_hash(body)
        frontier = frontier.append(leaf)
        entries.append({
            "seq": seq, "body": body, "leaf_sha256": leaf, "at": at, "project_id": project_id,
            "person_id": who.person_id, "kind": fact.kind.value, "private_to": fact.private_to,
        })  # fmt: skip
        subjects += [(seq, each.kind, each.id) for each in dict.fromkeys((fact.subject, *fact.others))]
        if fact.kind in HEARD and not fact.private_to:
            heard.append(seq)
    connection.execute(_ADD_ENTRY, entries)
    add_rows(session, AuditSubjectRow, ("seq", "kind", "subject_id"), subjects)
    connection.execute(_SET_HEAD, {"new_size": frontier.size, "new_heads": b"".join(frontier.heads)})
    session.info[_HEAD] = frontier
    if heard:
        _ask_to_tell(session, at, heard[0], heard[-1])
    return frontier.size


def _ask_to_tell(session: Session, at: datetime, first_heard: int, last: int) -> None:
    """Those who follow are told after the commit, and what is due of it is seen to: once for all that one act did."""
    is_first = "nod_followed" not in session.info
    first = session.info.setdefault("nod_followed", first_heard)
    told_of = act_id(session)
    payload = {"act_id": told_of, "first": first, "last": last}
    if is_first:
        ask(session, at, "tell_followers", f"tell_followers:{told_of}", payload)
    else:
        session.connection().execute(_SET_TOLD, {"of": f"tell_followers:{told_of}", "told": payload})


def act_id(session: Session) -> str:
    """A name for the transaction, the same for everything in it."""
    return str(session.info.setdefault("nod_act", new_id()))


def trail_head(session: Session) -> Frontier:
    """The tree's frontier, from its single row."""
    size, joined = session.execute(_READ_HEAD).one()
    heads = tuple(joined[start : start + HASH_BYTES] for start in range(0, len(joined), HASH_BYTES))
    return Frontier(size, heads)


def _body(seq: int, at: datetime, who: Witness, project_id: str, fact: Fact) -> dict[str, Any]:
    body: dict[str, Any] = {
        "seq": seq,
        "at": instant_text(at),
        "who": {"id": who.person_id, "name": who.name, "company": who.company},
        "from": who.came_from,
        "project": project_id,
        "kind": fact.kind.value,
        "subject": _subject(fact.subject),
        "about": fact.about,
        "others": [_subject(each) for each in fact.others],
        "before": fact.before,
        "after": fact.after,
        "why": fact.why,
        "private_to": fact.private_to,
    }
    return {**body, "state": fact.state} if fact.state else body


def _subject(subject: Subject) -> dict[str, str]:
    return {"kind": subject.kind, "id": subject.id}


def ask(
    session: Session, at: datetime, kind: str, key: str, payload: dict[str, Any], not_before: datetime | None = None
) -> None:  # fmt: skip
    """Have something done after the commit, or later. A second wish with the same key is the same wish."""
    row = {"kind": kind, "key": key, "payload": payload, "made_at": at, "not_before": not_before or at, "tries": 0}
    put_unless_there(session, OutboxRow, "key", **row)


def tell(
    session: Session,
    at: datetime,
    project_id: str,
    topic: str,
    subject_id: str,
    audience: Audience,
    *,
    by: str,
    load: dict[str, Any] | None = None,
) -> None:
    """Tell those signed in for whom it is that something changed; `load`: see `LiveEventRow`."""
    said = {"project_id": project_id, "topic": topic, "subject_id": subject_id, "by_person_id": by}
    session.info.setdefault(TOLD, []).append({"at": at, "audience": audience_kept(audience), "load": load, **said})


def audience_kept(audience: Audience) -> dict[str, Any]:
    """As JSON."""
    return {key: sorted(value) if isinstance(value, frozenset) else value for key, value in vars(audience).items()}


def audience_from(kept: dict[str, Any]) -> Audience:
    made: dict[str, Any] = {key: frozenset(value) if isinstance(value, list) else value for key, value in kept.items()}
    return Audience(**made)


# For checking: as it is stored, whatever somebody wrote there.


def entry_range(session: Session) -> tuple[int, int]:
    """The first and last number there is; 0 and 0 for none."""
    first, last = _raw(session).execute("SELECT min(seq), max(seq) FROM audit_entry").fetchone()
    return first or 0, last or 0


def entries_between(session: Session, first: int, end: int) -> Iterator[tuple[Any, ...]]:
    """seq, body, leaf, at, project, person, kind, private to; `end` is not in it. Plain rows: there may be millions."""
    yield from _as_stored(session).execute(
        "SELECT seq, body, leaf_sha256, at, project_id, person_id, kind, private_to FROM audit_entry"
        " WHERE seq >= ? AND seq < ? ORDER BY seq", (first, end),
    )  # fmt: skip


def subjects_between(session: Session, first: int, end: int) -> Iterator[tuple[int, str, str]]:
    """Entry, kind and id, in the order of the entries."""
    yield from _as_stored(session).execute(
        "SELECT seq, kind, subject_id FROM audit_subject WHERE seq >= ? AND seq < ? ORDER BY seq", (first, end)
    )


def subjects_beyond(session: Session) -> list[int]:
    """Numbers of entries that things are said to be named in, before the first and after the last entry there is."""
    rows = _raw(session).execute(
        "SELECT DISTINCT seq FROM audit_subject WHERE seq > coalesce((SELECT max(seq) FROM audit_entry), 0)"
        " OR seq < coalesce((SELECT min(seq) FROM audit_entry), 0) ORDER BY seq LIMIT 50"
    )
    return [seq for (seq,) in rows]


def raw_head(session: Session) -> tuple[int | None, bytes]:
    row = _raw(session).execute("SELECT size, heads FROM trail_head").fetchone()
    return (row[0], bytes(row[1])) if row and isinstance(row[1], bytes) else (None, b"")


def leaves(session: Session, size: int) -> list[bytes]:
    """The hashes of the first entries, as they are stored."""
    rows = _raw(session).execute("SELECT leaf_sha256 FROM audit_entry WHERE seq <= ? ORDER BY seq", (size,))
    return [leaf for (leaf,) in rows]


def body_of(session: Session, seq: int) -> bytes:
    return session.scalars(select(AuditEntryRow.body).where(AuditEntryRow.seq == seq)).one()


def _as_stored(session: Session) -> Any:
    """Text that is none is read all the same, so that it can be told which entry has it."""
    cursor = _raw(session)
    cursor.connection.text_factory = lambda raw: raw.decode(errors="surrogateescape")
    return cursor


def _raw(session: Session) -> Any:
    return session.connection().connection.dbapi_connection.cursor()  # type: ignore[union-attr]
