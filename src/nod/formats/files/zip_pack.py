"""A ZIP of stored files with safe, distinct names; written to a file, in constant memory."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Iterable
from pathlib import Path

# The same bytes for the same content, whenever it is packed.
_FIXED_TIME = (1980, 1, 1, 0, 0, 0)


def safe_name(name: str) -> str:
    """A file name that is one path component on every system."""
    tidy = re.sub(r'[<>:"/\\|?*\x00-\x1f]', "-", name).strip(" .")
    return tidy[:180] or "file"


def write_zip(target: Path, files: Iterable[tuple[str, Path]]) -> None:
    """`files`: (name inside, path on the disk). PDFs are compressed inside already, so members are only stored."""
    write_tree(target, (((name,), path) for name, path in files))


def write_tree(target: Path, files: Iterable[tuple[tuple[str, ...], Path]]) -> None:
    """As `write_zip`, in folders: `files` are (folders and name, path on the disk)."""
    used: set[str] = set()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as pack:
        for place, path in files:
            inside = "/".join(safe_name(each) for each in place)
            info = zipfile.ZipInfo(_distinct(inside, used), _FIXED_TIME)
            info.external_attr = 0o644 << 16
            info.file_size = path.stat().st_size
            with path.open("rb") as source, pack.open(info, "w") as member:
                while chunk := source.read(1024 * 1024):
                    member.write(chunk)


def _distinct(name: str, used: set[str]) -> str:
    stem, dot, ending = name.rpartition(".")
    if "/" in ending:
        stem, dot, ending = name, "", ""
    candidate, count = name, 1
    while candidate.lower() in used:
        count += 1
        candidate = f"{stem} ({count}){dot}{ending}" if dot else f"{name} ({count})"
    used.add(candidate.lower())
    return candidate
