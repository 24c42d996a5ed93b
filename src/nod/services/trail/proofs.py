"""Proofs for those who are in a project, and checking them for anybody (handbook §14)."""

from __future__ import annotations

from dataclasses import replace

from sqlalchemy import select

from nod.core.acts.refusals import NotFound
from nod.core.trail import seals
from nod.core.trail.merkle import consistency_proof
from nod.core.trail.seals import NotSound
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, take_seat
from nod.services.acts.tries import key_of, take_one
from nod.services.trail import trail
from nod.services.trail.check_reports import check_texts
from nod.services.trail.seals import SealShown, latest_seal, make_seal, prove_entry
from nod.store import journal
from nod.store.tables import AuditEntryRow, SealRow


class OfProject(Command):
    project_id: str


class AskProof(Command):
    """`leaf` is the entry's hash; `since` the size of an earlier tree, 0 for none."""

    project_id: str
    leaf: str
    since: int = 0


class CheckProof(Command):
    """All as text: the proof's file, the key, and a seal from before if there is one."""

    proof: str
    key: str
    seal: str = ""


_MOST_CHECKS = 60


class ProofChecked(Answered):
    """`lines` say what is proven, or what does not hold; `entry` is the entry as JSON where it is shown."""

    sound: bool
    lines: list[str]
    entry: str


def read_seal(context: Context, actor: Actor, project_id: str) -> SealShown | None:
    """The latest seal. For leads and controllers: it tells how much goes on in the whole workspace."""
    with context.database.read() as session:
        take_seat(session, actor, project_id).need_to_run()
        return latest_seal(session)


def seal_now(context: Context, actor: Actor, command: OfProject) -> SealShown:
    with context.database.read() as session:
        take_seat(session, actor, command.project_id).need_to_run()
    return make_seal(context)


def ask_proof(context: Context, actor: Actor, command: AskProof) -> str:
    """The proof as JSON, to be kept in a file. Of an entry that one may not see, its hash and nothing else.

    Raises NotFound for a hash that no entry has: whoever asks has it from elsewhere.
    """
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        leaf = trail.leaf_of(command.leaf)
        seq = session.scalar(select(AuditEntryRow.seq).where(AuditEntryRow.leaf_sha256 == leaf))
        if seq is None:
            raise NotFound(command.leaf[:80])
        seen = session.scalar(trail.seen_entries(actor, seat).where(AuditEntryRow.seq == seq)) is not None
    proof, _ = prove_entry(context, seq, hash_only=not seen, since=command.since)
    return proof.as_json()


def check_proof(context: Context, command: CheckProof, address: str) -> ProofChecked:
    """For anybody. Where the proof does not speak of the seal from before, this server adds the way between the two.

    That needs no trust: a way that is wrong does not lead from one to the other. Raises TooMany.
    """
    with context.database.write() as session:
        take_one(session, key_of("check", address), _MOST_CHECKS, context.clock.now())
    lines, sound = check_texts(_with_way(context, command), command.key, command.seal)
    entry = lines.pop() if sound and lines[-1].startswith("{") else ""
    return ProofChecked(sound=sound, lines=lines, entry=entry)


def _with_way(context: Context, command: CheckProof) -> str:
    """The proof with the way from the older seal, where both are of this trail; otherwise as it was given."""
    try:
        keys = [seals.read_key(command.key)]
        proof = seals.read_proof(command.proof)
        older, newer = seals.read_seal(command.seal.strip() + "\n", keys), seals.read_seal(proof.note, keys)
    except NotSound:
        return command.proof
    if older.size == proof.older_size or not 0 < older.size < newer.size:
        return command.proof
    with context.database.read() as session:
        known = session.get(SealRow, newer.size)
        if known is None or known.note != proof.note:
            return command.proof
        leaves = journal.leaves(session, newer.size)
    way = tuple(consistency_proof(leaves, older.size))
    return replace(proof, older_size=older.size, consistency=way).as_json()
