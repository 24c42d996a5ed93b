"""What every act writes beside its own rows, in the same transaction: trail, outbox, live events."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, cast

from sqlalchemy import bindparam, insert, select, update
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience
from nod.core.notices import HEARD
from nod.core.trail.entries import Fact, Subject, instant_text
from nod.core.trail.merkle import Frontier, leaf_hash
from nod.store.bulk import add_rows
from nod.store.canonical import canonical_json
from nod.store.database import AT_END, TOLD
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

_ENTRIES = "nod_entries"

_tables = Base.metadata.tables
_head = _tables[TrailHeadRow.__tablename__]
_ADD_ENTRY = insert(_tables[AuditEntryRow.__tablename__])
_READ_HEAD = select(_head.c.size, _head.c.heads)
_SET_HEAD = update(_head).values(size=bindparam("new_size"), heads=bindparam("new_heads"))


@dataclass(frozen=True)
class Witness:
    """Who did it, from which company, and from where."""

    person_id: str
    name: str
    company: str
    came_from: str


@dataclass
class _Entries:
    """What one transaction appends to the trail, and the tree's frontier after it; `heard` of them are followed."""

    frontier: Frontier
    rows: list[dict[str, Any]] = field(default_factory=list)
    subjects: list[tuple[int, str, str]] = field(default_factory=list)
    heard: list[int] = field(default_factory=list)
    at: datetime | None = None


def record(session: Session, at: datetime, who: Witness, project_id: str, fact: Fact) -> int:
    """Append one entry to the trail; returns its number, counted from 1.

    An act may write thousands, and none is ever changed: they are put down together at the end of the transaction, as
    plain rows. The tree's frontier is read once: nobody else writes while the transaction lasts, and it is undone as a
    whole. Within it, entries are not found by asking for them before its end.
    """
    kept: _Entries | None = session.info.get(_ENTRIES)
    if kept is None:
        kept = session.info[_ENTRIES] = _Entries(trail_head(session))
        session.info.setdefault(AT_END, []).append(_put_down)
    seq = kept.frontier.size + 1
    body = canonical_json(_body(seq, at, who, project_id, fact))
    leaf = leaf_hash(body)
    kept.frontier, kept.at = kept.frontier.append(leaf), at
    kept.rows.append({
        "seq": seq, "body": body, "leaf_sha256": leaf, "at": at, "project_id": project_id,
        "person_id": who.person_id, "kind": fact.kind.value, "private_to": fact.private_to,
    })  # fmt: skip
    kept.subjects += [(seq, each.kind, each.id) for each in dict.fromkeys((fact.subject, *fact.others))]
    if fact.kind in HEARD and not fact.private_to:
        kept.heard.append(seq)
    return seq


def _put_down(session: Session) -> None:
    """Those who follow are told after the commit, and what is due of it is seen to: once for all that one act did."""
    kept: _Entries = session.info[_ENTRIES]
    connection = session.connection()
    connection.execute(_ADD_ENTRY, kept.rows)
    add_rows(session, AuditSubjectRow, ("seq", "kind", "subject_id"), kept.subjects)
    connection.execute(_SET_HEAD, {"new_size": kept.frontier.size, "new_heads": b"".join(kept.frontier.heads)})
    if kept.heard and kept.at is not None:
        told_of = act_id(session)
        payload = {"act_id": told_of, "first": kept.heard[0], "last": kept.heard[-1]}
        ask(session, kept.at, "tell_followers", f"tell_followers:{told_of}", payload)


def act_id(session: Session) -> str:
    """A name for the transaction, the same for everything in it."""
    return str(session.info.setdefault("nod_act", new_id()))


def trail_head(session: Session) -> Frontier:
    """The tree's frontier, from its single row; within a transaction, with what it has appended."""
    if (kept := session.info.get(_ENTRIES)) is not None:
        return cast(Frontier, kept.frontier)
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
