"""The bag of a transmittal: its cover sheet, its files, their list, and the proof that the sending stands in the trail.

The order (handbook §10): entry A says the sending, with the hashes of its files; a seal is made at once; the bag holds
A's proof under it; entry B names the bag's SHA-256.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.core.transmittals.bag import LIST_HEADS, BagLine, BagSender, bag_info
from nod.formats.files.bag import Packed, payload_names
from nod.formats.files.spreadsheet import write_csv
from nod.services.acts.context import Context
from nod.services.register.documents import sendable_name
from nod.services.trail.seals import prove_entry
from nod.store.blobs import Blobs
from nod.store.tables import (
    AuditEntryRow,
    AuditSubjectRow,
    CompanyRow,
    DocumentRow,
    PersonRow,
    ProjectRow,
    RecipientRow,
    RevisionRow,
    SentFileRow,
    TransmittalDocumentRow,
    TransmittalRow,
)

Pair = tuple[DocumentRow, RevisionRow]

_HOW = """How to check this package without its sender and without Nod

1. That it is whole, and what was sent: in this folder,
       sha256sum -c tagmanifest-sha256.txt
       sha256sum -c manifest-sha256.txt
   or any program that knows bags (RFC 8493).
2. That the sending stands in the sender's audit trail: proof/sending.json says what was sent to whom and when, with
   the SHA-256 of each file, and leads from there to a signed head of the trail; proof/key.txt is the key it is
   checked with. Any Nod checks it, without an account: its page /check takes the two files.
   What the key is, ask the sender another way; it is the same in all they send.
"""


@dataclass(frozen=True)
class BagOf:
    """All that goes into the bag but the bytes; `files` are (path below `data/`, SHA-256, size in bytes).

    They are the documents and what goes along with them; the list names the documents alone.
    """

    name: str
    info: list[tuple[str, str]]
    list_csv: bytes
    files: list[tuple[str, str, int]]


def sent_names(number: str, pairs: Sequence[Pair], further: Sequence[str] = ()) -> list[str]:
    """What the files are called in the bag of a transmittal, in its order, and then what is `further` in it."""
    names = [sendable_name(document.number, each.code, each.status, each.file_name) for document, each in pairs]
    return payload_names(number, [cover_name(number), list_name(number), *names, *further])[2:]


def cover_name(number: str) -> str:
    return f"{number}_cover.pdf"


def list_name(number: str) -> str:
    return f"{number}_list.csv"


def bag_of(session: Session, row: TransmittalRow) -> BagOf:
    query = (
        select(DocumentRow, RevisionRow, TransmittalDocumentRow)
        .join(TransmittalDocumentRow, TransmittalDocumentRow.document_id == DocumentRow.id)
        .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
        .where(TransmittalDocumentRow.transmittal_id == row.id)
        .order_by(TransmittalDocumentRow.place)
    )
    found = session.execute(query).all()
    # What was sent before there were bags has no names of its own.
    names = sent_names(row.number, [(document, revision) for document, revision, _ in found])
    along = session.scalars(
        select(SentFileRow).where(SentFileRow.transmittal_id == row.id).order_by(SentFileRow.place)
    ).all()
    lines = [
        BagLine(
            sent.number, revision.code, revision.status, revision.title, sent.verdict, sent.file or name,
            revision.size_bytes, revision.sha256,
        )
        for name, (_, revision, sent) in zip(names, found, strict=True)
    ]  # fmt: skip
    return BagOf(
        name=row.number,
        info=bag_info(_sender(session, row), lines),
        list_csv=write_csv(LIST_HEADS, [each.row for each in lines]).encode(),
        files=[
            *((each.file, each.sha256, each.size_bytes) for each in lines),
            *((each.file, each.sha256, each.size_bytes) for each in along if each.sha256),
        ],
    )


def _sender(session: Session, row: TransmittalRow) -> BagSender:
    project = session.get_one(ProjectRow, row.project_id)
    sender = session.get_one(PersonRow, row.sent_by)
    people = (
        select(PersonRow.name, CompanyRow.name.label("company"), RecipientRow.copied)
        .join(RecipientRow, RecipientRow.person_id == PersonRow.id)
        .join(CompanyRow, CompanyRow.id == RecipientRow.company_id)
        .where(RecipientRow.transmittal_id == row.id)
        .order_by(RecipientRow.place)
    )
    named = [(f"{each.name}, {each.company}", each.copied) for each in session.execute(people)]
    return BagSender(
        number=row.number, project_number=project.number, project_name=project.name,
        company=session.get_one(CompanyRow, row.company_id).name, person=sender.name, email=sender.email,
        purpose=row.purpose_words, sent_at=row.sent_at.astimezone(ZoneInfo(project.time_zone)),
        answer_wanted_on=row.answer_wanted_on, to=tuple(each for each, copied in named if not copied),
        copied=tuple(each for each, copied in named if copied), note=row.note,
    )  # fmt: skip


def proof_of_sending(context: Context, transmittal_id: str) -> bytes:
    """The key, and in the next line the proof of entry A under a seal made now, as JSON."""
    with context.database.read() as session:
        query = (
            select(AuditEntryRow.seq)
            .join(AuditSubjectRow, AuditSubjectRow.seq == AuditEntryRow.seq)
            .where(
                AuditSubjectRow.kind == "transmittal", AuditSubjectRow.subject_id == transmittal_id,
                AuditEntryRow.kind == FactKind.TRANSMITTAL_SENT.value,
            )
        )  # fmt: skip
        seq = session.scalars(query).one()
    proof, key = prove_entry(context, seq)
    return f"{key}\n{proof.as_json()}".encode()


def proof_files(kept: bytes) -> list[tuple[str, bytes]]:
    """As they lie in the bag, out of what `proof_of_sending` gave."""
    key, _, proof = kept.partition(b"\n")
    return [("proof/HOW-TO-CHECK.txt", _HOW.encode()), ("proof/key.txt", key + b"\n"), ("proof/sending.json", proof)]


def borrowed(blobs: Blobs, first: Sequence[Packed], files: Sequence[tuple[str, str, int]]) -> Iterator[Packed]:
    """The files one after the other, each lent by the store for as long as it is read."""
    yield from first
    for path, sha256, _ in files:
        with ExitStack() as lent:
            local: Path = lent.enter_context(blobs.local(sha256))
            yield Packed(path, sha256, local)
