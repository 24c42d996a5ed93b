"""Making seals and proofs: every hour, and when somebody asks (handbook §14)."""

from __future__ import annotations

import os
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from urllib.parse import urlsplit

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.trail import merkle
from nod.core.trail.entries import Fact, FactKind, Subject, instant_text
from nod.core.trail.seals import Proof, Seal, SealKey, public_of, sign
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, read_key
from nod.services.acts.seats import SYSTEM
from nod.store import journal
from nod.store.ids import new_id
from nod.store.tables import SealKeyRow, SealRow

EVERY = timedelta(hours=1)


class SealShown(Answered):
    """`note` is what is handed to others, `key` what they check it with."""

    size: int
    root: str
    note: str
    key: str


def key_path(data_dir: Path) -> Path:
    """A part of every back-up, like the database."""
    return data_dir / "seal.key"


def file_path(data_dir: Path) -> Path:
    """All seals once more, beside the database."""
    return data_dir / "seals.txt"


def make_seal(context: Context) -> SealShown:
    """Over all entries there are; the one that is there already, if it has the same. Kept in the file as well."""
    seed = read_key(key_path(context.settings.data_dir))
    now = context.clock.now()
    with context.database.write() as session:
        row, key = _key(context, session, public_of(seed))
        head = journal.trail_head(session)
        made = session.get(SealRow, head.size)
        if made is None:
            note = sign(Seal(key.name, head.size, head.root(), instant_text(now)), key, seed)
            made = SealRow(size=head.size, root=head.root(), at=now, key_id=row.id, note=note)
            session.add(made)
        shown = SealShown(size=made.size, root=made.root.hex(), note=made.note, key=key.words)
    _keep_in_file(context)
    return shown


def _key(context: Context, session: Session, public: bytes) -> tuple[SealKeyRow, SealKey]:
    """The key in use. One that is not known begins, and an entry says so: the one before may have been lost."""
    row = session.scalars(select(SealKeyRow).where(SealKeyRow.public_key == public)).one_or_none()
    if row is None:
        now = context.clock.now()
        name = f"nod/{urlsplit(context.settings.resolved_public_url).netloc}"
        row = SealKeyRow(id=new_id(), name=name, public_key=public, began_at=now)
        session.add(row)
        session.flush()
        key = SealKey(name, public)
        fact = Fact(FactKind.SEAL_KEY_BEGUN, Subject("seal_key", row.id), name, after={"key": key.words})
        journal.record(session, now, SYSTEM, "", fact)
    return row, SealKey(row.name, row.public_key)


def _keep_in_file(context: Context) -> None:
    """Those that are not in it yet are added; a stop between the two is made up for the next time."""
    path = file_path(context.settings.data_dir)
    there = {note.split("\n")[1] for note in notes_in(path)}
    with context.database.read() as session:
        rows = session.scalars(select(SealRow).order_by(SealRow.size)).all()
        missing = [row.note for row in rows if str(row.size) not in there]
    if missing:
        with path.open("a", encoding="utf-8") as file:
            file.write("".join(f"{note}\n" for note in missing))
            file.flush()
            os.fsync(file.fileno())


def notes_in(path: Path) -> list[str]:
    """The notes of a file of seals, in its order; what is cut off at the end is left out."""
    if not path.is_file():
        return []
    return list(_notes(path.read_text(encoding="utf-8", errors="replace")))


def _notes(text: str) -> Iterator[str]:
    lines: list[str] = []
    for line in text.splitlines():
        lines.append(line)
        if line.startswith("— "):
            yield "\n".join(lines).strip("\n") + "\n"
            lines = []


def seal_if_due(context: Context) -> bool:
    """Once an hour, where something has happened since the last one."""
    with context.database.read() as session:
        size = journal.trail_head(session).size
        last = session.scalars(select(SealRow).order_by(SealRow.size.desc()).limit(1)).one_or_none()
    if not size or (last and (last.size == size or context.clock.now() - last.at < EVERY)):
        return False
    make_seal(context)
    return True


def latest_seal(session: Session) -> SealShown | None:
    query = select(SealRow, SealKeyRow).join(SealKeyRow, SealKeyRow.id == SealRow.key_id)
    found = session.execute(query.order_by(SealRow.size.desc()).limit(1)).one_or_none()
    if found is None:
        return None
    row, key = found
    shown = SealKey(key.name, key.public_key).words
    return SealShown(size=row.size, root=row.root.hex(), note=row.note, key=shown)


def latest_note(session: Session) -> str:
    """To be sent along; empty before the first."""
    found = latest_seal(session)
    return found.note if found else ""


def prove_entry(context: Context, entry: int, *, hash_only: bool = False, since: int = 0) -> tuple[Proof, str]:
    """That the entry stands under the latest seal, one made now if it is newer; and the key to check it with.

    `since` is the size of an earlier tree that it is to be proved to have grown out of. Raises NotFound for an entry or
    a size that is not there.
    """
    seal = make_seal(context)
    with context.database.read() as session:
        leaves = journal.leaves(session, seal.size)
        if not 0 < entry <= len(leaves) or not 0 <= since <= len(leaves):
            raise NotFound(str(entry))
        body = None if hash_only else journal.body_of(session, entry)
    path = merkle.inclusion_proof(leaves, entry - 1)
    grown = merkle.consistency_proof(leaves, since) if 0 < since < len(leaves) else []
    return Proof(entry - 1, leaves[entry - 1], body, tuple(path), seal.note, since, tuple(grown)), seal.key
