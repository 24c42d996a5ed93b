"""Mail as bytes (RFC 5322): what a reader needs of a stored message. Nothing of it is run, followed or fetched."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from email import message_from_bytes, policy
from email.message import EmailMessage
from email.utils import getaddresses, parsedate_to_datetime

from lxml import etree, html


@dataclass(frozen=True)
class ReadMail:
    """A message as it is to be read; empty for what is missing.

    `text` is what is written in a page where there is no plain text; `attached` are names and types.
    """

    message_id: str
    sender: str
    to: tuple[str, ...]
    cc: tuple[str, ...]
    subject: str
    date: datetime | None
    text: str
    attached: tuple[tuple[str, str], ...]


def read_mail(raw: bytes) -> ReadMail:
    """Never raises for odd mail: what cannot be read is left empty."""
    message = message_from_bytes(raw, policy=policy.default)
    return ReadMail(
        message_id=_field(message, "Message-ID"),
        sender=_field(message, "From"),
        to=_addresses(message, "To"),
        cc=_addresses(message, "Cc"),
        subject=_field(message, "Subject"),
        date=_date(_field(message, "Date")),
        text=_text(message),
        attached=tuple(_attached(message)),
    )


_ODD = (KeyError, LookupError, ValueError, AttributeError, TypeError)
"""What the package raises for headers and parts that break the rules."""


def _field(message: EmailMessage, field: str) -> str:
    try:
        return " ".join(str(message.get(field, "")).split())
    except _ODD:
        return ""


def _addresses(message: EmailMessage, field: str) -> tuple[str, ...]:
    try:
        return tuple(address for _, address in getaddresses([str(each) for each in message.get_all(field, [])]))
    except _ODD:
        return ()


def _text(message: EmailMessage) -> str:
    try:
        body = message.get_body(("plain", "html"))
        if body is None:
            return ""
        content = str(body.get_content())
        return words_of_html(content) if body.get_content_subtype() == "html" else content
    except _ODD:
        return ""


def _attached(message: EmailMessage) -> Iterator[tuple[str, str]]:
    try:
        for part in message.iter_attachments():
            yield part.get_filename() or "without a name", part.get_content_type()
    except _ODD:
        return


def words_of_html(content: str) -> str:
    """What is written in a page, line by line; nothing of what it would do or fetch."""
    try:
        page = html.fromstring(content)
    except (etree.LxmlError, ValueError):
        return ""
    for unread in page.xpath("//script | //style | //head | //template"):
        unread.drop_tree() if unread.getparent() is not None else None
    for block in page.xpath("//br | //p | //div | //tr | //li | //h1 | //h2 | //h3"):
        block.tail = "\n" + (block.tail or "")
    return "\n".join(line.strip() for line in page.text_content().splitlines() if line.strip())


def _date(value: str) -> datetime | None:
    try:
        return parsedate_to_datetime(value)
    except ValueError:
        return None
