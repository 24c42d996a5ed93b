"""A folder as one ZIP: how large it would be, made by the worker, fetched by whoever asked for it (handbook §4)."""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Callable, Iterator
from contextlib import nullcontext
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, Literal

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from nod.core.access.audiences import only_for
from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.zip_pack import write_tree
from nod.services.access.folders import folder_paths
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.given_up import GivenUp, given_up_for
from nod.services.acts.seats import SYSTEM, Actor, Seat, actor_of, take_seat, tree_of
from nod.services.acts.work import Concern, Job, Lane, work
from nod.services.files.files_to_send import FileToSend
from nod.services.files.tables_out import MEDIA
from nod.services.register.documents import sendable_name
from nod.store import journal
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, DocumentRow, FolderPackRow, FolderRow, RenditionRow, RevisionRow

MOST_FILES = 50_000
_KEPT = timedelta(days=7)
TELL_EVERY = 50
OPEN = ("waiting", "making")


class AskPack(Command):
    folder_id: str
    revisions: Literal["in_force", "latest", "all"]
    names_as_came: bool


class PackSize(Answered):
    """What a ZIP of the folder and all below would hold, of what one sees."""

    files: int
    size_bytes: int


class PackShown(Answered):
    """`what` is `folder`, or the form of a list: `xlsx`, `csv`; `files` are its lines then."""

    id: str
    what: str
    folder: str
    revisions: str
    state: str
    files: int
    done: int
    size_bytes: int
    asked_at: datetime
    fault: str
    given_up: GivenUp | None


def _folder(session: Session, actor: Actor, folder_id: str) -> tuple[FolderRow, Seat]:
    folder = session.get(FolderRow, folder_id)
    if folder is None:
        raise NotFound(folder_id)
    try:
        seat = take_seat(session, actor, folder.project_id)
    except NotFound as hidden:
        raise NotFound(folder_id) from hidden
    if seat.at(folder_id) is Level.NONE:
        raise NotFound(folder_id)
    return folder, seat


def read_size(context: Context, actor: Actor, folder_id: str, revisions: str) -> PackSize:
    with context.database.read() as session:
        folder, seat = _folder(session, actor, folder_id)
        files = _inside(session, seat, folder, revisions)
        return PackSize(files=len(files), size_bytes=sum(file.size_bytes for _, _, file, _ in files))


def _inside(
    session: Session, seat: Seat, folder: FolderRow, revisions: str
) -> list[tuple[DocumentRow, RevisionRow, RevisionRow | RenditionRow, str]]:
    """Documents that are not withdrawn, their revisions, every file of these, and the tree each came in."""
    tree = tree_of(session, folder.project_id)
    below = [each for each in tree if _is_below(tree, each, folder.id) and seat.at(each) > Level.NONE]
    query = (
        select(DocumentRow, RevisionRow, ArrivalRow.folder_path)
        .join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
        .outerjoin(ArrivalRow, ArrivalRow.revision_id == RevisionRow.id)
        .where(DocumentRow.folder_id.in_(below), ~DocumentRow.withdrawn)
        .order_by(DocumentRow.number, RevisionRow.place)
    )
    wanted = {"in_force": DocumentRow.in_force_id, "latest": DocumentRow.revision_id}.get(revisions)
    if wanted is not None:
        query = query.where(RevisionRow.id == wanted)
    found: list[tuple[DocumentRow, RevisionRow, RevisionRow | RenditionRow, str]] = []
    further = _further_files(session, below)
    seen: set[str] = set()
    for document, revision, path in session.execute(query):
        if revision.id in seen:
            continue
        seen.add(revision.id)
        found += [(document, revision, file, path or "") for file in (revision, *further.get(revision.id, ()))]
    return found


def _further_files(session: Session, folders: list[str]) -> dict[str, list[RenditionRow]]:
    """By revision, its files beside the one that governs."""
    query = (
        select(RenditionRow)
        .join(RevisionRow, RevisionRow.id == RenditionRow.revision_id)
        .join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        .where(DocumentRow.folder_id.in_(folders))
        .order_by(RenditionRow.kind)
    )
    found: dict[str, list[RenditionRow]] = {}
    for row in session.scalars(query):
        found.setdefault(row.revision_id, []).append(row)
    return found


def _is_below(tree: dict[str, str | None], folder: str | None, above: str) -> bool:
    while folder:
        if folder == above:
            return True
        folder = tree[folder]
    return False


def list_packs(context: Context, actor: Actor, project_id: str) -> list[PackShown]:
    """One's own, the newest first."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        paths = folder_paths(session, seat)
        query = select(FolderPackRow).where(
            FolderPackRow.project_id == project_id, FolderPackRow.person_id == actor.private_id
        )
        rows = list(session.scalars(query.order_by(FolderPackRow.asked_at.desc()).limit(20)))
        given_up = given_up_for(session, [_work(row) for row in rows])
        return [show(row, paths, given_up.get(_work(row))) for row in rows]


def _work(row: FolderPackRow) -> str:
    """The key of what the worker does for it."""
    return f"{'pack_list' if row.view else 'pack_folder'}:{row.id}"


def show(row: FolderPackRow, paths: dict[str, str], given_up: GivenUp | None = None) -> PackShown:
    return PackShown(
        id=row.id, what=row.view.get("form", "folder"), folder=paths.get(row.folder_id, ""),
        revisions=row.revisions, state=row.state, files=row.files, done=row.done,
        size_bytes=row.size_bytes, asked_at=row.asked_at, fault=row.fault, given_up=given_up,
    )  # fmt: skip


def ask_pack(context: Context, actor: Actor, command: AskPack) -> PackShown:
    """Raises RuleBroken for an empty folder, one too large, and where the disk has no room for it."""
    with acting(context, actor) as act:
        folder, seat = _folder(act.session, actor, command.folder_id)
        inside = _inside(act.session, seat, folder, command.revisions)
        size = sum(file.size_bytes for _, _, file, _ in inside)
        if not inside:
            raise RuleBroken("folder_empty", f"{folder.name} holds no documents.", folder.name)
        if len(inside) > MOST_FILES:
            raise RuleBroken("pack_large", f"At most {MOST_FILES:,} files go into one ZIP.", folder.name)
        if size > shutil.disk_usage(context.settings.data_dir).free * 0.8:
            raise RuleBroken("no_room", "There is no room left on the disk for this ZIP.", folder.name)
        row = FolderPackRow(
            id=new_id(), project_id=folder.project_id, folder_id=folder.id, person_id=actor.person_id,
            revisions=command.revisions, names_as_came=command.names_as_came, asked_at=act.at,
            state="waiting", files=len(inside), size_bytes=size, done=0,
        )  # fmt: skip
        act.session.add(row)
        act.session.flush()
        record(act, row, FactKind.FOLDER_PACK_ASKED, {"files": len(inside), "size_bytes": size})
        act.ask("pack_folder", _work(row), {"pack_id": row.id})
        return show(row, folder_paths(act.session, seat))


_OF_LISTS = {
    FactKind.FOLDER_PACK_MADE: FactKind.LIST_MADE,
    FactKind.FOLDER_PACK_STOPPED: FactKind.LIST_STOPPED,
    FactKind.FOLDER_PACK_PUT_AWAY: FactKind.LIST_PUT_AWAY,
    FactKind.FOLDER_PACK_DOWNLOADED: FactKind.LIST_DOWNLOADED,
}


def _fact(session: Session, row: FolderPackRow, kind: FactKind, after: dict[str, Any] | None = None) -> Fact:
    """Of a folder's ZIP, or of a list of the register."""
    if row.view:
        return Fact(_OF_LISTS[kind], Subject("project", row.project_id), row.view["name"], after=after or {})
    return Fact(kind, Subject("folder", row.folder_id), _name(session, row), after=after or {})


def record(act: Act, row: FolderPackRow, kind: FactKind, after: dict[str, Any] | None = None) -> None:
    act.record(row.project_id, _fact(act.session, row, kind, after))
    act.tell(row.project_id, "packs", row.id, only=row.person_id)


def _own(act: Act, pack_id: str) -> FolderPackRow:
    row = act.session.get(FolderPackRow, pack_id)
    if row is None or row.person_id != act.actor.person_id:
        raise NotFound(pack_id)
    _folder(act.session, act.actor, row.folder_id)
    return row


def stop_pack(context: Context, actor: Actor, pack_id: str) -> None:
    """Raises RuleBroken for one that is made already."""
    with acting(context, actor) as act:
        row = _own(act, pack_id)
        if row.state not in OPEN:
            raise RuleBroken("pack_over", "This is not being made any more.")
        row.state = "stopped"
        record(act, row, FactKind.FOLDER_PACK_STOPPED)


def _name(session: Session, row: FolderPackRow) -> str:
    return session.get_one(FolderRow, row.folder_id).name


def download_pack(context: Context, actor: Actor, pack_id: str) -> FileToSend:
    """Raises RuleBroken while it is not ready, once it has been put away, and if not all in it may be seen any more."""
    with acting(context, actor) as act:
        row = _own(act, pack_id)
        path = path_of(context, row)
        if row.state != "ready" or not path.is_file():
            raise RuleBroken("pack_not_ready", "This is not ready, or was put away after seven days.")
        _check_still_seen(act, row)
        name = _name(act.session, row)
        record(act, row, FactKind.FOLDER_PACK_DOWNLOADED, {"sha256": row.sha256})
        ending = row.view.get("form", "zip")
        stem = row.view.get("name", name)
        return FileToSend(nullcontext(path), f"{stem}.{ending}", MEDIA.get(ending, "application/zip"))


def _check_still_seen(act: Act, row: FolderPackRow) -> None:
    """What was put in is asked for again, as access may have been taken away since, or a document moved."""
    seat = take_seat(act.session, act.actor, row.project_id)
    folders = dict(act.session.execute(select(DocumentRow.id, DocumentRow.folder_id).where(_of_pack(row))).all())
    gone = sum(1 for each in row.documents if seat.at(folders.get(each, "")) is Level.NONE)
    if gone or not row.documents:
        words = "This holds documents that are not for you any more. Have it made again."
        raise RuleBroken("pack_outdated", words, _name(act.session, row))


def _of_pack(row: FolderPackRow) -> ColumnElement[bool]:
    """Its documents as a condition."""
    return one_of(DocumentRow.id, row.documents)


def path_of(context: Context, row: FolderPackRow) -> Path:
    return context.settings.data_dir / "packs" / f"{row.id}.{row.view.get('form', 'zip')}"


class PackStopped(Exception):
    """Whoever asked for it does not want it any more."""


def _concerns(session: Session, payload: dict[str, Any]) -> list[Concern]:
    pack = session.get(FolderPackRow, payload["pack_id"])
    if pack is None:
        return []
    name = session.get_one(FolderRow, pack.folder_id).name
    return [Concern(pack.project_id, Subject("folder", pack.folder_id), name, "/register", person_id=pack.person_id)]


@work("pack_folder", Lane.REST, "making the ZIP", _concerns)
def make_pack(job: Job, payload: dict[str, Any]) -> None:
    """As the one who asked may see it now. Harmless when done twice."""
    context, pack_id = job.context, payload["pack_id"]
    with context.database.read() as session:
        row = session.get_one(FolderPackRow, pack_id)
        if row.state not in OPEN:
            return
        actor = actor_of(session, row.person_id)
        try:
            folder, seat = _folder(session, actor, row.folder_id)
        except NotFound:
            files = None
        else:
            files, documents = _files(context, session, seat, folder, row)
    if files is None:
        finish(context, pack_id, state="failed", fault="The folder is not there for you any more.")
        return
    target = path_of(context, row)
    target.parent.mkdir(exist_ok=True)
    aside = target.with_suffix(".part")
    try:
        write_tree(aside, _telling(context, pack_id, files, job.go_on))
    except PackStopped:
        aside.unlink(missing_ok=True)
        return
    aside.replace(target)
    with target.open("rb") as made:
        digest = hashlib.file_digest(made, "sha256").hexdigest()
    size = target.stat().st_size
    finish(context, pack_id, state="ready", sha256=digest, size_bytes=size, done=len(files), documents=documents)


def _files(
    context: Context, session: Session, seat: Seat, folder: FolderRow, row: FolderPackRow
) -> tuple[list[tuple[tuple[str, ...], str]], list[str]]:
    """Each file's place inside with its SHA-256, and whose files they are.

    Names as they came keep the tree they came in, so that links between files hold.
    """
    names = _names_below(session, folder)
    found, documents = [], set()
    for document, revision, file, came_in in _inside(session, seat, folder, row.revisions):
        documents.add(document.id)
        inside = names[document.folder_id]
        if row.names_as_came:
            place = (*inside, *filter(None, came_in.split("/")), file.file_name)
            if revision.superseded_at:
                place = (*place[:-1], f"superseded {revision.code}", place[-1])
        else:
            name = sendable_name(document.number, revision.code, revision.status, file.file_name)
            place = (*inside, *(["superseded"] if revision.superseded_at else []), name)
        found.append((place, file.sha256))
    return found, sorted(documents)


def _names_below(session: Session, top: FolderRow) -> dict[str, tuple[str, ...]]:
    """The folders between `top` and each folder below it, itself with."""
    query = select(FolderRow.id, FolderRow.parent_id, FolderRow.name).where(FolderRow.project_id == top.project_id)
    rows = {id: (parent, name) for id, parent, name in session.execute(query)}
    found = {}
    for folder in rows:
        names: list[str] = []
        place: str | None = folder
        while place and place != top.id:
            parent, name = rows[place]
            names.insert(0, name)
            place = parent
        found[folder] = tuple(names)
    return found


def _telling(
    context: Context, pack_id: str, files: list[tuple[tuple[str, ...], str]], keep_on: Callable[[], None]
) -> Iterator[tuple[tuple[str, ...], Path]]:
    """The files one by one, with progress told. Raises PackStopped once it has been stopped."""
    for done, (place, sha256) in enumerate(files):
        if done % TELL_EVERY == 0:
            with context.database.write() as session:
                row = session.get_one(FolderPackRow, pack_id)
                if row.state not in OPEN:
                    raise PackStopped
                row.state, row.done = "making", done
                tell_pack(context, session, row)
            keep_on()
        with context.blobs.local(sha256) as path:
            yield place, path


def tell_pack(context: Context, session: Session, row: FolderPackRow) -> None:
    now = context.clock.now()
    journal.tell(session, now, row.project_id, "packs", row.id, only_for(row.person_id), by="")


def finish(context: Context, pack_id: str, **values: Any) -> None:
    with context.database.write() as session:
        row = session.get_one(FolderPackRow, pack_id)
        if row.state not in OPEN:
            return
        for key, value in values.items():
            setattr(row, key, value)
        after = {"state": row.state, "sha256": row.sha256, "files": row.files}
        fact = _fact(session, row, FactKind.FOLDER_PACK_MADE, after)
        journal.record(session, context.clock.now(), SYSTEM, row.project_id, fact)
        tell_pack(context, session, row)


def forget_old_packs(context: Context) -> int:
    """Puts away the files of packs older than seven days; their lines stay, and say so."""
    now = context.clock.now()
    with context.database.write() as session:
        query = select(FolderPackRow).where(FolderPackRow.asked_at < now - _KEPT, FolderPackRow.state == "ready")
        rows = list(session.scalars(query))
        for row in rows:
            path_of(context, row).unlink(missing_ok=True)
            row.state = "put_away"
            fact = _fact(session, row, FactKind.FOLDER_PACK_PUT_AWAY)
            journal.record(session, now, SYSTEM, row.project_id, fact)
        return len(rows)
