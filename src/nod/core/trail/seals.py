"""Seals: signed heads of the trail's tree, and proofs that an entry stands under one. Everything here needs no server.

A seal is a checkpoint (C2SP tlog-checkpoint) in a signed note (C2SP signed-note), both written from memory: the name of
the trail, the number of entries, the tree's root in base64, the time; an empty line; `— name base64(hash || signature)`
with the first four bytes of SHA-256(name || newline || 1 || public key) and an Ed25519 signature (RFC 8032) of the
text.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

from nod.core.trail.merkle import leaf_hash, verify_consistency, verify_inclusion

_ED25519 = b"\x01"
_MOST_PROOF_NODES = 80
PROOF_FORM = "nod-proof-1"


class NotSound(Exception):
    """A seal, key or proof that does not hold; the words say what is wrong with it."""


@dataclass(frozen=True)
class SealKey:
    """The public part of a key, with the name that it signs under."""

    name: str
    public: bytes

    @property
    def tag(self) -> bytes:
        return hashlib.sha256(self.name.encode() + b"\n" + _ED25519 + self.public).digest()[:4]

    @property
    def words(self) -> str:
        """As it is handed to others: `name+tag+key`."""
        return f"{self.name}+{self.tag.hex()}+{_base64(_ED25519 + self.public)}"


@dataclass(frozen=True)
class Seal:
    """How many entries the tree had, its root, and when it was sealed, as RFC 3339 in UTC."""

    origin: str
    size: int
    root: bytes
    at: str

    @property
    def text(self) -> str:
        return f"{self.origin}\n{self.size}\n{_base64(self.root)}\n{self.at}\n"


def _base64(data: bytes) -> str:
    return base64.b64encode(data).decode()


def _unbase64(text: str, what: str) -> bytes:
    try:
        return base64.b64decode(text, validate=True)
    except (binascii.Error, ValueError) as error:
        raise NotSound(f"The {what} is not base64.") from error


def public_of(seed: bytes) -> bytes:
    """The public key to a secret of 32 bytes."""
    return Ed25519PrivateKey.from_private_bytes(seed).public_key().public_bytes_raw()


def sign(seal: Seal, key: SealKey, seed: bytes) -> str:
    """The whole note."""
    signature = Ed25519PrivateKey.from_private_bytes(seed).sign(seal.text.encode())
    return f"{seal.text}\n— {key.name} {_base64(key.tag + signature)}\n"


def read_key(words: str) -> SealKey:
    """Raises NotSound for what is no public key, or one whose tag does not fit it."""
    # The key itself may have a plus in it, a name has none.
    name, _, rest = words.strip().partition("+")
    tag, _, packed = rest.partition("+")
    raw = _unbase64(packed, "key")
    if not name or len(raw) != 33 or raw[:1] != _ED25519:
        raise NotSound("This is not a key for seals: it reads name+tag+key.")
    key = SealKey(name, raw[1:])
    if key.tag.hex() != tag:
        raise NotSound("The key's tag does not fit the key: it was copied wrongly.")
    return key


def read_seal(note: str, keys: Sequence[SealKey]) -> Seal:
    """The seal in a note that one of the keys has signed. Raises NotSound."""
    text, divider, signatures = note.replace("\r\n", "\n").partition("\n\n")
    lines = f"{text}\n".split("\n")
    if not divider or len(lines) < 4 or not (lines[1].isascii() and lines[1].isdigit()) or len(lines[1]) > 15:
        raise NotSound("This is not a seal.")
    seal = Seal(lines[0], int(lines[1]), _unbase64(lines[2], "root of the seal"), "\n".join(lines[3:-1]))
    if not any(_has_signed(key, seal.text.encode(), signatures) for key in keys):
        raise NotSound("The seal is not signed with this key.")
    return seal


def _has_signed(key: SealKey, text: bytes, signatures: str) -> bool:
    for line in signatures.splitlines():
        mark, _, rest = line.partition(" ")
        name, _, packed = rest.rpartition(" ")
        if mark != "—" or name != key.name:
            continue
        raw = _unbase64(packed, "signature")
        try:
            if raw[:4] == key.tag:
                Ed25519PublicKey.from_public_bytes(key.public).verify(raw[4:], text)
                return True
        except InvalidSignature:
            continue
    return False


@dataclass(frozen=True)
class Proof:
    """That an entry stands at `index` (from 0) under a seal. `body` is None where only its hash is shown.

    `older_size` and `consistency` prove besides that the tree grew out of an earlier one of that size, 0 for none.
    """

    index: int
    leaf: bytes
    body: bytes | None
    path: tuple[bytes, ...]
    note: str
    older_size: int = 0
    consistency: tuple[bytes, ...] = ()

    def as_json(self) -> str:
        said: dict[str, Any] = {
            "form": PROOF_FORM, "entry": self.index + 1, "leaf": self.leaf.hex(),
            "body": None if self.body is None else self.body.decode(), "path": [node.hex() for node in self.path],
            "seal": self.note,
        }  # fmt: skip
        if self.older_size:
            said["since"] = {"entries": self.older_size, "path": [node.hex() for node in self.consistency]}
        return json.dumps(said, ensure_ascii=False, indent=1)


def read_proof(text: str) -> Proof:
    """Raises NotSound for what is no proof."""
    try:
        said = json.loads(text)
        since = said.get("since") or {"entries": 0, "path": []}
        body = said["body"]
        if said["form"] != PROOF_FORM or not (body is None or isinstance(body, str)):
            raise NotSound("This is not a proof of Nod.")
        return Proof(
            int(said["entry"]) - 1, bytes.fromhex(said["leaf"]), None if body is None else body.encode(),
            _nodes(said["path"]), str(said["seal"]), int(since["entries"]), _nodes(since["path"]),
        )  # fmt: skip
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise NotSound("This is not a proof of Nod, or it was damaged on its way.") from error


def _nodes(listed: Any) -> tuple[bytes, ...]:
    if not isinstance(listed, list) or len(listed) > _MOST_PROOF_NODES:
        raise ValueError("not a path")
    return tuple(bytes.fromhex(each) for each in listed)


@dataclass(frozen=True)
class Checked:
    """What a proof proves, in words, and the entry where it is shown."""

    words: tuple[str, ...]
    entry: Mapping[str, Any] | None


def check_proof(proof: Proof, keys: Sequence[SealKey], older: Seal | None = None) -> Checked:
    """Raises NotSound, saying which part does not hold. `older` is a seal that one has from before."""
    seal = read_seal(proof.note, keys)
    if proof.body is not None and leaf_hash(proof.body) != proof.leaf:
        raise NotSound("The entry is not the one that was sealed: its content has another hash.")
    if not verify_inclusion(proof.leaf, proof.index, seal.size, proof.path, seal.root):
        raise NotSound(f"The entry does not stand at place {proof.index + 1} under this seal.")
    words = [
        f"The seal of {seal.origin} over {seal.size} entries, made {seal.at}, is signed with the key.",
        f"The entry stands at place {proof.index + 1} under it, and has not been altered since.",
    ]
    if older is not None:
        words.append(_check_older(proof, seal, older))
    entry = None
    if proof.body is not None:
        try:
            entry = json.loads(proof.body)
        except ValueError as error:
            raise NotSound("The entry stands under the seal, and cannot be read.") from error
    return Checked(tuple(words), entry)


def _check_older(proof: Proof, seal: Seal, older: Seal) -> str:
    if older.origin != seal.origin:
        raise NotSound(f"The two seals are of different trails: {older.origin} and {seal.origin}.")
    if older.size == seal.size:
        grown = older.root == seal.root
    else:
        if proof.older_size != older.size:
            raise NotSound(
                f"The proof says nothing of a tree of {older.size} entries. Ask for one with --since {older.size}."
            )
        grown = verify_consistency(older.size, seal.size, older.root, seal.root, proof.consistency)
    if not grown:
        raise NotSound(
            f"The trail was rewritten: it did not grow out of the one of {older.size} entries sealed before."
        )
    return f"The trail grew out of the one of {older.size} entries sealed {older.at}; nothing in that was changed."
