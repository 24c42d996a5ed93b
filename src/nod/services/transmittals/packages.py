"""Packing a transmittal: cover sheet and ZIP are made once, then the recipients are written to."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.counted import counted
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals.along import along_words
from nod.core.transmittals.transmittals import Cover, CoverLine
from nod.formats.files.bag import Packed, write_bag
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import SYSTEM, actor_of
from nod.services.acts.work import Concern, Job, Lane, work
from nod.services.files.new_files import keep_made
from nod.services.mail.mails import About, Enclosure, Then, write_mail
from nod.services.trail.seals import latest_note
from nod.services.transmittals.bags import (
    bag_of,
    borrowed,
    cover_name,
    list_name,
    proof_files,
    proof_of_sending,
)
from nod.services.transmittals.recipients import guest_link, tell_transmittal, transmittal_concerns
from nod.services.transmittals.sent_files import make_copies, record_number
from nod.store import journal
from nod.store.blobs import StoredBlob
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    BlobRow,
    CompanyRow,
    PageRow,
    PersonRow,
    ProjectRow,
    RecipientRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)

_LARGEST_ENCLOSED = 2 * 1024**2
_TELL_EVERY = 20
"""Files."""


def _concerns(session: Session, payload: dict[str, Any]) -> list[Concern]:
    return transmittal_concerns(session, payload["transmittal_id"])


@work("pack", Lane.SEND, "packing the transmittal", _concerns)
def pack_transmittal(job: Job, payload: dict[str, Any]) -> None:
    """Harmless when done twice: what was proven and drawn the first time is kept, and the bag has the same bytes."""
    context, transmittal_id = job.context, payload["transmittal_id"]
    make_copies(job, transmittal_id)
    _prove(context, transmittal_id)
    pack_blob = pack_bag(context, transmittal_id, lambda done: _tell(job, transmittal_id, done))
    _finish(context, transmittal_id, pack_blob)


def _prove(context: Context, transmittal_id: str) -> None:
    """The proof and the cover sheet with the seal, once: they are of the moment, and all that follows is of them."""
    with context.database.read() as session:
        if session.get_one(TransmittalRow, transmittal_id).proof_sha256:
            return
    proof = context.blobs.put([proof_of_sending(context, transmittal_id)])
    with context.database.read() as session:
        cover = cover_of(context, session, session.get_one(TransmittalRow, transmittal_id))
    # Only the worker writes one, and what draws it takes long to load.
    from nod.formats.files.cover_sheet import write_cover

    drawn = context.blobs.put([write_cover(cover)])
    with context.database.write() as session:
        row = session.get_one(TransmittalRow, transmittal_id)
        keep_made(context, session, proof, "application/json")
        keep_made(context, session, drawn, "application/pdf")
        row.proof_sha256, row.cover_sha256 = proof.sha256, drawn.sha256


def pack_bag(context: Context, transmittal_id: str, told: Callable[[int], None] = lambda done: None) -> StoredBlob:
    """The bag out of what is kept: made again, it has the same bytes. Raises Damaged for a file that has changed."""
    with context.database.read() as session:
        row = session.get_one(TransmittalRow, transmittal_id)
        bag = bag_of(session, row)
    with (
        context.blobs.local(row.proof_sha256) as proof,
        context.blobs.local(row.cover_sha256) as cover,
        context.blobs.made() as (pack, keep),
        tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside,
    ):
        table = Path(aside) / "list.csv"
        table.write_bytes(bag.list_csv)
        first = [
            Packed(cover_name(row.number), row.cover_sha256, cover),
            Packed(list_name(row.number), hashlib.sha256(bag.list_csv).hexdigest(), table),
        ]
        files = borrowed(context.blobs, first, bag.files)
        write_bag(pack, bag.name, bag.info, proof_files(proof.read_bytes()), files, told)
        return keep()


def _tell(job: Job, transmittal_id: str, done: int) -> None:
    """Now and then, as each writes."""
    if done % _TELL_EVERY:
        return
    with job.context.database.write() as session:
        row = session.get_one(TransmittalRow, transmittal_id)
        row.files_packed = done
        tell_transmittal(session, job.context.clock.now(), row, by="")
    job.go_on()


def cover_of(context: Context, session: Session, row: TransmittalRow) -> Cover:
    project = session.get_one(ProjectRow, row.project_id)
    sender = session.get_one(PersonRow, row.sent_by)
    company = session.get_one(CompanyRow, row.company_id)
    sent = row.sent_at.astimezone(ZoneInfo(project.time_zone))
    wanted = row.answer_wanted_on.strftime("%-d %B %Y") if row.answer_wanted_on else ""
    people = (
        select(PersonRow.name, CompanyRow.name.label("company"), RecipientRow.copied)
        .join(RecipientRow, RecipientRow.person_id == PersonRow.id)
        .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
        .where(RecipientRow.transmittal_id == row.id)
        .order_by(RecipientRow.place)
    )
    named = [(f"{each.name} ({each.company})", each.copied) for each in session.execute(people)]
    return Cover(
        number=row.number,
        project=f"{project.number}  {project.name}",
        sender=f"{sender.name}, {company.name}",
        purpose=row.purpose_words,
        sent=sent.strftime("%-d %B %Y, %H:%M %Z"),
        answer_wanted=wanted,
        recipients=tuple(each for each, copied in named if not copied),
        copied=tuple(each for each, copied in named if copied),
        note=row.note,
        lines=_cover_lines(session, row.id),
        seal=latest_note(session),
        along=along_words(
            natives=row.natives, stamped=row.stamped, marks=row.marks, record=record_number(session, row.id)
        ),
        address=f"{context.settings.resolved_public_url}/cover/{row.code}" if row.code else "",
    )


def _cover_lines(session: Session, transmittal_id: str) -> tuple[CoverLine, ...]:
    query = (
        select(TransmittalDocumentRow.number, RevisionRow, TransmittalDocumentRow.verdict, PageRow.size_name)
        .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
        .outerjoin(PageRow, (PageRow.sha256 == RevisionRow.sha256) & (PageRow.place == 0))
        .where(TransmittalDocumentRow.transmittal_id == transmittal_id)
        .order_by(TransmittalDocumentRow.place)
    )
    return tuple(
        CoverLine(number, revision.code, revision.status, revision.title, verdict, size or "")
        for number, revision, verdict, size in session.execute(query)
    )


def _finish(context: Context, transmittal_id: str, pack: StoredBlob) -> None:
    now = context.clock.now()
    with context.database.write() as session:
        row = session.get_one(TransmittalRow, transmittal_id)
        if row.pack_sha256:
            return
        keep_made(context, session, pack, "application/zip")
        row.pack_sha256 = pack.sha256
        after = {"cover_sha256": row.cover_sha256, "proof_sha256": row.proof_sha256, "pack_sha256": row.pack_sha256}
        journal.record(
            session, now, SYSTEM, row.project_id,
            Fact(FactKind.TRANSMITTAL_PACKED, Subject("transmittal", row.id), row.number, after=after),
        )  # fmt: skip
        tell_transmittal(session, now, row, by="")
        _write_to_recipients(context, session, row, cover_of(context, session, row))


def _write_to_recipients(context: Context, session: Session, row: TransmittalRow, cover: Cover) -> None:
    # An answer is told to whoever sent it; the worker only puts the mail together.
    act = Act(context, session, actor_of(session, row.sent_by, "the worker"), context.clock.now())
    for recipient in session.scalars(select(RecipientRow).where(RecipientRow.transmittal_id == row.id)):
        write_to_recipient(act, row, recipient, cover)


def mail_to(row: TransmittalRow, cover: Cover, *, copied: bool) -> tuple[str, list[str]]:
    """What a recipient is written: the subject, and the lines with `{link}` where their link stands."""
    count = counted(len(cover.lines), "document")
    lines = [
        f"{cover.sender} sends you {count}{' as a copy' if copied else ''}. {cover.purpose}.",
        *(["", cover.note] if cover.note else []),
        "",
        *(f"  {line.number} {line.revision}  {line.title}" for line in cover.lines),
        "",
        *([f"With {cover.along}.", ""] if cover.along else []),
        *(["The files are attached to this mail.", ""] if row.attached else []),
        f"Open{'' if row.view_only else ', download'} and acknowledge them here. No account is needed:",
        "{link}",
        *([f"It can be opened until {row.expires_on:%-d %B %Y}."] if row.expires_on else []),
        "",
        "Answering this mail acknowledges them, too; what you write goes to the sender.",
        *(["", f"An answer is wanted by {cover.answer_wanted}."] if cover.answer_wanted else []),
    ]
    return f"{cover.number}: {count}, {cover.purpose.lower()}", lines


def write_to_recipient(act: Act, row: TransmittalRow, recipient: RecipientRow, cover: Cover) -> None:
    """The mail to one of them, with the cover sheet, their link, and what an answer to it means."""
    subject, lines = mail_to(row, cover, copied=recipient.copied)
    again = f":{recipient.sendings}" if recipient.sendings > 1 else ""
    project = act.session.get_one(ProjectRow, row.project_id)
    size = act.session.get_one(BlobRow, row.cover_sha256).size_bytes
    sheet = Enclosure(row.cover_sha256, f"{row.number}_cover.pdf", "application/pdf")
    write_mail(
        act, f"recipient:{recipient.id}{again}", recipient.person_id, subject, lines, guest_link(recipient.id),
        Then("note_mailed", {"recipient_id": recipient.id}),
        About(project, Subject("transmittal", row.id), by_hand=True),
        [*([sheet] if size <= _LARGEST_ENCLOSED else []), *(_attached(act.session, row) if row.attached else [])],
    )  # fmt: skip


def _attached(session: Session, row: TransmittalRow) -> list[Enclosure]:
    """The files themselves, under their names in the bag."""
    files = bag_of(session, row).files
    media = dict(
        session.execute(
            select(BlobRow.sha256, BlobRow.media_type).where(one_of(BlobRow.sha256, [sha for _, sha, _ in files]))
        ).all()
    )
    return [Enclosure(sha256, path, media[sha256]) for path, sha256, _ in files]
