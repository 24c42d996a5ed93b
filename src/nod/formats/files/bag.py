"""A bag (RFC 8493, BagIt 1.0) in a ZIP: payload under `data/`, SHA-256 manifests, in one folder (its section 4).

Written here and not by the package `bagit`: that changes the whole process's working directory and reads every file
once more to hash what is known (decision 0054). It reads and checks what is written here, in the tests.
"""

from __future__ import annotations

import hashlib
import zipfile
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from nod.formats.files.zip_pack import member_info, safe_name

LONGEST_PATH = 200
_CHUNK = 1024 * 1024


class Damaged(Exception):
    """A stored file is not what was filed; the words name it."""


@dataclass(frozen=True)
class Packed:
    """One file: its path as `payload_names` gives it, its SHA-256 as it was filed, and where it lies on the disk."""

    path: str
    sha256: str
    source: Path


def write_bag(
    target: Path,
    name: str,
    info: Sequence[tuple[str, str]],
    proof: Sequence[tuple[str, bytes]],
    files: Iterable[Packed],
    told: Callable[[int], None] = lambda done: None,
) -> None:
    """The ZIP of the bag called `name`, in constant memory; the same bytes for the same content.

    `proof`: further tag files (path in the bag, content). `told` is called with the number of files that are in.
    Raises Damaged for a file whose bytes do not have its SHA-256.
    """
    manifest, size, count = [], 0, 0
    with (
        zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as pack,
        ThreadPoolExecutor(1) as beside,
    ):
        for count, each in enumerate(files, 1):
            size += _put(pack, beside, f"{name}/data/{each.path}", each)
            manifest.append(f"{each.sha256}  data/{each.path}\n")
            told(count)
        tags = [
            ("bagit.txt", b"BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"),
            ("bag-info.txt", _fields([*info, ("Payload-Oxum", f"{size}.{count}")])),
            ("manifest-sha256.txt", "".join(sorted(manifest, key=lambda line: line[66:])).encode()),
            *proof,
        ]
        sums = "".join(f"{hashlib.sha256(content).hexdigest()}  {path}\n" for path, content in tags)
        for path, content in (*tags, ("tagmanifest-sha256.txt", sums.encode())):
            pack.writestr(member_info(f"{name}/{path}"), content)


def _put(pack: zipfile.ZipFile, beside: ThreadPoolExecutor, inside: str, each: Packed) -> int:
    """Hashed beside the writing: both let the other run."""
    digest, size = hashlib.sha256(), each.source.stat().st_size
    member = member_info(inside)
    member.file_size = size
    hashing: Future[None] | None = None
    with each.source.open("rb") as source, pack.open(member, "w") as into:
        while chunk := source.read(_CHUNK):
            if hashing:
                hashing.result()
            hashing = beside.submit(digest.update, chunk)
            into.write(chunk)
    if hashing:
        hashing.result()
    if digest.hexdigest() != each.sha256:
        raise Damaged(f"{each.path} is not what was filed: its bytes have changed on the disk.")
    return size


def _fields(fields: Sequence[tuple[str, str]]) -> bytes:
    return "".join(f"{label}: {value}\n" for label, value in fields).encode()


def payload_names(bag: str, names: Sequence[str]) -> list[str]:
    """What files are called below `data/` of a bag: safe, distinct, and no path over 200 characters with it.

    Without a `%`: a manifest has to escape it (RFC 8493, 2.1.3), and not all programs that read bags know that.
    """
    longest = LONGEST_PATH - len(f"{bag}/data/")
    used: set[str] = set()
    return [safe_name(each.replace("%", "-"), longest=longest, used=used) for each in names]
