"""What was written in Nod, as mail for other programs (RFC 5322), one message or many in one file (RFC 4155)."""

from __future__ import annotations

import mailbox
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from email import policy
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import format_datetime
from pathlib import Path

from nod.formats.mail.compose import Enclosed


@dataclass(frozen=True)
class MessageOut:
    """Addresses are name and e-mail; one whose e-mail is none is left out.

    `references` are Message-IDs, the oldest first. `page` is the text as clean HTML, empty for none.
    """

    message_id: str
    sender: tuple[str, str]
    to: Sequence[tuple[str, str]]
    copied: Sequence[tuple[str, str]]
    subject: str
    at: datetime
    text: str
    page: str = ""
    references: Sequence[str] = ()
    enclosed: Sequence[Enclosed] = field(default=())


def write_eml(out: MessageOut) -> bytes:
    """The bytes of the message, with its files."""
    message = EmailMessage(policy.SMTP)
    if sender := _addresses([out.sender]):
        message["From"] = sender[0]
    for label, given in (("To", out.to), ("Cc", out.copied)):
        if there := _addresses(given):
            message[label] = there
    message["Subject"] = " ".join(out.subject.split())
    message["Date"] = format_datetime(out.at)
    message["Message-ID"] = out.message_id
    if out.references:
        message["References"] = " ".join(out.references)
        message["In-Reply-To"] = out.references[-1]
    message.set_content(out.text or "\n")
    if out.page:
        message.add_alternative(out.page, subtype="html")
    for each in out.enclosed:
        main, _, sub = (each.media_type or "application/octet-stream").partition("/")
        if main in ("message", "multipart", "text"):
            # As bytes: a mail or a text that goes along stays as it is, whatever it holds.
            main, sub = "application", "octet-stream"
        message.add_attachment(each.content, maintype=main, subtype=sub or "octet-stream", filename=each.name)
    return message.as_bytes()


def _addresses(given: Sequence[tuple[str, str]]) -> list[Address]:
    found = []
    for name, email in given:
        try:
            found.append(Address(" ".join(name.split()), addr_spec=email))
        except (ValueError, IndexError):
            continue
    return found


def write_mbox(path: Path, messages: Iterable[tuple[bytes, datetime]]) -> None:
    """A new file, of messages with when they were written: lines in them that begin with "From " are quoted."""
    box = mailbox.mbox(str(path), create=True)
    try:
        for raw, at in messages:
            message = mailbox.mboxMessage(raw)
            message.set_from("MAILER-DAEMON", at.utctimetuple())
            box.add(message)
    finally:
        box.close()
