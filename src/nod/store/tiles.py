"""Pictures of pages on the disk, by content hash; a cache that can be emptied at any time."""

from __future__ import annotations

import fcntl
import os
import tempfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_LOCKS = 256


class Tiles:
    """Pages, tiles and thumbnails under `root`; each file is whole or absent."""

    def __init__(self, root: Path) -> None:
        self._root = root

    def tile_path(self, sha256: str, page: int, level: int, column: int, row: int) -> Path:
        return self._root / sha256[:2] / sha256 / f"{page}" / f"{level}" / f"{column}_{row}"

    def whole_path(self, sha256: str, page: int, level: int) -> Path:
        return self._root / sha256[:2] / sha256 / f"{page}" / f"{level}-whole"

    def thumbnail_path(self, sha256: str, page: int) -> Path:
        return self._root / sha256[:2] / sha256 / f"{page}" / "thumbnail"

    def compared_path(self, question: str) -> Path:
        """Where the answer to a comparison is kept; `question` is its hash."""
        return self._root / "compared" / question[:2] / f"{question}.json"

    def layered_path(self, digest: str) -> Path:
        """A copy of a file with some of its layers off."""
        return self._root / "layered" / digest[:2] / f"{digest}.pdf"

    @contextmanager
    def drawing(self, path: Path, *, wait: bool = True) -> Iterator[None]:
        """One at a time draws what is kept there, of all threads and processes; the others wait and find it kept.

        Raises BlockingIOError if another does and one would not `wait`.
        """
        # So many locks and no more, whatever is asked for; two things that share one wait for each other in vain.
        lock = self._root / "locks" / f"{zlib.crc32(bytes(path)) % _LOCKS}"
        lock.parent.mkdir(parents=True, exist_ok=True)
        held = os.open(lock, os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(held, fcntl.LOCK_EX if wait else fcntl.LOCK_EX | fcntl.LOCK_NB)
            yield
        finally:
            os.close(held)

    def keep(self, path: Path, picture: bytes) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        descriptor, name = tempfile.mkstemp(dir=path.parent)
        with os.fdopen(descriptor, "wb") as file:
            file.write(picture)
        os.replace(name, path)
