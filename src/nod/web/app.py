"""The web application: routes, headers, the built front end."""

from __future__ import annotations

from typing import Any

from flask import Response, request
from flask_openapi import Info
from pydantic import BaseModel

import nod
from nod.services.context import Context
from nod.services.health import read_health
from nod.services.press import Press
from nod.web import (
    access,
    account,
    desk,
    document_acts,
    documents,
    drawing_sets,
    guests,
    intake,
    laying_over,
    members,
    packs,
    people,
    planned,
    post_room,
    printing,
    readers,
    register,
    reviews,
    search,
    setup,
    sheets,
    trail,
    transmittals,
    uploads,
    workspace,
)
from nod.web.answering import NodApp
from nod.web.errors import malformed, register_errors
from nod.web.guard import check_request, permission
from nod.web.pages import add_pages

_LARGEST_COMMAND_BYTES = 2 * 1024 * 1024
_FEATURES = (
    people, account, desk, intake, uploads, readers, register, documents,
    document_acts, drawing_sets, packs, planned, search, sheets, laying_over, printing, reviews, transmittals, guests,
    trail, members, access, setup, workspace, post_room,
)  # fmt: skip


def create_app(context: Context, press: Press) -> NodApp:
    """The application over an open context."""
    app = NodApp(
        "nod",
        info=Info(title="Nod", version=nod.__version__),
        validation_error_status=400,
        validation_error_callback=malformed,
        doc_ui=False,
        static_folder=None,
    )
    app.config["MAX_CONTENT_LENGTH"] = _LARGEST_COMMAND_BYTES
    app.extensions["nod_context"] = context
    app.extensions["nod_press"] = press
    register_errors(app)
    app.before_request(check_request)
    app.after_request(_headers(context))
    for feature in _FEATURES:
        app.register_api(feature.api)
    _add_pages(app, context)
    return app


def _headers(context: Context):  # type: ignore[no-untyped-def]
    """Every answer says what a browser may do with it."""

    def add(response: Response) -> Response:
        live = f"{request.scheme}://{request.host.partition(':')[0]}:{context.settings.resolved_live_port}"
        policy = (
            "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; "
            f"img-src 'self' data: blob:; font-src 'self'; connect-src 'self' {live}; form-action 'self'; "
            "base-uri 'none'; frame-ancestors 'none'"
        )
        response.headers.setdefault("Content-Security-Policy", policy)
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        response.headers.setdefault("Referrer-Policy", "no-referrer")
        response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    return add


def _add_pages(app: NodApp, context: Context) -> None:
    """Health, the description of the API, and the front end."""

    @permission("public")
    def health() -> BaseModel:
        return read_health(context)

    @permission("public")
    def description() -> dict[str, Any]:
        return dict(app.api_doc)

    app.add_url_rule("/healthz", "healthz", health)
    app.add_url_rule("/api/openapi.json", "description", description)
    add_pages(app)
