"""Mail as bytes (RFC 5322): what a reader needs of a stored message."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from email import message_from_bytes, policy
from email.utils import getaddresses, parsedate_to_datetime


@dataclass(frozen=True)
class ReadMail:
    """A message as it is to be read; empty strings for what is missing."""

    message_id: str
    sender: str
    to: tuple[str, ...]
    subject: str
    date: datetime | None
    text: str


def read_mail(raw: bytes) -> ReadMail:
    """Never raises for odd mail: what cannot be read is left empty."""
    message = message_from_bytes(raw, policy=policy.default)
    body = message.get_body(("plain",))
    return ReadMail(
        message_id=str(message.get("Message-ID", "")),
        sender=str(message.get("From", "")),
        to=tuple(address for _, address in getaddresses([str(value) for value in message.get_all("To", [])])),
        subject=str(message.get("Subject", "")),
        date=_date(str(message.get("Date", ""))),
        text=str(body.get_content()) if body else "",
    )


def _date(value: str) -> datetime | None:
    try:
        return parsedate_to_datetime(value)
    except ValueError:
        return None
