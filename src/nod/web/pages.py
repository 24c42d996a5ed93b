"""The front end: its files, its one page for every address, and a sheet's page with the sheet already on it."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

from flask import Response, request, send_from_directory, stream_with_context
from markupsafe import Markup

from nod.core.refusals import NotFound, Refusal
from nod.services import first_look, sheets, sign_in
from nod.services.first_look import PlacedTile
from nod.services.sign_in import SignedIn
from nod.web.answering import NodApp
from nod.web.guard import context, permission, whoever_is_signed_in

FRONTEND = Path(__file__).resolve().parents[3] / "frontend" / "dist"
_TOLD = "<!-- told -->"

# Windows that show more than 1024 pixels of a page beside the list of marks, by the same words in sheet.html.
_LARGE = "(min-width: 1365px), (min-height: 1073px), (min-resolution: 1.1dppx)"


def add_pages(app: NodApp) -> None:
    app.add_url_rule("/assets/<path:name>", "asset", asset)
    app.add_url_rule("/sheet/<revision_id>", "sheet_page", sheet_page)
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
def sheet_page(revision_id: str) -> Response:
    """The page of the front end that brings the sheet view along; for one who may see the sheet, with its picture.

    The picture is there before any script has run, laid out by the page's own style sheet. Who may not see the sheet,
    or is not signed in, is given the same page without it, and told by the front end.
    """
    text, who = (FRONTEND / "sheet.html").read_text(), whoever_is_signed_in()
    look = _first_look(who, revision_id) if who else {}
    for place, words in look.items():
        text = text.replace(place, words)
    response = Response(stream_with_context(_in_turn(text, who if look else None, revision_id)), mimetype="text/html")
    response.headers["Cache-Control"] = "no-store"
    return response


def _in_turn(text: str, who: SignedIn | None, revision_id: str) -> Iterator[str]:
    """The picture is on its way while it is asked what the front end would ask for first."""
    first, _, last = text.partition(_TOLD)
    yield first
    if who:
        with suppress(Refusal):
            me, sheet = sign_in.read_me(context(), who), sheets.read_sheet(context(), who.actor, revision_id)
            told = f'{{"me":{me.model_dump_json()},"sheet":{sheet.model_dump_json()}}}'.replace("<", "\\u003c")
            yield f'<script type="application/json" id="told">{told}</script>'
    yield last


def _first_look(who: SignedIn, revision_id: str) -> dict[str, str]:
    """What stands in the page at which place; nothing where the view opens at a part of the sheet or lower down."""
    place = request.args.get("page", 0, int)
    if who.actor.looker or {"at", "mark"} & request.args.keys():
        return {}
    try:
        look = first_look.read_first_look(context(), who.actor, revision_id, place)
    except Refusal:
        return {}
    base = f"/api/sheets/{revision_id}/tiles/{place}"
    link = Markup('<link rel="preload" as="image" fetchpriority="high" media="{}" href="{}">')
    whole = Markup('<div id="first-look" aria-hidden="true"><div class="ground">{}</div></div>')
    box = Markup('<div class="grid" style="--across:{:.3f};--down:{:.3f}">{}{}</div>')
    # What is not shown is not fetched; the near ones are drawn before any script can hold them up.
    near = _pictures(base, look.tiles, "near", Markup('decoding="sync"'))
    fine = _pictures(base, look.fine, "fine", Markup('loading="lazy"'))
    grid = box.format(look.page.width_pt, look.page.height_pt, near, fine)
    return {
        "<!-- first tiles -->": Markup("").join(link.format(_LARGE, _address(base, tile)) for tile in look.fine),
        "<!-- first look -->": whole.format(grid),
    }


def _pictures(base: str, tiles: list[PlacedTile], name: str, how: Markup) -> Markup:
    """Each in hundredths of the page. What is kept is in the page itself."""
    one = Markup(
        '<img class="{}" alt="" elementtiming="sheet" {} src="{}" '
        'style="left:{:.4f}%;top:{:.4f}%;width:{:.4f}%;height:{:.4f}%">'
    )
    return Markup("").join(
        one.format(name, how, _address(base, tile), *(100 * each for each in tile.box)) for tile in tiles
    )


def _address(base: str, tile: PlacedTile) -> str:
    if tile.picture:
        return f"data:image/webp;base64,{base64.b64encode(tile.picture).decode()}"
    return f"{base}/{tile.level}/{tile.column}/{tile.row}"
