"""Bytes on the disk, each once, under their SHA-256."""

from __future__ import annotations

import errno
import hashlib
import os
import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

CHUNK_BYTES = 1024 * 1024


class BlobTooLarge(ValueError):
    """More bytes arrived than are allowed."""


class NoRoom(OSError):
    """The disk is full, or this process may write no more."""


_NO_ROOM = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


@contextmanager
def room() -> Iterator[None]:
    """Tells a full disk from other trouble: raises NoRoom instead of a bare OSError."""
    try:
        yield
    except OSError as error:
        if error.errno in _NO_ROOM:
            raise NoRoom(error.errno, error.strerror) from error
        raise


@dataclass(frozen=True)
class StoredBlob:
    """What was stored; `head` is its first 4096 bytes."""

    sha256: str
    size_bytes: int
    head: bytes


class Blobs:
    """A directory of blobs. A blob is whole or absent: it is written aside, synced, then renamed into place.

    Whoever wants the bytes borrows them as a file of this machine, for as long as the block lasts.
    """

    def __init__(self, root: Path) -> None:
        self._root = root
        self._aside = root / "aside"
        self._aside.mkdir(parents=True, exist_ok=True)

    @contextmanager
    def local(self, sha256: str) -> Iterator[Path]:
        """The file. Opening it raises FileNotFoundError where it is not there."""
        yield self._path(sha256)

    @contextmanager
    def local_sheet(self, sha256: str) -> Iterator[Path]:
        """The PDF by which a file is seen: drawn from it, or the file itself."""
        drawn = self._drawn_path(sha256)
        yield drawn if drawn.is_file() else self._path(sha256)

    @contextmanager
    def drawing_sheet(self, sha256: str) -> Iterator[Path]:
        """A path to draw the sheet at by which a file is seen that is no PDF itself; kept if the block ends well."""
        drawn = self._drawn_path(sha256)
        drawn.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=drawn.parent) as aside:
            made = Path(aside) / "drawn.pdf"
            yield made
            made.replace(drawn)

    def _path(self, sha256: str) -> Path:
        return self._root / sha256[:2] / sha256[2:4] / sha256

    def _drawn_path(self, sha256: str) -> Path:
        return self._root / "drawn" / sha256[:2] / f"{sha256}.pdf"

    def put(self, chunks: Iterable[bytes], largest_bytes: int | None = None) -> StoredBlob:
        """Store what the chunks bring, in constant memory. Raises BlobTooLarge or NoRoom, and leaves nothing then."""
        digest, size, head = hashlib.sha256(), 0, b""
        with room(), self._writing() as (file, name):
            for chunk in chunks:
                size += len(chunk)
                if largest_bytes is not None and size > largest_bytes:
                    raise BlobTooLarge(size)
                digest.update(chunk)
                head = head if len(head) >= 4096 else (head + chunk)[:4096]
                file.write(chunk)
            file.flush()
            os.fsync(file.fileno())
            self._place(name, digest.hexdigest())
        return StoredBlob(digest.hexdigest(), size, head)

    def put_file(self, path: Path) -> StoredBlob:
        with path.open("rb") as file:
            return self.put(chunks_of(file))

    @contextmanager
    def made(self) -> Iterator[tuple[Path, Callable[[], StoredBlob]]]:
        """A path to write a file at, and what stores it as it lies there: without a second copy of many bytes.

        Raises NoRoom; what is not stored is gone after the block.
        """
        with room(), tempfile.TemporaryDirectory(dir=self._aside) as aside:
            path = Path(aside) / "made"
            yield path, lambda: self._take(path)

    def _take(self, path: Path) -> StoredBlob:
        with path.open("rb") as file:
            digest = hashlib.file_digest(file, "sha256").hexdigest()
            file.seek(0)
            head = file.read(4096)
            os.fsync(file.fileno())
        size = path.stat().st_size
        self._place(str(path), digest)
        return StoredBlob(digest, size, head)

    @contextmanager
    def _writing(self) -> Iterator[tuple[BinaryIO, str]]:
        descriptor, name = tempfile.mkstemp(dir=self._aside)
        try:
            with os.fdopen(descriptor, "wb") as file:
                yield file, name
        finally:
            Path(name).unlink(missing_ok=True)

    def _place(self, name: str, sha256: str) -> None:
        target = self._path(sha256)
        if target.is_file():
            return
        target.parent.mkdir(parents=True, exist_ok=True)
        os.replace(name, target)
        _sync_directory(target.parent)


def _sync_directory(path: Path) -> None:
    descriptor = os.open(path, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def chunks_of(file: BinaryIO) -> Iterator[bytes]:
    """The file's bytes, 1 MiB at a time."""
    while chunk := file.read(CHUNK_BYTES):
        yield chunk
