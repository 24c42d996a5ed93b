"""Mail: written in the act's transaction, sent by the worker over SMTP."""

from __future__ import annotations

import hashlib
import hmac
import smtplib
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import format_datetime
from typing import Any

from nod.core.trail.entries import Fact, Subject
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import SYSTEM
from nod.services.register.standing import tell_transmittal
from nod.store import journal
from nod.store.tables import PersonRow, RecipientRow, TransmittalRow

_TIMEOUT_SECONDS = 20


def write_mail(
    act: Act,
    key: str,
    person_id: str,
    subject: str,
    lines: list[str],
    recipient_id: str = "",
    key_link_id: str = "",
) -> None:
    """Have a mail sent after the commit. With `recipient_id` its time is noted on the transmittal's recipient.

    `{link}` in the text becomes the secret address of that recipient, or of the key link, only when it is sent.
    """
    person = act.session.get_one(PersonRow, person_id)
    payload = {
        "to_name": person.name,
        "to_email": person.email,
        "subject": " ".join(subject.split()),
        "text": "\n".join(lines),
        "recipient_id": recipient_id,
        "key_link_id": key_link_id,
    }
    act.ask("mail", f"mail:{key}", payload)


def guest_token(context: Context, recipient_id: str) -> str:
    """The secret in a recipient's link: made from Nod's key, so that it need not be kept anywhere."""
    return hmac.new(context.secret, f"recipient:{recipient_id}".encode(), hashlib.sha256).hexdigest()


def link_token(context: Context, link_id: str) -> str:
    """The secret part of a key link's address, made in the same way."""
    mac = hmac.new(context.secret, f"key link:{link_id}".encode(errors="surrogatepass"), hashlib.sha256).hexdigest()
    return f"{link_id}.{mac}"


def send_mail(context: Context, key: str, payload: dict[str, Any]) -> None:
    """Hands one mail to the mail server. A second sending has the same Message-ID, so mailboxes fold the two."""
    message = EmailMessage()
    message["From"] = f"Nod <{context.settings.mail_from}>"
    message["To"] = Address(payload["to_name"], addr_spec=payload["to_email"])
    message["Subject"] = payload["subject"]
    message["Date"] = format_datetime(context.clock.now())
    message["Message-ID"] = f"<{hashlib.sha256(key.encode()).hexdigest()[:32]}@{_domain(context)}>"
    # RFC 3834: no vacation notes in answer to what a machine sent.
    message["Auto-Submitted"] = "auto-generated"
    text = payload["text"]
    if payload["recipient_id"]:
        token = guest_token(context, payload["recipient_id"])
        text = text.replace("{link}", f"{context.settings.resolved_public_url}/t/{token}")
    if payload.get("key_link_id"):
        token = link_token(context, payload["key_link_id"])
        text = text.replace("{link}", f"{context.settings.resolved_public_url}/k/{token}")
    message.set_content(text)
    settings = context.settings
    with smtplib.SMTP(settings.smtp_host, settings.resolved_smtp_port, timeout=_TIMEOUT_SECONDS) as server:
        server.send_message(message)
    if payload["recipient_id"]:
        _note_mailed(context, payload["recipient_id"], payload["to_email"])


def _domain(context: Context) -> str:
    return context.settings.mail_from.rpartition("@")[2]


def _note_mailed(context: Context, recipient_id: str, email: str) -> None:
    now = context.clock.now()
    with context.database.write() as session:
        recipient = session.get_one(RecipientRow, recipient_id)
        if recipient.mailed_at:
            return
        recipient.mailed_at = now
        row = session.get_one(TransmittalRow, recipient.transmittal_id)
        subject = Subject("transmittal", row.id)
        journal.record(
            session, now, SYSTEM, row.project_id, Fact("transmittal_mailed", subject, row.number, after={"to": email})
        )
        tell_transmittal(session, now, row, by="")
