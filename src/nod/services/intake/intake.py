"""Intake: files arrive, are checked, corrected, and registered or held (handbook §5)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.folder_names import tidy_path
from nod.core.access.levels import Level, downward
from nod.core.acts.refusals import NotFound
from nod.core.intake import file_names as names
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat, tree_of
from nod.services.files.new_files import NewBlob, keep_blob, store_file
from nod.services.intake import arrivals, from_whom
from nod.services.intake.from_whom import CameFrom
from nod.services.intake.intake_check import check_batch, open_rows, see_batch
from nod.services.intake.intake_view import Arrival, show_arrival
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, CompanyRow, FolderRow, ProjectRow

_ZIP_TYPES = ("application/zip", "application/x-zip-compressed")


class OpenBatch(Command):
    project_id: str
    came_from: str = ""
    folder_id: str = ""


class ChangeBatch(Command):
    """Where its new documents go, whether the folders that came with the files are made there; from whom it came."""

    folder_id: str
    keep_tree: bool
    came: CameFrom | None = None


class BatchOpened(Answered):
    id: str


def open_batch(context: Context, actor: Actor, command: OpenBatch) -> BatchOpened:
    """A new, empty batch. `came_from` is the company that sent the files; empty where nobody has said it yet.

    New documents go into `folder_id`; empty for the topmost folder into which the actor may file.
    """
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.FILE)
        folder = _target(act.session, seat, command.folder_id)
        batch = BatchRow(
            id=new_id(),
            project_id=command.project_id,
            folder_id=folder,
            source="browser",
            came_from=command.came_from.strip()[:120] or act.session.get_one(CompanyRow, actor.company_id).name,
            came_said=bool(command.came_from.strip()),
            arrived_by=actor.person_id,
            arrived_at=act.at,
        )
        act.session.add(batch)
        act.session.flush()
        act.record(
            batch.project_id,
            Fact(FactKind.BATCH_OPENED, Subject("batch", batch.id), batch.came_from, after={"source": batch.source}),
        )
        return BatchOpened(id=batch.id)


def _target(session: Session, seat: Seat, folder_id: str) -> str:
    """Raises NotFound for a folder that is not there for this person, NotAllowed for one they may not file into."""
    tree = tree_of(session, seat.project.id)
    if not folder_id:
        return next(each for each in downward(tree) if seat.at(each) >= Level.FILE)
    if folder_id not in tree:
        raise NotFound(folder_id)
    seat.need_at(folder_id, Level.FILE, session.get_one(FolderRow, folder_id).name)
    return folder_id


def check_may_add(context: Context, actor: Actor, batch_id: str) -> None:
    """Asked before the bytes are taken in. Raises NotFound or NotAllowed."""
    with context.database.read() as session:
        see_batch(session, actor, batch_id)


def add_file(
    context: Context, actor: Actor, batch_id: str, file_name: str, chunks: Iterable[bytes], folder_path: str = ""
) -> Arrival:
    """Stores the bytes once and adds the file to the batch; the worker looks into it afterwards.

    `folder_path` is the tree the file came in, like `Issue 3/Plans`; only kept as words.
    """
    check_may_add(context, actor, batch_id)
    arrived = store_file(context, names.base_name(file_name), chunks)
    with acting(context, actor) as act:
        return take_in(act, batch_id, names.base_name(file_name), tidy_path(folder_path), arrived)


def take_in(act: Act, batch_id: str, file_name: str, folder_path: str, blob: NewBlob) -> Arrival:
    """A stored file joins its batch."""
    batch, seat = see_batch(act.session, act.actor, batch_id)
    keep_blob(act, blob)
    row = new_arrival(act, batch, seat.project, file_name, blob.sha256, folder_path)
    act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
    return show_arrival(check_batch(act.session, seat, [row])[0])


def new_arrival(
    act: Act, batch: BatchRow, project: ProjectRow, name: str, sha256: str, folder_path: str,
    inside: ArrivalRow | None = None,
) -> ArrivalRow:  # fmt: skip
    """A file of the batch. Its name is read here; its title block once it has been looked into.

    `inside` is the archive that it came out of.
    """
    found = rules_of(project)
    reading = asdict(names.read_file_name(name, found.scheme, found.statuses, found.convention))
    unsure = " ".join(reading.pop("unsure"))
    by_name = reading | ({"unsure": unsure} if unsure else {})
    place = act.session.scalar(select(func.max(ArrivalRow.place)).where(ArrivalRow.batch_id == batch.id))
    row = ArrivalRow(
        id=new_id(), batch_id=batch.id, project_id=batch.project_id, place=0 if place is None else place + 1,
        file_name=name, sha256=sha256, **reading, by_name=by_name, by_block={}, chosen={}, scale="", state="waiting",
        folder_path=folder_path[:500], split_from="", kept_whole=False, version=1,
        depth=inside.depth + 1 if inside else 0, archive_id=(inside.archive_id or inside.id) if inside else "",
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    after = {"number": row.number, "revision": row.revision, "sha256": sha256}
    fact = Fact(FactKind.FILE_ARRIVED, Subject("arrival", row.id), name, (Subject("batch", batch.id),), after=after)
    act.record(batch.project_id, fact)
    arrivals.follow_up(act.session, act.at, [row])
    blob = act.session.get_one(BlobRow, sha256)
    if is_archive(blob.media_type, name):
        act.ask("unpack", f"unpack:{row.id}", {"arrival_id": row.id})
    return row


def is_archive(media_type: str, file_name: str) -> bool:
    """Office files and models are archives too, and are filed as they are."""
    return media_type in _ZIP_TYPES and file_name.lower().endswith(".zip")


def change_batch(context: Context, actor: Actor, batch_id: str, command: ChangeBatch) -> None:
    with acting(context, actor) as act:
        batch, seat = see_batch(act.session, actor, batch_id)
        before = {"folder": batch.folder_id, "keep_tree": batch.keep_tree}
        batch.folder_id = _target(act.session, seat, command.folder_id)
        batch.keep_tree = command.keep_tree
        after = {"folder": batch.folder_id, "keep_tree": batch.keep_tree}
        if command.came:
            before |= from_whom.kept(batch)
            company = batch.came_from if batch.came_said else ""
            from_whom.say(act, batch, command.came)
            after |= from_whom.kept(batch)
            if batch.came_from != company:
                # Another company's title blocks are read by other readers.
                arrivals.follow_up(act.session, act.at, open_rows(act.session, batch.id))
        old, new = changed(before, after)
        if new:
            fact = Fact(FactKind.BATCH_CHANGED, Subject("batch", batch.id), batch.came_from, before=old, after=new)
            act.record(batch.project_id, fact)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
