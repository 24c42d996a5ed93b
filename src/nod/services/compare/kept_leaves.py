"""Pages of stored files, and borrowing them for the press."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass

from nod.formats.sheet.leaf import Leaf
from nod.services.acts.context import Context


@dataclass(frozen=True)
class KeptLeaf:
    """A page of a stored file, counted from 0, with its UserUnit."""

    sha256: str
    place: int
    user_unit: float = 1.0


@contextmanager
def borrowed(context: Context, first: KeptLeaf, second: KeptLeaf) -> Iterator[tuple[Leaf, Leaf]]:
    """Two pages as the press takes them, as long as the block lasts."""
    with ExitStack() as stack:
        old, new = (
            Leaf(stack.enter_context(context.blobs.local_sheet(each.sha256)), each.place, each.user_unit)
            for each in (first, second)
        )
        yield old, new
