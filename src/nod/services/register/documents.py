"""The register: its list, one document's dossier, and the files of its revisions (handbook §4)."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.core.intake.renditions import kind_of
from nod.core.register.came_by import WAYS
from nod.core.register.columns import FIELD, OFF_THE_SHEET
from nod.core.register.in_force import MAY_RELEASE, releasing
from nod.core.register.revisions import Scheme, next_codes, next_statuses
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.folders import folder_path, folders_above
from nod.services.access.visibility import see_document, see_revision
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context, acting
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat
from nod.services.files.files_to_send import FileToSend
from nod.services.register.copies_shown import CopyShown, show_copy
from nod.services.register.register_list import DocumentLine, lines_of
from nod.services.register.releases import StatusChoice, may_set_of
from nod.services.sheet.sheets import RevisionStanding, standing_shown
from nod.services.things.kinds import seen_of
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    DocumentValueRow,
    FormerNumberRow,
    ProjectRow,
    RenditionRow,
    ReviewDocumentRow,
    ReviewRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)


class RenditionShown(Answered):
    """A further file of a revision, of another kind than the one that governs."""

    id: str
    kind: str
    file_name: str
    size_bytes: int
    sha256: str
    filed_by: Who
    filed_at: datetime


class RevisionShown(Answered):
    """`as_history`: filed after later ones were there. `kind` is that of the file that governs.

    `may_set` are the statuses that the viewer may give it now; none for those who may not.
    """

    id: str
    code: str
    status: str
    title: str
    file_name: str
    size_bytes: int
    sha256: str
    page_count: int
    filed_by: Who
    filed_at: datetime
    came_from: str
    arrived_at: datetime
    superseded_at: datetime | None
    released_at: datetime | None
    standing: RevisionStanding
    may_set: list[StatusChoice]
    purpose: str
    note: str
    verdict: str
    kind: str
    as_history: bool
    came_person: str
    came_by: str
    renditions: list[RenditionShown]


class ReviewBrief(Answered):
    id: str
    number: str
    name: str
    state: str
    revision: str
    verdict: str
    started_at: datetime


class SentBrief(Answered):
    id: str
    number: str
    purpose: str
    revision: str
    sent_at: datetime


class FormerNumber(Answered):
    number: str
    until_at: datetime
    why: str


class FieldShown(Answered):
    """A typed field that this document has, with or without a value."""

    key: str
    name: str
    kind: str
    value: str
    choices: list[str]


class Dossier(Answered):
    """Everything about one document. `may` names the acts open to the viewer now; the server asks again on each.

    `next_status` are the statuses that the next revision may be filed with, the most usual first. `copy_here` is how
    it came to lie here, for a copy.
    """

    line: DocumentLine
    project_id: str
    folder: str
    originator: str
    form: str
    sheet_size: str
    next_revisions: list[str]
    next_status: list[str]
    former_numbers: list[FormerNumber]
    copy_here: CopyShown | None
    checked_out_by: Who | None
    checked_out_note: str
    withdrawn_at: datetime | None
    withdrawn_why: str
    may: list[str]
    fields: list[FieldShown]
    revisions: list[RevisionShown]
    reviews: list[ReviewBrief]
    sent: list[SentBrief]


def read_document(context: Context, actor: Actor, document_id: str) -> Dossier:
    with context.database.read() as session:
        document, seat = see_document(session, actor, document_id)
        project = seat.project
        rules = rules_of(project)
        rows = list(
            session.scalars(
                select(RevisionRow).where(RevisionRow.document_id == document_id).order_by(RevisionRow.place.desc())
            )
        )
        reviews = _reviews(session, seat, document_id)
        return Dossier(
            line=lines_of(session, seat, context.clock.now(), [document])[0],
            project_id=document.project_id,
            folder=folder_path(session, seat, document.folder_id),
            originator=document.originator,
            form=document.form,
            sheet_size=document.sheet_size,
            next_revisions=list(next_codes(Scheme(rules.scheme), document.revision)),
            next_status=_next_status(seat, document),
            former_numbers=_former(session, document.copy_of or document_id),
            copy_here=show_copy(document, rows[0], "") if document.copy_of else None,
            checked_out_by=_holder(session, document),
            checked_out_note=document.checked_out_note,
            withdrawn_at=document.withdrawn_at,
            withdrawn_why=document.withdrawn_why,
            may=_may(actor, seat, document),
            fields=_fields(session, project, document),
            revisions=_revisions(session, document, rows, reviews, may_set_of(session, seat, actor, document, rows)),
            reviews=reviews,
            sent=_sent(session, seat, actor, document_id),
        )


def _next_status(seat: Seat, document: DocumentRow) -> list[str]:
    rules = rules_of(seat.project)
    kept_back = set(rules.reviewed_statuses)
    if seat.at(document.folder_id) < MAY_RELEASE:
        kept_back |= set(releasing(rules.statuses, rules.status_uses))
    return list(next_statuses(document.status, rules.statuses, kept_back))


def _former(session: Session, document_id: str) -> list[FormerNumber]:
    query = select(FormerNumberRow).where(FormerNumberRow.document_id == document_id)
    rows = session.scalars(query.order_by(FormerNumberRow.until_at.desc()))
    return [FormerNumber(number=row.number, until_at=row.until_at, why=row.why) for row in rows]


def _holder(session: Session, document: DocumentRow) -> Who | None:
    return people_by_id(session, {document.checked_out_by}).get(document.checked_out_by)


def _may(actor: Actor, seat: Seat, document: DocumentRow) -> list[str]:
    """The acts on a document as it stands: what it is and who has it decide, beside the level."""
    level, out = seat.at(document.folder_id), document.checked_out_by
    met = document.checked_out_session != ""
    mine = out == actor.person_id and not met
    if actor.looker:
        return []
    files, keeps = level >= Level.FILE, level >= Level.KEEP
    free = not document.withdrawn and (not out or mine)
    if document.copy_of:
        acts = {"withdraw": keeps and free, "bring_back": keeps and document.withdrawn}
        return [act for act, is_open in acts.items() if is_open]
    open_acts = {
        "revise": files and free,
        "check_out": files and free and not out,
        "put_back": files and mine,
        "break_check_out": keeps and bool(out) and not mine and not met,
        "withdraw": keeps and free,
        "bring_back": keeps and document.withdrawn,
        "rename": keeps and (not out or mine),
        "move": keeps,
        "change": files,
    }
    return [act for act, is_open in open_acts.items() if is_open]


def _fields(session: Session, project: ProjectRow, document: DocumentRow) -> list[FieldShown]:
    """Those of the whole project and of the folders above; of what the sheet says of itself, what was read."""
    values = dict(
        session.execute(
            select(DocumentValueRow.field, DocumentValueRow.value).where(DocumentValueRow.seq == document.seq)
        ).all()
    )
    above = folders_above(session, document.folder_id)
    own = [
        FieldShown(
            key=FIELD + each["id"], name=each["name"], kind=each["kind"], value=values.get(each["id"], ""),
            choices=each["choices"],
        )
        for each in project.rules["fields"]
        if not each["folder_id"] or each["folder_id"] in above
    ]  # fmt: skip
    said = ((column, values.get(column.key.removeprefix(FIELD), "")) for column in OFF_THE_SHEET.values())
    read = [
        FieldShown(key=each.key, name=each.head, kind="text", value=value, choices=[]) for each, value in said if value
    ]
    return [*read, *own]


def find_document(session: Session, document_id: str) -> DocumentRow:
    """Raises NotFound. For rows that are known to be seen; from an address, ask `seeing.see_document`."""
    document = session.scalars(select(DocumentRow).where(DocumentRow.id == document_id)).one_or_none()
    if document is None:
        raise NotFound(document_id)
    return document


def _revisions(
    session: Session,
    document: DocumentRow,
    rows: list[RevisionRow],
    reviews: list[ReviewBrief],
    may_set: Mapping[str, list[StatusChoice]],
) -> list[RevisionShown]:
    ids = {row.id for row in rows}
    further = list(session.scalars(select(RenditionRow).where(RenditionRow.revision_id.in_(ids))))
    people = people_by_id(session, {row.filed_by for row in rows} | {row.filed_by for row in further})
    hashes = {row.sha256 for row in rows}
    blobs = {blob.sha256: blob for blob in session.scalars(select(BlobRow).where(BlobRow.sha256.in_(hashes)))}
    verdicts = {review.revision: review.verdict for review in reversed(reviews) if review.verdict}
    verdicts |= {row.code: row.copy_verdict for row in rows if row.copied_from}
    return [
        RevisionShown(
            id=row.id,
            code=row.code,
            status=row.status,
            title=row.title,
            file_name=row.file_name,
            size_bytes=row.size_bytes,
            sha256=row.sha256,
            page_count=blobs[row.sha256].page_count,
            filed_by=people[row.filed_by],
            filed_at=row.filed_at,
            came_from=row.came_from,
            arrived_at=row.arrived_at,
            superseded_at=row.superseded_at,
            released_at=row.released_at,
            standing=standing_shown(document, row.code),
            may_set=may_set.get(row.id, []),
            purpose=row.purpose,
            note=row.note,
            verdict=verdicts.get(row.code, ""),
            kind=kind_of(blobs[row.sha256].media_type, row.file_name),
            as_history=row.as_history,
            came_person=row.came_person,
            came_by=WAYS.get(row.came_by, ""),
            renditions=[
                RenditionShown(
                    id=each.id,
                    kind=each.kind,
                    file_name=each.file_name,
                    size_bytes=each.size_bytes,
                    sha256=each.sha256,
                    filed_by=people[each.filed_by],
                    filed_at=each.filed_at,
                )
                for each in further
                if each.revision_id == row.id
            ],
        )
        for row in rows
    ]


def _reviews(session: Session, seat: Seat, document_id: str) -> list[ReviewBrief]:
    """Newest first."""
    query = (
        select(ReviewRow, ReviewDocumentRow.verdict, RevisionRow.code)
        .join(ReviewDocumentRow, ReviewDocumentRow.review_id == ReviewRow.id)
        .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
        .where(ReviewDocumentRow.document_id == document_id, seen_of("review", seat))
        .order_by(ReviewRow.started_at.desc())
    )
    return [
        ReviewBrief(
            id=row.id,
            number=row.number,
            name=row.name,
            state=row.state,
            revision=code,
            verdict=verdict,
            started_at=row.started_at,
        )
        for row, verdict, code in session.execute(query)
    ]


def _sent(session: Session, seat: Seat, actor: Actor, document_id: str) -> list[SentBrief]:
    query = (
        select(TransmittalRow, RevisionRow.code)
        .join(TransmittalDocumentRow, TransmittalDocumentRow.transmittal_id == TransmittalRow.id)
        .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
        .where(TransmittalDocumentRow.document_id == document_id, seen_of("transmittal", seat))
        .order_by(TransmittalRow.sent_at.desc())
    )
    return [
        SentBrief(id=row.id, number=row.number, purpose=row.purpose_words, revision=code, sent_at=row.sent_at)
        for row, code in session.execute(query)
    ]


def download_revision(context: Context, actor: Actor, revision_id: str) -> FileToSend:
    """The file as it came, under the document's number. Each download is an entry of the trail."""
    with acting(context, actor) as act:
        revision, document, _ = see_revision(act.session, actor, revision_id)
        about = f"{document.number} {revision.code}"
        subjects = (Subject("revision", revision.id),)
        act.record(
            document.project_id, Fact(FactKind.REVISION_DOWNLOADED, Subject("document", document.id), about, subjects)
        )
        name = sendable_name(document.number, revision.code, revision.status, revision.file_name)
        media = act.session.get_one(BlobRow, revision.sha256).media_type
        return FileToSend(context.blobs.local(revision.sha256), name, media)


def download_rendition(context: Context, actor: Actor, rendition_id: str) -> FileToSend:
    """A further file of a revision, as it came, under the document's number; an entry of the trail like the first."""
    with acting(context, actor) as act:
        row = act.session.get(RenditionRow, rendition_id)
        if row is None:
            raise NotFound(rendition_id)
        try:
            revision, document, _ = see_revision(act.session, actor, row.revision_id)
        except NotFound as hidden:
            raise NotFound(rendition_id) from hidden
        subjects = (Subject("revision", revision.id), Subject("rendition", row.id))
        about = f"{document.number} {revision.code}"
        fact = Fact(
            FactKind.RENDITION_DOWNLOADED, Subject("document", document.id), about, subjects, after={"kind": row.kind}
        )
        act.record(document.project_id, fact)
        name = sendable_name(document.number, revision.code, revision.status, row.file_name)
        media = act.session.get_one(BlobRow, row.sha256).media_type
        return FileToSend(context.blobs.local(row.sha256), name, media)


def sendable_name(number: str, revision: str, status: str, file_name: str) -> str:
    """The ending is the one it came with."""
    ending = re.search(r"\.[A-Za-z0-9]{1,5}$", file_name)
    return f"{number}_{revision}_{status}{ending[0].lower() if ending else ''}"
