"""What goes with a transmittal beside its documents: natives as filed, and copies made for it (handbook §10)."""

from __future__ import annotations

from enum import StrEnum

from nod.core.acts.counted import listed


class Along(StrEnum):
    """A further file of a revision. Natives are filed files; the others are made, each a copy of the sheet.

    The record of a session is one for all its sheets, and is told beside the first of them.
    """

    NATIVE = "native"
    STAMPED = "stamped"
    MARKED = "marked"
    SUMMARY = "summary"
    RECORD = "record"


ALONG_WORDS: dict[Along, str] = {
    Along.NATIVE: "native file",
    Along.STAMPED: "stamped copy",
    Along.MARKED: "copy with the marks",
    Along.SUMMARY: "summary of the marks",
    Along.RECORD: "record of the session",
}
MARKS_ALONG: dict[str, str] = {
    "": "without marks",
    Along.MARKED: "copies with their marks",
    Along.SUMMARY: "summaries of their marks",
}


def along_words(*, natives: bool, stamped: bool, marks: str, record: str = "") -> str:
    """What goes with the documents, as part of a sentence; empty for nothing. `record`: the number of a session."""
    parts = [
        *(["native files"] if natives else []),
        *(["stamped copies"] if stamped else []),
        *([MARKS_ALONG[marks]] if marks else []),
        *([f"the record of {record}"] if record else []),
    ]
    return listed(parts) if parts else ""


def copies_folder(number: str) -> str:
    """Where in the bag of a transmittal the made copies lie, below `data/`: documents are never in it."""
    return f"{number}_copies/"


def is_made(path: str, number: str) -> bool:
    """Whether a path below `data/` is of what is made for a transmittal: its cover sheet, its list or a copy."""
    return path in (f"{number}_cover.pdf", f"{number}_list.csv") or path.startswith(copies_folder(number))


def copy_name(document_file: str, kind: Along) -> str:
    """What a made copy is called beside the file of its document."""
    return f"{document_file.rpartition('.')[0] or document_file}_{_ENDINGS[kind]}.pdf"


_ENDINGS = {Along.STAMPED: "stamped", Along.MARKED: "marks", Along.SUMMARY: "marks_summary"}
