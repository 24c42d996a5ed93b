"""Mail that leaves Nod, as bytes (RFC 5322): text, the same as a page, and files."""

from __future__ import annotations

import html
import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import format_datetime

_LINK = re.compile(r"https?://[^\s<>\"]+")


@dataclass(frozen=True)
class Enclosed:
    """A file that goes along."""

    name: str
    media_type: str
    content: bytes


@dataclass(frozen=True)
class Letter:
    """What goes to one address. `references` are Message-IDs, the oldest first; `answer_to` is an address, or empty."""

    from_name: str
    from_email: str
    to_name: str
    to_email: str
    subject: str
    text: str
    at: datetime
    message_id: str
    answer_to: str = ""
    references: Sequence[str] = ()
    enclosed: Sequence[Enclosed] = field(default=())


def compose(letter: Letter) -> EmailMessage:
    """A name or subject cannot bring a header of its own along: line ends in them become spaces."""
    message = EmailMessage()
    message["From"] = Address(_line(letter.from_name), addr_spec=letter.from_email)
    message["To"] = Address(_line(letter.to_name), addr_spec=letter.to_email)
    message["Subject"] = _line(letter.subject)
    message["Date"] = format_datetime(letter.at)
    message["Message-ID"] = letter.message_id
    if letter.answer_to:
        message["Reply-To"] = letter.answer_to
    if letter.references:
        message["References"] = " ".join(letter.references)
        message["In-Reply-To"] = letter.references[-1]
    # RFC 3834: no vacation notes in answer to what a machine sent.
    message["Auto-Submitted"] = "auto-generated"
    message.set_content(letter.text)
    message.add_alternative(as_page(letter.text), subtype="html")
    for each in letter.enclosed:
        main, _, sub = each.media_type.partition("/")
        message.add_attachment(each.content, maintype=main, subtype=sub or "octet-stream", filename=_line(each.name))
    return message


def as_page(text: str) -> str:
    """The same words as HTML, with links; no pictures, no style from elsewhere, nothing that tells it was opened."""
    paragraphs = "".join(f"<p>{_with_links(each)}</p>" for each in re.split(r"\n{2,}", text.strip()))
    return f'<html><body style="font-family: sans-serif; line-height: 1.45">{paragraphs}</body></html>'


def _with_links(paragraph: str) -> str:
    parts, begin = [], 0
    for match in _LINK.finditer(paragraph):
        address = html.escape(match[0])
        parts += [_plain(paragraph[begin : match.start()]), f'<a href="{address}">{address}</a>']
        begin = match.end()
    return "".join([*parts, _plain(paragraph[begin:])])


def _plain(text: str) -> str:
    return html.escape(text).replace("\n", "<br>")


def _line(text: str) -> str:
    return " ".join(text.split())
