"""How routes are declared and answer: pydantic models in, pydantic models out, files streamed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from flask import Response, send_file
from flask_openapi import APIBlueprint, OpenAPI
from pydantic import BaseModel

from nod.services.documents import FileToSend
from nod.web.errors import Problem


class NodApp(OpenAPI):
    """Flask, but views may return models, lists of models, or nothing."""

    def make_response(self, rv: Any) -> Response:
        if isinstance(rv, BaseModel):
            rv = Response(rv.model_dump_json(), mimetype="application/json")
        elif isinstance(rv, list) and all(isinstance(each, BaseModel) for each in rv):
            rv = Response(f"[{','.join(each.model_dump_json() for each in rv)}]", mimetype="application/json")
        elif rv is None:
            rv = Response(status=204)
        response: Response = super().make_response(rv)
        return response


def feature(name: str) -> APIBlueprint:
    """A blueprint whose operations are called like their functions."""
    return APIBlueprint(name, name, operation_id_callback=_operation_id)


def _operation_id(*, name: str, path: str, method: str) -> str:
    return name


def answers(model: type[BaseModel] | None = None) -> dict[str, Any]:
    """The response table of a route: its answer, and a problem for everything else."""
    success: dict[str, Any] = {"200": model} if model else {"204": None}
    return {**success, "400": Problem, "default": Problem}


def send(file: FileToSend) -> Response:
    """The file as an attachment, streamed."""
    return send_file(file.path, mimetype=file.media_type, as_attachment=True, download_name=file.name)


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
