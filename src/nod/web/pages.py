"""The front end: its files, and its one page for every address; a sheet has a page of its own."""

from __future__ import annotations

from flask import Response, send_from_directory

from nod.core.acts.refusals import NotFound
from nod.web.answers import NodApp
from nod.web.first_look import FRONTEND, sheet_page
from nod.web.guard import permission


def add_pages(app: NodApp) -> None:
    app.add_url_rule("/assets/<path:name>", "asset", asset)
    app.add_url_rule("/sheet/<revision_id>", "sheet_page", sheet_page)
    app.add_url_rule("/p/<project>/sheet/<revision_id>", "sheet_page", sheet_page)
    app.add_url_rule("/", "page", page)
    app.add_url_rule("/<path:address>", "page", page)


@permission("public")
def asset(name: str) -> Response:
    response = send_from_directory(FRONTEND / "assets", name, max_age=31536000)
    response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


@permission("public")
def page(address: str = "") -> Response:
    if address.startswith("api/"):
        raise NotFound(address)
    name = "icon.svg" if address == "icon.svg" else "index.html"
    response = send_from_directory(FRONTEND, name)
    response.headers["Cache-Control"] = "no-cache"
    return response
