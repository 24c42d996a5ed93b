"""What the holder of a mailed link can do, without an account."""

from __future__ import annotations

from typing import Literal

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.transmittals import guests
from nod.services.transmittals.guests import GuestView
from nod.web.answers import answers, feature, file_answers, send
from nod.web.guard import context, guest_secret, permission

api = feature("guests")


class PartPath(FromOutside):
    part: Literal["cover", "pack"]


@api.get("/api/guest/transmittal", responses=answers(GuestView))
@permission("link")
def read_as_guest() -> GuestView:
    """The transmittal behind a link."""
    return guests.read_as_guest(context(), guest_secret())


@api.post("/api/guest/transmittal/acknowledge", responses=answers())
@permission("link")
def acknowledge() -> None:
    """Acknowledge the transmittal."""
    guests.acknowledge(context(), guest_secret())


@api.post("/api/guest/transmittal/parts/<part>", responses=file_answers("application/pdf", "application/zip"))
@permission("link")
def download_as_guest(path: PartPath) -> Response:
    """The cover sheet or the ZIP. A POST, because each download is recorded."""
    return send(guests.download_as_guest(context(), guest_secret(), path.part))
