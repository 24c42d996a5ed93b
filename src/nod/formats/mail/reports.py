"""Mails by which servers tell what became of a mail: RFC 3464, and what older servers send instead."""

from __future__ import annotations

import re
from dataclasses import dataclass
from email.message import EmailMessage, Message
from email.utils import parseaddr
from typing import Any

from nod.formats.mail.headers import LONGEST_ADDRESSES, field_of

_ACTIONS = {"failed": "failed", "delayed": "delayed", "delivered": "arrived", "relayed": "arrived",
            "expanded": "arrived"}  # fmt: skip
_DAEMON = re.compile(r"^(mailer-daemon|postmaster)@", re.I)


@dataclass(frozen=True)
class ReportLine:
    """What became of a mail to one address: `action` is failed, delayed or arrived; `status` as RFC 3463 writes it."""

    email: str
    action: str
    status: str
    said: str


@dataclass(frozen=True)
class Report:
    """What a server tells of a mail. `of_id` is that mail's Message-ID, empty where it is not said."""

    of_id: str
    lines: tuple[ReportLine, ...]

    @property
    def outcome(self) -> str:
        """The worst of what it tells; `unclear` if it tells nothing that can be read."""
        actions = {each.action for each in self.lines}
        return next((each for each in ("failed", "delayed", "arrived") if each in actions), "unclear")


def read_report(message: EmailMessage) -> Report | None:
    """None for a mail that is no report."""
    kind = str(message.get_param("report-type", "")).lower()
    parts: list[Message[Any, Any]] = list(message.walk())
    if message.get_content_type() == "multipart/report" and kind in ("delivery-status", ""):
        lines = tuple(line for part in parts if _is(part, "message/delivery-status") for line in _lines(part))
        return Report(_of_id(parts), lines)
    return _old_report(message, parts)


def _is(part: Message[Any, Any], kind: str) -> bool:
    return part.get_content_type() == kind


def _lines(part: Message[Any, Any]) -> list[ReportLine]:
    """One group of fields a recipient; the first group speaks of the mail as a whole (RFC 3464, 2.1)."""
    groups = part.get_payload()
    found = (_line(each) for each in groups if isinstance(each, Message)) if isinstance(groups, list) else ()
    return [each for each in found if each]


def _line(group: Message[Any, Any]) -> ReportLine | None:
    recipient = field_of(group, "Original-Recipient") or field_of(group, "Final-Recipient")
    action = _ACTIONS.get(field_of(group, "Action").lower().split(" ")[0])
    if not recipient or not action:
        return None
    said = field_of(group, "Diagnostic-Code").partition(";")[2].strip()
    email = (recipient.partition(";")[2] or recipient).strip().strip("<>").lower()
    return ReportLine(email, action, field_of(group, "Status").split(" ")[0], said[:1000])


def _of_id(parts: list[Message[Any, Any]]) -> str:
    """Of the mail that comes back, or of its headers."""
    inside = False
    for part in parts:
        if inside and (found := field_of(part, "Message-ID")):
            return found
        inside = inside or _is(part, "message/rfc822")
        if _is(part, "text/rfc822-headers"):
            match = re.search(r"^message-id:\s*(<[^<>\s]+>)", str(part.get_payload()), re.I | re.M)
            if match:
                return match[1]
    return ""


def _old_report(message: EmailMessage, parts: list[Message[Any, Any]]) -> Report | None:
    """Common practice before RFC 3464: the postmaster of a server, with the mail that comes back inside."""
    sender = parseaddr(field_of(message, "From", LONGEST_ADDRESSES))[1]
    back = any(_is(part, "message/rfc822") for part in parts)
    if not _DAEMON.match(sender) or not back:
        return None
    said = next((str(part.get_payload()) for part in parts if _is(part, "text/plain")), "")
    inside = parts[next(place for place, part in enumerate(parts) if _is(part, "message/rfc822")) + 1 :]
    to = next((value for part in inside if (value := field_of(part, "To", LONGEST_ADDRESSES))), "")
    email = parseaddr(to)[1].lower()
    return Report(_of_id(parts), (ReportLine(email, "failed", "", " ".join(said.split())[:1000]),))
