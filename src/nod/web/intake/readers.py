"""Looking at files in Intake over HTTP: their pages, what changed on them, and the readers of their title blocks."""

from __future__ import annotations

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.intake import arrival_look, block_readers
from nod.services.intake.arrival_look import ArrivalLook
from nod.services.intake.block_readers import KeepReader, ReaderKept, Readers, ReaderTried, RemoveReader, TryReader
from nod.web.answers import PICTURES, answers, feature, file_answers, picture_answer, send_picture
from nod.web.guard import actor, context, permission, press

api = feature("readers")


class ArrivalPath(FromOutside):
    arrival_id: str


class ArrivalPagePath(FromOutside):
    arrival_id: str
    page: int


class ArrivalTilePath(FromOutside):
    arrival_id: str
    page: int
    level: int
    column: int
    row: int


class ArrivalLevelPath(FromOutside):
    arrival_id: str
    page: int
    level: int


class ChangePath(FromOutside):
    arrival_id: str
    place: int


class BatchPath(FromOutside):
    batch_id: str


class ReaderPath(FromOutside):
    reader_id: str


@api.get("/api/intake/arrivals/<arrival_id>/look", responses=answers(ArrivalLook))
@permission("file")
def look_at_arrival(path: ArrivalPath) -> ArrivalLook:
    """A file in Intake as the viewer opens it, with what changed against the register."""
    return arrival_look.look_at_arrival(context(), actor(), path.arrival_id)


@api.get(
    "/api/intake/arrivals/<arrival_id>/tiles/<int:page>/<int:level>/<int:column>/<int:row>",
    responses=file_answers(*PICTURES),
)
@permission("file")
def read_arrival_tile(path: ArrivalTilePath) -> Response:
    """A tile of a page."""
    where = (path.arrival_id, path.page, path.level, path.column, path.row)
    return send_picture(arrival_look.read_arrival_tile(context(), press(), actor(), *where))


@api.get("/api/intake/arrivals/<arrival_id>/tiles/<int:page>/<int:level>", responses=file_answers(*PICTURES))
@permission("file")
def read_arrival_page(path: ArrivalLevelPath) -> Response:
    """A whole page."""
    leaf = (path.page, path.level)
    return send_picture(arrival_look.read_arrival_page(context(), press(), actor(), path.arrival_id, leaf))


@api.get("/api/intake/arrivals/<arrival_id>/thumbnails/<int:page>", responses=file_answers(*PICTURES))
@permission("file")
def read_arrival_thumbnail(path: ArrivalPagePath) -> Response:
    """A page, small."""
    return send_picture(arrival_look.read_arrival_thumbnail(context(), actor(), path.arrival_id, path.page))


@api.get("/api/intake/arrivals/<arrival_id>/changes/<int:place>", responses=file_answers(*PICTURES))
@permission("file")
def draw_change(path: ChangePath) -> Response:
    """A changed place of both revisions in one picture."""
    picture = arrival_look.draw_change(context(), press(), actor(), path.arrival_id, path.place)
    return picture_answer(picture, 300)


@api.get("/api/intake/batches/<batch_id>/readers", responses=answers(Readers))
@permission("file")
def list_readers(path: BatchPath) -> Readers:
    """The project's block readers."""
    return block_readers.list_readers(context(), actor(), path.batch_id)


@api.post("/api/intake/batches/<batch_id>/try-reader", responses=answers(ReaderTried))
@permission("file")
def try_reader(path: BatchPath, body: TryReader) -> ReaderTried:
    """What zones would read on every page of the batch."""
    return block_readers.try_reader(context(), actor(), path.batch_id, body)


@api.post("/api/intake/readers", responses=answers(ReaderKept))
@permission("file")
def keep_reader(body: KeepReader) -> ReaderKept:
    """Keep a reader and read the batch anew."""
    return block_readers.keep_reader(context(), actor(), body)


@api.post("/api/intake/readers/<reader_id>/remove", responses=answers())
@permission("file")
def remove_reader(path: ReaderPath, body: RemoveReader) -> None:
    """Remove a reader."""
    block_readers.remove_reader(context(), actor(), path.reader_id, body)
