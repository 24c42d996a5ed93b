"""The Merkle tree of the audit trail, after RFC 6962 section 2.1 (SHA-256)."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

EMPTY_ROOT = hashlib.sha256(b"").digest()


def leaf_hash(data: bytes) -> bytes:
    """MTH of a single entry: SHA-256(0x00 || data), 32 bytes."""
    return hashlib.sha256(b"\x00" + data).digest()


def node_hash(left: bytes, right: bytes) -> bytes:
    """SHA-256(0x01 || left || right), 32 bytes."""
    return hashlib.sha256(b"\x01" + left + right).digest()


def _split(size: int) -> int:
    """The largest power of two smaller than `size` (size >= 2)."""
    return 1 << ((size - 1).bit_length() - 1)


def root_of(leaves: Sequence[bytes]) -> bytes:
    """The tree head over leaf hashes, in order."""
    growing = Growing()
    growing.grow(leaves)
    return growing.root()


class Growing:
    """A frontier that grows in place, for many leaves at once."""

    def __init__(self) -> None:
        self.size = 0
        self._heads: list[bytes] = []

    def grow(self, leaves: Sequence[bytes]) -> None:
        heads, size, sha256 = self._heads, self.size, hashlib.sha256
        for leaf in leaves:
            heads.append(leaf)
            size += 1
            full = size
            while not full & 1:
                right = heads.pop()
                heads[-1] = sha256(b"\x01" + heads[-1] + right).digest()
                full >>= 1
        self.size = size

    def root(self) -> bytes:
        return Frontier(self.size, tuple(self._heads)).root()


def inclusion_proof(leaves: Sequence[bytes], index: int) -> list[bytes]:
    """PATH(index, leaves) of RFC 6962 2.1.1: sibling hashes, lowest first. Raises IndexError outside the tree."""
    if not 0 <= index < len(leaves):
        raise IndexError(index)
    if len(leaves) == 1:
        return []
    split = _split(len(leaves))
    if index < split:
        return [*inclusion_proof(leaves[:split], index), root_of(leaves[split:])]
    return [*inclusion_proof(leaves[split:], index - split), root_of(leaves[:split])]


def verify_inclusion(leaf: bytes, index: int, size: int, proof: Sequence[bytes], root: bytes) -> bool:
    """Whether `leaf` stands at `index` in the tree of `size` leaves with head `root`."""
    if not 0 <= index < size:
        return False
    node, last, current = index, size - 1, leaf
    for sibling in proof:
        if last == 0:
            return False
        if node % 2 or node == last:
            current = node_hash(sibling, current)
            while node % 2 == 0 and node:
                node, last = node >> 1, last >> 1
        else:
            current = node_hash(current, sibling)
        node, last = node >> 1, last >> 1
    return last == 0 and current == root


def consistency_proof(leaves: Sequence[bytes], old_size: int) -> list[bytes]:
    """PROOF(old_size, leaves) of RFC 6962 2.1.2. Raises IndexError unless 0 < old_size <= len(leaves)."""
    if not 0 < old_size <= len(leaves):
        raise IndexError(old_size)
    return _subproof(leaves, old_size, whole=True)


def _subproof(leaves: Sequence[bytes], old_size: int, *, whole: bool) -> list[bytes]:
    if old_size == len(leaves):
        return [] if whole else [root_of(leaves)]
    split = _split(len(leaves))
    if old_size <= split:
        return [*_subproof(leaves[:split], old_size, whole=whole), root_of(leaves[split:])]
    return [*_subproof(leaves[split:], old_size - split, whole=False), root_of(leaves[:split])]


def verify_consistency(old_size: int, new_size: int, old_root: bytes, new_root: bytes, proof: Sequence[bytes]) -> bool:
    """Whether the tree of `new_size` with `new_root` only appends to that of `old_size` with `old_root`."""
    if old_size == new_size:
        return old_root == new_root and not proof
    if not 0 < old_size < new_size or not (proof or _is_power_of_two(old_size)):
        return False
    node, last = old_size - 1, new_size - 1
    while node % 2:
        node, last = node >> 1, last >> 1
    path = list(proof)
    old = new = path.pop(0) if node else old_root
    for sibling in path:
        if last == 0:
            return False
        if node % 2 or node == last:
            old, new = node_hash(sibling, old), node_hash(sibling, new)
            while node % 2 == 0 and node:
                node, last = node >> 1, last >> 1
        else:
            new = node_hash(new, sibling)
        node, last = node >> 1, last >> 1
    return last == 0 and old == old_root and new == new_root


def _is_power_of_two(size: int) -> bool:
    return size & (size - 1) == 0


@dataclass(frozen=True)
class Frontier:
    """The heads of the full subtrees of a tree of `size` leaves, largest first: all that appending needs."""

    size: int = 0
    heads: tuple[bytes, ...] = ()

    def append(self, leaf: bytes) -> Frontier:
        """The frontier after one more leaf; O(log size)."""
        heads, size = [*self.heads, leaf], self.size
        while size % 2:
            right, left = heads.pop(), heads.pop()
            heads.append(node_hash(left, right))
            size >>= 1
        return Frontier(self.size + 1, tuple(heads))

    def root(self) -> bytes:
        """The tree head."""
        if not self.heads:
            return EMPTY_ROOT
        current = self.heads[-1]
        for head in reversed(self.heads[:-1]):
            current = node_hash(head, current)
        return current
