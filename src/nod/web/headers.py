"""What every answer says of what a browser may do with it."""

from __future__ import annotations

import base64
import hashlib
from urllib.parse import urlsplit

from flask import Response, request

from nod.web.guard import context


def add_headers(response: Response) -> Response:
    response.headers.setdefault("Content-Security-Policy", content_policy())
    response.headers.setdefault("X-Content-Type-Options", "nosniff")
    response.headers.setdefault("Referrer-Policy", "no-referrer")
    response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
    if request.path.startswith("/api/"):
        response.headers.setdefault("Cache-Control", "no-store")
    return response


def opener_policy() -> str:
    """For a page that has to be there at once: what another page may do with the window it opened it in.

    A browser begins a second process for a page that is cut off from its opener. One that nobody opened, by the
    browser's own word (an address typed, kept, or followed from another program), has no opener to be cut off from.
    """
    return "unsafe-none" if request.headers.get("Sec-Fetch-Site") == "none" else "same-origin"


def live_origin() -> str:
    """Where the live channel is asked for: as it was set, at the public address, or where the page was.

    What Nod itself is asked by says nothing of how it is reached from outside: there may be a proxy with TLS in front.
    """
    settings = context().settings
    if settings.live_url:
        parts = urlsplit(settings.live_url)
        return f"{parts.scheme}://{parts.netloc}"
    if settings.public_url:
        parts = urlsplit(settings.public_url)
        return f"{parts.scheme}://{parts.hostname}:{settings.resolved_live_port}"
    return f"{request.scheme}://{request.host.partition(':')[0]}:{settings.resolved_live_port}"


def content_policy(inline: str = "") -> str:
    """`inline` is the one script that may stand in the page itself, to the letter."""
    live = live_origin()
    digest = base64.b64encode(hashlib.sha256(inline.encode()).digest()).decode()
    allowed = f" 'sha256-{digest}'" if inline else ""
    return (
        f"default-src 'none'; script-src 'self' 'wasm-unsafe-eval'{allowed}; style-src 'self' 'unsafe-inline'; "
        f"img-src 'self' data: blob:; font-src 'self'; connect-src 'self' {live}; form-action 'self'; "
        # Downloads are asked for in a frame that nobody sees.
        "frame-src 'self'; base-uri 'none'; frame-ancestors 'none'"
    )
