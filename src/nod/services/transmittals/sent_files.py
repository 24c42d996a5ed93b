"""Files that go with a transmittal beside its documents: natives as they were filed, and the copies made for it.

The sending names the natives with their hashes. Copies are made by the worker before the bag, one by one and once: what
is there after it was stopped is not made again. The bag's own hash, in the trail, is that of them, too.
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import Refusal, RuleBroken
from nod.core.register.in_force import standing_of
from nod.core.transmittals.along import Along, copies_folder, copy_name
from nod.formats.files.bag import payload_names
from nod.formats.files.unfit import CannotAnnotate
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import Actor, actor_of
from nod.services.acts.work import Job
from nod.services.files.new_files import keep_made
from nod.services.marks.mark_files import Form, copy_with_marks, have_ink, taken_away
from nod.services.marks.prints import strip_of
from nod.services.press.press import Press, PressStopped
from nod.services.register.documents import sendable_name
from nod.services.register.in_force import around_of
from nod.services.sessions.records import RecordToSend, sent_record
from nod.services.transmittals.bags import Pair, sent_names
from nod.services.transmittals.drafts import RecordAlong
from nod.store.dialects.sqlite import one_of
from nod.store.tables import BlobRow, DocumentRow, ProjectRow, RenditionRow, RevisionRow, SentFileRow, TransmittalRow

_MB = 1_000_000
_FORMS: dict[Along, Form] = {Along.MARKED: "pdf", Along.SUMMARY: "summary"}


def add_sent_files(
    act: Act, row: TransmittalRow, pairs: Sequence[Pair], names: Sequence[str], record: RecordToSend | None
) -> list[SentFileRow]:  # fmt: skip
    """What goes along with these documents; `names` are what they are called in the bag.

    Raises RuleBroken for the record of a session that had none of these sheets.
    """
    found = [*_natives(act.session, row, pairs), *_copies(act.session, row, pairs, names)]
    if record:
        found.append(_record(row, pairs, record))
    for place, each in enumerate(found):
        each.place = place
    act.session.add_all(found)
    act.session.flush()
    return found


def _natives(session: Session, row: TransmittalRow, pairs: Sequence[Pair]) -> Iterator[SentFileRow]:
    if not row.natives:
        return
    by_id = {revision.id: (document, revision) for document, revision in pairs}
    query = select(RenditionRow).where(one_of(RenditionRow.revision_id, list(by_id)))
    of: dict[str, list[RenditionRow]] = {each: [] for each in by_id}
    for each in session.scalars(query.order_by(RenditionRow.kind)):
        of[each.revision_id].append(each)
    files = [each for rows in of.values() for each in rows]
    called = []
    for each in files:
        document, revision = by_id[each.revision_id]
        called.append(sendable_name(document.number, revision.code, revision.status, each.file_name))
    names = sent_names(row.number, pairs, called)[len(pairs) :]
    for each, name in zip(files, names, strict=True):
        yield SentFileRow(
            transmittal_id=row.id, revision_id=each.revision_id, kind=Along.NATIVE.value, file=name,
            sha256=each.sha256, size_bytes=each.size_bytes,
        )  # fmt: skip


def _copies(
    session: Session, row: TransmittalRow, pairs: Sequence[Pair], names: Sequence[str]
) -> Iterator[SentFileRow]:
    """Of what has pages; those with marks of what has ink that everybody reads."""
    if not row.stamped and not row.marks:
        return
    paged = select(BlobRow.sha256).where(BlobRow.page_count > 0, BlobRow.fault == "")
    sheets = set(session.scalars(paged.where(one_of(BlobRow.sha256, [each.sha256 for _, each in pairs]))))
    inked = have_ink(session, [each.id for _, each in pairs]) if row.marks else set()
    wanted = []
    for (_, revision), name in zip(pairs, names, strict=True):
        if revision.sha256 in sheets:
            wanted += [(revision, Along.STAMPED, name)] if row.stamped else []
            wanted += [(revision, Along(row.marks), name)] if revision.id in inked else []
    folder = copies_folder(row.number)
    called = payload_names(f"{row.number}/data/{folder}", [copy_name(name, kind) for _, kind, name in wanted])
    for (revision, kind, _), name in zip(wanted, called, strict=True):
        yield SentFileRow(transmittal_id=row.id, revision_id=revision.id, kind=kind.value, file=f"{folder}{name}")


def _record(row: TransmittalRow, pairs: Sequence[Pair], record: RecordToSend) -> SentFileRow:
    of = next((revision.id for _, revision in pairs if revision.id in record.revisions), None)
    if of is None:
        words = "None of these sheets was in the session: its record goes with its sheets."
        raise RuleBroken("record_alone", words, record.number)
    return SentFileRow(
        transmittal_id=row.id, revision_id=of, kind=Along.RECORD.value, sha256=record.sha256,
        file=f"{copies_folder(row.number)}{record.name}", size_bytes=record.size_bytes,
    )  # fmt: skip


def record_number(session: Session, transmittal_id: str) -> str:
    """The number of the session whose record goes along; empty for none."""
    return next((sent_record(session, each)[0] for each in _records(session, transmittal_id)), "")


def record_along(session: Session, transmittal_id: str) -> RecordAlong | None:
    """As it was asked for."""
    for each in _records(session, transmittal_id):
        _, session_id, part = sent_record(session, each)
        return RecordAlong(session_id=session_id, part=part)
    return None


def _records(session: Session, transmittal_id: str) -> list[str]:
    query = select(SentFileRow.sha256).where(
        SentFileRow.transmittal_id == transmittal_id, SentFileRow.kind == Along.RECORD.value
    )
    return list(session.scalars(query))


def goes_with_the_mail(
    project: ProjectRow, row: TransmittalRow, pairs: Sequence[Pair], further: Sequence[SentFileRow]
) -> bool:
    """Whether the files, with what goes along, are small enough together for what the project attaches to a mail.

    Not what may only be looked at, or until a day; nor with copies: they are made later, and are behind the link.
    """
    most = int(project.rules.get("attach_mb", 0)) * _MB
    if row.view_only or row.expires_on or row.stamped or row.marks:
        return False
    total = sum(revision.size_bytes for _, revision in pairs) + sum(each.size_bytes for each in further)
    return 0 < total <= most


def sent_files_of(session: Session, transmittal_id: str) -> list[SentFileRow]:
    query = select(SentFileRow).where(SentFileRow.transmittal_id == transmittal_id)
    return list(session.scalars(query.order_by(SentFileRow.place)))


def make_copies(job: Job, transmittal_id: str) -> None:
    """Those that are not there yet. One that cannot be made says why, and holds up nothing."""
    with job.context.database.read() as session:
        waiting = [each.place for each in sent_files_of(session, transmittal_id) if not each.sha256 and not each.fault]
        row = session.get_one(TransmittalRow, transmittal_id)
        sender = actor_of(session, row.sent_by, "the worker")
    for place in waiting:
        job.go_on()
        made, fault = b"", ""
        try:
            made = _made(job.context, job.press, sender, (transmittal_id, place))
        except (Refusal, CannotAnnotate) as error:
            fault = str(error)
        except PressStopped:
            fault = "Making it takes too long."
        _put(job.context, (transmittal_id, place), made, fault)


def _put(context: Context, key: tuple[str, int], made: bytes, fault: str) -> None:
    stored = context.blobs.put([made]) if made else None
    with context.database.write() as session:
        row = session.get_one(SentFileRow, key)
        row.fault = fault
        if stored:
            keep_made(context, session, stored, "application/pdf")
            row.sha256, row.size_bytes = stored.sha256, stored.size_bytes


def _made(context: Context, press: Press, sender: Actor, key: tuple[str, int]) -> bytes:
    with context.database.read() as session:
        row = session.get_one(SentFileRow, key)
        kind, revision_id = Along(row.kind), row.revision_id
    if kind is not Along.STAMPED:
        return copy_with_marks(context, press, sender, revision_id, _FORMS[kind])
    with context.database.write() as session:
        # The code on it is made when it is first needed.
        act = Act(context, session, sender, context.clock.now())
        revision = session.get_one(RevisionRow, revision_id)
        document = session.scalars(select(DocumentRow).where(DocumentRow.id == revision.document_id)).one()
        sent = session.get_one(TransmittalRow, key[0])
        zone = ZoneInfo(session.get_one(ProjectRow, sent.project_id).time_zone)
        strip = strip_of(act, document, revision, zone, _said(sent, document, revision, zone))
        gone, sha256 = taken_away(session, revision_id), revision.sha256
    with tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside, context.blobs.local_sheet(sha256) as file:
        target = Path(aside) / "stamped.pdf"
        press.print_sheet(file, target, Path(aside) / "marked.pdf", [], gone, "own", strip)
        return target.read_bytes()


def _said(sent: TransmittalRow, document: DocumentRow, revision: RevisionRow, zone: ZoneInfo) -> str:
    """Like `HBC-T-0031, For construction. In force on 12 Mar 2027`."""
    stands = standing_of(revision.code, around_of(document)).words
    return f"{sent.number}, {sent.purpose_words}. {stands}, {sent.sent_at.astimezone(zone):%d %b %Y}"
