"""A ZIP of stored files with safe, distinct names; written to a file, in constant memory."""

from __future__ import annotations

import re
import unicodedata
import zipfile
from collections.abc import Iterable
from pathlib import Path

# The same bytes for the same content, whenever it is packed.
_FIXED_TIME = (1980, 1, 1, 0, 0, 0)

_LONGEST = 180
_LONGEST_ENDING = 10
_DEVICE = re.compile(r"(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³])\s*(\.|$)", re.IGNORECASE)
"""Names that one system keeps for its devices, with any ending."""


def safe_name(name: str, *, longest: int = _LONGEST, used: set[str] | None = None) -> str:
    """A file name that is one path component on every system, of at most `longest` characters.

    With `used` it is another one than all before, also where capitals do not count; it is added to them.
    """
    tidy = re.sub(r'[<>:"/\\|?*\x00-\x1f\x7f]', "-", unicodedata.normalize("NFC", name)).strip(" .")
    tidy = f"_{tidy}" if _DEVICE.match(tidy) else tidy
    stem, ending = _parts(tidy or "file")
    candidate = _cut(stem, ending, longest)
    if used is not None:
        count = 1
        while candidate.casefold() in used:
            count += 1
            candidate = _cut(stem, f" ({count}){ending}", longest)
        used.add(candidate.casefold())
    return candidate


def _parts(name: str) -> tuple[str, str]:
    """The stem, and the ending with its point."""
    stem, _, ending = name.rpartition(".")
    return (stem, f".{ending}") if stem and 0 < len(ending) <= _LONGEST_ENDING and " " not in ending else (name, "")


def _cut(stem: str, ending: str, longest: int) -> str:
    return stem[: max(1, longest - len(ending))].rstrip(" .") + ending


def member_info(path: str) -> zipfile.ZipInfo:
    """An entry with nothing of the machine or the moment in it."""
    info = zipfile.ZipInfo(path, _FIXED_TIME)
    info.external_attr = 0o644 << 16
    info.create_system = 3
    return info


def write_zip(target: Path, files: Iterable[tuple[str, Path]]) -> None:
    """`files`: (name inside, path on the disk). PDFs are compressed inside already, so members are only stored."""
    write_tree(target, (((name,), path) for name, path in files))


def write_tree(target: Path, files: Iterable[tuple[tuple[str, ...], Path]]) -> None:
    """As `write_zip`, in folders: `files` are (folders and name, path on the disk)."""
    used: dict[str, set[str]] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as pack:
        for (*folders, name), path in files:
            folder = "".join(f"{safe_name(each)}/" for each in folders)
            inside = folder + safe_name(name, used=used.setdefault(folder.casefold(), set()))
            info = member_info(inside)
            info.file_size = path.stat().st_size
            with path.open("rb") as source, pack.open(info, "w") as member:
                while chunk := source.read(1024 * 1024):
                    member.write(chunk)
