"""What the holder of a mailed link can do, without an account."""

from __future__ import annotations

from typing import Literal

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.register.guest_files import GuestFile
from nod.services.transmittals import covers, guest_sheets, guests
from nod.services.transmittals.covers import CoverTold
from nod.services.transmittals.guests import Acknowledge, GuestView
from nod.web.answers import ANY_FILE, PICTURES, answers, feature, file_answers, send, send_unkept
from nod.web.guard import context, guest_secret, permission, press

api = feature("guests")


class PartPath(FromOutside):
    part: Literal["cover", "pack"]


class CoverPath(FromOutside):
    code: str


class FilePath(FromOutside):
    revision_id: str


class AlongPath(FromOutside):
    place: int


class LevelPath(FilePath):
    page: int
    level: int


class TilePath(LevelPath):
    column: int
    row: int


@api.get("/api/guest/transmittal", responses=answers(GuestView))
@permission("link")
def read_as_guest() -> GuestView:
    """The transmittal behind a link."""
    return guests.read_as_guest(context(), guest_secret())


@api.post("/api/guest/transmittal/acknowledge", responses=answers())
@permission("link")
def acknowledge(body: Acknowledge) -> None:
    """Acknowledge the transmittal, with a note if there is one."""
    guests.acknowledge(context(), guest_secret(), body)


@api.post("/api/guest/transmittal/parts/<part>", responses=file_answers("application/pdf", "application/zip"))
@permission("link")
def download_as_guest(path: PartPath) -> Response:
    """The cover sheet or the ZIP. A POST, because each download is recorded."""
    return send(guests.download_as_guest(context(), guest_secret(), path.part))


@api.get("/api/guest/transmittal/files/<revision_id>", responses=answers(GuestFile))
@permission("link")
def read_sent_file(path: FilePath) -> GuestFile:
    """One file of what was sent, to be looked at."""
    return guest_sheets.read_file(context(), guest_secret(), path.revision_id)


@api.get("/api/guest/transmittal/files/<revision_id>/tiles/<int:page>/<int:level>", responses=file_answers(*PICTURES))
@permission("link")
def read_sent_page(path: LevelPath) -> Response:
    """A whole page of a file that was sent."""
    leaf = (path.page, path.level)
    return send_unkept(guest_sheets.read_page(context(), press(), guest_secret(), path.revision_id, leaf))


@api.get(
    "/api/guest/transmittal/files/<revision_id>/tiles/<int:page>/<int:level>/<int:column>/<int:row>",
    responses=file_answers(*PICTURES),
)
@permission("link")
def read_sent_tile(path: TilePath) -> Response:
    """A tile of a page of a file that was sent."""
    tile = (path.page, path.level, path.column, path.row)
    return send_unkept(guest_sheets.read_tile(context(), press(), guest_secret(), path.revision_id, tile))


@api.post("/api/guest/transmittal/files/<revision_id>/file", responses=file_answers(*ANY_FILE))
@permission("link")
def download_sent_file(path: FilePath) -> Response:
    """One file of what was sent. A POST, because each download is recorded."""
    return send(guest_sheets.download_file(context(), guest_secret(), path.revision_id))


@api.post("/api/guest/transmittal/along/<int:place>", responses=file_answers(*ANY_FILE))
@permission("link")
def download_along(path: AlongPath) -> Response:
    """A file that goes with a document. A POST, because each download is recorded."""
    return send(guest_sheets.download_along(context(), guest_secret(), path.place))


@api.get("/api/covers/<code>", responses=answers(CoverTold))
@permission("link")
def read_cover(path: CoverPath) -> CoverTold:
    """What of a transmittal still holds; for anybody who has its cover sheet."""
    return covers.read_cover(context(), path.code)
