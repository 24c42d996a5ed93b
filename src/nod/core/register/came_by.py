"""By which way files come into a project (handbook §5)."""

from __future__ import annotations

WAYS: dict[str, str] = {
    "mail": "by mail", "hand": "by hand", "drive": "from a drive", "system": "from another system", "": "",
}  # fmt: skip
"""Code to words; empty where nobody has said it."""
