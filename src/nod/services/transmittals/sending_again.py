"""A mail that came back is sent again, to the same address or to another."""

from __future__ import annotations

from sqlalchemy import select

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.people.pasted_people import is_email
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor
from nod.services.things.things import see_thing
from nod.services.transmittals.kind import TRANSMITTAL, receipt
from nod.services.transmittals.may import may_void
from nod.services.transmittals.packages import cover_of, write_to_recipient
from nod.services.transmittals.recipients import tell_transmittal
from nod.store.tables import PersonRow, RecipientRow, TransmittalRow


class SendAgain(Command):
    """To `email`, which from now on is the contact's address."""

    email: str


def send_again(context: Context, actor: Actor, transmittal_id: str, person_id: str, command: SendAgain) -> None:
    """Raises NotAllowed for those who may not send; RuleBroken while it is not packed, or for a bad address."""
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, TRANSMITTAL, transmittal_id)
        seat.need(Level.FILE)
        query = select(RecipientRow).where(
            RecipientRow.transmittal_id == transmittal_id, RecipientRow.person_id == person_id
        )
        recipient = act.session.scalars(query).one_or_none()
        if recipient is None:
            raise NotFound(person_id)
        if not may_void(row, actor, seat):
            raise NotAllowed("not_your_sending", "Only the company that sent it sends it again.", row.number)
        if row.voided_at:
            raise RuleBroken("void_already", f"{row.number} is void.", row.number)
        if not row.pack_sha256:
            raise RuleBroken("not_packed", f"{row.number} is still being packed.", row.number)
        person = act.session.get_one(PersonRow, person_id)
        before = person.email
        _change_address(act, row, person, command.email.strip().lower())
        recipient.bounced_at, recipient.bounced_why, recipient.mailed_at = None, "", None
        recipient.sendings += 1
        act.session.flush()
        write_to_recipient(act, row, recipient, cover_of(act.context, act.session, row))
        fact = Fact(
            FactKind.TRANSMITTAL_SENT_AGAIN, Subject("transmittal", row.id), row.number,
            (Subject("person", person_id), receipt(recipient)), before={"to": before}, after={"to": person.email},
        )  # fmt: skip
        act.record(row.project_id, fact)
        tell_transmittal(act.session, act.at, row, by=actor.person_id)


def _change_address(act: Act, row: TransmittalRow, person: PersonRow, email: str) -> None:
    if email == person.email:
        return
    if not is_email(email):
        raise RuleBroken("email_invalid", f"“{email[:80]}” is not an e-mail address.", email)
    if person.password_hash:
        words = f"{person.name} signs in with {person.email}. A steward can change that in the workspace's people."
        raise RuleBroken("has_account", words, person.name)
    if act.session.scalar(select(PersonRow.id).where(PersonRow.email == email)):
        raise RuleBroken("email_taken", f"{email} is the address of somebody else here.", email)
    before, person.email = person.email, email
    fact = Fact(
        FactKind.PERSON_CHANGED, Subject("person", person.id), person.name, before={"email": before},
        after={"email": email},
    )  # fmt: skip
    act.record(row.project_id, fact)
