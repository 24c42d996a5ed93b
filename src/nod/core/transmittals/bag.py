"""What a transmittal's bag says besides its files: the fields of its `bag-info.txt`, and its list (RFC 8493)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

LIST_HEADS = ("Number", "Revision", "Status", "Title", "Verdict", "File", "Bytes", "SHA-256")


@dataclass(frozen=True)
class BagLine:
    """A document as it lies in the bag; `file` is its path below `data/`."""

    number: str
    revision: str
    status: str
    title: str
    verdict: str
    file: str
    size_bytes: int
    sha256: str

    @property
    def row(self) -> tuple[str | int, ...]:
        """Its values under `LIST_HEADS`."""
        return (
            self.number, self.revision, self.status, self.title, self.verdict, self.file, self.size_bytes, self.sha256,
        )  # fmt: skip


@dataclass(frozen=True)
class BagSender:
    """Who sent what to whom when. `sent_at` has a zone; names come with their company."""

    number: str
    project_number: str
    project_name: str
    company: str
    person: str
    email: str
    purpose: str
    sent_at: datetime
    answer_wanted_on: date | None
    to: tuple[str, ...]
    copied: tuple[str, ...]
    note: str


def bag_info(sender: BagSender, lines: Sequence[BagLine]) -> list[tuple[str, str]]:
    """Labels and values in their order: those that RFC 8493 reserves (2.2.2), then those of a transmittal.

    Nothing in it depends on when the bag is made, so that it is the same again.
    """
    fields = [
        ("Source-Organization", sender.company),
        ("Contact-Name", sender.person),
        ("Contact-Email", sender.email),
        ("External-Identifier", sender.number),
        ("External-Description", f"Transmittal {sender.number}: {sender.purpose.lower()}"),
        ("Bag-Group-Identifier", f"{sender.project_number} {sender.project_name}"),
        ("Bagging-Date", sender.sent_at.date().isoformat()),
        ("Bag-Software-Agent", "Nod"),
        ("Transmittal-Purpose", sender.purpose),
        ("Transmittal-Sent", sender.sent_at.isoformat(timespec="seconds")),
        ("Transmittal-Documents", str(len(lines))),
        *(("Transmittal-To", each) for each in sender.to),
        *(("Transmittal-Copied-To", each) for each in sender.copied),
    ]
    if sender.answer_wanted_on:
        fields.append(("Transmittal-Answer-Wanted-By", sender.answer_wanted_on.isoformat()))
    if sender.note:
        fields.append(("Transmittal-Note", sender.note))
    return [(label, " ".join(value.split())) for label, value in fields]
