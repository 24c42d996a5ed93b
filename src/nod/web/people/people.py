"""Signing in and out; who I am."""

from __future__ import annotations

from flask import Response, make_response, request

from nod.services.people import sign_in
from nod.services.people.sign_in import Browser, DemoSignIn, Me, SignIn
from nod.web.answers import answers, feature
from nod.web.guard import COOKIE, KNOWN_COOKIE, context, permission, set_cookie, signed_in

api = feature("people")
_KNOWN_SECONDS = 180 * 24 * 3600
_MOST_KNOWN = 20


@api.post("/api/sign-in", responses=answers())
@permission("public")
def do_sign_in(body: SignIn) -> Response:
    """Sign in; sets the cookie."""
    known = tuple(request.cookies.get(KNOWN_COOKIE, "").split(".")[:_MOST_KNOWN])
    token, known = sign_in.sign_in(context(), body, Browser(request.remote_addr or "", known))
    response = make_response("", 204)
    set_cookie(response, token)
    set_cookie(response, ".".join(known), KNOWN_COOKIE, _KNOWN_SECONDS)
    return response


@api.post("/api/sign-out", responses=answers())
@permission("signed in")
def do_sign_out() -> Response:
    """Sign out; the cookie is worth nothing afterwards."""
    sign_in.sign_out(context(), request.cookies.get(COOKIE, ""))
    response = make_response("", 204)
    response.delete_cookie(COOKIE, httponly=True, samesite="Lax")
    return response


@api.get("/api/me", responses=answers(Me))
@permission("signed in")
def read_me() -> Me:
    """The person signed in, and their projects."""
    return sign_in.read_me(context(), signed_in())


@api.get("/api/demo-people", responses=answers(DemoSignIn))
@permission("public")
def list_demo_people() -> DemoSignIn:
    """The demo's people; nobody outside the demo."""
    return sign_in.demo_people(context())
