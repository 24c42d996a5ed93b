"""A transmittal's mail comes back: answered by its recipient, who acknowledges it with that, or not delivered."""

from __future__ import annotations

from sqlalchemy.orm import Session

from nod.core.threads.threads import unfolded
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.mail_in.answers import MailAnswer, answered_by_mail
from nod.services.mail_in.bounces import on_bounce
from nod.services.threads.talk import say_by_mail
from nod.services.transmittals.acknowledgements import want_acknowledgements
from nod.services.transmittals.holding import refresh_holders_of
from nod.services.transmittals.kind import TRANSMITTAL, receipt
from nod.services.transmittals.recipients import recipient_of, tell_sender, tell_transmittal
from nod.store.tables import MailOutRow, TransmittalRow


def _is_recipient(session: Session, row: TransmittalRow, person_id: str) -> bool:
    return recipient_of(session, row.id, person_id) is not None


@answered_by_mail("transmittal", _is_recipient)
def take_answer(act: Act, row: TransmittalRow, answer: MailAnswer) -> str:
    """Acknowledged, with what it says as a note in the transmittal's Talk; from anybody else that alone."""
    if answer.says_something:
        say_by_mail(act, TRANSMITTAL, row, answer.said, answer.files)
    recipient = recipient_of(act.session, row.id, answer.said.person_id) if answer.said.person_id else None
    if recipient is None:
        return "said in its Talk"
    if recipient.acknowledged_at:
        return "acknowledged before, and said in its Talk"
    recipient.acknowledged_at, recipient.acknowledged_how = act.at, "mail"
    want_acknowledgements(act.session, row)
    refresh_holders_of(act.session, row.id)
    after = {"by": "mail", "mail sha256": answer.said.sha256, "for": answer.said.name}
    subject = Subject("transmittal", row.id)
    whose = (Subject("person", recipient.person_id), receipt(recipient))
    act.record(row.project_id, Fact(FactKind.TRANSMITTAL_ACKNOWLEDGED, subject, row.number, whose, after=after))
    tell_transmittal(act.session, act.at, row, by=act.actor.person_id)
    words = unfolded(answer.said.text, answer.said.folds)
    tell_sender(
        act, row, f"{answer.said.name} acknowledged {row.number} by mail", words, f"acknowledged:{answer.said.mail_id}"
    )
    return "acknowledged"


@on_bounce("transmittal")
def note_bounced(act: Act, mail: MailOutRow, why: str) -> None:
    """On the recipient's line. Who has acknowledged it by then has got it another way."""
    row = act.session.get(TransmittalRow, mail.thing_id)
    recipient = recipient_of(act.session, mail.thing_id, mail.person_id)
    if row is None or recipient is None:
        return
    recipient.bounced_at, recipient.bounced_why = act.at, why
    tell_transmittal(act.session, act.at, row, by="")
