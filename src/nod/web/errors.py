"""Refusals as HTTP problem details (RFC 9457)."""

from __future__ import annotations

from flask import Flask, Response, current_app, make_response, request
from pydantic import BaseModel, ValidationError
from werkzeug.exceptions import HTTPException

from nod.core.acts.refusals import DoneAlready, NotAllowed, NotFound, NotSignedIn, Refusal, RuleBroken, Stale, TooMany

STATUS: dict[type[Refusal], int] = {
    NotSignedIn: 401,
    NotAllowed: 403,
    NotFound: 404,
    Stale: 409,
    DoneAlready: 409,
    RuleBroken: 422,
    TooMany: 429,
}


class Problem(BaseModel):
    """`code` is stable and says which situation it is; `about` names the thing; `detail` is for a person to read."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str
    about: str = ""


def _answer(problem: Problem) -> Response:
    response = make_response(problem.model_dump_json(), problem.status)
    response.headers["Content-Type"] = "application/problem+json"
    # Of Nod's own pages alone: what refuses a download is read out of the frame that it was asked for in.
    response.headers["Content-Security-Policy"] = "default-src 'none'; frame-ancestors 'self'"
    return response


def refused(refusal: Refusal) -> Response:
    """A refusal as an answer."""
    status = next(STATUS[each] for each in type(refusal).__mro__ if each in STATUS)
    title = {401: "Not signed in", 403: "Not allowed", 404: "Not found", 409: "Changed since", 422: "Not possible"}
    about = "" if isinstance(refusal, NotFound) else refusal.about
    response = _answer(
        Problem(title=title.get(status, "Wait"), status=status, detail=refusal.words, code=refusal.code, about=about)
    )
    if isinstance(refusal, TooMany):
        response.headers["Retry-After"] = str(refusal.retry_after_seconds)
    return response


def malformed(error: ValidationError) -> Response:
    """A request that does not have the form the route asks for; names the first field that is wrong."""
    first = error.errors(include_url=False, include_input=False, include_context=False)[0]
    about = ".".join(str(part) for part in first["loc"])
    detail = f"The request is malformed at “{about}”: {first['msg']}."
    return _answer(Problem(title="Malformed", status=400, detail=detail, code="malformed", about=about))


def _http(error: HTTPException) -> Response:
    status = error.code or 500
    code = {404: "not_found", 405: "method_not_allowed", 413: "too_large"}.get(status, f"http_{status}")
    detail = "There is nothing here under this address." if status == 404 else (error.description or "")
    response = _answer(Problem(title=error.name, status=status, detail=detail, code=code))
    if status == 405:
        response.headers["Allow"] = ", ".join(getattr(error, "valid_methods", None) or [])
    return response


def _unforeseen(error: Exception) -> Response:
    """A fault of ours: logged whole, told without innards."""
    current_app.logger.error("unforeseen at %s", request.path, exc_info=error)
    detail = "Something went wrong in Nod. Nothing was changed. Try again; if it stays, tell the steward."
    return _answer(Problem(title="Fault", status=500, detail=detail, code="fault"))


def register_errors(app: Flask) -> None:
    app.register_error_handler(Refusal, refused)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(Exception, _unforeseen)
