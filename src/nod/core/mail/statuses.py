"""What the refusals of mail servers say, in words: the codes of RFC 3463, as registered (RFC 5248)."""

from __future__ import annotations

import re

_EXACT = {
    "1.1": "there is no such mailbox",
    "1.2": "there is no such mail domain",
    "1.3": "the address is not written right",
    "1.6": "the mailbox has moved and left no address",
    "1.10": "the domain takes no mail",
    "2.1": "the mailbox is switched off",
    "2.2": "the mailbox is full",
    "2.3": "the mail is too large for the mailbox",
    "3.4": "the mail is too large for the server",
    "4.1": "the server did not answer",
    "4.4": "no way to the server was found",
    "4.7": "the server could not be reached for too long",
    "7.1": "the server refused the mail by its rules",
}
_BY_SUBJECT = {
    "1": "the address was not taken",
    "2": "the mailbox did not take it",
    "3": "the server had a fault",
    "4": "it could not be brought there",
    "5": "the servers did not understand each other",
    "6": "the content was not taken",
    "7": "the server refused the mail by its rules",
}
_CODE = re.compile(r"\b([245])\.(\d{1,3})\.(\d{1,3})\b")
_SAID = (
    # Common practice, for servers that give no code or a general one.
    (re.compile(r"too (big|large)|exceeds.{0,30}size|message size", re.I), "the mail is too large for the server"),
    (re.compile(r"(mailbox|quota).{0,40}(full|exceeded)|exceeded its disk space", re.I), "the mailbox is full"),
    (re.compile(r"spam|unsolicited", re.I), "the server took it for unwanted mail"),
    (
        re.compile(r"user unknown|unknown (user|recipient)|no such (user|mailbox)|does not exist|not recogni[sz]ed"
                   r"|not our customer", re.I),
        "there is no such mailbox",
    ),
    (re.compile(r"disabled or discontinued|account.{0,20}(disabled|closed)", re.I), "the mailbox is switched off"),
)  # fmt: skip


def status_words(status: str, said: str) -> str:
    """`status` is an enhanced code such as 5.1.1, `said` what the server said; words that follow the address."""
    code = _CODE.search(status) or _CODE.search(said)
    subject, detail = (code[2], code[3]) if code else ("", "")
    if exact := _EXACT.get(f"{subject}.{detail}") if subject != "7" else None:
        return exact
    for pattern, words in _SAID:
        if pattern.search(said):
            return words
    return _EXACT.get(f"{subject}.{detail}") or _BY_SUBJECT.get(subject) or "the mail was not taken"


def is_permanent(status: str) -> bool:
    """Whether a code says that trying again is of no use."""
    return status.strip().startswith("5")
