"""A mail that was sent on: who wrote it, when and to whom, as the forwarded mail itself says.

What a mailbox writes above a mail that it sends on is in no standard; these are the manners of common programs, in the
languages of `folds`, from memory and common practice.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, timedelta, timezone, tzinfo
from email.utils import parseaddr, parsedate_to_datetime

from dateutil import parser as dates  # type: ignore[import-untyped]

_MARKS = frozenset(["fw", "fwd", "wg", "tr", "rv", "enc", "i", "doorst", "vb", "vs", "vl", "pd", "inoltrato"])
"""What programs put before the subject of a mail that is sent on."""
_LABELS = {
    "from": "from von de da van från fra od",
    "date": "date sent gesendet datum envoyé data inviato verzonden skickat sendt fecha enviado wysłano dato",
    "to": "to an à a para aan till til do pro komu",
    "subject": "subject betreff objet oggetto onderwerp ämne emne asunto assunto temat předmět",
    "": "cc kopie copie copia kopia reply-to",
}
_FIELDS = {label: field for field, labels in _LABELS.items() for label in labels.split()} | {"enviado el": "date"}
"""By the word before the colon, what it says; nothing for what is not wanted."""
_MOST_LINES, _LONGEST_LINE, _BLOCK = 400, 2000, 12
_FIRST_YEAR, _MONTHS_IN_A_YEAR = 1990, 12


@dataclass(frozen=True)
class Forwarded:
    """`sent_at` is None where its date cannot be read. `text` is what was written; empty to take all that came."""

    name: str
    email: str
    sent_at: datetime | None
    subject: str
    text: str = ""


def is_sent_on(subject: str) -> bool:
    """Whether a subject says that a mail was forwarded."""
    mark, colon, _ = subject.partition(":")
    return bool(colon) and mark.strip().casefold() in _MARKS


def without_mark(subject: str) -> str:
    """A subject without what says that it was forwarded."""
    while is_sent_on(subject):
        subject = subject.partition(":")[2]
    return subject.strip()


def read_forwarded(text: str, subject: str, zone: tzinfo | None) -> Forwarded | None:
    """The first mail in a text that says of itself from whom, when and what; None for a mail that was not sent on.

    `zone` is that of the mail which sent it on: a date without one of its own is taken to be in it.
    """
    if not is_sent_on(subject):
        return None
    lines = [line[:_LONGEST_LINE] for line in text.splitlines()[:_MOST_LINES]]
    for place, line in enumerate(lines):
        if _field(line)[0] == "from":
            fields = _fields(lines[place : place + _BLOCK])
            if "date" in fields or "subject" in fields:
                return _read(fields, subject, zone)
    return None


def _field(line: str) -> tuple[str, str]:
    """What a line of the block says, and its value; no value for a line that is none of it."""
    label, colon, value = line.strip(" \t>*").partition(":")
    label, value = label.strip(" *").casefold(), value.strip(" *\t")
    return (_FIELDS[label], value) if colon and value and label in _FIELDS else ("", "")


def _fields(lines: list[str]) -> dict[str, str]:
    """Those of one block, up to the first line that is empty."""
    found: dict[str, str] = {}
    for line in lines:
        name, value = _field(line)
        if name:
            found.setdefault(name, value)
        elif not line.strip(" >"):
            break
    return found


def _read(fields: dict[str, str], subject: str, zone: tzinfo | None) -> Forwarded:
    sender = re.sub(r"\[mailto:([^\]]+)\]", r"<\1>", fields["from"])
    name, email = parseaddr(sender)
    if "@" not in email:
        name, email = sender, ""
    tidy = " ".join(name.strip("'\" ").split())[:200] or email
    return Forwarded(
        tidy,
        email.lower()[:320],
        read_date(fields.get("date", ""), zone),
        fields.get("subject", "") or without_mark(subject),
    )


def read_date(words: str, zone: tzinfo | None) -> datetime | None:
    """A date as people's mailboxes write it, with the month in words; None for one that could mean two days."""
    words = words[:200]
    if not words:
        return None
    found: datetime | None
    try:
        found = parsedate_to_datetime(words) if _STANDARD.match(words) else _loose_date(words)
    except (ValueError, TypeError, IndexError, OverflowError):
        found = _loose_date(words)
    if found is None or found.year < _FIRST_YEAR:
        return None
    if found.tzinfo is None:
        return found.replace(tzinfo=zone) if zone else None
    return found


_STANDARD = re.compile(r"(?:\w{3},\s)?\d{1,2}\s\w{3}\s\d{4}\s\d{1,2}:\d{2}")
"""How RFC 5322, 3.3 writes one."""
_MONTHS = {
    "jan": ("januar", "janvier", "enero", "gennaio", "januari", "stycznia", "ledna", "janeiro", "jänner"),
    "feb": ("februar", "février", "febrero", "febbraio", "februari", "lutego", "února", "fevereiro", "feber"),
    "mar": ("märz", "mars", "marzo", "maart", "marca", "března", "março", "marts"),
    "apr": ("april", "avril", "abril", "aprile", "kwietnia", "dubna"),
    "may": ("mai", "mayo", "maggio", "mei", "maj", "maja", "května", "maio"),
    "jun": ("juni", "juin", "junio", "giugno", "czerwca", "června", "junho"),
    "jul": ("juli", "juillet", "julio", "luglio", "lipca", "července", "julho"),
    "aug": ("august", "août", "agosto", "augustus", "augusti", "sierpnia", "srpna"),
    "sep": ("september", "septembre", "septiembre", "settembre", "września", "září", "setembro"),
    "oct": ("oktober", "octobre", "octubre", "ottobre", "października", "října", "outubro"),
    "nov": ("november", "novembre", "noviembre", "listopada", "listopadu", "novembro"),
    "dec": ("dezember", "décembre", "diciembre", "dicembre", "december", "grudnia", "prosince", "dezembro"),
}
_MONTH = {word: short for short, words in _MONTHS.items() for word in words}
_NUMERIC = re.compile(r"\b(\d{1,2})/(\d{1,2})/(\d{2,4})\b")


def _zone(_name: str, seconds: int | None) -> tzinfo | None:
    """Only what says its distance from UTC: letters name several zones each."""
    return timezone(timedelta(seconds=seconds)) if seconds is not None else None


def _loose_date(words: str) -> datetime | None:
    """With months in other languages put into English, and everything that is no part of a date left out."""
    if (
        (numeric := _NUMERIC.search(words))
        and int(numeric[1]) <= 12
        and int(numeric[2]) <= 12
        and numeric[1] != numeric[2]
    ):
        return None
    plain = " ".join(_MONTH.get(word.strip(".,").casefold(), word) for word in re.split(r"\s+", words))
    plain = re.sub(r"\b(um|at|à|a las|alle|kl|om|klo|de|del|uhr|o)\b\.?", " ", plain, flags=re.I)
    try:
        found: datetime = dates.parse(plain, fuzzy=True, dayfirst=True, tzinfos=_zone)
    except (ValueError, OverflowError, TypeError, AttributeError):
        return None
    return found
