"""With whom something is, in words (handbook §2)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Holder:
    """A person or company that something is with."""

    id: str
    name: str


def with_words(holders: Sequence[Holder], what: str, *, each: bool) -> str:
    """Two by name, more by number: any one of them may do it, or each has to (`each`). `what` is what is wanted."""
    names = [holder.name for holder in holders]
    if each:
        return " and ".join(names) if len(names) <= 2 else f"{names[0]} and {len(names) - 1} others"
    if len(names) <= 2:
        return " or ".join(names)
    return f"any of {len(names)} for {what}" if what else f"any of {len(names)}"
