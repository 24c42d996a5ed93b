"""What is put on paper of any thing, in words."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class FileTold:
    """`size` in words; `sha256` in hex."""

    name: str
    size: str
    sha256: str
