"""Intake over HTTP. Files come as raw bodies, so that they stream."""

from __future__ import annotations

from pydantic import RootModel

from nod.services.acts.answers import FromOutside
from nod.services.intake import corrections, held_files, intake, intake_view, registering, split_sets, telling
from nod.services.intake.corrections import CorrectArrivals, Corrected
from nod.services.intake.held_files import DiscardFiles, HeldLine, SendBack, Senders
from nod.services.intake.intake import BatchOpened, ChangeBatch, OpenBatch
from nod.services.intake.intake_view import Arrival, Batch, BatchLine
from nod.services.intake.registering import RegisterBatch, Registered
from nod.services.intake.split_sets import SeenArrival
from nod.services.intake.telling import Tellable
from nod.web.answers import answers, feature
from nod.web.bodies import body_pieces, largest_file, raw_body
from nod.web.guard import actor, context, permission

api = feature("intake")


class OfProject(FromOutside):
    project_id: str


class FileQuery(FromOutside):
    """`folder` is the tree the file came in."""

    name: str
    folder: str = ""


class BatchPath(FromOutside):
    batch_id: str


class ArrivalPath(FromOutside):
    arrival_id: str


class HeldLines(RootModel[list[HeldLine]]):
    pass


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
@raw_body(largest_file)
def add_file(path: BatchPath, query: FileQuery) -> Arrival:
    """Add a file: its bytes are the body."""
    return intake.add_file(context(), actor(), path.batch_id, query.name, body_pieces(), query.folder)


@api.post("/api/intake/batches/<batch_id>/register", responses=answers(Registered))
@permission("file")
def register_batch(path: BatchPath, body: RegisterBatch) -> Registered:
    """Register what nothing stops; hold the rest."""
    return registering.register_batch(context(), actor(), path.batch_id, body)


@api.patch("/api/intake/batches/<batch_id>", responses=answers())
@permission("file")
def change_batch(path: BatchPath, body: ChangeBatch) -> None:
    """Where the new documents of a batch go."""
    intake.change_batch(context(), actor(), path.batch_id, body)


@api.post("/api/intake/batches/<batch_id>/corrections", responses=answers(Corrected))
@permission("file")
def correct_arrivals(path: BatchPath, body: CorrectArrivals) -> Corrected:
    """Correct what was read of one file or of many, all or none."""
    return corrections.correct_arrivals(context(), actor(), path.batch_id, body)


@api.post("/api/intake/batches/<batch_id>/discard", responses=answers())
@permission("file")
def discard_files(path: BatchPath, body: DiscardFiles) -> None:
    """Discard files, with a reason."""
    held_files.discard_files(context(), actor(), path.batch_id, body)


@api.post("/api/intake/batches/<batch_id>/send-back", responses=answers())
@permission("file")
def send_back(path: BatchPath, body: SendBack) -> None:
    """Send files back to a person, with what was found."""
    held_files.send_back(context(), actor(), path.batch_id, body)


@api.get("/api/intake/batches/<batch_id>/senders", responses=answers(Senders))
@permission("file")
def list_senders(path: BatchPath) -> Senders:
    """To whom files of the batch can be sent back."""
    return held_files.list_senders(context(), actor(), path.batch_id)


@api.get("/api/intake/held", responses=answers(HeldLines))
@permission("file")
def list_held(query: OfProject) -> list[HeldLine]:
    """Everything held, the oldest first."""
    return held_files.list_held(context(), actor(), query.project_id)


@api.post("/api/intake/arrivals/<arrival_id>/split", responses=answers())
@permission("file")
def ask_split(path: ArrivalPath, body: SeenArrival) -> None:
    """Have a set taken apart into sheets."""
    split_sets.ask_split(context(), actor(), path.arrival_id, body)


@api.post("/api/intake/arrivals/<arrival_id>/put-together", responses=answers())
@permission("file")
def put_together(path: ArrivalPath, body: SeenArrival) -> None:
    """Make a set one file again."""
    split_sets.put_together(context(), actor(), path.arrival_id, body)


@api.get("/api/intake/tellable", responses=answers(Tellable))
@permission("file")
def list_tellable(query: OfProject) -> Tellable:
    """People, roles and companies that can be told of what is registered."""
    return telling.list_tellable(context(), actor(), query.project_id)
