"""Web addresses that people write down: what may be followed from a page of Nod."""

from __future__ import annotations

from urllib.parse import urlsplit

from nod.core.acts.refusals import RuleBroken

MOST_LETTERS = 1000


def check_web_address(said: str) -> str:
    """As it is kept. Raises RuleBroken for one that leads nowhere, runs something, or hides where it leads.

    Only http and https with a host (RFC 3986); a name before it misleads, as in `https://bank.example@elsewhere`.
    """
    address = said.strip()
    if not is_web_address(address):
        raise RuleBroken("address_unfit", "A web address begins with http:// or https:// and names a host.", said[:80])
    return address


def is_web_address(address: str) -> bool:
    if len(address) > MOST_LETTERS or any(each <= " " or each in '"<>\\^`{|}\x7f' for each in address):
        return False
    try:
        parts = urlsplit(address)
        return (
            parts.scheme in ("http", "https") and bool(parts.hostname) and "@" not in parts.netloc and _port(parts.port)
        )
    except ValueError:
        return False


def _port(port: int | None) -> bool:
    return port is None or port > 0
