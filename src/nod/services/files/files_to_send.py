"""Files on their way out."""

from __future__ import annotations

from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class FileToSend:
    """A stored file, borrowed by whoever sends it, and what it should be called on the receiver's disk."""

    content: AbstractContextManager[Path]
    name: str
    media_type: str
