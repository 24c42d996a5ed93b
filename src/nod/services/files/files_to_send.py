"""Files on their way out."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class FileToSend:
    """A stored file and what it should be called on the receiver's disk."""

    path: Path
    name: str
    media_type: str
