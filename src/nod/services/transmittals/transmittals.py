"""Transmittals: sent once, at fixed revisions, with proof of every step (handbook §10)."""

from __future__ import annotations

from datetime import date

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core import transmittals
from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals import SendableDocument
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import next_running
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.open_work.open_work import settle
from nod.services.people.sign_in import token_hash
from nod.services.register.documents import find_document
from nod.services.register.in_force import around_of
from nod.services.register.standing import verdict_of
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import SEND_OUT
from nod.services.transmittals.acknowledgements import want_acknowledgements
from nod.services.transmittals.recipients import ROOM, guest_token, tell_transmittal
from nod.store.ids import new_id
from nod.store.tables import (
    CompanyRow,
    DocumentRow,
    LinkRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    RecipientRow,
    ReviewRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)


class SendTransmittal(Command):
    """`revisions` and `people` in the order they are to be listed; `copied` get it for information."""

    project_id: str
    revisions: list[str]
    people: list[str]
    copied: list[str] = Field(default_factory=list)
    purpose: str
    note: str = ""
    answer_wanted_on: date | None = Field(default=None, strict=False)
    review_id: str | None = None


class CheckSending(Command):
    project_id: str
    revisions: list[str]
    purpose: str


class Sendable(Answered):
    """What is about to be sent, and what the sender should know first."""

    next_number_like: str
    warnings: list[str]


class Sent(Answered):
    id: str
    number: str


def check_sending(context: Context, actor: Actor, command: CheckSending) -> Sendable:
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        seat.need_tool("transmittals")
        seat.need(Level.FILE)
        pairs = [_pair(session, seat, revision) for revision in command.revisions]
        documents = tuple(_sendable(session, seat.project, *pair) for pair in pairs)
        return Sendable(
            next_number_like=f"{actor.company_code}-T-…", warnings=transmittals.warnings(documents, command.purpose)
        )


def _pair(session: Session, seat: Seat, revision_id: str) -> tuple[DocumentRow, RevisionRow]:
    """Raises NotFound for a revision that the sender does not see in the project; NotAllowed without file there."""
    revision = session.get(RevisionRow, revision_id)
    document = find_document(session, revision.document_id) if revision else None
    if revision is None or document is None or document.project_id != seat.project.id:
        raise NotFound(revision_id)
    if seat.at(document.folder_id) is Level.NONE:
        raise NotFound(revision_id)
    seat.need_at(document.folder_id, Level.FILE, document.number)
    return document, revision


def _sendable(session: Session, project: ProjectRow, document: DocumentRow, revision: RevisionRow) -> SendableDocument:
    verdict = verdict_of(session, revision.id)
    may = {each["code"]: each["may_be_used"] for each in project.rules["verdict_set"]}
    return SendableDocument(document.number, revision.code, around_of(document), verdict, may.get(verdict))


def send_transmittal(context: Context, actor: Actor, command: SendTransmittal) -> Sent:
    """Fixes what is sent to whom and gives it its number. The worker packs it, then mails the recipients.

    Raises RuleBroken when nothing or nobody is named; NotFound for anything outside the project.
    """
    _check_named(command)
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.FILE, "transmittals")
        pairs = [_pair(act.session, seat, each) for each in dict.fromkeys(command.revisions)]
        people = [_addressee(act, command.project_id, each) for each in dict.fromkeys(command.people)]
        if command.review_id:
            _check_review(act, seat, command.review_id)
        row = _write(act, command, pairs)
        copied = [_addressee(act, command.project_id, each) for each in dict.fromkeys(command.copied)]
        copied = [each for each in copied if each not in people]
        for place, person in enumerate((*people, *copied)):
            _add_recipient(act, row, person, place, copied=person in copied)
        subjects = [
            Subject(kind, id) for doc, rev in pairs for kind, id in (("document", doc.id), ("revision", rev.id))
        ]
        after = {
            "purpose": row.purpose,
            "documents": [f"{document.number} {revision.code}" for document, revision in pairs],
            "to": [person.email for person in people],
            **({"copied": [person.email for person in copied]} if copied else {}),
        }
        act.record(
            row.project_id,
            Fact(FactKind.TRANSMITTAL_SENT, Subject("transmittal", row.id), row.number, tuple(subjects), after=after),
        )
        act.ask("pack", f"pack:{row.id}", {"transmittal_id": row.id})
        want_acknowledgements(act.session, row)
        if command.review_id:
            settle(act.session, Subject("review", command.review_id), SEND_OUT.code)
        tell_transmittal(act.session, act.at, row, by=actor.person_id)
        return Sent(id=row.id, number=row.number)


def _check_named(command: SendTransmittal) -> None:
    if not command.revisions:
        raise RuleBroken("no_documents", "Choose at least one document to send.")
    if not command.people:
        raise RuleBroken("no_recipients", "Name at least one recipient.")
    if command.purpose not in transmittals.PURPOSES:
        raise RuleBroken("purpose_unknown", "Choose a purpose of issue.", command.purpose)


def _addressee(act: Act, project_id: str, person_id: str) -> PersonRow:
    """Members and outside contacts of the project can be written to."""
    member = act.session.get(MembershipRow, (project_id, person_id))
    if member is None or member.state == "removed":
        raise NotFound(person_id)
    return act.session.get_one(PersonRow, person_id)


def _check_review(act: Act, seat: Seat, review_id: str) -> None:
    query = select(ReviewRow.id).where(ReviewRow.id == review_id, ReviewRow.project_id == seat.project.id)
    if act.session.scalar(query.where(REVIEW.seen(seat))) is None:
        raise NotFound(review_id)


def _write(act: Act, command: SendTransmittal, pairs: list[tuple[DocumentRow, RevisionRow]]) -> TransmittalRow:
    code = act.session.get_one(CompanyRow, act.actor.company_id).code
    running = next_running(act.session, command.project_id, f"transmittal:{code}")
    row = TransmittalRow(
        id=new_id(), project_id=command.project_id, company_id=act.actor.company_id,
        number=transmittals.transmittal_number(code, running), purpose=command.purpose,
        note=command.note.strip()[:4000],
        answer_wanted_on=command.answer_wanted_on, review_id=command.review_id or None, sent_by=act.actor.person_id,
        sent_at=act.at,
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    act.session.add_all(
        TransmittalDocumentRow(
            transmittal_id=row.id, revision_id=revision.id, document_id=document.id, place=place,
            verdict=verdict_of(act.session, revision.id),
        )
        for place, (document, revision) in enumerate(pairs)
    )  # fmt: skip
    return row


def _add_recipient(act: Act, row: TransmittalRow, person: PersonRow, place: int, *, copied: bool) -> None:
    recipient_id = new_id()
    act.session.add(
        RecipientRow(id=recipient_id, transmittal_id=row.id, person_id=person.id, place=place, copied=copied)
    )
    act.session.add(
        LinkRow(
            id=recipient_id, project_id=row.project_id, thing_kind="transmittal", thing_id=row.id, for_kind="named",
            person_id=person.id, allows=list(ROOM.offers), made_by=row.sent_by, made_at=act.at,
            token_sha256=token_hash(guest_token(act.context, recipient_id)),
        )
    )  # fmt: skip
