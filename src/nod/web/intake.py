"""Intake over HTTP. Files come as raw bodies, so that they stream."""

from __future__ import annotations

from collections.abc import Iterator

from flask import request
from pydantic import BaseModel, RootModel
from werkzeug.exceptions import ClientDisconnected

from nod.core.refusals import RuleBroken
from nod.services import intake, intake_view
from nod.services.intake import (
    BatchOpened,
    CorrectArrival,
    DiscardArrival,
    OpenBatch,
    RegisterBatch,
    Registered,
)
from nod.services.intake_view import Arrival, Batch, BatchLine
from nod.web.answering import answers, feature
from nod.web.guard import actor, context, permission

api = feature("intake")
_CHUNK_BYTES = 1024 * 1024


class OfProject(BaseModel):
    project_id: str


class FileQuery(BaseModel):
    name: str


class BatchPath(BaseModel):
    batch_id: str


class ArrivalPath(BaseModel):
    arrival_id: str


class BatchLines(RootModel[list[BatchLine]]):
    pass


@api.get("/api/intake/batches", responses=answers(BatchLines))
@permission("file")
def list_batches(query: OfProject) -> list[BatchLine]:
    """Batches, those with open files first."""
    return intake_view.list_batches(context(), actor(), query.project_id)


@api.post("/api/intake/batches", responses=answers(BatchOpened))
@permission("file")
def open_batch(body: OpenBatch) -> BatchOpened:
    """Open an empty batch."""
    return intake.open_batch(context(), actor(), body)


@api.get("/api/intake/batches/<batch_id>", responses=answers(Batch))
@permission("file")
def read_batch(path: BatchPath) -> Batch:
    """A batch with its files and their findings."""
    return intake_view.read_batch(context(), actor(), path.batch_id)


@api.put("/api/intake/batches/<batch_id>/files", responses=answers(Arrival))
@permission("file")
def add_file(path: BatchPath, query: FileQuery) -> Arrival:
    """Add a file: its bytes are the body."""
    request.max_content_length = context().settings.largest_file_bytes + 1
    return intake.add_file(context(), actor(), path.batch_id, query.name, _body())


def _body() -> Iterator[bytes]:
    """The body piece by piece. Raises RuleBroken if the line broke before all of it came."""
    left = request.content_length
    if left is None:
        raise RuleBroken("length_missing", "The upload does not say how long it is.")
    while left:
        try:
            chunk = request.stream.read(min(left, _CHUNK_BYTES))
        except ClientDisconnected as error:
            raise RuleBroken("upload_broken_off", "The upload broke off. Send the file again.") from error
        left -= len(chunk)
        yield chunk


@api.post("/api/intake/batches/<batch_id>/register", responses=answers(Registered))
@permission("file")
def register_batch(path: BatchPath, body: RegisterBatch) -> Registered:
    """Register what nothing stops; hold the rest."""
    return intake.register_batch(context(), actor(), path.batch_id, body)


@api.patch("/api/intake/arrivals/<arrival_id>", responses=answers(Arrival))
@permission("file")
def correct_arrival(path: ArrivalPath, body: CorrectArrival) -> Arrival:
    """Correct what was read."""
    return intake.correct_arrival(context(), actor(), path.arrival_id, body)


@api.post("/api/intake/arrivals/<arrival_id>/discard", responses=answers())
@permission("file")
def discard_arrival(path: ArrivalPath, body: DiscardArrival) -> None:
    """Discard a file, with a reason."""
    intake.discard_arrival(context(), actor(), path.arrival_id, body)
