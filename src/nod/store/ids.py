"""Names for rows that tell nothing: neither order nor count."""

from __future__ import annotations

import base64
import secrets


def new_id() -> str:
    """16 characters of lower-case base32, 80 random bits."""
    return base64.b32encode(secrets.token_bytes(10)).decode().lower()


_TYPED = "23456789abcdefghjkmnpqrstuvwxyz"
"""Without those that are taken for one another when somebody types the address off the paper."""


def new_code() -> str:
    """11 characters for an address on paper, some 54 random bits."""
    return "".join(secrets.choice(_TYPED) for _ in range(11))


def new_token() -> str:
    """A secret for a link or a cookie, 256 random bits, safe in an address."""
    return secrets.token_urlsafe(32)
