"""The web application: routes, headers, the built front end."""

from __future__ import annotations

from typing import Any

from flask_openapi import Info
from pydantic import BaseModel

import nod
from nod.services import features
from nod.services.acts.context import Context
from nod.services.acts.health import read_health
from nod.services.press.press import Press
from nod.web import (
    access,
    attachments,
    compare,
    links,
    mail,
    mail_in,
    marks,
    notices,
    threads,
    trail,
)
from nod.web.answers import NodApp
from nod.web.bodies import LARGEST_COMMAND_BYTES, limits_of
from nod.web.desk import desk, given_up
from nod.web.errors import malformed, register_errors
from nod.web.guard import COOKIE, check_request, permission, whoever_is_signed_in
from nod.web.guard import context as present
from nod.web.headers import add_headers
from nod.web.intake import intake, readers, uploads
from nod.web.letters import by_link as letters_by_link
from nod.web.letters import letters
from nod.web.pages import add_pages
from nod.web.people import account, members, people
from nod.web.register import document_acts, documents, drawing_sets, packs, planned, register, search, shared
from nod.web.repeats import register_repeats
from nod.web.reviews import log as review_log
from nod.web.reviews import parts_by_link, reviews
from nod.web.sessions import guests as session_guests
from nod.web.sessions import sessions
from nod.web.setup import setup, workspace
from nod.web.sheet import sheet_pages, sheets
from nod.web.submittals import by_link as submittals_by_link
from nod.web.submittals import submittals
from nod.web.transmittals import drafts, guests, received, transmittals
from nod.web.transmittals import log as transmittal_log

_FEATURES = (
    people, account, desk, intake, uploads, readers, register, documents,
    document_acts, drawing_sets, packs, planned, search, shared, sheets, sheet_pages, compare, marks,
    reviews, review_log, parts_by_link, transmittals, transmittal_log, received, drafts, guests, given_up, trail,
    members, sessions, session_guests, submittals, submittals_by_link, letters,
    letters_by_link, access, setup, workspace, mail, mail_in,
    notices, threads, attachments, links,
)  # fmt: skip


def create_app(context: Context, press: Press) -> NodApp:
    """The application over an open context."""
    features.load()
    app = NodApp(
        "nod",
        info=Info(title="Nod", version=nod.__version__),
        validation_error_status=400,
        validation_error_callback=malformed,
        doc_ui=False,
        static_folder=None,
    )
    app.config["MAX_CONTENT_LENGTH"] = LARGEST_COMMAND_BYTES
    app.extensions["nod_context"] = context
    app.extensions["nod_press"] = press
    register_errors(app)
    app.before_request(check_request)
    register_repeats(app)
    app.after_request(add_headers)
    for feature in _FEATURES:
        app.register_api(feature.api)
    _add_pages(app)
    app.extensions["nod_largest_body"] = limits_of(app, COOKIE)
    return app


def _add_pages(app: NodApp) -> None:
    """Health, the description of the API, and the front end."""

    @permission("public")
    def health() -> BaseModel:
        return read_health(present(), for_member=whoever_is_signed_in() is not None)

    @permission("public")
    def description() -> dict[str, Any]:
        return dict(app.api_doc)

    app.add_url_rule("/healthz", "healthz", health)
    app.add_url_rule("/api/openapi.json", "description", description)
    add_pages(app)
