"""Recipients of a transmittal: their links, what is noted when they are sent to, and who is told of it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import SYSTEM
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.links.rooms import LinkRoom, link_room
from nod.services.mail.mails import SecretLink
from nod.services.notices.notices import Notice, tell_person
from nod.services.things.audiences import audience_of
from nod.services.threads.talk import TALK
from nod.services.transmittals.kind import TRANSMITTAL, receipt
from nod.store import journal
from nod.store.tables import ProjectRow, RecipientRow, TransmittalRow


def recipient_of(session: Session, transmittal_id: str, person_id: str) -> RecipientRow | None:
    query = select(RecipientRow).where(
        RecipientRow.transmittal_id == transmittal_id, RecipientRow.person_id == person_id
    )
    return session.scalars(query).one_or_none()


def _names(session: Session, row: Any, person_id: str) -> bool:
    """What was sent to somebody is theirs to see, whatever becomes of its sender."""
    return recipient_of(session, row.id, person_id) is not None


def tell_sender(act: Act, row: TransmittalRow, told: str, words: str, key: str) -> None:
    """At once: what a recipient says goes to whoever sent it. `told` is a sentence without its end."""
    project = act.session.get_one(ProjectRow, row.project_id)
    lines = [f"{told}:", "", words[:2000]] if words else [f"{told}."]
    link, subject = TRANSMITTAL.tab(row, TALK), Subject("transmittal", row.id)
    notice = Notice(key, f"{project.number}: {told}", lines, link, [subject], "you sent it")
    tell_person(act, project, "answer", row.sent_by, notice)


def _heard(act: Act, row: Any, name: str, text: str) -> None:
    tell_sender(act, row, f"{name} asks about {row.number}", text, f"asked:{row.id}:{act.at.isoformat()}")


ROOM = link_room(
    LinkRoom(
        "transmittal", ("look", "download", "comment", "acknowledge"), lambda seat, row: False, _names, heard=_heard
    )
)  # fmt: skip
"""Links to it go to its recipients, with the sending, and to nobody else."""


def allowed(row: TransmittalRow) -> list[str]:
    """What recipients may do with what was sent."""
    return [each for each in ROOM.offers if each != "download" or not row.view_only]


def guest_link(recipient_id: str) -> SecretLink:
    """Where a recipient opens what they were sent, without an account."""
    return SecretLink("/t/", f"recipient:{recipient_id}")


def guest_token(context: Context, recipient_id: str) -> str:
    """The secret in a recipient's link."""
    return guest_link(recipient_id).token(context)


def transmittal_concerns(session: Session, transmittal_id: str, to: str = "") -> list[Concern]:
    """What work for a transmittal, or for the mail `to` one of its recipients, was for."""
    sent = session.get(TransmittalRow, transmittal_id)
    if sent is None:
        return []
    about = f"{sent.number} to {to}" if to else sent.number
    subject = Subject("transmittal", sent.id)
    return [Concern(sent.project_id, subject, about, f"/transmittals/{sent.id}", person_id=sent.sent_by)]


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    recipient = session.get(RecipientRow, payload["recipient_id"])
    return transmittal_concerns(session, recipient.transmittal_id, payload["to_email"]) if recipient else []


@work("note_mailed", Lane.SEND, "noting that the mail was sent", _concerns)
def note_mailed(job: Job, payload: Payload) -> None:
    """Harmless when done twice: the first time stays."""
    sent_at, now = datetime.fromisoformat(payload["sent_at"]), job.context.clock.now()
    with job.context.database.write() as session:
        recipient = session.get_one(RecipientRow, payload["recipient_id"])
        if recipient.mailed_at:
            return
        recipient.mailed_at = sent_at
        row = session.get_one(TransmittalRow, recipient.transmittal_id)
        after = {"to": payload["to_email"]}
        about = Subject("transmittal", row.id)
        fact = Fact(FactKind.TRANSMITTAL_MAILED, about, row.number, (receipt(recipient),), after=after)
        journal.record(session, now, SYSTEM, row.project_id, fact)
        tell_transmittal(session, now, row, by="")


def tell_transmittal(session: Session, at: datetime, row: TransmittalRow, *, by: str) -> None:
    """Those who see all its documents, and whoever sent or was sent it."""
    session.flush()
    journal.tell(
        session,
        at,
        row.project_id,
        TRANSMITTAL.topic,
        row.id,
        audience_of(session, TRANSMITTAL.audience, row.id),
        by=by,
    )
