"""Raw bodies: how large one may be, which every route that takes one states, and reading it piece by piece."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, TypeVar

import structlog
from flask import Flask, request
from werkzeug.exceptions import ClientDisconnected, HTTPException

from nod.core.acts.refusals import NotSignedIn, RuleBroken
from nod.services.links.visits import open_visit
from nod.services.people.sign_in import who_is
from nod.settings import Settings
from nod.web.server import Larger, LargestBody, cookie_of

LARGEST_COMMAND_BYTES = 2 * 1024 * 1024
_CHUNK_BYTES = 1024 * 1024
Largest = Callable[[Settings], int]
View = TypeVar("View", bound=Callable[..., Any])

log = structlog.get_logger()


def raw_body(largest: Largest, media_type: str = "application/octet-stream") -> Callable[[View], View]:
    """State that a route takes a file as its body, and how many bytes it may have. All others take commands."""

    def mark(view: View) -> View:
        view.largest_body = largest  # type: ignore[attr-defined]
        view.body_type = media_type  # type: ignore[attr-defined]
        return view

    return mark


def largest_file(settings: Settings) -> int:
    """What one file of Intake may have."""
    return settings.largest_file_bytes


def limits_of(app: Flask, cookie_name: str) -> LargestBody:
    """Asked by the server before a body is taken in: files are taken from people who are signed in, and from guests."""
    context = app.extensions["nod_context"]
    addresses = app.url_map.bind("")

    def largest(method: str, path: str, cookies: str, guest: str) -> tuple[int, Larger]:
        try:
            endpoint, _ = addresses.match(path, method=method)
            view = app.view_functions[endpoint]
            stated = getattr(view, "largest_body", None)
            if stated is None:
                return LARGEST_COMMAND_BYTES, Larger.NOBODY
            if getattr(view, "permission", "") == "link":
                if not open_visit(context, guest):
                    return LARGEST_COMMAND_BYTES, Larger.GUEST
            else:
                who_is(context, cookie_of(cookies, cookie_name))
            return int(stated(context.settings)), Larger.NOBODY
        except HTTPException:
            return LARGEST_COMMAND_BYTES, Larger.NOBODY
        except NotSignedIn:
            return LARGEST_COMMAND_BYTES, Larger.SIGNED_IN
        except Exception:
            # The loop that takes requests in must go on, whatever this one is.
            log.exception("how large a body may be could not be found out", path=path)
            return LARGEST_COMMAND_BYTES, Larger.NOBODY

    return largest


def body_pieces() -> Iterator[bytes]:
    """The body piece by piece. Raises RuleBroken if the line broke before all of it came."""
    left = request.content_length
    if left is None:
        raise RuleBroken("length_missing", "The upload does not say how long it is.")
    while left:
        try:
            chunk = request.stream.read(min(left, _CHUNK_BYTES))
        except ClientDisconnected as error:
            raise RuleBroken("upload_broken_off", "The upload broke off. Send the file again.") from error
        if not chunk:
            raise RuleBroken("upload_broken_off", "The upload broke off. Send the file again.")
        left -= len(chunk)
        yield chunk
