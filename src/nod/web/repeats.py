"""A request with an `Idempotency-Key` is done once, however often it comes: a double click, a line that broke."""

from __future__ import annotations

import hashlib
import time
from dataclasses import replace

from flask import Flask, Response, current_app, g, make_response, request

from nod.core.acts.once import Once, read_key
from nod.core.acts.refusals import DoneAlready
from nod.services.acts.once import GivenAnswer, given_answer, settle_key
from nod.services.links.visits import open_visit
from nod.web.errors import refused
from nod.web.guard import GUEST_HEADER, context, signed_in

KEY_HEADER = "Idempotency-Key"
_WAITS_S = (0.05, 0.1, 0.2, 0.4, 0.8, 1.6)


def answer_again() -> Response | None:
    """Before the act: what was answered under this key; otherwise the act is done under it."""
    key = request.headers.get(KEY_HEADER, "")
    if not key or request.method != "POST" or not (by := _by()):
        return None
    asked = f"{request.path}?{request.query_string.decode()}\n".encode() + request.get_data()
    once = Once(read_key(key), hashlib.sha256(asked).hexdigest())
    if given := given_answer(context().database, by, once):
        return _again(given)
    g.once, g.once_by = once, by
    if "signed_in" in g:
        g.signed_in = replace(signed_in(), actor=replace(signed_in().actor, once=once))
    return None


def _by() -> str:
    """Whose key it is: a person's, or that of a visit by a link, which is still open; empty for nobody's."""
    if "signed_in" in g:
        return signed_in().actor.person_id
    return open_visit(context(), request.headers.get(GUEST_HEADER, ""))


def _again(given: GivenAnswer) -> Response:
    response = make_response(given.body, given.status)
    response.headers["Content-Type"] = "application/json"
    response.headers["X-Nod-Again"] = "1"
    return response


def _keep_answer(response: Response) -> Response:
    once: Once | None = g.get("once")
    if once and once.taken and not (response.status_code < 400 and _is_secret()):
        settle_key(context().database, g.once_by, once, response.status_code, response.get_data(True))
    return response


def _is_secret() -> bool:
    """What is told once is not kept: asked again, it is said to have been done."""
    return getattr(current_app.view_functions.get(request.endpoint or ""), "tells_a_secret", False)


def _done_already(refusal: DoneAlready) -> Response:
    """Two at the same time: the answer to the other is a moment away. One that was never given is told as a refusal."""
    for wait in _WAITS_S:
        if given := given_answer(context().database, g.once_by, g.once):
            return _again(given)
        time.sleep(wait)
    return refused(refusal)


def register_repeats(app: Flask) -> None:
    app.before_request(answer_again)
    app.after_request(_keep_answer)
    app.register_error_handler(DoneAlready, _done_already)
