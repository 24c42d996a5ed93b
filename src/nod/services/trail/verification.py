"""Checking the audit trail against itself, the seals, the files and what somebody outside remembers of it."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail import merkle
from nod.core.trail.entries import FactKind
from nod.core.trail.merkle import Frontier, Growing, leaf_hash
from nod.core.trail.seals import NotSound, Seal, SealKey, read_seal
from nod.services.trail.seals import notes_in
from nod.store import journal
from nod.store.blobs import Blobs, chunks_of
from nod.store.database import Database
from nod.store.tables import BlobRow, PersonRow, SealKeyRow, SealRow

MOST_FAULTS = 50
_PART = 20_000
_NOT_KEPT = (FactKind.FOLDER_PACK_MADE, FactKind.FOLDER_PACK_DOWNLOADED, FactKind.FOLDER_PACK_PUT_AWAY)
"""Entries whose files are put away after a time, as they can be made again."""


@dataclass(frozen=True)
class Outside:
    """A head that somebody has from before: the tree must have grown out of it."""

    size: int
    root: bytes


@dataclass(frozen=True)
class Verification:
    """`faults` is empty for a sound trail; otherwise each is named, the first bad entry first."""

    entries: int
    root: str
    faults: list[str] = field(default_factory=list)
    files: int = 0
    seals: int = 0

    @property
    def fault(self) -> str:
        return self.faults[0] if self.faults else ""


def verify_trail(
    database: Database, *, blobs: Blobs | None = None, seals_file: Path | None = None,
    outside: Sequence[Outside] = (), processes: int = 0,
) -> Verification:  # fmt: skip
    """Recomputes everything from the database; trusts no stored hash.

    With `blobs` the files are read that entries speak of; with `seals_file` the seals there are compared, too.
    `processes` 0 for as many as there are processors, where there is enough to do.
    """
    found = _entries(database, processes or os.cpu_count() or 1)
    faults, leaves = found.faults, found.leaves
    tree = _Heads(leaves)
    with database.read() as session:
        faults += _head_faults(session, leaves, tree)
        seals, seal_faults = _seal_faults(session, seals_file, tree)
        faults += seal_faults
        known = _stored_files(session) if blobs else {}
    faults += [fault for each in outside if (fault := _outside_fault(each, tree))]
    if blobs:
        faults += _file_faults(blobs, {**known, **found.files})
    files = len({**known, **found.files}) if blobs else 0
    return Verification(len(leaves), tree.root_at(len(leaves)).hex(), faults[:MOST_FAULTS], files, seals)


# Entries, one by one, in as many processes as help


@dataclass
class _Part:
    """What was found in a run of entries: their leaves, and the files they speak of with the entry's number."""

    leaves: list[bytes] = field(default_factory=list)
    faults: list[str] = field(default_factory=list)
    files: dict[str, int] = field(default_factory=dict)


def _entries(database: Database, processes: int) -> _Part:
    """The leaves as they follow from the contents, in order."""
    with database.read() as session:
        first, last = journal.entry_range(session)
    runs = [(start, min(start + _PART, last + 1)) for start in range(min(first, 1), last + 1, _PART)]
    if len(runs) > 1 and processes > 1:
        # Forks, as loading all of this anew takes longer than the checking; none of them is given an open database.
        database.close()
        with ProcessPoolExecutor(min(processes, len(runs)), mp_context=get_context("fork")) as pool:
            parts = list(pool.map(_check_run, [database.url] * len(runs), runs))
    else:
        parts = [_run(database, run) for run in runs]
    whole = _Part()
    expected = 1
    for part, faults_at in parts:
        whole.leaves += part.leaves
        whole.faults += _gaps(faults_at, expected)
        whole.faults += part.faults
        for sha256, entry in part.files.items():
            whole.files.setdefault(sha256, entry)
        expected = faults_at[-1] + 1 if faults_at else expected
    with database.read() as session:
        whole.faults += [f"entry {seq}: it is not there, and things are said to be named in it"
                         for seq in journal.subjects_beyond(session)]  # fmt: skip
    whole.faults.sort(key=_entry_of)
    return whole


def _entry_of(fault: str) -> int:
    return int(fault.partition(":")[0].removeprefix("entry "))


def _gaps(numbers: Sequence[int], expected: int) -> Iterator[str]:
    for seq in numbers:
        if seq != expected:
            yield f"entry {expected}: missing, the next is {seq}"
        expected = seq + 1


def _check_run(url: str, run: tuple[int, int]) -> tuple[_Part, list[int]]:
    database = Database(url)
    try:
        return _run(database, run)
    finally:
        database.close()


def _run(database: Database, run: tuple[int, int]) -> tuple[_Part, list[int]]:
    part, numbers = _Part(), []
    with database.read() as session:
        subjects = journal.subjects_between(session, *run)
        waiting = next(subjects, None)
        for row in journal.entries_between(session, *run):
            linked: list[tuple[str, str]] = []
            while waiting is not None and waiting[0] <= row[0]:
                if waiting[0] == row[0]:
                    linked.append(waiting[1:])
                else:
                    part.faults.append(f"entry {waiting[0]}: it is not there, and things are said to be named in it")
                waiting = next(subjects, None)
            numbers.append(row[0])
            fault = _fault(row, linked, part)
            if fault:
                part.faults.append(f"entry {row[0]}: {fault}")
    return part, numbers


def _fault(row: tuple[Any, ...], linked: list[tuple[str, str]], part: _Part) -> str:
    """Also adds the entry's leaf, and the files it speaks of, to the part."""
    seq, body, leaf, at, project_id, person_id, kind, private_to = row
    if not isinstance(body, bytes):
        part.leaves.append(b"")
        return "its content is not what was hashed"
    made = leaf_hash(body)
    part.leaves.append(made)
    if made != leaf:
        return "its content is not what was hashed"
    try:
        said = json.loads(body)
        told = (said["seq"], said["at"], said["project"], said["who"]["id"], said["kind"], said["private_to"])
        named = {(each["kind"], each["id"]) for each in said["others"]}
        named.add((said["subject"]["kind"], said["subject"]["id"]))
    except (ValueError, KeyError, TypeError, RecursionError):
        return "its content cannot be read"
    if b'sha256"' in body and said["kind"] not in _NOT_KEPT:
        for sha256 in _hashes(said):
            part.files.setdefault(sha256, seq)
    if told != (seq, at, project_id, person_id, kind, private_to):
        return "a column differs from what was hashed"
    return "" if named == set(linked) and len(linked) == len(named) else "its subjects differ from what was hashed"


def _hashes(said: dict[str, Any]) -> Iterator[str]:
    for side in (said.get("before"), said.get("after")):
        for key, value in side.items() if isinstance(side, dict) else ():
            if str(key).endswith("sha256") and isinstance(value, str) and len(value) == 64:
                yield value


# Heads: the stored one, the seals', and those that somebody outside has


class _Heads:
    """The tree over the leaves, with its root at any earlier size."""

    def __init__(self, leaves: list[bytes]) -> None:
        self.leaves = leaves
        self._roots: dict[int, bytes] = {}

    def prepare(self, sizes: Iterable[int]) -> None:
        """One walk over the leaves for all of them."""
        wanted = sorted({each for each in sizes if 0 <= each <= len(self.leaves)} - self._roots.keys())
        frontier = Growing()
        for size in wanted:
            frontier.grow(self.leaves[frontier.size : size])
            self._roots[size] = frontier.root()

    def root_at(self, size: int) -> bytes:
        self.prepare([size])
        return self._roots[size]


def _head_faults(session: Session, leaves: list[bytes], tree: _Heads) -> Iterator[str]:
    size, joined = journal.raw_head(session)
    if size is None:
        yield f"entry {len(leaves) + 1}: the head of the tree is not there"
    elif size != len(leaves):
        yield f"entry {len(leaves) + 1}: missing, the tree says there are {size}"
    elif Frontier(size, tuple(joined[at : at + 32] for at in range(0, len(joined), 32))).root() != tree.root_at(size):
        yield "the stored tree head does not fit the entries"
    if not leaves and session.scalar(select(PersonRow.id).limit(1)) is not None:
        yield "entry 1: missing: there are people and things in Nod, and no entry says how they came"


def _seal_faults(session: Session, path: Path | None, tree: _Heads) -> tuple[int, list[str]]:
    keys = [SealKey(row.name, row.public_key) for row in session.scalars(select(SealKeyRow))]
    notes = {note: "the database" for note in session.scalars(select(SealRow.note).order_by(SealRow.size))}
    faults = []
    if path is not None:
        in_file = notes_in(path)
        if notes and not in_file:
            faults.append(f"the file of seals {path.name} is not there, or is empty")
        gone = [note for note in in_file if note not in notes]
        faults += [f"a seal of {_size_of(note)} entries is in {path.name}, and not in the database" for note in gone]
        notes.update({note: path.name for note in gone})
    seals: list[Seal] = []
    for note, place in notes.items():
        try:
            seals.append(read_seal(note, keys))
        except NotSound as error:
            faults.append(f"a seal of {_size_of(note)} entries in {place}: {error}")
    tree.prepare(seal.size for seal in seals)
    for seal in seals:
        if fault := _outside_fault(Outside(seal.size, seal.root), tree, f" at the seal of {seal.at}"):
            faults.append(fault)
    return len(seals), faults


def _size_of(note: str) -> str:
    lines = note.split("\n")
    return lines[1][:20] if len(lines) > 1 else "?"


def _outside_fault(outside: Outside, tree: _Heads, when: str = "") -> str:
    """Asked as RFC 6962, 2.1.4.2 has it: by the proof between the two trees, not by comparing what was recomputed."""
    size, now = outside.size, len(tree.leaves)
    if size > now:
        return f"entry {now + 1}: missing, {size} were there{when}"
    if not size:
        return "" if outside.root == merkle.EMPTY_ROOT else "the root of no entries is another"
    proof = merkle.consistency_proof(tree.leaves, size) if size < now else []
    if merkle.verify_consistency(size, now, outside.root, tree.root_at(now), proof):
        return ""
    return f"the first {size} entries are not those that were there{when}: the trail was rewritten"


# Files


def _stored_files(session: Session) -> dict[str, int]:
    """All that the database says is stored; 0 as no entry speaks of it."""
    return dict.fromkeys(session.scalars(select(BlobRow.sha256)), 0)


def _file_faults(blobs: Blobs, wanted: dict[str, int]) -> Iterator[str]:
    for sha256, entry in sorted(wanted.items(), key=lambda each: (each[1], each[0])):
        of = f"file {sha256[:16]}… of entry {entry}" if entry else f"file {sha256[:16]}…"
        try:
            digest = hashlib.sha256()
            with blobs.local(sha256) as path, path.open("rb") as file:
                for chunk in chunks_of(file):
                    digest.update(chunk)
        except FileNotFoundError:
            yield f"{of} is not there"
        except OSError as error:
            yield f"{of} cannot be read: {error.strerror}"
        else:
            if digest.hexdigest() != sha256:
                yield f"{of} was altered: its content has another hash"
