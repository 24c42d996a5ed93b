"""Comparing secrets: in the same time whatever they are, and whatever characters somebody sends."""

from __future__ import annotations

import hmac


def same_secret(one: str, other: str) -> bool:
    return hmac.compare_digest(one.encode(errors="surrogatepass"), other.encode(errors="surrogatepass"))
