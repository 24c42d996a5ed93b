"""Mail: written in the act's transaction, sent by the worker over SMTP."""

from __future__ import annotations

import hashlib
import hmac
import smtplib
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from email.message import EmailMessage
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.mail.addresses import project_name, token_of
from nod.core.trail.entries import Subject
from nod.formats.mail.compose import Enclosed, Letter, compose
from nod.services.acts.context import Act, Context
from nod.services.acts.work import Concern, Job, Lane, Payload, work, work_of
from nod.store import journal
from nod.store.dialects.sqlite import put_unless_there
from nod.store.ids import new_id
from nod.store.tables import MailOutRow, MembershipRow, PersonRow, ProjectRow

_TIMEOUT_SECONDS = 20
REFUSED = "note_refused"
"""The work that follows when the mail server refuses a mail for good; see `services.mail_in.bounces`."""


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


@dataclass(frozen=True)
class Enclosure:
    """A stored file that goes along under a name."""

    sha256: str
    name: str
    media_type: str


@dataclass(frozen=True)
class About:
    """The project that a mail is about and the thing in it, if it is one: an answer by mail is handed to that.

    `by_hand`: whoever acts has sent it to its reader, and is told if it does not reach them.
    """

    project: ProjectRow
    thing: Subject | None = None
    by_hand: bool = False


def write_mail(
    act: Act,
    key: str,
    person_id: str,
    subject: str,
    lines: list[str],
    link: SecretLink | None = None,
    then: Then | None = None,
    about: About | None = None,
    enclosed: Sequence[Enclosure] = (),
) -> None:
    """Have a mail sent after the commit. `{link}` in the text becomes the address only when it is sent."""
    person = act.session.get_one(PersonRow, person_id)
    full_key = f"mail:{key}"
    payload = {
        "to_name": person.name,
        "to_email": person.email,
        "subject": " ".join(subject.split()),
        "text": "\n".join(lines),
        "link": asdict(link) if link else None,
        "then": asdict(then) if then else None,
        "mail_id": _remember(act, full_key, person, subject, about) if about else "",
        "enclosed": [asdict(each) for each in enclosed],
    }
    act.ask("mail", full_key, payload)


def _remember(act: Act, key: str, person: PersonRow, subject: str, about: About) -> str:
    """The id of the mail, the same for the same key."""
    row: dict[str, Any] = {
        "id": new_id(), "key": key, "project_id": about.project.id, "person_id": person.id, "email": person.email,
        "subject": " ".join(subject.split())[:500], "message_id": message_id(act.context, key),
        "thing_kind": about.thing.kind if about.thing else "", "thing_id": about.thing.id if about.thing else "",
        "written_by": act.actor.person_id if about.by_hand else "", "written_at": act.at, "trouble": "",
    }  # fmt: skip
    if put_unless_there(act.session, MailOutRow, "key", **row):
        return str(row["id"])
    return act.session.scalars(select(MailOutRow.id).where(MailOutRow.key == key)).one()


def message_id(context: Context, key: str) -> str:
    """The same over all tries, so that mailboxes fold a second sending into the first."""
    return f"<{hashlib.sha256(key.encode()).hexdigest()[:32]}@{context.settings.mail_from.rpartition('@')[2]}>"


def address_for_answers(context: Context, project: ProjectRow, mail_id: str = "") -> str:
    """Where an answer to a mail is taken in; without one, the project's own address."""
    token = f"+{token_of(context.secret, mail_id)}" if mail_id else ""
    return f"{project_name(project.number)}{token}@{context.settings.resolved_mail_domain}"


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
    """Hands one mail to the mail server. What that refuses for good is not tried again, if the mail was about a thing.

    It is sent under an address for answers, so that what servers tell of it later finds back, too.
    """
    settings = job.context.settings
    with job.context.database.read() as session:
        letter = _letter(job, session, payload)
    try:
        with smtplib.SMTP(settings.smtp_host, settings.resolved_smtp_port, timeout=_TIMEOUT_SECONDS) as server:
            _hand_over(server, compose(letter), letter)
    except smtplib.SMTPResponseException as refused:
        if refused.smtp_code < 500 or not payload.get("mail_id"):
            raise
        _note_refused(job, payload["mail_id"], refused)
        return
    if payload["then"]:
        _go_on(job, Then(**payload["then"]), payload["to_email"])


def _hand_over(server: smtplib.SMTP, message: EmailMessage, letter: Letter) -> None:
    """Raises SMTPResponseException for what the server refuses, also of the one recipient."""
    try:
        server.send_message(message, letter.answer_to or letter.from_email, [letter.to_email])
    except smtplib.SMTPRecipientsRefused as refused:
        code, said = refused.recipients[letter.to_email]
        raise smtplib.SMTPResponseException(code, said) from refused


def _letter(job: Job, session: Session, payload: Payload) -> Letter:
    context = job.context
    text = payload["text"]
    if payload["link"]:
        text = text.replace("{link}", SecretLink(**payload["link"]).address(context))
    row = session.get(MailOutRow, payload["mail_id"]) if payload.get("mail_id") else None
    project = session.get_one(ProjectRow, row.project_id) if row else None
    # Mails about one thing stand together in a mailbox; the first of its thread is none that was ever sent.
    of_thing = message_id(context, f"thing:{row.thing_kind}:{row.thing_id}") if row and row.thing_id else ""
    return Letter(
        from_name=f"Nod, {project.name}" if project else "Nod",
        from_email=context.settings.mail_from,
        to_name=payload["to_name"],
        to_email=payload["to_email"],
        subject=payload["subject"],
        text=text,
        at=context.clock.now(),
        message_id=message_id(context, job.key),
        answer_to=address_for_answers(context, project, row.id) if row and project else "",
        references=(of_thing,) if of_thing else (),
        enclosed=[_enclosed(context, Enclosure(**each)) for each in payload.get("enclosed", ())],
    )


def _enclosed(context: Context, file: Enclosure) -> Enclosed:
    with context.blobs.local(file.sha256) as path:
        return Enclosed(file.name, file.media_type, path.read_bytes())


def _note_refused(job: Job, mail_id: str, refused: smtplib.SMTPResponseException) -> None:
    said = refused.smtp_error
    words = said.decode(errors="replace") if isinstance(said, bytes) else str(said)
    status = f"{refused.smtp_code // 100}.0.0"
    payload = {"mail_id": mail_id, "status": status, "said": f"{refused.smtp_code} {words}"[:1000]}
    now = job.context.clock.now()
    with job.context.database.write() as session:
        journal.ask(session, now, REFUSED, f"{REFUSED}:{job.key}", payload)


def _go_on(job: Job, then: Then, email: str) -> None:
    now = job.context.clock.now()
    more = {"to_email": email, "sent_at": _text(now)}
    with job.context.database.write() as session:
        journal.ask(session, now, then.kind, f"{then.kind}:{job.key}", {**then.payload, **more})


def _text(at: datetime) -> str:
    return at.isoformat()
