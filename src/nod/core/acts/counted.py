"""Counts in words."""

from __future__ import annotations

from collections.abc import Sequence


def counted(count: int, one: str, many: str = "") -> str:
    """`1 document`, `2 documents`, `12,000 documents`; `many` where it is not made with an s."""
    return f"{count:,} {one if count == 1 else many or one + 's'}"


def listed(names: Sequence[str]) -> str:
    """`A`, `A and B`, `A, B and C`."""
    *others, last = names
    return f"{', '.join(others)} and {last}" if others else last
