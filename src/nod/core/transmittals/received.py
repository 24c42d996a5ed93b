"""A transmittal that came in: reading the list that was given, and holding it against the files (handbook §10)."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from nod.core.acts.list_columns import guess_columns
from nod.core.register.number_shapes import fold
from nod.core.register.numbers import Convention, check_number
from nod.core.register.revisions import Scheme, parse

MOST_LISTED = 5000
_LONGEST = 300
_HEADS: dict[str, tuple[str, ...]] = {
    "number": (
        "number", "document number", "drawing number", "sheet number", "document no", "drawing no", "doc no", "dwg no",
        "document", "drawing", "no", "nr",
    ),
    "revision": ("revision", "rev", "rev no", "revision no", "revision code", "issue", "index"),
    "status": ("status", "suitability", "status code"),
    "title": ("title", "document title", "drawing title", "description", "name"),
    "file": ("file", "file name", "filename"),
    "sha256": ("sha", "sha sum", "hash", "checksum"),
}  # fmt: skip


@dataclass(frozen=True)
class Listed:
    """One line of their list. `sha256` is in hexadecimal, empty where the list does not say it."""

    number: str
    revision: str
    title: str = ""
    status: str = ""
    file: str = ""
    sha256: str = ""


@dataclass(frozen=True)
class Unread:
    """A row of the list that is none of its documents, from 1, with what it says and why it is left out."""

    row: int
    said: str
    words: str


@dataclass(frozen=True)
class ListRead:
    lines: list[Listed]
    unread: list[Unread]


def rows_of(text: str) -> list[list[str]]:
    """Pasted text as rows of cells: by tabs, semicolons or commas, else by the spaces before a title."""
    lines = [line.strip("\r") for line in text.split("\n")]
    for separator in "\t;,":
        if sum(separator in line for line in lines) * 2 > sum(bool(line.strip()) for line in lines):
            return [[cell.strip() for cell in row] for row in cells_of(lines, separator)]
    return [line.split(None, 2) for line in lines]


def cells_of(lines: Sequence[str], separator: str = ",") -> list[list[str]]:
    """As CSV, or where it is none, with a quote that never ends for instance, cut at each separator."""
    try:
        return list(csv.reader(lines, delimiter=separator))
    except csv.Error:
        return [line.split(separator) for line in lines]


def read_list(rows: Iterable[Sequence[str]], convention: Convention, scheme: Scheme) -> ListRead:
    """The documents of a list. Columns are known by their heads; without heads, by what is in them."""
    kept = [(at, [each[:_LONGEST] for each in row]) for at, row in enumerate(rows, 1) if any(row)]
    columns = guess_columns(kept[0][1], _HEADS) if kept else {}
    by_head = "number" in columns
    lines: dict[tuple[str, str], Listed] = {}
    unread: list[Unread] = []
    for at, row in kept[1:] if by_head else kept:
        line = _by_head(row, columns) if by_head else _by_content(row, convention, scheme)
        key = (fold(line.number), line.revision.casefold())
        said = " ".join(each for each in row if each)[:80]
        if not line.number or not any(each.isdigit() for each in line.number):
            unread.append(Unread(at, said, "no document’s number is in this row"))
        elif key in lines:
            unread.append(Unread(at, said, f"{line.number} {line.revision}".strip() + " is in the list twice"))
        else:
            lines[key] = line
    return ListRead(list(lines.values()), unread)


def _by_head(row: Sequence[str], columns: Mapping[str, int]) -> Listed:
    def said(field: str) -> str:
        at = columns.get(field, len(row))
        return row[at].strip() if at < len(row) else ""

    sha256 = said("sha256").lower()
    is_hash = len(sha256) == 64 and set(sha256) <= set("0123456789abcdef")
    return Listed(
        said("number"), said("revision"), said("title"), said("status"), said("file"), sha256 if is_hash else ""
    )


def _by_content(row: Sequence[str], convention: Convention, scheme: Scheme) -> Listed:
    """The number is the first that keeps the convention, else the first cell; the revision the first that is a code."""
    cells = [each.strip() for each in row if each.strip()]
    number = next((each for each in cells if not check_number(convention, each)), cells[0])
    cells.remove(number)
    revision = next((each for each in cells if parse(scheme, each.upper())), "")
    if revision:
        cells.remove(revision)
    elif cells and len(cells[0]) <= 4:
        # Theirs may count otherwise than the project does.
        revision = cells.pop(0)
    return Listed(number, revision.upper(), max(cells, key=len, default=""))


class Found(StrEnum):
    """How a line of the list stands to the files that came."""

    HERE = "here"
    OTHER_REVISION = "other_revision"
    OTHER_FILE = "other_file"
    FILED = "filed"
    MISSING = "missing"


FOUND_WORDS: dict[Found, str] = {
    Found.HERE: "here",
    Found.OTHER_REVISION: "another revision is here",
    Found.OTHER_FILE: "here, but not the file that the list names",
    Found.FILED: "not among the files; it is in the register",
    Found.MISSING: "missing",
}


@dataclass(frozen=True)
class Came:
    """A file that came, by its key; number and revision are empty while it is not known what it is."""

    key: str
    number: str
    revision: str
    sha256: str


@dataclass(frozen=True)
class LineFound:
    """`key` is the file's, empty where none of that number came."""

    line: Listed
    found: Found
    key: str = ""
    revision: str = ""


@dataclass(frozen=True)
class Compared:
    """Lines in their order; `more` are the keys of the files that no line lists, in their order."""

    lines: list[LineFound]
    more: list[str]


def compare(lines: Sequence[Listed], files: Sequence[Came], filed: Iterable[tuple[str, str]] = ()) -> Compared:
    """Each line against the files. `filed`: numbers and revisions that are in the register.

    A file is what a line lists if it has its hash; else if it has its number and revision, as letters and figures
    without what stands between them; a line without revision takes any. All files of a number and revision belong to
    its line, as drawing and native do.
    """
    files_here = _Files(files)
    known = {_key(number, revision) for number, revision in filed}
    found = [files_here.find(line, known) for line in lines]
    return Compared(found, [each.key for each in files if each.key not in files_here.matched])


class _Files:
    """What came, by hash and by number, and which of it a line has been found for."""

    def __init__(self, files: Sequence[Came]) -> None:
        self.matched: set[str] = set()
        self.by_hash: dict[str, list[Came]] = {}
        self.by_number: dict[str, list[Came]] = {}
        for each in files:
            self.by_hash.setdefault(each.sha256, []).append(each)
            if each.number:
                self.by_number.setdefault(fold(each.number), []).append(each)

    def find(self, line: Listed, filed: set[tuple[str, str]]) -> LineFound:
        same = self.by_hash.get(line.sha256, []) if line.sha256 else []
        of_number = self.by_number.get(fold(line.number), []) if line.number else []
        code = line.revision.casefold()
        fits = [each for each in of_number if not code or each.revision.casefold() == code]
        if same or fits:
            self.matched.update(each.key for each in (*same, *fits))
            first = (*same, *fits)[0]
            state = Found.HERE if same or not line.sha256 else Found.OTHER_FILE
            return LineFound(line, state, first.key, first.revision)
        if line.number and _key(line.number, line.revision) in filed:
            return LineFound(line, Found.FILED)
        other = next((each for each in of_number if each.key not in self.matched), None)
        if other:
            self.matched.add(other.key)
            return LineFound(line, Found.OTHER_REVISION, other.key, other.revision)
        return LineFound(line, Found.MISSING)


def _key(number: str, revision: str) -> tuple[str, str]:
    return fold(number), revision.casefold()


def receipt_lines(compared: Compared, names: Mapping[str, str]) -> Iterator[str]:
    """What a receipt says of the files. `names`: the files' names by their keys."""
    count = sum(each.found in (Found.HERE, Found.FILED) for each in compared.lines)
    yield f"{count} of {len(compared.lines)} listed documents are here."
    for each in compared.lines:
        said = f"{each.line.number} {each.line.revision}".strip() or each.line.file
        if each.found is Found.OTHER_REVISION:
            yield f"  - {said}: came as {each.revision or 'a file without revision'}"
        elif each.found in (Found.MISSING, Found.OTHER_FILE):
            yield f"  - {said}: {FOUND_WORDS[each.found]}"
    if compared.more:
        yield "Not on the list, but here:"
        yield from (f"  - {names[key]}" for key in compared.more)
