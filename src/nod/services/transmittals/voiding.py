"""A transmittal that was a mistake is voided with a reason; its recipients are told, and its links say so."""

from __future__ import annotations

from typing import cast

from pydantic import Field
from sqlalchemy import select

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, today_in
from nod.services.acts.seats import Actor, Seat
from nod.services.mail.mails import About, write_mail
from nod.services.things.things import see_thing
from nod.services.transmittals.acknowledgements import want_acknowledgements
from nod.services.transmittals.drafts import DraftContent, MarksAlong, add_draft
from nod.services.transmittals.holding import refresh_holders_of
from nod.services.transmittals.kind import TRANSMITTAL
from nod.services.transmittals.may import may_void
from nod.services.transmittals.recipients import tell_transmittal
from nod.services.transmittals.sent_files import record_along
from nod.store.tables import ProjectRow, RecipientRow, TransmittalDocumentRow, TransmittalRow

_LONGEST_REASON = 1000


class VoidTransmittal(Command):
    """`replace`: a draft with the same documents, people and all that went along is made, to be put right and sent."""

    reason: str = Field(max_length=_LONGEST_REASON)
    replace: bool = False


class Voided(Answered):
    """`draft_id` is empty where none was wanted."""

    draft_id: str


def void_transmittal(context: Context, actor: Actor, transmittal_id: str, command: VoidTransmittal) -> Voided:
    """Raises NotAllowed for another company, RuleBroken without a reason and for one that is void already."""
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, TRANSMITTAL, transmittal_id)
        seat.need(Level.FILE)
        if not may_void(row, actor, seat):
            raise NotAllowed("not_your_sending", "Only the company that sent it voids a transmittal.", row.number)
        reason = command.reason.strip()
        if not reason:
            raise RuleBroken("reason_missing", "Say why it is void: its recipients are told.", row.number)
        if row.voided_at:
            raise RuleBroken("void_already", f"{row.number} is void already.", row.number)
        row.voided_at, row.voided_by, row.void_why = act.at, actor.person_id, reason
        want_acknowledgements(act.session, row)
        refresh_holders_of(act.session, row.id)
        subjects = tuple(Subject("document", id) for id in _documents(act, row))
        fact = Fact(FactKind.TRANSMITTAL_VOIDED, Subject("transmittal", row.id), row.number, subjects, why=reason)
        act.record(row.project_id, fact)
        _tell_recipients(act, row, seat.project, reason, replaced=command.replace)
        tell_transmittal(act.session, act.at, row, by=actor.person_id)
        return Voided(draft_id=_draft_of(act, seat, row) if command.replace else "")


def _documents(act: Act, row: TransmittalRow) -> list[str]:
    of = TransmittalDocumentRow
    return list(act.session.scalars(select(of.document_id).where(of.transmittal_id == row.id).order_by(of.place)))


def _tell_recipients(act: Act, row: TransmittalRow, project: ProjectRow, reason: str, *, replaced: bool) -> None:
    lines = [
        f"{act.actor.name} has voided {row.number}. Do not work from what it brought you.",
        "", reason, *(["", "Another will come in its place."] if replaced else []),
    ]  # fmt: skip
    about = About(project, Subject("transmittal", row.id))
    for person_id in act.session.scalars(select(RecipientRow.person_id).where(RecipientRow.transmittal_id == row.id)):
        write_mail(act, f"void:{row.id}:{person_id}", person_id, f"{row.number} is void", lines, about=about)


def _draft_of(act: Act, seat: Seat, row: TransmittalRow) -> str:
    documents, people = TransmittalDocumentRow, RecipientRow
    sent = select(documents.revision_id).where(documents.transmittal_id == row.id).order_by(documents.place)
    to = select(people.person_id, people.copied).where(people.transmittal_id == row.id).order_by(people.place)
    named = act.session.execute(to).all()
    content = DraftContent(
        revisions=list(act.session.scalars(sent)),
        people=[person for person, copied in named if not copied],
        copied=[person for person, copied in named if copied],
        purpose=row.purpose, note=row.note, answer_wanted_on=row.answer_wanted_on, review_id=row.review_id,
        replaces=row.id, natives=row.natives, stamped=row.stamped, marks=cast("MarksAlong", row.marks),
        record=record_along(act.session, row.id), view_only=row.view_only,
        expires_on=row.expires_on if row.expires_on and row.expires_on >= today_in(seat.project, act.at) else None,
    )  # fmt: skip
    return add_draft(act, seat, content, f"in place of {row.number}").id
