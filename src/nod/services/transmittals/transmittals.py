"""Transmittals: sent once, at fixed revisions, with proof of every step (handbook §10)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.working_days import end_of_day
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals import transmittals
from nod.core.transmittals.along import along_words
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, today_in
from nod.services.acts.projects import next_running
from nod.services.acts.seats import Actor, Seat
from nod.services.open_work.open_work import settle
from nod.services.people.sign_in import token_hash
from nod.services.register.standing import verdict_of
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import SEND_OUT
from nod.services.sessions.records import record_to_send
from nod.services.transmittals.acknowledgements import want_acknowledgements
from nod.services.transmittals.bags import Pair, sent_names
from nod.services.transmittals.drafts import MarksAlong, RecordAlong, sent_from
from nod.services.transmittals.holding import refresh_holders
from nod.services.transmittals.purposes import purpose_of
from nod.services.transmittals.recipients import allowed, guest_token, tell_transmittal
from nod.services.transmittals.sent_files import add_sent_files, goes_with_the_mail
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.ids import new_code, new_id
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
    """`revisions` and `people` in the order they are to be listed; `copied` get it for information.

    `view_only` lets recipients look and not download; their links close when `expires_on` is over. `draft_id` is the
    draft that it was prepared as; `replaces` a transmittal of one's company that was voided. `natives`, `stamped`,
    `marks` and `record` say what goes along with the documents (`core.transmittals.along`).
    """

    project_id: str
    revisions: list[str]
    people: list[str]
    copied: list[str] = Field(default_factory=list)
    purpose: str
    note: str = ""
    natives: bool = False
    stamped: bool = False
    marks: MarksAlong = ""
    record: RecordAlong | None = None
    answer_wanted_on: date | None = Field(default=None, strict=False)
    view_only: bool = False
    expires_on: date | None = Field(default=None, strict=False)
    review_id: str | None = None
    draft_id: str = ""
    draft_version: int = 0
    replaces: str = ""


class Sent(Answered):
    id: str
    number: str


def sent_pairs(session: Session, seat: Seat, revision_ids: Sequence[str]) -> list[Pair]:
    """Each once, in the order given. Raises NotFound for a revision that the sender does not see in the project;

    NotAllowed for one that they may not send out.
    """
    ids = list(dict.fromkeys(revision_ids))
    query = select(RevisionRow, DocumentRow).join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
    here = query.where(one_of(RevisionRow.id, ids), unindexed(DocumentRow.project_id) == seat.project.id)
    found = {revision.id: (document, revision) for revision, document in session.execute(here)}
    for each in ids:
        if each not in found or seat.at(found[each][0].folder_id) is Level.NONE:
            raise NotFound(each)
        document = found[each][0]
        seat.need_at(document.folder_id, Level.FILE, document.number)
    return [found[each] for each in ids]


def send_transmittal(context: Context, actor: Actor, command: SendTransmittal) -> Sent:
    """Fixes what is sent to whom and gives it its number. The worker packs it, then mails the recipients.

    Raises RuleBroken when nothing or nobody is named; NotFound for anything outside the project.
    """
    with acting(context, actor) as act:
        row = send_in(act, command)
        return Sent(id=row.id, number=row.number)


def send_in(act: Act, command: SendTransmittal, *, by_itself: bool = False) -> TransmittalRow:
    """All that a sending writes, in the act at hand. Raises as `send_transmittal` does."""
    _check_named(command)
    seat = act.enter(command.project_id, Level.FILE, "transmittals")
    purpose = purpose_of(seat.project, command.purpose)
    _check_days(act, command, seat)
    pairs = sent_pairs(act.session, seat, command.revisions)
    people = [_addressee(act, command.project_id, each) for each in dict.fromkeys(command.people)]
    if command.review_id:
        _check_review(act, seat, command.review_id)
    if command.draft_id:
        sent_from(act, command.draft_id, command.draft_version)
    if command.replaces:
        _check_replaced(act, command)
    row, names = _write(act, command, purpose.words, pairs)
    asked = command.record
    record = record_to_send(act.session, act.actor, asked.session_id, asked.part) if asked else None
    further = add_sent_files(act, row, pairs, names, record)
    row.by_itself, row.attached = by_itself, goes_with_the_mail(seat.project, row, pairs, further)
    recorded = record.number if record else ""
    along = along_words(natives=row.natives, stamped=row.stamped, marks=row.marks, record=recorded)
    copied = [_addressee(act, command.project_id, each) for each in dict.fromkeys(command.copied)]
    copied = [each for each in copied if each not in people]
    for place, person in enumerate((*people, *copied)):
        _add_recipient(act, row, person, place, copied=person in copied)
    subjects = [Subject(kind, id) for doc, rev in pairs for kind, id in (("document", doc.id), ("revision", rev.id))]
    after = {
        "purpose": row.purpose,
        "documents": [f"{document.number} {revision.code}" for document, revision in pairs],
        "files": [
            *(f"{revision.sha256}  {name}" for (_, revision), name in zip(pairs, names, strict=True)),
            *(f"{each.sha256}  {each.file}" for each in further if each.sha256),
        ],
        "to": [person.email for person in people],
        **({"with": along} if along else {}),
        **({"attached": True} if row.attached else {}),
        **({"by itself": "the distribution matrix"} if by_itself else {}),
        **({"view only": True} if row.view_only else {}),
        **({"expires on": row.expires_on.isoformat()} if row.expires_on else {}),
        **({"copied": [person.email for person in copied]} if copied else {}),
        **({"in place of": act.session.get_one(TransmittalRow, row.replaces).number} if row.replaces else {}),
    }
    act.record(
        row.project_id,
        Fact(FactKind.TRANSMITTAL_SENT, Subject("transmittal", row.id), row.number, tuple(subjects), after=after),
    )
    act.ask("pack", f"pack:{row.id}", {"transmittal_id": row.id})
    want_acknowledgements(act.session, row)
    refresh_holders(act.session, [document.id for document, _ in pairs])
    if command.review_id:
        settle(act.session, Subject("review", command.review_id), SEND_OUT.code)
    tell_transmittal(act.session, act.at, row, by=act.actor.person_id)
    return row


def _check_named(command: SendTransmittal) -> None:
    if not command.revisions:
        raise RuleBroken("no_documents", "Choose at least one document to send.")
    if not command.people:
        raise RuleBroken("no_recipients", "Name at least one recipient.")


def _check_days(act: Act, command: SendTransmittal, seat: Seat) -> None:
    if command.expires_on and command.expires_on < today_in(seat.project, act.at):
        raise RuleBroken("expires_before", "The day until which it can be opened is over already.")


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


def _check_replaced(act: Act, command: SendTransmittal) -> None:
    row = act.session.get(TransmittalRow, command.replaces)
    if row is None or (row.project_id, row.company_id) != (command.project_id, act.actor.company_id):
        raise NotFound(command.replaces)
    if row.voided_at is None:
        raise RuleBroken("not_void", f"{row.number} is not void. Void it first.", row.number)


def _write(
    act: Act, command: SendTransmittal, purpose_words: str, pairs: list[Pair]
) -> tuple[TransmittalRow, list[str]]:
    """The transmittal, and what its files are called in the bag."""
    code = act.session.get_one(CompanyRow, act.actor.company_id).code
    running = next_running(act.session, command.project_id, f"transmittal:{code}")
    row = TransmittalRow(
        id=new_id(), project_id=command.project_id, company_id=act.actor.company_id,
        number=transmittals.transmittal_number(code, running), purpose=command.purpose,
        purpose_words=purpose_words, note=command.note.strip()[:4000],
        answer_wanted_on=command.answer_wanted_on, review_id=command.review_id or None, sent_by=act.actor.person_id,
        sent_at=act.at, replaces=command.replaces, view_only=command.view_only, expires_on=command.expires_on,
        code=new_code(), natives=command.natives, stamped=command.stamped, marks=command.marks,
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    names = sent_names(row.number, pairs)
    act.session.add_all(
        TransmittalDocumentRow(
            transmittal_id=row.id, revision_id=revision.id, document_id=document.id, place=place,
            verdict=verdict_of(act.session, revision.id), number=document.number, file=names[place],
        )
        for place, (document, revision) in enumerate(pairs)
    )  # fmt: skip
    return row, names


def _add_recipient(act: Act, row: TransmittalRow, person: PersonRow, place: int, *, copied: bool) -> None:
    recipient_id = new_id()
    act.session.add(
        RecipientRow(
            id=recipient_id,
            transmittal_id=row.id,
            person_id=person.id,
            company_id=person.company_id,
            place=place,
            copied=copied,
        )
    )
    act.session.add(
        LinkRow(
            id=recipient_id, project_id=row.project_id, thing_kind="transmittal", thing_id=row.id, for_kind="named",
            person_id=person.id, allows=allowed(row), made_by=row.sent_by, made_at=act.at, ends_at=_ends_at(act, row),
            token_sha256=token_hash(guest_token(act.context, recipient_id)),
        )
    )  # fmt: skip


def _ends_at(act: Act, row: TransmittalRow) -> datetime | None:
    zone = ZoneInfo(act.session.get_one(ProjectRow, row.project_id).time_zone)
    return end_of_day(row.expires_on, zone) if row.expires_on else None
