"""The pages of a sheet: their pictures, tiles, layers, and where lines end and links lead."""

from __future__ import annotations

from flask import Response
from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.sheet import page_pictures, sheet_links, sheets
from nod.services.sheet.sheet_links import SheetLinks
from nod.services.sheet.sheets import Corners, Layers
from nod.web.answers import PICTURES, answers, feature, file_answers, send_picture
from nod.web.guard import actor, context, permission, press

api = feature("sheet_pages")


class RevisionPath(FromOutside):
    revision_id: str


class TilePath(FromOutside):
    revision_id: str
    page: int
    level: int
    column: int
    row: int


class LevelPath(FromOutside):
    revision_id: str
    page: int
    level: int


class PagePath(FromOutside):
    revision_id: str
    page: int


class BoxQuery(FromOutside):
    """In points of user space."""

    left: float = Field(ge=-1e5, le=1e5)
    low: float = Field(ge=-1e5, le=1e5)
    right: float = Field(ge=-1e5, le=1e5)
    high: float = Field(ge=-1e5, le=1e5)


class Layered(FromOutside):
    """`off`: places of layers from 0 with dots between, or `none`."""

    off: str = Field(pattern=r"^(none|\d{1,4}(\.\d{1,4})*)$")

    def places(self) -> frozenset[int]:
        return frozenset() if self.off == "none" else frozenset(int(place) for place in self.off.split("."))


class LayeredTilePath(TilePath, Layered):
    pass


class LayeredLevelPath(LevelPath, Layered):
    pass


@api.get(
    "/api/sheets/<revision_id>/tiles/<int:page>/<int:level>/<int:column>/<int:row>", responses=file_answers(*PICTURES)
)
@permission("read")
def read_tile(path: TilePath) -> Response:
    """A tile of a page."""
    tile = (path.page, path.level, path.column, path.row)
    return send_picture(page_pictures.read_tile(context(), press(), actor(), path.revision_id, tile))


@api.get("/api/sheets/<revision_id>/tiles/<int:page>/<int:level>", responses=file_answers(*PICTURES))
@permission("read")
def read_page(path: LevelPath) -> Response:
    """A whole page."""
    leaf = (path.page, path.level)
    return send_picture(page_pictures.read_whole(context(), press(), actor(), path.revision_id, leaf))


@api.get("/api/sheets/<revision_id>/corners/<int:page>", responses=answers(Corners))
@permission("read")
def list_corners(path: PagePath, query: BoxQuery) -> Corners:
    """Where the drawing's lines end and cross, within a part of a page."""
    box = (query.left, query.low, query.right, query.high)
    return sheets.list_corners(context(), press(), actor(), path.revision_id, path.page, box)


@api.get("/api/sheets/<revision_id>/layers", responses=answers(Layers))
@permission("read")
def list_layers(path: RevisionPath) -> Layers:
    """The layers of the file."""
    return sheets.list_layers(context(), press(), actor(), path.revision_id)


@api.get(
    "/api/sheets/<revision_id>/layered/<off>/<int:page>/<int:level>/<int:column>/<int:row>",
    responses=file_answers(*PICTURES),
)
@permission("read")
def read_layered_tile(path: LayeredTilePath) -> Response:
    """A tile of a page with some layers off."""
    tile = (path.page, path.level, path.column, path.row)
    return send_picture(page_pictures.read_tile(context(), press(), actor(), path.revision_id, tile, path.places()))


@api.get("/api/sheets/<revision_id>/layered/<off>/<int:page>/<int:level>", responses=file_answers(*PICTURES))
@permission("read")
def read_layered_page(path: LayeredLevelPath) -> Response:
    """A whole page with some layers off."""
    leaf = (path.page, path.level)
    return send_picture(page_pictures.read_whole(context(), press(), actor(), path.revision_id, leaf, path.places()))


@api.get("/api/sheets/<revision_id>/thumbnail", responses=file_answers(*PICTURES))
@permission("read")
def read_thumbnail(path: RevisionPath) -> Response:
    """The first page, small."""
    return send_picture(page_pictures.read_thumbnail(context(), actor(), path.revision_id))


@api.get("/api/sheets/<revision_id>/links/<int:page>", responses=answers(SheetLinks))
@permission("read")
def list_links(path: PagePath) -> SheetLinks:
    """Links inside the file, on one page."""
    return sheet_links.list_links(context(), press(), actor(), path.revision_id, path.page)
