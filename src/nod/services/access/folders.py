"""The folder tree: make, rename, move, remove what is empty (handbook §3)."""

from __future__ import annotations

from sqlalchemy import String, cast, delete, exists, func, select
from sqlalchemy.orm import Session

from nod.core.access.folder_names import check_folder_name
from nod.core.access.levels import Level, check_move
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import add_folder
from nod.services.acts.seats import Actor, Seat, take_seat, tree_of
from nod.store.tables import BatchRow, DocumentRow, FolderRow, GrantRow, ReviewRow, RouteRow


class FolderShown(Answered):
    """A folder as its viewer may see it; `parent_id` is the nearest one above that they see.

    `documents` counts those in the folder itself; `level` is the viewer's.
    """

    id: str
    parent_id: str | None
    name: str
    depth: int
    level: str
    documents: int


class MakeFolder(Command):
    parent_id: str
    name: str


class RenameFolder(Command):
    name: str


class MoveFolder(Command):
    parent_id: str


class FolderMade(Answered):
    id: str


def list_folders(context: Context, actor: Actor, project_id: str) -> list[FolderShown]:
    """Each folder after the one it is in, sisters by name."""
    with context.database.read() as session:
        return folders_shown(session, take_seat(session, actor, project_id))


def folders_shown(session: Session, seat: Seat) -> list[FolderShown]:
    query = select(FolderRow).where(FolderRow.project_id == seat.project.id, seat.sees(FolderRow.id))
    rows = {row.id: row for row in session.scalars(query.order_by(FolderRow.name))}
    tree = tree_of(session, seat.project.id)
    counting = select(DocumentRow.folder_id, func.count()).where(
        DocumentRow.project_id == seat.project.id, seat.sees(DocumentRow.folder_id)
    )
    counts = dict(session.execute(counting.group_by(DocumentRow.folder_id)).all())
    children: dict[str | None, list[FolderRow]] = {}
    for row in rows.values():
        children.setdefault(_nearest_seen(tree, rows, row.id), []).append(row)
    found: list[FolderShown] = []

    def add(parent: str | None, depth: int) -> None:
        for row in children.get(parent, ()):
            level = seat.at(row.id).name.lower()
            found.append(
                FolderShown(
                    id=row.id, parent_id=parent, name=row.name, depth=depth, level=level,
                    documents=counts.get(row.id, 0),
                )
            )  # fmt: skip
            add(row.id, depth + 1)

    add(None, 0)
    return found


def _nearest_seen(tree: dict[str, str | None], seen: dict[str, FolderRow], folder: str) -> str | None:
    place = tree[folder]
    while place is not None and place not in seen:
        place = tree[place]
    return place


def folder_path(session: Session, seat: Seat, folder_id: str) -> str:
    """`Drawings / Architecture`: the folders above that are seen; the topmost only where it stands alone."""
    names: list[str] = []
    place: str | None = folder_id
    while place:
        folder = session.get_one(FolderRow, place)
        if seat.at(place) > Level.NONE:
            names.insert(0, folder.name)
        place = folder.parent_id
    return " / ".join(names[1:] if len(names) > 1 and seat.at(_root(session, seat)) > Level.NONE else names)


def folder_paths(session: Session, seat: Seat) -> dict[str, str]:
    """The path of every folder that is seen, as `folder_path` gives it, in the order of the tree."""
    query = select(FolderRow.id, FolderRow.parent_id, FolderRow.name).where(FolderRow.project_id == seat.project.id)
    rows = {id: (parent, name) for id, parent, name in session.execute(query)}
    found: dict[str, str] = {}
    for folder in rows:
        if seat.at(folder) is Level.NONE:
            continue
        names: list[str] = []
        place = folder
        while place:
            parent, name = rows[place]
            if seat.at(place) > Level.NONE and (parent or place == folder):
                names.insert(0, name)
            place = parent or ""
        found[folder] = " / ".join(names)
    return dict(sorted(found.items(), key=lambda each: each[1].casefold()))


def folders_above(session: Session, folder_id: str | None) -> set[str]:
    """The folder itself and all those it is in."""
    found: set[str] = set()
    while folder_id:
        found.add(folder_id)
        folder_id = session.get_one(FolderRow, folder_id).parent_id
    return found


def _root(session: Session, seat: Seat) -> str:
    query = select(FolderRow.id).where(FolderRow.project_id == seat.project.id, FolderRow.parent_id.is_(None))
    return session.scalars(query).one()


def see_folder(session: Session, actor: Actor, folder_id: str, level: Level) -> tuple[FolderRow, Seat]:
    """Raises NotFound for a folder that is not there for this person, NotAllowed below `level`."""
    folder = session.get(FolderRow, folder_id)
    if folder is None:
        raise NotFound(folder_id)
    seat = take_seat(session, actor, folder.project_id)
    if seat.at(folder_id) is Level.NONE:
        raise NotFound(folder_id)
    seat.need_at(folder_id, level, folder.name)
    return folder, seat


def make_folder(context: Context, actor: Actor, command: MakeFolder) -> FolderMade:
    with acting(context, actor) as act:
        parent, seat = see_folder(act.session, actor, command.parent_id, Level.KEEP)
        name = check_folder_name(command.name)
        _check_free(act.session, parent, name, "")
        id = add_folder(act, seat.project.id, parent.id, name)
        _changed(act, seat)
        return FolderMade(id=id)


def _check_free(session: Session, parent: FolderRow, name: str, but: str) -> None:
    query = select(FolderRow.id).where(FolderRow.parent_id == parent.id, FolderRow.name == name, FolderRow.id != but)
    if session.scalar(query) is not None:
        raise RuleBroken("folder_exists", f"There is a folder {name} in {parent.name} already.", name)


def _changed(act: Act, seat: Seat) -> None:
    seat.project.access_version += 1
    act.tell(seat.project.id, "folders", seat.project.id)


def rename_folder(context: Context, actor: Actor, folder_id: str, command: RenameFolder) -> None:
    with acting(context, actor) as act:
        folder, seat = see_folder(act.session, actor, folder_id, Level.KEEP)
        name = check_folder_name(command.name)
        if folder.parent_id:
            _check_free(act.session, act.session.get_one(FolderRow, folder.parent_id), name, folder_id)
        before, folder.name = folder.name, name
        subject = Subject("folder", folder_id)
        act.record(
            folder.project_id,
            Fact(FactKind.FOLDER_CHANGED, subject, name, before={"name": before}, after={"name": name}),
        )
        _changed(act, seat)


def move_folder(context: Context, actor: Actor, folder_id: str, command: MoveFolder) -> None:
    """With all that is in it. What it inherits is from then on what the new place has."""
    with acting(context, actor) as act:
        folder, seat = see_folder(act.session, actor, folder_id, Level.KEEP)
        target, _ = see_folder(act.session, actor, command.parent_id, Level.KEEP)
        if target.project_id != folder.project_id:
            raise NotFound(command.parent_id)
        check_move(tree_of(act.session, folder.project_id), folder_id, target.id)
        _check_free(act.session, target, folder.name, folder_id)
        before = act.session.get_one(FolderRow, folder.parent_id).name
        folder.parent_id = target.id
        subject = Subject("folder", folder_id)
        act.record(
            folder.project_id,
            Fact(
                FactKind.FOLDER_CHANGED,
                subject,
                folder.name,
                before={"in": before},
                after={"in": target.name},
                state={"parent": target.id},
            ),
        )
        _changed(act, seat)


def remove_folder(context: Context, actor: Actor, folder_id: str) -> None:
    """An empty one. Raises RuleBroken for one that holds anything, and one into which a route or a review copies."""
    with acting(context, actor) as act:
        folder, seat = see_folder(act.session, actor, folder_id, Level.KEEP)
        if folder.parent_id is None:
            raise RuleBroken("root_folder", "The topmost folder stays.", folder.name)
        holds = select(
            exists().where(DocumentRow.folder_id == folder_id)
            | exists().where(BatchRow.folder_id == folder_id)
            | exists().where(FolderRow.parent_id == folder_id)
        )
        if act.session.scalar(holds):
            raise RuleBroken("folder_not_empty", f"{folder.name} is not empty. Move what it holds first.", folder.name)
        _check_unnamed(act.session, folder)
        act.session.execute(delete(GrantRow).where(GrantRow.folder_id == folder_id))
        act.session.delete(folder)
        act.record(folder.project_id, Fact(FactKind.FOLDER_REMOVED, Subject("folder", folder_id), folder.name))
        _changed(act, seat)


def _check_unnamed(session: Session, folder: FolderRow) -> None:
    routes = select(RouteRow.name).where(RouteRow.project_id == folder.project_id, RouteRow.retired_at.is_(None))
    reviews = select(ReviewRow.number).where(ReviewRow.project_id == folder.project_id, ReviewRow.state == "running")
    for what, named, ends in (("route", routes, RouteRow.ends), ("review", reviews, ReviewRow.ends)):
        name = session.scalar(named.where(cast(ends, String).contains(folder.id)).limit(1))
        if name is not None:
            words = f"The {what} {name} copies accepted documents into {folder.name}. Change that first."
            raise RuleBroken("folder_named", words, folder.name)
