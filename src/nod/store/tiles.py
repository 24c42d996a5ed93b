"""Pictures of pages on the disk, by content hash; a cache that can be emptied at any time."""

from __future__ import annotations

import fcntl
import os
import tempfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager, suppress
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

    def forget_copies(self, most_bytes: int) -> int:
        """Keeps the copies with layers off below a bound, see `forget_oldest`."""
        return forget_oldest(self._root / "layered", most_bytes)

    def forget(self, most_bytes: int) -> int:
        """Keeps all pictures below a bound. Thumbnails stay: nothing draws them anew."""
        return forget_oldest(self._root, most_bytes)

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


def forget_oldest(root: Path, most_bytes: int) -> int:
    """Removes the files that were used longest ago until nine tenths of the bound are left; returns how many went."""
    found = [(max(stat.st_atime, stat.st_mtime), stat.st_size, path) for path, stat in _files(root)]
    total = sum(size for _, size, _ in found)
    if total <= most_bytes:
        return 0
    gone = 0
    for _, size, path in sorted(found):
        if total <= 0.9 * most_bytes:
            break
        # Another process may have been faster.
        path.unlink(missing_ok=True)
        total, gone = total - size, gone + 1
    return gone


def _files(root: Path) -> Iterator[tuple[Path, os.stat_result]]:
    kept_for_ever = ("thumbnail", "locks")
    for directory, folders, names in os.walk(root):
        folders[:] = [each for each in folders if each not in kept_for_ever]
        for name in names:
            path = Path(directory) / name
            if name not in kept_for_ever:
                with suppress(FileNotFoundError):
                    yield path, path.stat()
