"""Resumable uploads over HTTP: the tus protocol 1.0.0 with its extensions creation and termination (tus.io)."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Iterator
from typing import Any

from flask import Response, request
from werkzeug.exceptions import ClientDisconnected

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.answers import FromOutside
from nod.services.intake import uploads
from nod.services.intake.uploads import BeginUpload, UploadStanding
from nod.web.answers import answers, feature, header, headers
from nod.web.bodies import largest_file, raw_body
from nod.web.errors import Problem
from nod.web.guard import actor, context, permission

api = feature("uploads")
_VERSION = "1.0.0"
_PIECE = "application/offset+octet-stream"
_CHUNK_BYTES = 256 * 1024


class UploadPath(FromOutside):
    upload_id: str


_NUMBER = {"type": "string", "pattern": r"^[0-9]{1,15}$"}
_TUS = header("Tus-Resumable", "The version of the protocol.", {"type": "string", "enum": [_VERSION]})
_LENGTH = header("Upload-Length", "How many bytes the file has.", _NUMBER)
_OFFSET = header("Upload-Offset", "From where this piece goes on.", _NUMBER)
_METADATA = header(
    "Upload-Metadata", "`batch`, `filename` and, if wanted, `folder`, each with its value in base64, commas between.",
    {"type": "string"},
)  # fmt: skip
_GIVEN = ("Tus-Resumable", "Upload-Offset", "Upload-Length")


def _empty(status: str, about: str) -> dict[str, Any]:
    return {status: {"description": about}, "400": Problem, "default": Problem}


@api.post("/api/intake/uploads", responses=_empty("201", "The upload has begun; Location is its address."))
@permission("file")
@headers((_TUS, _LENGTH, _METADATA), (*_GIVEN, "Location"))
def begin_upload() -> Response:
    """Announce a file; its bytes follow in pieces."""
    _check_version()
    said = _metadata(request.headers.get("Upload-Metadata", ""))
    command = BeginUpload(
        batch_id=said.get("batch", ""),
        file_name=said.get("filename", ""),
        folder=said.get("folder", ""),
        size_bytes=_number("Upload-Length"),
    )
    standing = uploads.begin_upload(context(), actor(), command)
    return _answer(201, standing, {"Location": f"/api/intake/uploads/{standing.id}"})


@api.get("/api/intake/uploads/<upload_id>", responses=_empty("200", "The headers tell how far it has come."))
@permission("file")
@headers((), _GIVEN)
def read_upload(path: UploadPath) -> Response:
    """How far an upload has come; asked with HEAD."""
    return _answer(200, uploads.read_upload(context(), actor(), path.upload_id), {})


@api.patch("/api/intake/uploads/<upload_id>", responses=answers())
@permission("file")
@raw_body(largest_file, _PIECE)
@headers((_TUS, _OFFSET), _GIVEN)
def add_piece(path: UploadPath) -> Response:
    """A piece of the file, from where the last one ended."""
    _check_version()
    if request.mimetype != _PIECE:
        raise RuleBroken("tus_version", f"A piece has the type {_PIECE}.", request.mimetype)
    return _answer(204, uploads.add_piece(context(), actor(), path.upload_id, _number("Upload-Offset"), _body()), {})


@api.delete("/api/intake/uploads/<upload_id>", responses=answers())
@permission("file")
@headers((), ("Tus-Resumable",))
def end_upload(path: UploadPath) -> Response:
    """Stop an upload and forget what has come of it."""
    uploads.end_upload(context(), actor(), path.upload_id)
    return Response(status=204, headers={"Tus-Resumable": _VERSION})


def _check_version() -> None:
    if request.headers.get("Tus-Resumable") != _VERSION:
        raise RuleBroken(
            "tus_version", f"Uploads are sent by tus {_VERSION}.", request.headers.get("Tus-Resumable", "")
        )


def _number(header: str) -> int:
    said = request.headers.get(header, "")
    if not said.isascii() or not said.isdigit() or len(said) > 15:
        raise RuleBroken("length_missing", f"The upload does not say its {header}.", said[:40])
    return int(said)


def _metadata(header: str) -> dict[str, str]:
    """`key base64,key base64`; what cannot be read is left out."""
    found = {}
    for pair in header.split(",")[:20]:
        key, _, value = pair.strip().partition(" ")
        try:
            found[key] = base64.b64decode(value, validate=True).decode()
        except (binascii.Error, UnicodeDecodeError):
            continue
    return found


def _body() -> Iterator[bytes]:
    """What comes; where the line breaks, what has come is kept and the rest asked for again."""
    left = request.content_length or 0
    while left > 0:
        try:
            chunk = request.stream.read(min(left, _CHUNK_BYTES))
        except ClientDisconnected:
            return
        if not chunk:
            return
        left -= len(chunk)
        yield chunk


def _answer(status: int, standing: UploadStanding, more: dict[str, str]) -> Response:
    headers = {
        "Tus-Resumable": _VERSION,
        "Upload-Offset": str(standing.offset),
        "Upload-Length": str(standing.size_bytes),
        "Cache-Control": "no-store",
        **more,
    }
    return Response(status=status, headers=headers)
