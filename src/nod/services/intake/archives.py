"""An archive that arrived becomes the files in it; what is refused is told by name, and the archive itself is kept."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.intake.file_names import is_of_a_system
from nod.core.intake.findings import OPEN_STATES
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.bag_read import bag_folder, documents_of
from nod.formats.files.zip_unpack import BadArchive, Member, check_count, list_members, read_members
from nod.services.acts.arrived_files import of_arrival
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import actor_of
from nod.services.acts.work import Job, Lane, work
from nod.services.files.new_files import NewBlob, keep_blob, new_blob
from nod.services.intake import intake
from nod.store.blobs import BlobTooLarge
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, ProjectRow

MOST_DEEP = 3
"""An archive in an archive in an archive is opened; what lies deeper is not."""
_NAMED_AT_MOST = 20


@work("unpack", Lane.LOOK, "unpacking the archive", of_arrival)
def unpack_archive(job: Job, payload: dict[str, Any]) -> None:
    """Every file is stored first, then all become arrivals in one transaction."""
    context, arrival_id = job.context, payload["arrival_id"]
    with context.database.read() as session:
        row = session.get(ArrivalRow, arrival_id)
        if row is None or row.state not in OPEN_STATES:
            return
        sha256, depth = row.sha256, row.depth
        before = _came_out_before(session, row)
    if depth >= MOST_DEEP:
        words = f"The archive lies inside {depth} others, and at most {MOST_DEEP} are opened. Send it by itself."
        _refuse(context, arrival_id, words)
        return
    stored: list[tuple[Member, NewBlob]] = []
    refused: list[Member] = []

    def take(member: Member, chunks: Iterator[bytes]) -> None:
        job.go_on()
        try:
            blob = context.blobs.put(_telling(chunks, job.go_on), context.settings.largest_file_bytes)
        except BlobTooLarge as error:
            raise OverflowError from error
        stored.append((member, new_blob(blob)))

    try:
        with context.blobs.local(sha256) as path:
            listed = list_members(path, *before)
            members, of_bag = _wanted(listed)
            left_out = 0 if of_bag else len(listed) - len(members)
            refused = [each for each in members if each.trouble]
            refused += read_members(path, [each for each in members if not each.trouble], take)
    except BadArchive as error:
        _refuse(context, arrival_id, str(error))
        return
    try:
        _store(context, arrival_id, stored, refused, left_out, of_bag)
    except BadArchive as error:
        _refuse(context, arrival_id, str(error))


def _wanted(listed: list[Member]) -> tuple[list[Member], bool]:
    """What is to be filed: of a bag its documents, without its cover sheet, its list and what only tells of them."""
    members = [each for each in listed if not is_of_a_system(each.info.filename)]
    folder = bag_folder(each.info.filename for each in members)
    if folder is None:
        return members, False
    return documents_of(members, folder), True


def _telling(chunks: Iterator[bytes], keep_on: Callable[[], None]) -> Iterator[bytes]:
    for chunk in chunks:
        keep_on()
        yield chunk


def _came_out_before(session: Session, row: ArrivalRow) -> tuple[int, int]:
    """How many files, and bytes, have come out of archives of the same upload."""
    if not row.archive_id:
        return 0, 0
    query = select(func.count(), func.coalesce(func.sum(BlobRow.size_bytes), 0)).select_from(ArrivalRow)
    query = query.join(BlobRow, BlobRow.sha256 == ArrivalRow.sha256)
    files, size = session.execute(query.where(ArrivalRow.archive_id == row.archive_id)).one()
    return files, size


def _refuse(context: Context, arrival_id: str, words: str) -> None:
    with context.database.write() as session:
        row = session.get_one(ArrivalRow, arrival_id)
        row.unpack_trouble, row.version = words, row.version + 1
        act = _act(context, session, row)
        act.record(row.project_id, Fact(FactKind.ARCHIVE_REFUSED, Subject("arrival", row.id), row.file_name, why=words))
        _tell(act, row)


def _store(
    context: Context, arrival_id: str, stored: list[tuple[Member, NewBlob]], refused: list[Member], left_out: int,
    of_bag: bool,
) -> None:  # fmt: skip
    with context.database.write() as session:
        row = session.get_one(ArrivalRow, arrival_id)
        if row.state not in OPEN_STATES:
            return
        act = _act(context, session, row)
        batch = session.get_one(BatchRow, row.batch_id)
        project = session.get_one(ProjectRow, row.project_id)
        # Another worker may have unpacked a part of the same upload meanwhile.
        check_count(len(stored), _came_out_before(session, row)[0])
        for member, blob in stored:
            keep_blob(act, blob)
            folder = "/".join(part for part in (row.folder_path, member.folder_path) if part)
            intake.new_arrival(act, batch, project, member.name, blob.sha256, folder, inside=row)
        row.state, row.reason, row.version = "unpacked", _words(len(stored), refused, left_out), row.version + 1
        batch.left_out += left_out
        if of_bag:
            # Who sent it and what it says is read by who knows of transmittals.
            act.ask("bag", f"bag:{row.id}", {"arrival_id": row.id})
        after = {"files": len(stored), **({"left out": left_out} if left_out else {})}
        fact = Fact(FactKind.ARCHIVE_UNPACKED, Subject("arrival", row.id), row.file_name, after=after)
        act.record(row.project_id, fact)
        _tell(act, row)


def _words(count: int, refused: list[Member], left_out: int) -> str:
    words = f"{count} file{'' if count == 1 else 's'} taken out."
    if left_out:
        words += f" {left_out} of the system’s own left out."
    if not refused:
        return words
    named = [f"“{each.info.filename[:80]}” ({each.trouble})" for each in refused[:_NAMED_AT_MOST]]
    more = f" and {len(refused) - _NAMED_AT_MOST} more" if len(refused) > _NAMED_AT_MOST else ""
    return f"{words} Refused: {', '.join(named)}{more}."


def _act(context: Context, session: Any, row: ArrivalRow) -> Act:
    """On behalf of whoever brought the archive."""
    batch = session.get_one(BatchRow, row.batch_id)
    return Act(context, session, actor_of(session, batch.arrived_by, "an archive"), context.clock.now())


def _tell(act: Act, row: ArrivalRow) -> None:
    batch = act.session.get_one(BatchRow, row.batch_id)
    act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
