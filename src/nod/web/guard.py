"""Who is asking: the cookie, the CSRF token, and the permission that every route states."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

from flask import Response, current_app, g, request

from nod.core.acts.once import Once
from nod.core.acts.refusals import NotFound, NotSignedIn
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.people import sign_in
from nod.services.people.sign_in import SignedIn
from nod.services.press.press import Press

COOKIE = "nod"
KNOWN_COOKIE = "nod_known"
CSRF_HEADER = "X-Nod-Csrf"
GUEST_HEADER = "X-Nod-Guest"
PERMISSIONS = ("public", "link", "signed in", "member", "read", "mark", "file", "keep", "run", "lead", "steward")
_SAFE_METHODS = ("GET", "HEAD", "OPTIONS")

View = TypeVar("View", bound=Callable[..., Any])


def permission(needed: str) -> Callable[[View], View]:
    """State what a route needs: nothing (`public`), a secret link, a sign-in, a part or a level in the project, …

    `run` is for leads and controllers, `lead` for leads, `steward` for the stewards of the workspace.
    """
    if needed not in PERMISSIONS:
        raise ValueError(needed)

    def mark(view: View) -> View:
        view.permission = needed  # type: ignore[attr-defined]
        return view

    return mark


def tells_a_secret(view: View) -> View:
    """Of a route whose answer is shown once: it is not kept to be given again."""
    view.tells_a_secret = True  # type: ignore[attr-defined]
    return view


def check_request() -> None:
    """Before every request: those that are not public or by link need a sign-in, and a CSRF token to change things."""
    view = current_app.view_functions.get(request.endpoint or "")
    if view is None:
        return
    if largest := getattr(view, "largest_body", None):
        request.max_content_length = largest(context().settings) + 1
    needed = getattr(view, "permission", "keep")
    if needed in ("public", "link"):
        return
    g.signed_in = sign_in.who_is(context(), request.cookies.get(COOKIE, ""), _came_from())
    if request.method not in _SAFE_METHODS:
        token = request.headers.get(CSRF_HEADER) or request.form.get("csrf", "")
        sign_in.check_csrf(g.signed_in, token)


def _came_from() -> str:
    return f"browser at {request.remote_addr}"


def context() -> Context:
    return cast(Context, current_app.extensions["nod_context"])


def press() -> Press:
    return cast(Press, current_app.extensions["nod_press"])


def signed_in() -> SignedIn:
    return cast(SignedIn, g.signed_in)


def set_cookie(response: Response, value: str, name: str = COOKIE, seconds: int = 0) -> None:
    """By default the browser is signed in with this answer."""
    settings = context().settings
    response.set_cookie(
        name,
        value,
        max_age=seconds or settings.session_hours * 3600,
        httponly=True,
        samesite="Lax",
        secure=settings.secure_cookies,
    )


def actor() -> Actor:
    return signed_in().actor


def guest_secret() -> str:
    """Of the visit by a link: in a header, or for a file in the form that asks for it. It stands in no address."""
    return request.headers.get(GUEST_HEADER) or request.form.get("guest", "")


def once() -> Once | None:
    """What a visit's act is done once by; that of who is signed in goes with the actor."""
    return cast("Once | None", g.get("once"))


def whoever_is_signed_in() -> SignedIn | None:
    """For public pages that show more to one who is."""
    try:
        return sign_in.who_is(context(), request.cookies.get(COOKIE, ""), _came_from())
    except NotSignedIn:
        return None


def only_in_demo() -> None:
    """Raises NotFound outside the demo."""
    if not context().settings.demo:
        raise NotFound(request.path)
