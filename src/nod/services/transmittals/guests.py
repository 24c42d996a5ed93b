"""What a transmittal's recipient may do: look, download, acknowledge. For an outsider the link is the only key."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from pydantic import Field
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, VerdictShown, Who, people_by_id, show_verdicts
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor
from nod.services.acts.tries import key_of, take_one
from nod.services.files.files_to_send import FileToSend
from nod.services.links.visits import Guest, guest_of, on_entering
from nod.services.things.things import see_thing
from nod.services.transmittals.acknowledgements import want_acknowledgements
from nod.services.transmittals.drafts import LONGEST_NOTE
from nod.services.transmittals.holding import refresh_holders_of
from nod.services.transmittals.kind import TRANSMITTAL, receipt
from nod.services.transmittals.receipts import files_taken
from nod.services.transmittals.recipients import recipient_of, tell_sender, tell_transmittal
from nod.services.transmittals.transmittals_view import (
    SentDocument,
    VoidShown,
    part_of,
    sees_receipts,
    sent_documents,
    void_shown,
)
from nod.store.tables import BlobRow, CompanyRow, RecipientRow, TransmittalRow

_MOST_DOWNLOADS = 30


class GuestView(Answered):
    """The transmittal as its recipient sees it; `files_taken` are revisions whose files they took one by one."""

    project: str
    number: str
    company: str
    sent_by: Who
    sent_at: datetime
    purpose: str
    note: str
    answer_wanted_on: date | None
    recipient: Who
    documents: list[SentDocument]
    verdict_set: list[VerdictShown]
    packed: bool
    files_packed: int
    pack_bytes: int
    opened_at: datetime | None
    downloaded_at: datetime | None
    acknowledged_at: datetime | None
    acknowledged_note: str
    expires_on: date | None
    allows: list[str]
    files_taken: list[str]
    void: VoidShown | None


class Acknowledge(Command):
    note: str = Field(default="", max_length=LONGEST_NOTE)


@dataclass(frozen=True)
class Opened:
    """A transmittal, opened by its recipient's link."""

    guest: Guest
    recipient: RecipientRow
    row: TransmittalRow


def opened_by(context: Context, session: Session, secret: str) -> Opened:
    """Raises NotFound for a visit to anything else, or when it is over. Asked anew at every act."""
    guest = guest_of(context, session, secret)
    recipient = session.get(RecipientRow, guest.link.id)
    if recipient is None:
        raise NotFound
    return Opened(guest, recipient, guest.row)


def read_as_guest(context: Context, secret: str) -> GuestView:
    """The first look has its time on the transmittal: it comes after the press that opened the link."""
    with context.database.read() as session:
        found = opened_by(context, session, secret)
        guest, recipient, row = found.guest, found.recipient, found.row
        project = guest.project
        pack = session.get(BlobRow, row.pack_sha256) if row.pack_sha256 else None
        people = people_by_id(session, {recipient.person_id, row.sent_by})
        return GuestView(
            project=f"{project.number} {project.name}",
            number=row.number,
            company=session.get_one(CompanyRow, row.company_id).name,
            sent_by=people[row.sent_by],
            sent_at=row.sent_at,
            purpose=row.purpose_words,
            note=row.note,
            answer_wanted_on=row.answer_wanted_on,
            recipient=people[recipient.person_id],
            documents=sent_documents(session, row.id),
            verdict_set=show_verdicts(project.rules["verdict_set"]),
            packed=pack is not None,
            files_packed=row.files_packed,
            pack_bytes=pack.size_bytes if pack else 0,
            opened_at=recipient.opened_at,
            downloaded_at=recipient.downloaded_at,
            acknowledged_at=recipient.acknowledged_at,
            acknowledged_note=recipient.acknowledged_note,
            expires_on=row.expires_on,
            allows=guest.link.allows,
            files_taken=files_taken(session, [recipient.id]).get(recipient.id, []),
            void=void_shown(session, row),
        )


@on_entering("transmittal")
def note_opened(guest: Guest) -> None:
    """Each opening is in the trail, the first has its time on the transmittal."""
    recipient = guest.act.session.get(RecipientRow, guest.link.id)
    if recipient is not None:
        if recipient.opened_at is None:
            recipient.opened_at = guest.act.at
            refresh_holders_of(guest.act.session, guest.row.id)
        _record(guest.act, guest.row, recipient, FactKind.TRANSMITTAL_OPENED)


def acknowledge(context: Context, secret: str, command: Acknowledge) -> None:
    """Said once, with a note for the sender if there is one; saying it again changes nothing."""
    with context.database.write() as session:
        found = opened_by(context, session, secret)
        guest, recipient, row = found.guest, found.recipient, found.row
        guest.need("acknowledge")
        _acknowledge(guest.act, recipient, row, command.note.strip())


def check_not_void(row: TransmittalRow) -> None:
    if row.voided_at:
        raise RuleBroken("void_already", f"{row.number} was voided. Do not work from it.", row.number)


def _acknowledge(act: Act, recipient: RecipientRow, row: TransmittalRow, note: str = "") -> None:
    if recipient.acknowledged_at:
        return
    check_not_void(row)
    recipient.acknowledged_at, recipient.acknowledged_note = act.at, note
    want_acknowledgements(act.session, row)
    refresh_holders_of(act.session, row.id)
    _record(act, row, recipient, FactKind.TRANSMITTAL_ACKNOWLEDGED, {"note": note} if note else None)
    if note:
        tell_sender(act, row, f"{act.actor.name} acknowledged {row.number}", note, f"acknowledged:{recipient.id}")


def acknowledge_as_member(context: Context, actor: Actor, transmittal_id: str) -> None:
    """For a recipient who is signed in. Raises NotAllowed for a member it was not sent to."""
    with acting(context, actor) as act:
        row, _ = see_thing(act.session, actor, TRANSMITTAL, transmittal_id)
        recipient = recipient_of(act.session, row.id, actor.person_id)
        if recipient is None:
            raise NotAllowed("not_a_recipient", "This transmittal was sent to others.", row.number)
        recipient.opened_at = recipient.opened_at or act.at
        _acknowledge(act, recipient, row)


def download_part(context: Context, actor: Actor, transmittal_id: str, part: str) -> FileToSend:
    """The cover sheet or the ZIP, for a member; a recipient's first ZIP has its time at their receipt.

    Raises NotFound while it is not packed yet, NotAllowed for a recipient who may only look.
    """
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, TRANSMITTAL, transmittal_id)
        if row.view_only and not sees_receipts(row, actor, seat):
            raise NotAllowed("view_only", f"{row.number} was sent to be looked at, not downloaded.", row.number)
        file = part_of(context, row, part)
        recipient = recipient_of(act.session, row.id, actor.person_id)
        if recipient:
            _took(act, row, recipient, part)
        else:
            subject = Subject("transmittal", row.id)
            fact = Fact(FactKind.TRANSMITTAL_DOWNLOADED, subject, row.number, after={"part": part})
            act.record(row.project_id, fact)
        return file


def _took(act: Act, row: TransmittalRow, recipient: RecipientRow, part: str) -> None:
    if part == "pack":
        recipient.downloaded_at = recipient.downloaded_at or act.at
    _record(act, row, recipient, FactKind.TRANSMITTAL_DOWNLOADED, {"part": part})


def download_as_guest(context: Context, secret: str, part: str) -> FileToSend:
    """`part` is `cover` or `pack`."""
    with context.database.write() as session:
        found = opened_by(context, session, secret)
        guest, recipient, row = found.guest, found.recipient, found.row
        guest.need("download")
        check_not_void(row)
        file = part_of(context, row, part)
        act = guest.act
        take_one(session, key_of("guest download", recipient.id), _MOST_DOWNLOADS, act.at)
        _took(act, row, recipient, part)
        return file


def _record(
    act: Act, row: TransmittalRow, recipient: RecipientRow, kind: FactKind, after: dict[str, str] | None = None
) -> None:  # fmt: skip
    fact = Fact(kind, Subject("transmittal", row.id), row.number, (receipt(recipient),), after=after or {})
    act.record(row.project_id, fact)
    tell_transmittal(act.session, act.at, row, by=act.actor.person_id)
