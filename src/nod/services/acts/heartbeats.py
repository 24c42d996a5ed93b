"""Signs of life of Nod's parts: each thread says now and then that it goes on, and how long it may be silent next.

A file a thread, overwritten in place, so that it needs neither the database nor room on the disk. Times are of the
machine's steady clock, which all processes share.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from nod.clock import steady_seconds

_SIZE = 64


@dataclass(frozen=True)
class Beat:
    """The last sign of life of a thread; `late` if it has been silent for longer than it said."""

    part: str
    thread: str
    age_seconds: float
    late: bool


class Beats:
    """All signs of life below one data directory."""

    def __init__(self, data_dir: Path) -> None:
        self._root = data_dir / "beats"

    def beat(self, part: str, thread: str, patience_seconds: float) -> None:
        """The disk being full is no reason to be taken for dead."""
        text = f"{steady_seconds():.3f} {patience_seconds:.3f}".ljust(_SIZE).encode()
        with suppress(OSError):
            self._root.mkdir(parents=True, exist_ok=True)
            descriptor = os.open(self._root / f"{part}.{thread}", os.O_WRONLY | os.O_CREAT, 0o600)
            try:
                os.pwrite(descriptor, text, 0)
            finally:
                os.close(descriptor)

    def forget(self, part: str) -> None:
        """Before a part is started: its former life does not count."""
        for path in self._files(f"{part}.*"):
            path.unlink(missing_ok=True)

    def read(self, part: str = "*") -> list[Beat]:
        """By part and thread. What cannot be read, as it is being written, is left out."""
        now, found = steady_seconds(), []
        for path in self._files(f"{part}.*"):
            with suppress(OSError, ValueError):
                at, patience = (float(each) for each in path.read_text().split())
                name, _, thread = path.name.partition(".")
                found.append(Beat(name, thread, max(0.0, now - at), now - at > patience))
        return found

    def _files(self, pattern: str) -> Iterable[Path]:
        return sorted(self._root.glob(pattern))
