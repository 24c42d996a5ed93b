"""Mail: written in the act's transaction, sent by the worker over SMTP."""

from __future__ import annotations

import hashlib
import hmac
import smtplib
from dataclasses import asdict, dataclass
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import format_datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import Subject
from nod.services.acts.context import Act, Context
from nod.services.acts.work import Concern, Job, Lane, Payload, work, work_of
from nod.store import journal
from nod.store.tables import MembershipRow, PersonRow

_TIMEOUT_SECONDS = 20


@dataclass(frozen=True)
class SecretLink:
    """An address whose end only Nod can make: out of its key and `of`, so that it need not be kept anywhere."""

    path: str
    of: str

    def token(self, context: Context) -> str:
        return hmac.new(context.secret, self.of.encode(errors="surrogatepass"), hashlib.sha256).hexdigest()

    def address(self, context: Context) -> str:
        return f"{context.settings.resolved_public_url}{self.path}{self.token(context)}"


@dataclass(frozen=True)
class Then:
    """Work to be done once a mail is sent; it is told `sent_at` and `to_email` besides its own."""

    kind: str
    payload: Payload


def write_mail(
    act: Act,
    key: str,
    person_id: str,
    subject: str,
    lines: list[str],
    link: SecretLink | None = None,
    then: Then | None = None,
) -> None:
    """Have a mail sent after the commit. `{link}` in the text becomes the address only when it is sent."""
    person = act.session.get_one(PersonRow, person_id)
    payload = {
        "to_name": person.name,
        "to_email": person.email,
        "subject": " ".join(subject.split()),
        "text": "\n".join(lines),
        "link": asdict(link) if link else None,
        "then": asdict(then) if then else None,
    }
    act.ask("mail", f"mail:{key}", payload)


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    """What follows it knows what it was for; any other mail concerns the projects that its reader is in."""
    if payload["then"] and (follows := work_of(payload["then"]["kind"])):
        return follows.concerns(session, {**payload["then"]["payload"], "to_email": payload["to_email"]})
    email = payload["to_email"]
    query = select(MembershipRow.project_id, PersonRow.id).join(PersonRow, PersonRow.id == MembershipRow.person_id)
    rows = session.execute(query.where(PersonRow.email == email, MembershipRow.state != "removed"))
    return [
        Concern(project_id, Subject("person", person_id), f"mail to {email}", "/setup/people")
        for project_id, person_id in rows
    ]


@work("mail", Lane.SEND, "sending the mail", _concerns)
def send_mail(job: Job, payload: Payload) -> None:
    """Hands one mail to the mail server. A second sending has the same Message-ID, so mailboxes fold the two."""
    settings = job.context.settings
    message = EmailMessage()
    message["From"] = f"Nod <{settings.mail_from}>"
    message["To"] = Address(payload["to_name"], addr_spec=payload["to_email"])
    message["Subject"] = payload["subject"]
    message["Date"] = format_datetime(job.context.clock.now())
    domain = settings.mail_from.rpartition("@")[2]
    message["Message-ID"] = f"<{hashlib.sha256(job.key.encode()).hexdigest()[:32]}@{domain}>"
    # RFC 3834: no vacation notes in answer to what a machine sent.
    message["Auto-Submitted"] = "auto-generated"
    text = payload["text"]
    if payload["link"]:
        text = text.replace("{link}", SecretLink(**payload["link"]).address(job.context))
    message.set_content(text)
    with smtplib.SMTP(settings.smtp_host, settings.resolved_smtp_port, timeout=_TIMEOUT_SECONDS) as server:
        server.send_message(message)
    if payload["then"]:
        _go_on(job, Then(**payload["then"]), payload["to_email"])


def _go_on(job: Job, then: Then, email: str) -> None:
    now = job.context.clock.now()
    more = {"to_email": email, "sent_at": now.isoformat()}
    with job.context.database.write() as session:
        journal.ask(session, now, then.kind, f"{then.kind}:{job.key}", {**then.payload, **more})
