"""Transmittals that came in over HTTP: a list against the files of its batch, the receipt, the log."""

from __future__ import annotations

from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.files.tables_in import LARGEST_BYTES
from nod.services.transmittals import received, received_view
from nod.services.transmittals.received import KeepReceived, ListText, ListTried, RemoveReceived, SendReceipt
from nod.services.transmittals.received_view import ReceivedLog
from nod.web.answers import answers, feature
from nod.web.bodies import body_pieces, raw_body
from nod.web.guard import actor, context, permission

api = feature("received")


class BatchPath(FromOutside):
    batch_id: str


class SheetQuery(FromOutside):
    """Of a book, which sheet; empty for the first with something in it."""

    sheet: str = ""


class ReceivedPath(FromOutside):
    received_id: str


class LogQuery(FromOutside):
    project_id: str
    start: int = Field(default=0, ge=0)
    limit: int = Field(default=50, ge=1, le=200)


@api.get("/api/received", responses=answers(ReceivedLog))
@permission("file")
def list_received(query: LogQuery) -> ReceivedLog:
    """Transmittals that came in, the last that was entered first."""
    return received_view.list_received(context(), actor(), query.project_id, query.start, query.limit)


@api.get("/api/intake/batches/<batch_id>/received", responses=answers(ReceivedLog))
@permission("file")
def list_received_of_batch(path: BatchPath) -> ReceivedLog:
    """Those that came with a batch, held against its files."""
    return received_view.of_batch(context(), actor(), path.batch_id)


@api.post("/api/intake/batches/<batch_id>/received", responses=answers(ListTried))
@permission("file")
def keep_received(path: BatchPath, body: KeepReceived) -> ListTried:
    """Try a list against the files of a batch, or keep it."""
    return received.keep_received(context(), actor(), path.batch_id, body)


@api.put("/api/intake/batches/<batch_id>/received/list", responses=answers(ListText))
@permission("file")
@raw_body(lambda _: LARGEST_BYTES)
def read_received_list(path: BatchPath, query: SheetQuery) -> ListText:
    """A list that came as XLSX or CSV, as text; its bytes are the body."""
    return received.text_of_file(context(), actor(), path.batch_id, body_pieces(), query.sheet)


@api.post("/api/received/<received_id>/receipt", responses=answers())
@permission("file")
def send_receipt(path: ReceivedPath, body: SendReceipt) -> None:
    """Tell its sender what came of it."""
    received.send_receipt(context(), actor(), path.received_id, body)


@api.post("/api/received/<received_id>/remove", responses=answers())
@permission("file")
def remove_received(path: ReceivedPath, body: RemoveReceived) -> None:
    """Take away one that was entered by mistake."""
    received.remove_received(context(), actor(), path.received_id, body)
