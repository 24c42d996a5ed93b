"""What can be read of a file without pages: mail, text, documents (DOCX) and spreadsheets (XLSX, CSV), in plain parts.

Nothing of the file is run, followed or fetched. To be called in processes of their own: a file may be built to do harm.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from nod.formats.files.eml import read_mail
from nod.formats.files.unfit import Unfit

MOST_LINES, MOST_ROWS, MOST_COLUMNS, MOST_PARTS = 2000, 300, 40, 30
_LARGEST_BYTES = 50 * 1024**2
LONGEST_LINE = 2000


class NoPreview(Unfit):
    """Nothing of it can be shown; the words say why."""


@dataclass(frozen=True)
class PreviewPart:
    """`rows` are those of a table, or pairs of a name and what it says; `lines` are text. `more`: it is cut off."""

    title: str = ""
    lines: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    facts: bool = False
    more: bool = False


@dataclass(frozen=True)
class Preview:
    """`what` names the kind of file; at most `MOST_PARTS` parts."""

    what: str
    parts: tuple[PreviewPart, ...]


def read_preview(path: Path, file_name: str, most_rows: int = MOST_ROWS) -> Preview:
    """By what the file is; its name decides only between kinds of text. Raises NoPreview.

    Of a table at most `most_rows` rows are read: as many as one looks at, or more to find words in them.
    """
    if path.stat().st_size > _LARGEST_BYTES:
        raise NoPreview("The file is too large for a preview.")
    with path.open("rb") as file:
        head = file.read(4096)
    if head.startswith(b"PK"):
        # A second to load, and seldom needed.
        from nod.formats.files.preview_office import read_package

        return read_package(path, most_rows)
    ending = file_name.rpartition(".")[2].lower()
    if b"\0" in head and not head.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise NoPreview("Nod has no preview for this kind of file.")
    if ending == "csv":
        from nod.formats.files.preview_office import read_csv

        return read_csv(path, most_rows)
    raw = path.read_bytes()
    if ending == "eml":
        return _read_mail(raw)
    return Preview("Text", (_text_part(_decoded(raw)),))


def table_part(rows: list[tuple[str, ...]], title: str, most_rows: int = MOST_ROWS) -> PreviewPart:
    """The rows as far as they are shown, without what is empty at their ends."""
    while rows and not any(rows[-1]):
        rows.pop()
    width = max((place + 1 for row in rows for place, cell in enumerate(row) if cell), default=0)
    shown = tuple(row[:width] for row in rows[:most_rows])
    return PreviewPart(title, rows=shown, more=len(rows) > most_rows)


def cell_words(value: object) -> str:
    """A value as it is read; whole numbers without a point."""
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    return "" if value is None else " ".join(str(value).split())[:LONGEST_LINE]


def _read_mail(raw: bytes) -> Preview:
    """Who, whom, when, about what; the words; the names of what is attached."""
    mail = read_mail(raw)
    said = {
        "From": mail.sender, "To": ", ".join(mail.to), "Cc": ", ".join(mail.cc),
        "Date": mail.date.strftime("%d %b %Y, %H:%M %z").strip() if mail.date else "", "Subject": mail.subject,
    }  # fmt: skip
    facts = tuple((name, words[:LONGEST_LINE]) for name, words in said.items() if words)
    parts = [PreviewPart(rows=facts, facts=True), _text_part(mail.text)]
    if mail.attached:
        parts.append(PreviewPart("Attached", rows=mail.attached, facts=True))
    return Preview("Mail", tuple(parts))


def _decoded(raw: bytes) -> str:
    for coding in ("utf-16",) if raw[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",):
        try:
            return raw.decode(coding)
        except UnicodeDecodeError:
            break
    return raw.decode("cp1252", "replace")


def _text_part(text: str) -> PreviewPart:
    lines = text.splitlines()
    shown = (
        "".join(each for each in line[:LONGEST_LINE] if each >= " " or each == "\t") for line in lines[:MOST_LINES]
    )
    return PreviewPart(lines=tuple(shown), more=len(lines) > MOST_LINES)
