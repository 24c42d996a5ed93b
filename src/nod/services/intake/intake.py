"""Intake: files arrive, are checked, corrected, and registered or held (handbook §5)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.folder_names import tidy_path
from nod.core.access.levels import Level, downward
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.intake import checks as rules
from nod.core.intake import file_names as names
from nod.core.intake.checks import OPEN_STATES
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.given_up import given_up_for
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat, tree_of
from nod.services.compare import arrival_comparisons
from nod.services.files.new_files import NewBlob, keep_blob, store_file
from nod.services.intake import arrivals
from nod.services.intake.intake_check import Checked, check_batch, open_rows, see_batch
from nod.services.intake.intake_view import Arrival, show_arrival
from nod.services.register import filings, standing
from nod.services.register.filings import Folders
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, CompanyRow, DocumentRow, FolderRow, ProjectRow, RevisionRow

_ZIP_TYPES = ("application/zip", "application/x-zip-compressed")


class OpenBatch(Command):
    project_id: str
    came_from: str = ""
    folder_id: str = ""


class ChangeBatch(Command):
    """Where its new documents go, and whether the folders that came with the files are made there."""

    folder_id: str
    keep_tree: bool


class RegisterBatch(Command):
    """`seen` lists the arrivals and versions the controller saw, so that nothing unseen is filed."""

    seen: dict[str, int]


class BatchOpened(Answered):
    id: str


class Outcome(Answered):
    """What registering did with one file."""

    id: str
    file_name: str
    result: Literal["registered", "already_there", "held"]
    reason: str


class Registered(Answered):
    outcomes: list[Outcome]


def open_batch(context: Context, actor: Actor, command: OpenBatch) -> BatchOpened:
    """A new, empty batch. `came_from` is the company that sent the files; empty for the actor's own.

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
        old, new = changed(before, {"folder": batch.folder_id, "keep_tree": batch.keep_tree})
        if new:
            fact = Fact(FactKind.BATCH_CHANGED, Subject("batch", batch.id), batch.came_from, before=old, after=new)
            act.record(batch.project_id, fact)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})


def register_batch(context: Context, actor: Actor, batch_id: str, command: RegisterBatch) -> Registered:
    """Files everything that nothing stops, in one transaction; the rest is held with its reason.

    Findings are made anew inside the transaction: what was fine a minute ago may be a silent change by now.
    Raises RuleBroken(`still_looking`) while the worker has not looked into every file, Stale for unseen changes.
    """
    with acting(context, actor) as act:
        batch, seat = see_batch(act.session, actor, batch_id)
        rows = open_rows(act.session, batch_id)
        for row in rows:
            check_version(command.seen.get(row.id, 0), row.version, row.file_name)
        checked = check_batch(act.session, seat, rows)
        unread = _never_read(act.session, checked)
        if any(each.arriving is None and each.row.id not in unread for each in checked):
            raise RuleBroken("still_looking", "Nod is still looking into some of these files. Wait a moment.")
        folders = Folders(act, seat, batch)
        outcomes = [_settle(act, seat.project, batch, each, folders, unread) for each in checked]
        filed = _filed(act.session, rows)
        standing.refresh(act.session, set(filed))
        _compare_again(act, seat.project, rows)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
        for folder in sorted(set(filed.values())):
            act.tell(batch.project_id, "register", folder, {folder})
        return Registered(outcomes=outcomes)


def _filed(session: Session, rows: list[ArrivalRow]) -> dict[str, str]:
    """The documents under which these were filed, with the folders of each."""
    filed = [row.revision_id for row in rows if row.revision_id]
    query = select(DocumentRow.id, DocumentRow.folder_id).join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
    return {document: folder for document, folder in session.execute(query.where(RevisionRow.id.in_(filed)))}


def _compare_again(act: Act, project: ProjectRow, rows: list[ArrivalRow]) -> None:
    """What waits elsewhere under the same numbers now stands against other revisions."""
    numbers = {row.number for row in rows if row.state == "registered"}
    query = select(ArrivalRow).where(
        ArrivalRow.project_id == project.id, ArrivalRow.number.in_(numbers), ArrivalRow.state.in_(OPEN_STATES)
    )
    arrival_comparisons.ask(act.session, act.at, project, list(act.session.scalars(query)))


_NEVER_READ = "Nod gave up reading this file. Have it tried again, or ask for it anew."


def _never_read(session: Session, checked: list[Checked]) -> set[str]:
    """Files that nothing more will be found out about until somebody has them tried again: these are held."""
    unread = [each.row for each in checked if each.arriving is None]
    given_up = given_up_for(session, {f"look_into:{row.sha256}" for row in unread})
    return {row.id for row in unread if f"look_into:{row.sha256}" in given_up}


def _settle(
    act: Act, project: ProjectRow, batch: BatchRow, checked: Checked, folders: Folders, unread: set[str]
) -> Outcome:
    row = checked.row
    row.version += 1
    if row.id in unread:
        _hold(act, row, _NEVER_READ)
    elif rules.is_stopped(checked.findings):
        _hold(act, row, rules.held_reason(checked.findings))
    elif rules.is_already_there(checked.findings):
        row.state, row.reason = "already_there", checked.findings[0].words
        act.record(row.project_id, Fact(FactKind.FILE_ALREADY_THERE, Subject("arrival", row.id), row.file_name))
    else:
        row.status = row.status or "S0"
        revision = filings.file_revision(act, project, filings.incoming_of(batch, row), folders.of(row))
        row.state, row.reason, row.revision_id = "registered", "", revision.id
    result = {"registered": "registered", "already_there": "already_there"}.get(row.state, "held")
    return Outcome.model_validate({"id": row.id, "file_name": row.file_name, "result": result, "reason": row.reason})


def _hold(act: Act, row: ArrivalRow, reason: str) -> None:
    if row.state == "held" and row.reason == reason:
        return
    row.held_at = row.held_at or act.at
    row.state, row.reason = "held", reason
    act.record(row.project_id, Fact(FactKind.FILE_HELD, Subject("arrival", row.id), row.file_name, why=reason))
