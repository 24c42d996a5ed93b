"""Addresses of Nod's own: a project's, and for each mail that left one that says what an answer belongs to."""

from __future__ import annotations

import base64
import hashlib
import hmac
import re
from dataclasses import dataclass

_MAC_BYTES = 10
"""80 bits: a guess is right once in 10^24, and each costs its sender a mail."""
_TOKEN = re.compile(r"([a-z2-7]{16})([a-z2-7]{16})")


@dataclass(frozen=True)
class OwnAddress:
    """`name` is that of a project; `mail_id` of the mail that it answers, empty for the project's own address."""

    name: str
    mail_id: str = ""


def project_name(number: str) -> str:
    """A project's number as it stands before the @, in what every mail server takes (RFC 5321: a dot-string)."""
    return re.sub(r"[^a-z0-9]+", "-", number.lower()).strip("-") or "project"


def token_of(secret: bytes, mail_id: str) -> str:
    """The mail's id and a signature that only Nod can make; in letters and digits that survive any change of case."""
    mac = hmac.new(secret, b"mail:" + mail_id.encode(), hashlib.sha256).digest()[:_MAC_BYTES]
    return mail_id + base64.b32encode(mac).decode().lower()


def mail_of_token(secret: bytes, token: str) -> str:
    """The id of the mail; empty for a token that is not Nod's."""
    match = _TOKEN.fullmatch(token.lower())
    if match and hmac.compare_digest(token_of(secret, match[1]), token.lower()):
        return match[1]
    return ""


def read_address(secret: bytes, address: str, domain: str) -> OwnAddress | None:
    """None for an address elsewhere. A token that is not Nod's counts as none: the project's address is left."""
    local, _, host = address.strip().strip("<>").lower().rpartition("@")
    if not local or host != domain.lower():
        return None
    name, _, token = local.partition("+")
    return OwnAddress(name, mail_of_token(secret, token))
