"""Files on their way in pieces: what has come stays when the line breaks, and the rest follows (tus 1.0.0)."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path
from typing import BinaryIO

from pydantic import BaseModel
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.folder_names import tidy_path
from nod.core.acts.refusals import NotFound, RuleBroken, Stale
from nod.core.intake.file_names import base_name
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import FromOutside
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.files.new_files import new_blob, no_room
from nod.services.intake import intake
from nod.services.intake.intake_check import see_batch
from nod.store.blobs import NoRoom, room
from nod.store.ids import new_id
from nod.store.tables import BatchRow, UploadRow

KEPT = timedelta(days=2)


class BeginUpload(FromOutside):
    """What a browser says of a file before its bytes come."""

    batch_id: str
    file_name: str
    folder: str = ""
    size_bytes: int


class UploadStanding(BaseModel):
    """How far an upload has come."""

    id: str
    offset: int
    size_bytes: int


def _path(context: Context, upload_id: str) -> Path:
    return context.settings.data_dir / "uploads" / upload_id


def begin_upload(context: Context, actor: Actor, command: BeginUpload) -> UploadStanding:
    """Raises RuleBroken for a file that is too large, or for which there is no room."""
    with acting(context, actor) as act:
        batch, _ = see_batch(act.session, actor, command.batch_id)
        largest = context.settings.largest_file_bytes
        name = base_name(command.file_name)
        if not 0 <= command.size_bytes <= largest:
            raise RuleBroken("file_too_large", f"The file is larger than {largest // 1024**2} MB.", name)
        row = UploadRow(
            id=new_id(), batch_id=batch.id, person_id=actor.person_id, file_name=name,
            folder_path=tidy_path(command.folder), size_bytes=command.size_bytes, begun_at=act.at,
        )  # fmt: skip
        act.session.add(row)
        after = {"size_bytes": row.size_bytes}
        act.record(batch.project_id, Fact(FactKind.UPLOAD_BEGUN, Subject("batch", batch.id), name, after=after))
        path = _path(context, row.id)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch()
        standing = UploadStanding(id=row.id, offset=0, size_bytes=row.size_bytes)
    return _finished(context, actor, standing)


def read_upload(context: Context, actor: Actor, upload_id: str) -> UploadStanding:
    """Raises NotFound for an upload of somebody else.

    Whoever hears that all bytes have come takes the file for arrived: so it arrives here, should Nod have been stopped
    between the last byte and the act.
    """
    return _finished(context, actor, _standing(context, actor, upload_id))


def _standing(context: Context, actor: Actor, upload_id: str) -> UploadStanding:
    with context.database.read() as session:
        row = _find(session, actor, upload_id)
        came = row.size_bytes if row.done_at else _come(context, upload_id)
        return UploadStanding(id=row.id, offset=came, size_bytes=row.size_bytes)


def _come(context: Context, upload_id: str) -> int:
    """A stop between the promise and the first byte leaves no file: then nothing has come."""
    try:
        return _path(context, upload_id).stat().st_size
    except FileNotFoundError:
        return 0


def _find(session: Session, actor: Actor, upload_id: str) -> UploadRow:
    row = session.get(UploadRow, upload_id)
    if row is None or row.person_id != actor.person_id:
        raise NotFound(upload_id)
    see_batch(session, actor, row.batch_id)
    return row


def add_piece(context: Context, actor: Actor, upload_id: str, offset: int, chunks: Iterator[bytes]) -> UploadStanding:
    """Appends at `offset`; the last piece makes the file arrive. What came before a line broke is kept.

    Raises Stale if `offset` is not where the file ends, or another piece is coming in at this moment.
    """
    standing = _standing(context, actor, upload_id)
    if offset != standing.offset:
        raise Stale(upload_id)
    if offset == standing.size_bytes:
        return _finished(context, actor, standing)
    with _alone(_path(context, upload_id)) as file:
        if os.fstat(file.fileno()).st_size != offset:
            raise Stale(upload_id)
        _append(file, chunks, standing.size_bytes - offset)
        standing = standing.model_copy(update={"offset": os.fstat(file.fileno()).st_size})
    return _finished(context, actor, standing)


@contextmanager
def _alone(path: Path) -> Iterator[BinaryIO]:
    with path.open("ab", buffering=0) as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise Stale(path.name) from error
        yield file


def _append(file: BinaryIO, chunks: Iterator[bytes], left: int) -> None:
    try:
        with room():
            for chunk in chunks:
                left -= len(chunk)
                if left < 0:
                    raise RuleBroken("upload_too_long", "More bytes came than the browser had announced.")
                file.write(chunk)
            os.fsync(file.fileno())
    except NoRoom as error:
        raise no_room() from error


def _finished(context: Context, actor: Actor, standing: UploadStanding) -> UploadStanding:
    """The file has come whole: it is stored and joins its batch, once, in one transaction."""
    if standing.offset < standing.size_bytes:
        return standing
    path = _path(context, standing.id)
    try:
        blob = context.blobs.put_file(path)
    except NoRoom as error:
        raise no_room() from error
    except FileNotFoundError:
        return _gone(context, actor, standing)
    arrived = new_blob(blob)
    with acting(context, actor) as act:
        row = _find(act.session, actor, standing.id)
        if row.done_at is None:
            intake.take_in(act, row.batch_id, row.file_name, row.folder_path, arrived)
            row.done_at = act.at
    path.unlink(missing_ok=True)
    return standing


def _gone(context: Context, actor: Actor, standing: UploadStanding) -> UploadStanding:
    """What lay aside is not there: it has arrived, or an empty file's place was lost in a crash, and is made again."""
    with context.database.read() as session:
        if _find(session, actor, standing.id).done_at:
            return standing
    _path(context, standing.id).touch()
    raise Stale(standing.id)


def end_upload(context: Context, actor: Actor, upload_id: str) -> None:
    """Stopped by the person: what has come is thrown away."""
    with acting(context, actor) as act:
        row = _find(act.session, actor, upload_id)
        if row.done_at:
            raise RuleBroken(
                "arrival_gone", "This file has arrived already. It can be discarded in Intake.", row.file_name
            )
        batch = act.session.get_one(BatchRow, row.batch_id)
        act.record(batch.project_id, Fact(FactKind.UPLOAD_STOPPED, Subject("batch", batch.id), row.file_name))
        act.session.delete(row)
    _path(context, upload_id).unlink(missing_ok=True)


def forget_old_uploads(context: Context) -> int:
    """Uploads begun more than two days ago, arrived or left lying; returns how many."""
    before = context.clock.now() - KEPT
    with context.database.write() as session:
        rows = list(session.scalars(select(UploadRow).where(UploadRow.begun_at < before)))
        for row in rows:
            session.delete(row)
            _path(context, row.id).unlink(missing_ok=True)
    return len(rows)
