"""What the holder of a mailed link can do, without an account."""

from __future__ import annotations

from typing import Literal

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.transmittals import guests
from nod.services.transmittals.guests import GuestView
from nod.web.answers import answers, feature, file_answers, send
from nod.web.guard import context, permission

api = feature("guests")


class LinkPath(FromOutside):
    token: str


class LinkPartPath(FromOutside):
    token: str
    part: Literal["cover", "pack"]


@api.get("/api/links/<token>", responses=answers(GuestView))
@permission("link")
def read_as_guest(path: LinkPath) -> GuestView:
    """The transmittal behind a link."""
    return guests.read_as_guest(context(), path.token)


@api.post("/api/links/<token>/opened", responses=answers())
@permission("link")
def note_opened(path: LinkPath) -> None:
    """Say that the link was opened by a person."""
    guests.note_opened(context(), path.token)


@api.post("/api/links/<token>/acknowledge", responses=answers())
@permission("link")
def acknowledge(path: LinkPath) -> None:
    """Acknowledge the transmittal."""
    guests.acknowledge(context(), path.token)


@api.post("/api/links/<token>/parts/<part>", responses=file_answers("application/pdf", "application/zip"))
@permission("link")
def download_as_guest(path: LinkPartPath) -> Response:
    """The cover sheet or the ZIP. A POST, because each download is recorded."""
    return send(guests.download_as_guest(context(), path.token, path.part))
