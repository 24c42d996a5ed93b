"""Taking a ZIP apart without trusting it: bombs, links, paths that lead away and odd names are told, not followed."""

from __future__ import annotations

import lzma
import stat
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from nod.core.access.folder_names import tidy_path
from nod.core.intake.file_names import base_name

MOST_FILES = 5000
MOST_BYTES = 20 * 1024**3
MOST_RATIO = 200
_RATIO_FROM_BYTES = 50 * 1024**2
_CHUNK = 1024 * 1024


_BROKEN = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, OSError, ValueError, RuntimeError, NotImplementedError,
)  # fmt: skip
"""What reading one member may raise; NotImplementedError for ways of packing that are not known here."""


class BadArchive(Exception):
    """The archive as a whole is refused; the words say why."""


class _BrokenMember(Exception):
    """One member cannot be read."""


@dataclass(frozen=True)
class Member:
    """One entry: its bare name, the folders it lay in, and `trouble` in words if it is refused."""

    name: str
    folder_path: str
    size_bytes: int
    info: zipfile.ZipInfo
    trouble: str = ""


def list_members(path: Path, files_before: int = 0, bytes_before: int = 0) -> list[Member]:
    """What is inside, folders left out. Raises BadArchive for what is no archive, too much, or built to do harm.

    `files_before` and `bytes_before` have come out of other archives of the same upload already.
    """
    try:
        with zipfile.ZipFile(path) as pack:
            # The directory is read whole before it can be counted, so its size is looked at first.
            infos = pack.infolist()
    except (zipfile.BadZipFile, OSError, ValueError, RuntimeError, NotImplementedError) as error:
        raise BadArchive("The archive is broken and cannot be unpacked. Ask for it again.") from error
    files = [info for info in infos if not info.is_dir()]
    check_count(len(files), files_before)
    total = sum(info.file_size for info in files)
    packed = max(1, path.stat().st_size)
    if total + bytes_before > MOST_BYTES:
        raise BadArchive(f"Unpacked the archive would take {total / 1024**3:,.0f} GB; that is too much.")
    if total > _RATIO_FROM_BYTES and total / packed > MOST_RATIO:
        raise BadArchive("The archive swells to many times its size when unpacked, as archives built to do harm do.")
    return [_member(info) for info in files]


def check_count(files: int, files_before: int) -> None:
    """Raises BadArchive."""
    if not files_before and files > MOST_FILES:
        raise BadArchive(f"The archive holds {files:,} files; at most {MOST_FILES:,} are taken at once.")
    if files + files_before > MOST_FILES:
        words = f"With its {files:,} files more than {MOST_FILES:,} would come out of one upload. Send it by itself."
        raise BadArchive(words)


def _member(info: zipfile.ZipInfo) -> Member:
    folder, _, last = info.filename.replace("\\", "/").rpartition("/")
    return Member(base_name(last), tidy_path(folder), info.file_size, info, _trouble(info))


def _trouble(info: zipfile.ZipInfo) -> str:
    name = info.filename.replace("\\", "/")
    parts = name.split("/")
    if name.startswith("/") or ".." in parts or (len(parts[0]) == 2 and parts[0][1] == ":"):
        return "its path leads out of the archive"
    if stat.S_ISLNK(info.external_attr >> 16):
        return "it is a link, not a file"
    if info.flag_bits & 0x1:
        return "it is encrypted"
    if not parts[-1].strip() or "\0" in info.orig_filename.rstrip("\0") or "\ufffd" in name:
        return "its name cannot be read"
    if any(not ch.isprintable() for ch in name):
        return "its name holds characters that cannot be shown"
    return ""


def read_members(path: Path, wanted: list[Member], take: Callable[[Member, Iterator[bytes]], None]) -> list[Member]:
    """Calls `take` with the bytes of each; returns those that could not be read whole, with the trouble.

    An entry that brings more bytes than it says is broken off there. What `take` itself raises is not the entry's
    fault and goes through, but for OverflowError, by which it refuses one.
    """
    failed = []
    with zipfile.ZipFile(path) as pack:
        for member in wanted:
            try:
                take(member, _chunks(pack, member))
            except (_BrokenMember, OverflowError):
                failed.append(_with_trouble(member, "it is broken"))
    return failed


def _chunks(pack: zipfile.ZipFile, member: Member) -> Iterator[bytes]:
    left = member.size_bytes
    try:
        source = pack.open(member.info)
    except _BROKEN as error:
        raise _BrokenMember from error
    with source:
        while chunk := _read(source):
            left -= len(chunk)
            if left < 0:
                raise OverflowError("more bytes than the directory says")
            yield chunk
    if left:
        raise _BrokenMember("fewer bytes than the directory says")


def _read(source: IO[bytes]) -> bytes:
    try:
        return source.read(_CHUNK)
    except _BROKEN as error:
        raise _BrokenMember from error


def _with_trouble(member: Member, trouble: str) -> Member:
    return Member(member.name, member.folder_path, member.size_bytes, member.info, trouble)
