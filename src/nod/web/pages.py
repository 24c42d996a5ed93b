"""The front end: its files, its one page for every address, and a sheet's page with the sheet already on it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from flask import Response, request, send_from_directory, stream_with_context
from markupsafe import Markup

from nod.core.acts.refusals import NotFound, Refusal
from nod.formats.pdf_look import LARGE_LEVEL, WHOLE_PAGE_LEVEL
from nod.services.people.sign_in import SignedIn
from nod.services.sheet import page_pictures, sheets
from nod.web.answers import NodApp
from nod.web.guard import context, permission, press, whoever_is_signed_in
from nod.web.headers import content_policy, opener_policy

FRONTEND = Path(__file__).resolve().parents[3] / "frontend" / "dist"
_START = re.compile(r"<script data-start[^>]*>(.*?)</script>", re.DOTALL)

# Windows that show more than 1024 pixels of a page beside the list of marks.
_LARGE = "(min-width: 1365px), (min-height: 1073px), (min-resolution: 1.1dppx)"
_LOOK = Markup(
    '<div id="first-look" aria-hidden="true"><div class="ground">'
    '<picture style="--across:{:.3f};--down:{:.3f}"><source media="{large_when}" srcset="{base}/{large}">'
    '<img alt="" elementtiming="sheet" fetchpriority="high" src="{base}/{near}"></picture></div></div>'
)


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


@permission("public")
def sheet_page(revision_id: str, project: str = "") -> Response:
    """The page of the front end that brings the sheet view along; for one who may see the sheet, with its picture.

    That is painted before any script has run, laid out by the page's own style sheet. Who may not see the sheet, or is
    not signed in, is given the same page without it, and told by the front end.
    """
    text = (FRONTEND / "sheet.html").read_text()
    start = _START.search(text)
    response = Response(stream_with_context(_in_turn(text, revision_id)), mimetype="text/html")
    response.headers["Cache-Control"] = "no-store"
    response.headers["Content-Security-Policy"] = content_policy(start[1] if start else "")
    response.headers["Cross-Origin-Opener-Policy"] = opener_policy()
    return response


def _in_turn(text: str, revision_id: str) -> Iterator[str]:
    """The browser makes itself ready for a page while it is found out what is on it."""
    first, _, last = text.partition("<!-- first look -->")
    yield first
    yield _first_look(whoever_is_signed_in(), revision_id)
    yield last


def _first_look(who: SignedIn | None, revision_id: str) -> str:
    """The picture of the whole page, laid out; nothing where the view opens at a part of the sheet or lower down."""
    place = request.args.get("page", 0, int)
    if who is None or who.actor.looker or {"at", "mark"} & request.args.keys():
        return ""
    try:
        page = sheets.find_page(context(), who.actor, revision_id, place)
        page_pictures.draw_ahead(context(), press(), who.actor, revision_id, (place, WHOLE_PAGE_LEVEL))
    except Refusal:
        return ""
    addresses = {"base": f"/api/sheets/{revision_id}/tiles/{place}", "near": WHOLE_PAGE_LEVEL, "large": LARGE_LEVEL}
    return _LOOK.format(page.width_pt, page.height_pt, large_when=_LARGE, **addresses)
