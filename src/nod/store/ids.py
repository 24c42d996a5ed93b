"""Names for rows that tell nothing: neither order nor count."""

from __future__ import annotations

import base64
import secrets


def new_id() -> str:
    """16 characters of lower-case base32, 80 random bits."""
    return base64.b32encode(secrets.token_bytes(10)).decode().lower()


def new_token() -> str:
    """A secret for a link or a cookie, 256 random bits, safe in an address."""
    return secrets.token_urlsafe(32)
