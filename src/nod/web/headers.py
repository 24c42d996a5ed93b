"""What every answer says of what a browser may do with it."""

from __future__ import annotations

import base64
import hashlib

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


def content_policy(inline: str = "") -> str:
    """`inline` is the one script that may stand in the page itself, to the letter."""
    live = f"{request.scheme}://{request.host.partition(':')[0]}:{context().settings.resolved_live_port}"
    digest = base64.b64encode(hashlib.sha256(inline.encode()).digest()).decode()
    allowed = f" 'sha256-{digest}'" if inline else ""
    return (
        f"default-src 'none'; script-src 'self' 'wasm-unsafe-eval'{allowed}; style-src 'self' 'unsafe-inline'; "
        f"img-src 'self' data: blob:; font-src 'self'; connect-src 'self' {live}; form-action 'self'; "
        "base-uri 'none'; frame-ancestors 'none'"
    )
