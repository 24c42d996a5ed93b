"""How routes are declared and answer: pydantic models in, pydantic models out, files streamed."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from pathlib import Path
from typing import Any, TypeVar

from flask import Request, Response, send_file
from flask_openapi import APIBlueprint, OpenAPI
from flask_openapi.utils import parse_parameters
from pydantic import BaseModel
from werkzeug.exceptions import BadRequest

from nod.services.files.files_to_send import FileToSend
from nod.web.errors import Problem

View = TypeVar("View", bound=Callable[..., Any])


def _as_described(rule: str) -> str:
    return re.sub(r"<(?:[a-z]+:)?([a-z_]+)>", r"{\1}", rule)


def _describe(operation: dict[str, Any], view: Any) -> None:
    for status, answer in operation["responses"].items():
        if status == "default" or status.startswith("4"):
            answer["content"] = {"application/problem+json": _PROBLEM}
    operation["responses"]["default"]["description"] = "Refused, with the reason."
    if media_type := getattr(view, "body_type", ""):
        binary = {"schema": {"type": "string", "format": "binary"}}
        operation["requestBody"] = {"required": True, "content": {media_type: binary}}
    operation.setdefault("parameters", []).extend(getattr(view, "headers_taken", ()))
    headers = getattr(view, "headers_given", None)
    for status, answer in operation["responses"].items():
        if headers and status.startswith("2"):
            answer["headers"] = headers


_SCHEMES = {
    "sign_in": {"type": "apiKey", "in": "cookie", "name": "nod", "description": "Set by signing in."},
    "token": {
        "type": "apiKey", "in": "header", "name": "X-Nod-Csrf",
        "description": "`csrf_token` of GET /api/me, with all that changes something; a form may have it as `csrf`.",
    },
}  # fmt: skip


def _security(view: Any, method: str) -> list[dict[str, list[str]]]:
    if getattr(view, "permission", "") in ("public", "link"):
        return []
    return [{"sign_in": []} if method == "get" else {"sign_in": [], "token": []}]


_PROBLEM = {"schema": {"$ref": "#/components/schemas/Problem"}}


class NodRequest(Request):
    """A request whose JSON is refused where it is nested so deep that reading it would end the reader."""

    def get_json(self, *arguments: Any, **more: Any) -> Any:
        try:
            return super().get_json(*arguments, **more)
        except RecursionError as error:
            raise BadRequest("The request is nested too deep.") from error


class NodApp(OpenAPI):
    """Flask, but views may return models, lists of models, or nothing."""

    request_class = NodRequest

    def register_api(self, api: APIBlueprint, **options: Any) -> None:
        super().register_api(api, **options)
        self._features = (*getattr(self, "_features", ()), api)

    def generate_spec_json(self) -> None:
        """With what the package does not say: refusals are problems (RFC 9457), and bodies may be files."""
        for api in self._features:
            if isinstance(api, Feature):
                api.describe()
            self.paths.update(api.paths)
            self.components_schemas.update(api.components_schemas)
        super().generate_spec_json()
        for path, operations in self.spec_json["paths"].items():
            for method, operation in operations.items():
                view = self._view_of(path, method)
                _describe(operation, view)
                operation["security"] = _security(view, method)
        self.spec_json["components"]["securitySchemes"] = _SCHEMES

    def _view_of(self, path: str, method: str) -> Any:
        for rule in self.url_map.iter_rules():
            if method.upper() in (rule.methods or ()) and _as_described(rule.rule) == path:
                return self.view_functions[rule.endpoint]
        return None

    def make_response(self, rv: Any) -> Response:
        if isinstance(rv, BaseModel):
            rv = Response(rv.model_dump_json(), mimetype="application/json")
        elif isinstance(rv, list) and all(isinstance(each, BaseModel) for each in rv):
            rv = Response(f"[{','.join(each.model_dump_json() for each in rv)}]", mimetype="application/json")
        elif rv is None:
            rv = Response(status=204)
        response: Response = super().make_response(rv)
        return response


def headers(taken: Sequence[dict[str, Any]] = (), given: Sequence[str] = ()) -> Callable[[View], View]:
    """State the headers that a route takes, as the description has parameters, and the names of those it answers."""

    def mark(view: View) -> View:
        view.headers_taken = taken  # type: ignore[attr-defined]
        view.headers_given = {name: {"schema": {"type": "string"}} for name in given}  # type: ignore[attr-defined]
        return view

    return mark


def header(name: str, about: str, schema: dict[str, Any]) -> dict[str, Any]:
    return {"in": "header", "name": name, "required": True, "description": about, "schema": schema}


class Feature(APIBlueprint):
    """A blueprint that describes its routes once somebody asks for the description.

    To lay that out takes a third of the time in which Nod starts, and hardly a start of Nod is ever asked for it.
    """

    def __init__(self, name: str) -> None:
        super().__init__(name, name, operation_id_callback=_operation_id)
        self._undescribed: list[tuple[str, Any, dict[str, Any]]] = []

    def _collect_openapi_info(self, rule: str, func: Any, **said: Any) -> Any:
        self._undescribed.append((rule, func, said))
        return parse_parameters(func, doc_ui=False)

    def describe(self) -> None:
        while self._undescribed:
            rule, func, said = self._undescribed.pop(0)
            super()._collect_openapi_info(rule, func, **said)


def feature(name: str) -> Feature:
    """A blueprint whose operations are called like their functions."""
    return Feature(name)


def _operation_id(*, name: str, path: str, method: str) -> str:
    return name


def answers(model: type[BaseModel] | None = None) -> dict[str, Any]:
    """The response table of a route: its answer, and a problem for everything else."""
    success: dict[str, Any] = {"200": model} if model else {"204": None}
    return {**success, "400": Problem, "default": Problem}


def file_answers(*media_types: str) -> dict[str, Any]:
    """Of a route that answers with a file of one of these types."""
    binary = {"schema": {"type": "string", "format": "binary"}}
    found = {"description": "The file.", "content": dict.fromkeys(media_types, binary)}
    return {"200": found, "400": Problem, "default": Problem}


PICTURES = ("image/png", "image/webp")
ANY_FILE = ("*/*",)
TABLES = ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "text/csv")


def send(file: FileToSend) -> Response:
    """The file as an attachment, streamed; given back when the answer has gone."""
    borrowed = ExitStack()
    path = borrowed.enter_context(file.content)
    try:
        response = send_file(path, mimetype=file.media_type, as_attachment=True, download_name=file.name)
    except BaseException:
        borrowed.close()
        raise
    response.call_on_close(borrowed.close)
    return response


_PNG = b"\x89PNG\r\n\x1a\n"


def _media_type(picture: bytes) -> str:
    """Of the two that Nod writes, see `formats.pdf_look.encode`."""
    return "image/png" if picture.startswith(_PNG) else "image/webp"


def picture_answer(picture: bytes, seconds: int, *, final: bool = False) -> Response:
    """A picture drawn for this question; a browser keeps it for so long, and asks no more if it is `final`."""
    response = Response(picture, mimetype=_media_type(picture))
    response.headers["Cache-Control"] = f"private, max-age={seconds}" + (", immutable" if final else "")
    return response


def send_picture(path: Path) -> Response:
    """A picture that never changes under its address; kept by the one browser that may see it."""
    with path.open("rb") as file:
        media_type = _media_type(file.read(len(_PNG)))
    response = send_file(path, mimetype=media_type, max_age=31536000)
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


def send_unkept(path: Path) -> Response:
    """A picture whose address is the same for whoever comes by a link."""
    response = send_picture(path)
    response.headers["Cache-Control"] = "no-store"
    return response
