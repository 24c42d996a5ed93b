"""What is shown of transmittals: the list, one of them with the times of each recipient, and whom one can write to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.core.transmittals.along import ALONG_WORDS, Along
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.acts.given_up import GivenUp, given_up_for
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.files.files_to_send import FileToSend
from nod.services.reviews.kind import REVIEW
from nod.services.sheet.sheets import RevisionStanding, standing_shown
from nod.services.things.things import see_thing
from nod.services.transmittals.kind import TRANSMITTAL
from nod.services.transmittals.may import may_void
from nod.services.transmittals.purposes import purposes_of
from nod.services.transmittals.receipts import RecipientShown, is_silent, recipients_of
from nod.services.transmittals.sent_files import sent_files_of
from nod.store.tables import (
    BlobRow,
    CompanyRow,
    DocumentRow,
    MembershipRow,
    PersonRow,
    RecipientRow,
    ReviewRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)


class TransmittalLine(Answered):
    id: str
    number: str
    purpose: str
    sent_by: Who
    sent_at: datetime
    documents: int
    recipients: int
    acknowledged: int
    with_whom: str
    answer_wanted_on: date | None
    void: bool


class AlongShown(Answered):
    """A file that goes with a document: what it is, and why it could not be made; 0 bytes while it is being made."""

    place: int
    words: str
    file: str
    size_bytes: int
    fault: str


class SentDocument(Answered):
    """How it stands today; `older_then`: it was superseded already when it was sent."""

    document_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    standing: RevisionStanding
    older_then: bool
    status: str
    verdict: str
    along: list[AlongShown]


class VoidShown(Answered):
    """`replaced_by` is the number of what was sent in its place, empty for nothing yet."""

    at: datetime
    by: Who
    why: str
    replaced_by: str


class Transmittal(Answered):
    """`files_packed` is how many of the documents are in the ZIP so far, told now and then."""

    line: TransmittalLine
    project_id: str
    company: str
    note: str
    review_number: str
    review_id: str
    view_only: bool
    attached: bool
    by_itself: bool
    expires_on: date | None
    packed: bool
    files_packed: int
    pack_bytes: int
    documents: list[SentDocument]
    recipients: list[RecipientShown]
    may_acknowledge: bool
    may_send_again: bool
    may_void: bool
    may_chase: bool
    void: VoidShown | None
    replaces: str
    given_up: list[GivenUp]


class Addressee(Answered):
    who: Who
    email: str
    company_name: str
    outside: bool
    roles: list[str]


class Choice(Answered):
    code: str
    words: str


class PurposeOffered(Choice):
    """`answer_on`: by when it wants an answer of what is sent today, if it wants one."""

    answer_on: date | None


class Addressees(Answered):
    """`roles` are those that somebody has; `attach_mb`: files of this size together go with the mail, 0 for none."""

    people: list[Addressee]
    purposes: list[PurposeOffered]
    roles: list[Choice]
    attach_mb: int


def list_addressees(context: Context, actor: Actor, project_id: str) -> Addressees:
    """Everybody of the project who can be written to, by company, outside contacts last."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool("transmittals")
        seat.need(Level.FILE)
        query = (
            select(PersonRow, CompanyRow, MembershipRow.state, MembershipRow.roles)
            .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
            .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
            .where(MembershipRow.project_id == project_id, MembershipRow.state != "removed")
            .order_by(MembershipRow.state == "contact", CompanyRow.name, PersonRow.name)
        )
        people = [
            Addressee(
                who=Who(id=person.id, name=person.name, company=company.code, job=person.job),
                email=person.email,
                company_name=company.name,
                outside=state == "contact",
                roles=list(roles),
            )
            for person, company, state, roles in session.execute(query)
        ]
        held = {role for each in people for role in each.roles}
        rules = seat.project.rules
        roles = [Choice(code=each["code"], words=each["name"]) for each in rules["roles"] if each["code"] in held]
        clock, today = project_clock(session, seat.project), today_in(seat.project, context.clock.now())
        purposes = [
            PurposeOffered(code=code, words=each.words, answer_on=each.answer_on(today, clock.calendar))
            for code, each in purposes_of(seat.project).items()
        ]
    return Addressees(people=people, purposes=purposes, roles=roles, attach_mb=rules.get("attach_mb", 0))


@dataclass(frozen=True)
class Viewer:
    """Of a list. Whoever `runs` the project sees all receipts, others those of what their company sent, and its own."""

    company_id: str
    runs: bool

    def sees(self, row: TransmittalRow, company_id: str) -> bool:
        return self.runs or self.company_id in (row.company_id, company_id)


EVERYTHING = Viewer("", runs=True)


def transmittal_lines(
    session: Session, rows: Sequence[TransmittalRow], viewer: Viewer = EVERYTHING
) -> list[TransmittalLine]:
    """Recipients whose receipts the viewer does not see are not counted, and not named as those who have it."""
    ids = [row.id for row in rows]
    counting = select(TransmittalDocumentRow.transmittal_id, func.count())
    counting = counting.where(TransmittalDocumentRow.transmittal_id.in_(ids))
    counts = dict(session.execute(counting.group_by(TransmittalDocumentRow.transmittal_id)).all())
    waiting: dict[str, list[str]] = {row.id: [] for row in rows}
    totals = dict.fromkeys(ids, 0)
    recipients = (
        select(RecipientRow.transmittal_id, RecipientRow.company_id, RecipientRow.acknowledged_at, PersonRow.name)
        .join(PersonRow, PersonRow.id == RecipientRow.person_id)
        .where(RecipientRow.transmittal_id.in_(ids), ~RecipientRow.copied)
        .order_by(RecipientRow.place)
    )
    by_id = {row.id: row for row in rows}
    for transmittal_id, company_id, acknowledged_at, name in session.execute(recipients):
        if not viewer.sees(by_id[transmittal_id], company_id):
            continue
        totals[transmittal_id] += 1
        if acknowledged_at is None:
            waiting[transmittal_id].append(name)
    senders = people_by_id(session, {row.sent_by for row in rows})
    return [
        TransmittalLine(
            id=row.id,
            number=row.number,
            purpose=row.purpose_words,
            sent_by=senders[row.sent_by],
            sent_at=row.sent_at,
            documents=counts.get(row.id, 0),
            recipients=totals[row.id],
            acknowledged=totals[row.id] - len(waiting[row.id]),
            with_whom="" if row.voided_at else _names(waiting[row.id]),
            answer_wanted_on=row.answer_wanted_on,
            void=row.voided_at is not None,
        )
        for row in rows
    ]


def _names(names: list[str]) -> str:
    return " and ".join(names) if len(names) <= 2 else f"{names[0]} and {len(names) - 1} others"


def read_transmittal(context: Context, actor: Actor, transmittal_id: str) -> Transmittal:
    with context.database.read() as session:
        row, seat = see_thing(session, actor, TRANSMITTAL, transmittal_id)
        from_review = select(ReviewRow).where(ReviewRow.id == row.review_id, REVIEW.seen(seat))
        review = session.scalars(from_review).one_or_none()
        pack = session.get(BlobRow, row.pack_sha256) if row.pack_sha256 else None
        company_id = None if sees_receipts(row, actor, seat) else actor.company_id
        recipients = recipients_of(session, row.id, company_id, context.clock.now())
        mails = select(RecipientRow.id).where(RecipientRow.transmittal_id == row.id)
        keys = [f"pack:{row.id}", *(f"mail:recipient:{each}" for each in session.scalars(mails))]
        return Transmittal(
            line=transmittal_lines(session, [row], Viewer(actor.company_id, seat.runs))[0],
            project_id=row.project_id,
            company=session.get_one(CompanyRow, row.company_id).name,
            note=row.note,
            review_number=review.number if review else "",
            review_id=review.id if review else "",
            view_only=row.view_only,
            attached=row.attached,
            by_itself=row.by_itself,
            expires_on=row.expires_on,
            packed=pack is not None,
            files_packed=row.files_packed,
            pack_bytes=pack.size_bytes if pack else 0,
            documents=sent_documents(session, row.id),
            recipients=recipients,
            may_acknowledge=row.voided_at is None
            and any(each.who.id == actor.person_id and each.acknowledged_at is None for each in recipients),
            may_send_again=may_void(row, actor, seat) and row.voided_at is None,
            may_void=may_void(row, actor, seat) and row.voided_at is None,
            may_chase=may_void(row, actor, seat) and any(is_silent(each) for each in recipients) and not row.voided_at,
            void=void_shown(session, row),
            replaces=session.get_one(TransmittalRow, row.replaces).number if row.replaces else "",
            given_up=list(given_up_for(session, keys).values()),
        )


def sent_documents(session: Session, transmittal_id: str) -> list[SentDocument]:
    query = (
        select(
            DocumentRow.id.label("document_id"),
            RevisionRow.id.label("revision_id"),
            DocumentRow.number,
            RevisionRow.title,
            RevisionRow.code.label("revision"),
            DocumentRow,
            (RevisionRow.superseded_at <= TransmittalRow.sent_at).label("older_then"),
            RevisionRow.status,
            TransmittalDocumentRow.verdict,
        )
        .join(TransmittalDocumentRow, TransmittalDocumentRow.document_id == DocumentRow.id)
        .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
        .join(TransmittalRow, TransmittalRow.id == TransmittalDocumentRow.transmittal_id)
        .where(TransmittalDocumentRow.transmittal_id == transmittal_id)
        .order_by(TransmittalDocumentRow.place)
    )
    along = _along(session, transmittal_id)
    return [
        SentDocument(
            document_id=row.document_id, revision_id=row.revision_id, number=row.number, title=row.title,
            revision=row.revision, standing=standing_shown(row.DocumentRow, row.revision),
            older_then=bool(row.older_then), status=row.status, verdict=row.verdict,
            along=along.get(row.revision_id, []),
        )
        for row in session.execute(query)
    ]  # fmt: skip


def _along(session: Session, transmittal_id: str) -> dict[str, list[AlongShown]]:
    """By revision."""
    found: dict[str, list[AlongShown]] = {}
    for each in sent_files_of(session, transmittal_id):
        name = each.file.rpartition("/")[2]
        shown = AlongShown(
            place=each.place, words=ALONG_WORDS[Along(each.kind)], file=name, size_bytes=each.size_bytes,
            fault=each.fault,
        )  # fmt: skip
        found.setdefault(each.revision_id, []).append(shown)
    return found


def sees_receipts(row: TransmittalRow, actor: Actor, seat: Seat) -> bool:
    """Those who sent it, and who runs the project; the others see their own company's."""
    return seat.runs or row.company_id == actor.company_id or row.sent_by == actor.person_id


def void_shown(session: Session, row: TransmittalRow) -> VoidShown | None:
    if row.voided_at is None or row.voided_by is None:
        return None
    instead = session.scalar(select(TransmittalRow.number).where(TransmittalRow.replaces == row.id).limit(1))
    by = people_by_id(session, {row.voided_by})[row.voided_by]
    return VoidShown(at=row.voided_at, by=by, why=row.void_why, replaced_by=instead or "")


def part_of(context: Context, row: TransmittalRow, part: str) -> FileToSend:
    sha256, name, media = {
        "cover": (row.cover_sha256, f"{row.number}_cover.pdf", "application/pdf"),
        "pack": (row.pack_sha256, f"{row.number}.zip", "application/zip"),
    }.get(part, ("", "", ""))
    if not sha256:
        raise NotFound(part)
    return FileToSend(context.blobs.local(sha256), name, media)
