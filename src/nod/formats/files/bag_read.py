"""Reading a bag (RFC 8493) out of a ZIP, and whether it is whole, without trusting it."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from nod.core.transmittals.along import is_made
from nod.formats.files.zip_unpack import Member, list_members, read_members

_LARGEST_TAG_BYTES, _MOST_TAGS = 5 * 1024**2, 20
_ALGORITHMS = ("sha512", "sha256")
"""Those that RFC 8493 (2.4) wants of every reader, the stronger first."""
_SAID = {"sha512": "SHA-512", "sha256": "SHA-256"}
_MOST_NAMED = 20


@dataclass(frozen=True)
class BagRead:
    """`info`: labels of `bag-info.txt` with their values. `payload`: paths below `data/`, with the SHA-256 of each.

    `tags`: the other small files by their path. `faults` say in words what is not as the bag says: none if it is whole.
    """

    info: dict[str, list[str]]
    payload: dict[str, str]
    tags: dict[str, bytes]
    faults: list[str]

    def said(self, label: str) -> str:
        """The first value of a label, empty where it has none."""
        return next(iter(self.info.get(label, [])), "")


def bag_folder(names: Iterable[str]) -> str | None:
    """The folder, with its slash, of the one bag among the paths of an archive; None where there is not just one."""
    parted = [name.partition("/") if "/" in name else ("", "", name) for name in names]
    found = [f"{folder}{slash}" for folder, slash, name in parted if name == "bagit.txt"]
    return found[0] if len(found) == 1 else None


def documents_of(members: Sequence[Member], folder: str) -> list[Member]:
    """The bag's own files, in the folders they lie in below `data/`, without what is made for a transmittal.

    Its cover sheet, its list and the folder of its copies are called as the bag is. What lies in the archive beside the
    bag is there, too.
    """
    name, inside = folder.rstrip("/"), f"{folder}data/"
    return [
        replace(each, folder_path=each.folder_path.removeprefix(f"{folder}data").lstrip("/"))
        for each in members
        if not each.info.filename.startswith(folder)
        or (each.info.filename.startswith(inside) and not is_made(each.info.filename.removeprefix(inside), name))
    ]


def read_bag(path: Path, go_on: Callable[[], None] = lambda: None) -> BagRead | None:
    """The bag in the ZIP at `path`, its files hashed in constant memory; None where it is none.

    Raises BadArchive for what is no archive, or built to do harm.
    """
    members = list_members(path)
    folder = bag_folder(each.info.filename for each in members)
    if folder is None:
        return None
    payload = [each for each in members if each.info.filename.startswith(f"{folder}data/")]
    rest = [
        each for each in members
        if each.info.filename.startswith(folder) and not each.info.filename.startswith(f"{folder}data/")
    ]  # fmt: skip
    tags = _tags(path, rest, folder)
    algorithm = next((each for each in _ALGORITHMS if f"manifest-{each}.txt" in tags), "")
    hashes = _Hashes({"sha256", algorithm or "sha256"}, go_on)
    broken = read_members(path, [each for each in payload if not each.trouble], hashes.take)
    inside = {each.info.filename.removeprefix(f"{folder}data/") for each in payload}
    sums = {each.info.filename.removeprefix(f"{folder}data/"): found for each, found in hashes.found}
    unread = [each for each in payload if each.trouble] + broken
    faults = [f"{each.info.filename.removeprefix(f'{folder}data/')} cannot be read: {each.trouble}." for each in unread]
    faults += _payload_faults(tags, algorithm, sums, inside)
    faults += _tag_faults(tags)
    if len(tags) < len(rest):
        faults.append("Beside its documents the bag has files that are not read: too large, too many, or broken.")
    return BagRead(
        info=_fields(tags.get("bag-info.txt", b"")), tags=tags, faults=_some(faults),
        payload={name: each["sha256"] for name, each in sums.items()},
    )  # fmt: skip


class _Hashes:
    def __init__(self, algorithms: set[str], go_on: Callable[[], None]) -> None:
        self.algorithms, self.go_on = algorithms, go_on
        self.found: list[tuple[Member, dict[str, str]]] = []

    def take(self, member: Member, chunks: Iterator[bytes]) -> None:
        digests = {each: hashlib.new(each) for each in self.algorithms}
        for chunk in chunks:
            for digest in digests.values():
                digest.update(chunk)
        self.go_on()
        self.found.append((member, {name: digest.hexdigest() for name, digest in digests.items()}))


def _tags(path: Path, members: Sequence[Member], folder: str) -> dict[str, bytes]:
    found: dict[str, bytes] = {}

    def take(member: Member, chunks: Iterator[bytes]) -> None:
        found[member.info.filename.removeprefix(folder)] = b"".join(chunks)

    small = [each for each in members if not each.trouble and each.size_bytes <= _LARGEST_TAG_BYTES]
    read_members(path, small[:_MOST_TAGS], take)
    return found


def read_payload(path: Path, name: str) -> bytes:
    """A small file below `data/` of the bag; empty where it is not there, or too large."""
    found: list[bytes] = []
    members = list_members(path)
    folder = bag_folder(each.info.filename for each in members)
    wanted = [
        each for each in members
        if each.info.filename == f"{folder}data/{name}" and each.size_bytes <= _LARGEST_TAG_BYTES and not each.trouble
    ]  # fmt: skip
    read_members(path, wanted, lambda member, chunks: found.append(b"".join(chunks)))
    return found[0] if found else b""


def _payload_faults(
    tags: dict[str, bytes], algorithm: str, sums: dict[str, dict[str, str]], inside: set[str]
) -> Iterator[str]:
    if not algorithm:
        yield "The bag has no manifest that can be checked (SHA-256 or SHA-512)."
        return
    listed = _manifest(tags[f"manifest-{algorithm}.txt"])
    listed = {name.removeprefix("data/"): digest for name, digest in listed.items()}
    for name, digest in listed.items():
        if name not in inside:
            yield f"{name} is missing."
        elif name in sums and sums[name][algorithm] != digest:
            yield f"{name} is not what was sent: its {_SAID[algorithm]} is another."
    yield from (f"{name} is in the bag, but not in its manifest." for name in sorted(inside - set(listed)))


def _tag_faults(tags: dict[str, bytes]) -> Iterator[str]:
    for algorithm in _ALGORITHMS:
        for name, digest in _manifest(tags.get(f"tagmanifest-{algorithm}.txt", b"")).items():
            if name not in tags:
                yield f"{name} is missing."
            elif hashlib.new(algorithm, tags[name]).hexdigest() != digest:
                yield f"{name} was changed after the bag was made."


def _manifest(content: bytes) -> dict[str, str]:
    """Path to hash in small letters (RFC 8493, 2.1.3: line breaks and percent signs in paths are escaped)."""
    found = {}
    for line in content.decode("utf-8", "replace").splitlines():
        digest, _, name = line.partition(" ")
        name = name.strip().removeprefix("*").removeprefix("./")
        for escaped, plain in (("%0A", "\n"), ("%0a", "\n"), ("%0D", "\r"), ("%0d", "\r"), ("%25", "%")):
            name = name.replace(escaped, plain)
        if name:
            found[name] = digest.lower()
    return found


def _fields(content: bytes) -> dict[str, list[str]]:
    """Labels and values; a line that begins with a blank goes on with the one before (RFC 8493, 2.2.2)."""
    pairs: list[list[str]] = []
    for line in content.decode("utf-8", "replace").splitlines():
        if line[:1] in (" ", "\t") and pairs:
            pairs[-1][1] += " " + line.strip()
        elif ":" in line:
            label, _, value = line.partition(":")
            pairs.append([label.strip(), value.strip()])
    found: dict[str, list[str]] = {}
    for label, value in pairs:
        found.setdefault(label, []).append(value)
    return found


def _some(faults: list[str]) -> list[str]:
    if len(faults) <= _MOST_NAMED:
        return faults
    return [*faults[:_MOST_NAMED], f"And {len(faults) - _MOST_NAMED} more."]
