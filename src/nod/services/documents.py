"""The register: its list, one document's dossier, and the files of its revisions (handbook §4)."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from datetime import date, datetime
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.calendar import Counting, days_late
from nod.core.refusals import NotFound, RuleBroken
from nod.core.revisions import Scheme, next_codes
from nod.core.trail import Fact, Subject
from nod.services.answers import Answered, Standing, Who, people_by_id
from nod.services.context import Context, acting, project_clock, today_in
from nod.services.folders import folder_path
from nod.services.projects import rules_of
from nod.services.seats import Actor, Seat, take_seat
from nod.services.seeing import reviews_seen, see_document, see_revision, transmittals_seen
from nod.store import register_query
from nod.store.register_query import RegisterView
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    ProjectRow,
    ReviewDocumentRow,
    ReviewRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)


class DocumentLine(Answered):
    """One line of the register."""

    id: str
    number: str
    title: str
    discipline: str
    revision_id: str
    revision: str
    status: str
    sheet_size: str
    verdict: str
    standing: Standing
    filed_at: datetime
    version: int


class RegisterPage(Answered):
    """`cursor` fetches the lines that follow; empty at the end. `total` counts what the filters leave."""

    lines: list[DocumentLine]
    cursor: str
    total: int


class RevisionShown(Answered):
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
    verdict: str


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


class Dossier(Answered):
    """Everything about one document."""

    line: DocumentLine
    project_id: str
    folder: str
    originator: str
    form: str
    sheet_size: str
    next_revisions: list[str]
    revisions: list[RevisionShown]
    reviews: list[ReviewBrief]
    sent: list[SentBrief]


@dataclass(frozen=True)
class FileToSend:
    """A stored file and what it should be called on the receiver's disk."""

    path: Path
    name: str
    media_type: str


def list_register(context: Context, actor: Actor, view: RegisterView) -> RegisterPage:
    """Raises RuleBroken for a column that does not sort or a cursor that is not one of ours."""
    with context.database.read() as session:
        seat = take_seat(session, actor, view.project_id)
        view = replace(view, folders=None if seat.runs else frozenset(seat.levels))
        late = LateBy(session, seat.project, context.clock.now())
        try:
            total = register_query.count(session, view)
            page = register_query.read_page(session, view, total)
        except (KeyError, ValueError, TypeError) as error:
            raise RuleBroken("view_unknown", "This list cannot be shown in that order.", view.sort) from error
        lines = [_line(row, late) for row in page.rows]
        return RegisterPage(lines=lines, cursor=page.cursor, total=total)


class LateBy:
    """Counts how late a due day is, in the project's working days."""

    def __init__(self, session: Session, project: ProjectRow, now: datetime) -> None:
        self.calendar = project_clock(session, project).calendar
        self.today = today_in(project, now)

    def __call__(self, due: date | None, counting: Counting = Counting.WORKING) -> int:
        return days_late(due, self.today, counting, self.calendar) if due else 0


def _line(row: object, late: LateBy) -> DocumentLine:
    get = row.__getattribute__
    standing = Standing(
        with_whom=get("with_whom"), since_at=get("since_at"), due_on=get("due_on"), days_late=late(get("due_on"))
    )
    return DocumentLine(
        id=get("id"),
        number=get("number"),
        title=get("title"),
        discipline=get("discipline"),
        revision_id=get("revision_id"),
        revision=get("revision"),
        status=get("status"),
        sheet_size=get("sheet_size"),
        verdict=get("verdict"),
        standing=standing,
        filed_at=get("filed_at"),
        version=get("version"),
    )


def read_document(context: Context, actor: Actor, document_id: str) -> Dossier:
    with context.database.read() as session:
        document, seat = see_document(session, actor, document_id)
        project = seat.project
        rows = list(
            session.scalars(
                select(RevisionRow).where(RevisionRow.document_id == document_id).order_by(RevisionRow.filed_at.desc())
            )
        )
        reviews = _reviews(session, seat, document_id)
        return Dossier(
            line=_line(document, LateBy(session, project, context.clock.now())),
            project_id=document.project_id,
            folder=folder_path(session, seat, document.folder_id),
            originator=document.originator,
            form=document.form,
            sheet_size=document.sheet_size,
            next_revisions=list(next_codes(Scheme(rules_of(project).scheme), document.revision)),
            revisions=_revisions(session, rows, reviews),
            reviews=reviews,
            sent=_sent(session, seat, actor, document_id),
        )


def find_document(session: Session, document_id: str) -> DocumentRow:
    """Raises NotFound. For rows that are known to be seen; from an address, ask `seeing.see_document`."""
    document = session.scalars(select(DocumentRow).where(DocumentRow.id == document_id)).one_or_none()
    if document is None:
        raise NotFound(document_id)
    return document


def _revisions(session: Session, rows: list[RevisionRow], reviews: list[ReviewBrief]) -> list[RevisionShown]:
    people = people_by_id(session, {row.filed_by for row in rows})
    hashes = {row.sha256 for row in rows}
    pages = dict(session.execute(select(BlobRow.sha256, BlobRow.page_count).where(BlobRow.sha256.in_(hashes))).all())
    verdicts = {review.revision: review.verdict for review in reversed(reviews) if review.verdict}
    return [
        RevisionShown(
            id=row.id,
            code=row.code,
            status=row.status,
            title=row.title,
            file_name=row.file_name,
            size_bytes=row.size_bytes,
            sha256=row.sha256,
            page_count=pages[row.sha256],
            filed_by=people[row.filed_by],
            filed_at=row.filed_at,
            came_from=row.came_from,
            arrived_at=row.arrived_at,
            superseded_at=row.superseded_at,
            verdict=verdicts.get(row.code, ""),
        )
        for row in rows
    ]


def _reviews(session: Session, seat: Seat, document_id: str) -> list[ReviewBrief]:
    """Newest first."""
    query = (
        select(ReviewRow, ReviewDocumentRow.verdict, RevisionRow.code)
        .join(ReviewDocumentRow, ReviewDocumentRow.review_id == ReviewRow.id)
        .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
        .where(ReviewDocumentRow.document_id == document_id, reviews_seen(seat))
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
        .where(TransmittalDocumentRow.document_id == document_id, transmittals_seen(seat, actor.person_id))
        .order_by(TransmittalRow.sent_at.desc())
    )
    return [
        SentBrief(id=row.id, number=row.number, purpose=row.purpose, revision=code, sent_at=row.sent_at)
        for row, code in session.execute(query)
    ]


def download_revision(context: Context, actor: Actor, revision_id: str) -> FileToSend:
    """The file as it came, under the document's number. Each download is an entry of the trail."""
    with acting(context, actor) as act:
        revision, document, _ = see_revision(act.session, actor, revision_id)
        about = f"{document.number} {revision.code}"
        subjects = (Subject("revision", revision.id),)
        act.record(document.project_id, Fact("revision_downloaded", Subject("document", document.id), about, subjects))
        name = sendable_name(document.number, revision.code, revision.status, revision.file_name)
        media = act.session.get_one(BlobRow, revision.sha256).media_type
        return FileToSend(context.blobs.path(revision.sha256), name, media)


def sendable_name(number: str, revision: str, status: str, file_name: str) -> str:
    """The ending is the one it came with."""
    ending = re.search(r"\.[A-Za-z0-9]{1,5}$", file_name)
    return f"{number}_{revision}_{status}{ending[0].lower() if ending else ''}"
