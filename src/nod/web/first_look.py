"""The first look at a sheet: its page brings its picture, so that it is seen before any script has run.

1. `/sheet/<id>` is answered with `frontend/sheet.html`; the head of it at once, so that style and scripts are fetched
   while it is found out who asks and whether they may see the sheet.
2. For one who may, an `<img>` of the whole page follows, laid out by the page's own style where the view will be. Who
   may not gets the same page without it, to the byte as for a sheet that is not there.
3. The picture is kept since Intake as the level of the pyramid that shows all; where it is not, drawing it begins now.
4. `sheetStart.ts` asks at once for what the view asks first (`/opening`: who looks, and the sheet), beside its scripts.
5. The view takes the picture into itself (`api/firstLook.ts`) and removes it when its own tiles are as sharp.
6. A view that opens at a place or a mark, or lower down, has no picture: it would show another part than is wanted.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from flask import Response, request, stream_with_context
from markupsafe import Markup

from nod.core.acts.refusals import Refusal
from nod.formats.sheet.pdf_look import LARGE_LEVEL, WHOLE_PAGE_LEVEL
from nod.services.people.sign_in import SignedIn
from nod.services.sheet import page_pictures, sheets
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
