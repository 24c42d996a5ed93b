"""Chasing: those who have not acknowledged are written to again, of many transmittals in one act (handbook §10)."""

from __future__ import annotations

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
from nod.services.transmittals.kind import TRANSMITTAL, receipt
from nod.services.transmittals.may import may_void
from nod.services.transmittals.recipients import guest_link
from nod.store.tables import PersonRow, RecipientRow, TransmittalRow

_MOST = 200


class Chase(Command):
    """Ids of transmittals that one's company sent."""

    transmittals: list[str] = Field(min_length=1, max_length=_MOST)


class Chased(Answered):
    """How many people were written to; who was already today is not again."""

    people: int


def chase(context: Context, actor: Actor, command: Chase) -> Chased:
    """Raises NotFound and NotAllowed for the first that is not there or not of one's company."""
    with acting(context, actor) as act:
        count = 0
        for transmittal_id in dict.fromkeys(command.transmittals):
            row, seat = see_thing(act.session, actor, TRANSMITTAL, transmittal_id)
            seat.need(Level.FILE)
            if not may_void(row, actor, seat):
                raise NotAllowed("not_your_sending", "Only the company that sent it reminds of it.", row.number)
            if row.voided_at:
                raise RuleBroken("void_already", f"{row.number} is void: nothing is wanted of it.", row.number)
            count += _remind(act, seat, row)
        return Chased(people=count)


def _remind(act: Act, seat: Seat, row: TransmittalRow) -> int:
    """Once a day each; a mail that came back wants another address first."""
    query = (
        select(RecipientRow, PersonRow.name)
        .join(PersonRow, PersonRow.id == RecipientRow.person_id)
        .where(
            RecipientRow.transmittal_id == row.id, RecipientRow.acknowledged_at.is_(None), ~RecipientRow.copied,
            RecipientRow.bounced_at.is_(None), RecipientRow.mailed_at.is_not(None),
        )
        .order_by(RecipientRow.place)
    )  # fmt: skip
    today = today_in(seat.project, act.at)
    silent = [(each, name) for each, name in act.session.execute(query) if each.chased_on != today]
    if not silent:
        return 0
    wanted = f" An answer is wanted by {row.answer_wanted_on:%-d %B %Y}." if row.answer_wanted_on else ""
    for each, _ in silent:
        each.chased_on = today
        lines = [
            f"{act.actor.name} asks whether {row.number} has reached you: you have not acknowledged it yet.{wanted}",
            "", "Open and acknowledge it here, or answer this mail:", "{link}",
        ]  # fmt: skip
        about = About(seat.project, Subject("transmittal", row.id), by_hand=True)
        key = f"chase:{each.id}:{today.isoformat()}"
        write_mail(
            act, key, each.person_id, f"{row.number} is not acknowledged", lines, guest_link(each.id), None, about
        )
    after = {"to": [name for _, name in silent]}
    receipts = tuple(receipt(each) for each, _ in silent)
    fact = Fact(FactKind.TRANSMITTAL_CHASED, Subject("transmittal", row.id), row.number, receipts, after=after)
    act.record(row.project_id, fact)
    return len(silent)
