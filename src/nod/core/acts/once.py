"""Acts that are asked for twice and done once: a double click, a request sent again after a broken line.

After the draft standard of the Idempotency-Key header (IETF draft-ietf-httpapi-idempotency-key-header-07, from memory).
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from nod.core.acts.refusals import RuleBroken

_KEY = re.compile(r"[A-Za-z0-9._~-]{16,64}")


@dataclass
class Once:
    """A request with a key that its form made: `fingerprint` is the SHA-256 (hex) of what was asked for.

    `taken` says that an act was done under the key.
    """

    key: str
    fingerprint: str
    taken: bool = False


def read_key(key: str) -> str:
    """Raises RuleBroken for a key that is not 16 to 64 letters, figures, hyphens, points, low lines or tildes."""
    if not _KEY.fullmatch(key):
        raise RuleBroken("key_malformed", "The key of this request is not one of 16 to 64 plain letters and figures.")
    return key
