"""Canonical JSON after RFC 8785: the bytes that are hashed into the trail."""

from __future__ import annotations

from typing import Any

import rfc8785


def canonical_json(value: dict[str, Any]) -> bytes:
    """UTF-8 bytes, the same for equal values everywhere. Raises rfc8785.CanonicalizationError for what JSON lacks."""
    return bytes(rfc8785.dumps(value))
