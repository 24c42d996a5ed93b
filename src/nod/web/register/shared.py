"""Folders, drawing sets and kept views by a link, over HTTP: what is there, and what is seen of it before giving."""

from __future__ import annotations

from flask import Response
from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.register import shared_lists
from nod.services.register.guest_files import GuestFile
from nod.services.register.shared_lists import SharedList, SharePreview
from nod.web.answers import ANY_FILE, PICTURES, answers, feature, file_answers, send, send_unkept
from nod.web.guard import actor, context, guest_secret, permission, press

api = feature("shared")


class OfList(FromOutside):
    kind: str
    target: str


class PartQuery(FromOutside):
    start: int = Field(default=0, ge=0)
    limit: int = Field(default=100, ge=1, le=500)


class FilePath(FromOutside):
    revision_id: str


class LevelPath(FilePath):
    page: int
    level: int


class TilePath(LevelPath):
    column: int
    row: int


@api.get("/api/links/preview", responses=answers(SharePreview))
@permission("file")
def preview_share(query: OfList) -> SharePreview:
    """What whoever gets a link to a list would see."""
    return shared_lists.preview(context(), actor(), query.kind, query.target)


@api.get("/api/guest/list", responses=answers(SharedList))
@permission("link")
def read_shared(query: PartQuery) -> SharedList:
    """The documents behind a link, a part of them at a time."""
    return shared_lists.read_shared(context(), guest_secret(), query.start, query.limit)


@api.get("/api/guest/list/<revision_id>", responses=answers(GuestFile))
@permission("link")
def read_shared_file(path: FilePath) -> GuestFile:
    """One of its files, to be looked at."""
    return shared_lists.read_file(context(), guest_secret(), path.revision_id)


@api.get("/api/guest/list/<revision_id>/tiles/<int:page>/<int:level>", responses=file_answers(*PICTURES))
@permission("link")
def read_shared_page(path: LevelPath) -> Response:
    """A whole page of one of its files."""
    leaf = (path.page, path.level)
    return send_unkept(shared_lists.read_page(context(), press(), guest_secret(), path.revision_id, leaf))


@api.get(
    "/api/guest/list/<revision_id>/tiles/<int:page>/<int:level>/<int:column>/<int:row>",
    responses=file_answers(*PICTURES),
)
@permission("link")
def read_shared_tile(path: TilePath) -> Response:
    """A tile of a page."""
    tile = (path.page, path.level, path.column, path.row)
    return send_unkept(shared_lists.read_tile(context(), press(), guest_secret(), path.revision_id, tile))


@api.post("/api/guest/list/<revision_id>/file", responses=file_answers(*ANY_FILE))
@permission("link")
def download_shared_file(path: FilePath) -> Response:
    """One of its files. A POST, because each download is recorded."""
    return send(shared_lists.download_file(context(), guest_secret(), path.revision_id))
