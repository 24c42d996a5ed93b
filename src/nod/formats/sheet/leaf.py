"""A page of a file, as it is named to the press."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Leaf:
    """A page of a file, with its UserUnit."""

    path: Path
    place: int
    user_unit: float = 1.0
