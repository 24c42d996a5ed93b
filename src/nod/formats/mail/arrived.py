"""Mail that has come in (RFC 5322, 2045 to 2049), taken apart with limits; nothing of it is run or fetched."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime
from email import message_from_bytes, policy
from email.message import EmailMessage, Message
from email.utils import getaddresses, parsedate_to_datetime
from itertools import islice
from pathlib import Path
from typing import Any

from nod.formats.files.eml import words_of_html
from nod.formats.mail.cleaned import clean
from nod.formats.mail.folds import Fold, folds_of
from nod.formats.mail.forwarded import Forwarded, is_sent_on, read_forwarded
from nod.formats.mail.headers import LONGEST_ADDRESSES, ODD, field_of, tidy, values_of
from nod.formats.mail.reports import Report, read_report

MOST_PARTS, MOST_DEPTH = 500, 30
_MOST_NESTED = 100
_MOST_CHARACTERS = 1_000_000
_MOST_IDS = 200


@dataclass(frozen=True)
class MailFile:
    """What came with a mail, written to `place` in the directory that was named."""

    name: str
    media_type: str
    place: str


@dataclass(frozen=True)
class ArrivedMail:
    """A mail as it is to be read; empty for what is missing. `fault` is a sentence that says why it was not read.

    `senders` and `to` are names and addresses (in small letters). `ids` are those of the mails that it answers, the
    nearest first. `text` is what is written, `folds` are what of it is quoted or a signature; `page` is the same as
    cleaned HTML where the mail has a page. `automatic`: a machine says that it wrote it. `failed_check` names what
    one's own mail server found wrong with the sender. `forwarded` is what a mail that was sent on says of itself.
    """

    fault: str = ""
    message_id: str = ""
    senders: tuple[tuple[str, str], ...] = ()
    to: tuple[tuple[str, str], ...] = ()
    subject: str = ""
    sent_at: datetime | None = None
    ids: tuple[str, ...] = ()
    text: str = ""
    folds: tuple[Fold, ...] = ()
    page: str = ""
    files: tuple[MailFile, ...] = ()
    automatic: bool = False
    failed_check: str = ""
    report: Report | None = None
    forwarded: Forwarded | None = None


@dataclass
class _Found:
    text: str = ""
    page: str = ""
    files: list[MailFile] = field(default_factory=list)


def read_arrived(path: Path, into: Path | None = None, mail_server: str = "") -> ArrivedMail:
    """`into` is a directory for the files, None to leave them; `mail_server` is the name by which one's own server
    signs its Authentication-Results (RFC 8601), empty to believe none. Never raises for odd mail.
    """
    raw = path.read_bytes()
    lowered = raw.lower()
    if lowered.count(b"boundary") > _MOST_NESTED or lowered.count(b"message/rfc822") > _MOST_NESTED:
        return ArrivedMail(fault="It has more parts inside one another than are read.")
    try:
        message = message_from_bytes(raw, policy=policy.default)
        return _read(message, into, mail_server)
    except (RecursionError, *ODD) as error:
        return ArrivedMail(fault=f"It breaks the rules of mail and cannot be read ({type(error).__name__}).")


def _read(message: EmailMessage, into: Path | None, mail_server: str) -> ArrivedMail:
    found = _Found()
    fault = ""
    for place, part in enumerate(_leaves(message, 0)):
        if place >= MOST_PARTS:
            fault = f"It has more than {MOST_PARTS} parts."
            break
        _take(found, part, place, into)
    text = tidy(found.text or words_of_html(found.page))[:_MOST_CHARACTERS]
    subject, sent_at = field_of(message, "Subject")[:500], _date(field_of(message, "Date"))
    return ArrivedMail(
        fault=fault,
        message_id=field_of(message, "Message-ID"),
        senders=_addresses(message, "From"),
        to=(*_addresses(message, "To"), *_addresses(message, "Cc")),
        subject=subject,
        sent_at=sent_at,
        ids=_ids(message),
        text=text,
        folds=folds_of(text),
        page=clean(found.page[:_MOST_CHARACTERS]) if found.page else "",
        files=tuple(found.files),
        automatic=_is_automatic(message),
        failed_check=_failed_check(message, mail_server),
        report=read_report(message),
        forwarded=_inside(message, subject) or read_forwarded(text, subject, sent_at.tzinfo if sent_at else None),
    )


def _inside(message: EmailMessage, subject: str) -> Forwarded | None:
    """Of a mail that was sent on as a file: the one mail that is in it."""
    parts = [each for each in islice(_leaves(message, 0), MOST_PARTS) if each.get_content_type() == "message/rfc822"]
    inner = parts[0].get_payload() if len(parts) == 1 and is_sent_on(subject) else None
    if not isinstance(inner, list) or not inner or not isinstance(inner[0], Message):
        return None
    mail = inner[0]
    senders = _addresses(mail, "From")
    if not senders:
        return None
    name, email = senders[0]
    taken = _Found()
    for place, part in enumerate(islice(_leaves(mail, 0), MOST_PARTS)):
        _take(taken, part, place, None)
    text = tidy(taken.text or words_of_html(taken.page))[:_MOST_CHARACTERS]
    return Forwarded(name or email, email, _date(field_of(mail, "Date")), field_of(mail, "Subject")[:500], text)


def _addresses(message: Message[Any, Any], name: str) -> tuple[tuple[str, str], ...]:
    try:
        found = getaddresses(list(islice(values_of(message, name, LONGEST_ADDRESSES), _MOST_IDS)))
    except ODD:
        return ()
    named = ((tidy(" ".join(who.split()))[:200], address.strip().lower()) for who, address in found)
    return tuple((who, address) for who, address in named if "@" in address)


def _ids(message: EmailMessage) -> tuple[str, ...]:
    """RFC 5322, 3.6.4: the nearest is In-Reply-To, then the last of References."""
    nearest = re.findall(r"<[^<>\s]+>", field_of(message, "In-Reply-To"))
    further = re.findall(r"<[^<>\s]+>", field_of(message, "References"))
    return tuple(dict.fromkeys([*nearest, *reversed(further)]))[:_MOST_IDS]


def _date(value: str) -> datetime | None:
    try:
        found = parsedate_to_datetime(value)
    except (*ODD, IndexError, OverflowError):
        return None
    return found if found.tzinfo else None


def _leaves(part: Message[Any, Any], depth: int) -> Iterator[Message[Any, Any]]:
    """Parts that hold no others; a mail inside a mail is one."""
    content = part.get_payload()
    if depth > MOST_DEPTH or not part.is_multipart() or part.get_content_maintype() == "message":
        yield part
    elif isinstance(content, list):
        for each in content:
            if isinstance(each, Message):
                yield from _leaves(each, depth + 1)


def _take(found: _Found, part: Message[Any, Any], place: int, into: Path | None) -> None:
    kind = part.get_content_type()
    named = _file_name(part)
    beside = "attachment" in str(part.get("Content-Disposition", "")).lower()
    if kind == "text/plain" and not found.text and not named and not beside:
        found.text = _words(part)
    elif kind == "text/html" and not found.page and not named and not beside:
        found.page = _words(part)
    elif (content := _content(part)) or named:
        name = named or _name_for(kind, place)
        if into is not None:
            (into / str(place)).write_bytes(content)
        found.files.append(MailFile(name, kind, str(place)))


def _file_name(part: Message[Any, Any]) -> str:
    try:
        return tidy(" ".join((part.get_filename() or "").split()))
    except ODD:
        return ""


def _name_for(kind: str, place: int) -> str:
    ending = {"message/rfc822": "eml", "text/plain": "txt", "text/html": "html", "text/calendar": "ics"}.get(kind)
    return f"part-{place + 1}.{ending or kind.rpartition('/')[2].rpartition('-')[2] or 'bin'}"


def _content(part: Message[Any, Any]) -> bytes:
    if part.get_content_maintype() == "message" or part.is_multipart():
        inner = part.get_payload()
        parts = inner if isinstance(inner, list) else []
        return b"".join(_as_bytes(each) for each in parts if isinstance(each, Message)) or _as_bytes(part)
    try:
        content = part.get_payload(decode=True)
    except ODD:
        content = None
    return content if isinstance(content, bytes) else str(part.get_payload()).encode(errors="replace")


def _as_bytes(part: Message[Any, Any]) -> bytes:
    try:
        return part.as_bytes()
    except (*ODD, UnicodeError):
        return str(part.get_payload()).encode(errors="replace")


def _words(part: Message[Any, Any]) -> str:
    content = _content(part)
    charset = part.get_content_charset("utf-8") or "utf-8"
    try:
        return content.decode(charset, errors="replace")
    except (LookupError, ValueError):
        return content.decode("utf-8", errors="replace")


_AUTOMATIC_SUBJECT = re.compile(r"(auto|automatic reply|auto-?reply|out of office|autoreply)\s*:", re.I)


def _is_automatic(message: EmailMessage) -> bool:
    """RFC 3834, and what is common practice besides: an acknowledgement that nobody gave would be worse than none."""
    submitted = field_of(message, "Auto-Submitted").lower().partition(";")[0].strip()
    if submitted and submitted != "no":
        return True
    if field_of(message, "Precedence").lower() in ("bulk", "junk", "auto_reply"):
        return True
    if any(name in message for name in ("X-Autoreply", "X-Autorespond", "X-Auto-Reply")):
        return True
    return field_of(message, "Return-Path") == "<>" or bool(_AUTOMATIC_SUBJECT.match(field_of(message, "Subject")))


_CHECK = re.compile(r"\b(dmarc|spf|dkim)\s*=\s*([a-z]+)", re.I)


def _failed_check(message: EmailMessage, mail_server: str) -> str:
    """What one's own server says (RFC 8601). DMARC (RFC 7489) decides where it was asked: it weighs the two others."""
    if not mail_server:
        return ""
    found: dict[str, str] = {}
    for value in values_of(message, "Authentication-Results"):
        server, _, rest = value.partition(";")
        if server.split()[:1] == [mail_server]:
            for check, result in _CHECK.findall(re.sub(r"\([^()]*\)", "", rest)):
                found.setdefault(check.lower(), result.lower())
    if "dmarc" in found and found["dmarc"] != "none":
        return "DMARC fails" if found["dmarc"] == "fail" else ""
    return ", ".join(f"{check.upper()} fails" for check in ("spf", "dkim") if found.get(check) == "fail")
