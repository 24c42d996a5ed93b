"""The post room: reading what it keeps, and answering as somebody outside, over the same SMTP. For the demo only."""

from __future__ import annotations

import base64
import binascii
import mimetypes
import re
import smtplib
from datetime import datetime
from email import message_from_bytes, message_from_string, policy
from email.headerregistry import Address
from email.message import EmailMessage, Message
from email.mime.message import MIMEMessage
from email.mime.multipart import MIMEMultipart
from email.mime.text import MIMEText
from email.utils import format_datetime, formataddr
from pathlib import Path
from typing import Any, Literal

from pydantic import Field

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.formats.files.eml import ReadMail, read_mail
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context
from nod.store.ids import new_id

_MOST_SHOWN = 300
_TIMEOUT_SECONDS = 20
_REASONS = {
    "no_mailbox": ("5.1.1", "550 5.1.1 User unknown"),
    "full": ("5.2.2", "552 5.2.2 Mailbox full"),
    "too_large": ("5.3.4", "552 5.3.4 Message size exceeds fixed limit"),
    "late": ("4.4.1", "451 4.4.1 Connection timed out"),
}


class Mail(Answered):
    """`answer_to` is where an answer would go, empty for mail that wants none."""

    id: str
    to: list[str]
    to_name: str
    subject: str
    date: datetime | None
    text: str
    answer_to: str
    files: list[str]


class OutsideFile(Command):
    name: str
    content: str
    """In base64."""


class OutsideMail(Command):
    """`answers` is the mail that it answers, empty for none."""

    answers: str = ""
    to: str
    from_name: str = ""
    from_email: str
    subject: str
    text: str
    files: list[OutsideFile] = Field(default_factory=list)


class Bounce(Command):
    why: Literal["no_mailbox", "full", "too_large", "late"]


class OutsideSent(Answered):
    """What Nod's mail server said, as in “250 2.0.0 kept”."""

    said: str


def _only_in_demo(context: Context) -> None:
    """Raises NotFound outside the demo."""
    if not context.settings.demo:
        raise NotFound("post-room")


def list_mail(context: Context) -> list[Mail]:
    """Newest first. Raises NotFound outside the demo."""
    _only_in_demo(context)
    files = sorted(context.settings.mail_dir.glob("*.eml"), reverse=True)[:_MOST_SHOWN]
    return [_mail(file.stem, file.read_bytes()) for file in files]


def _mail(name: str, raw: bytes) -> Mail:
    mail: ReadMail = read_mail(raw)
    message = message_from_bytes(raw, policy=policy.default)
    to = message["To"].addresses[0].display_name if message["To"] and message["To"].addresses else ""
    return Mail(
        id=name, to=list(mail.to), to_name=to, subject=mail.subject, date=mail.date, text=mail.text,
        answer_to=str(message.get("Reply-To", "")), files=[each for each, _ in mail.attached],
    )  # fmt: skip


def _kept(context: Context, mail_id: str) -> Message[Any, Any]:
    path = context.settings.mail_dir / f"{mail_id}.eml"
    if not re.fullmatch(r"[0-9A-Za-z_]+", mail_id) or not path.is_file():
        raise NotFound(mail_id)
    return message_from_bytes(Path(path).read_bytes(), policy=policy.default)


def send_from_outside(context: Context, command: OutsideMail) -> OutsideSent:
    """As a mail program would. Raises RuleBroken for what Nod's server does not take."""
    _only_in_demo(context)
    message = EmailMessage()
    try:
        message["From"] = Address(" ".join(command.from_name.split()), addr_spec=command.from_email.strip())
        message["To"] = Address(addr_spec=command.to.strip())
    except (ValueError, IndexError) as error:
        raise RuleBroken("email_invalid", "One of these is not an e-mail address.", command.from_email) from error
    message["Subject"] = " ".join(command.subject.split())
    message["Date"] = format_datetime(context.clock.now())
    message["Message-ID"] = f"<{new_id()}@{command.from_email.rpartition('@')[2].strip()}>"
    if command.answers:
        answered = _kept(context, command.answers)
        message["In-Reply-To"] = answered["Message-ID"]
        message["References"] = f"{answered.get('References', '')} {answered['Message-ID']}".strip()
    message.set_content(command.text)
    for each in command.files:
        kind = mimetypes.guess_type(each.name)[0] or "application/octet-stream"
        main, _, sub = kind.partition("/")
        message.add_attachment(_decoded(each), maintype=main, subtype=sub, filename=" ".join(each.name.split()))
    return _send(context, message.as_bytes(policy=policy.SMTP), command.from_email.strip(), command.to.strip())


def _decoded(file: OutsideFile) -> bytes:
    try:
        return base64.b64decode(file.content, validate=True)
    except binascii.Error as error:
        raise RuleBroken("file_broken", f"{file.name} did not arrive whole.", file.name) from error


def bounce_mail(context: Context, mail_id: str, command: Bounce) -> OutsideSent:
    """As its reader's server would (RFC 3464), to the address under which it was sent."""
    _only_in_demo(context)
    mail = _kept(context, mail_id)
    back_to = str(mail.get("Return-Path", "")).strip().strip("<>")
    status, said = _REASONS[command.why]
    to = str(mail["To"].addresses[0].addr_spec)
    action = "delayed" if command.why == "late" else "failed"
    report: Any = MIMEMultipart("report")
    report.set_param("report-type", "delivery-status")
    report["From"] = formataddr(("Mail Delivery System", f"mailer-daemon@{to.rpartition('@')[2]}"))
    report["To"] = back_to
    report["Subject"] = "Undelivered Mail Returned to Sender" if action == "failed" else "Delayed Mail"
    report["Date"] = format_datetime(context.clock.now())
    report["Message-ID"] = f"<{new_id()}@{to.rpartition('@')[2]}>"
    report["Auto-Submitted"] = "auto-replied"
    report.attach(MIMEText(f"Your mail to {to} could not be delivered: {said}\n"))
    groups = f"Reporting-MTA: dns; post-room.example\n\nFinal-Recipient: rfc822; {to}\nAction: {action}\n"
    fields = f"{groups}Status: {status}\nDiagnostic-Code: smtp; {said}\n"
    report.attach(message_from_string(f"Content-Type: message/delivery-status\n\n{fields}"))
    report.attach(MIMEMessage(mail))
    return _send(context, report.as_bytes(policy=policy.SMTP), "", back_to)


def _send(context: Context, raw: bytes, sender: str, to: str) -> OutsideSent:
    settings = context.settings
    host = settings.mail_in_host or settings.host
    try:
        with smtplib.SMTP(host, settings.resolved_mail_in_port, timeout=_TIMEOUT_SECONDS) as server:
            server.ehlo()
            server.mail(sender)
            code, said = server.rcpt(to)
            if code == 250:
                code, said = server.data(raw)
    except (OSError, smtplib.SMTPException) as error:
        raise RuleBroken("mail_server_silent", f"Nod's mail server does not answer: {error}") from error
    words = said.decode(errors="replace")
    if code != 250:
        raise RuleBroken("mail_not_taken", f"Nod's mail server did not take it: {code} {words}")
    return OutsideSent(said=f"{code} {words}")
