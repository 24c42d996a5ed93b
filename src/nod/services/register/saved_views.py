"""Views of the register and of other lists that people keep: for themselves, or for everybody in the project."""

from __future__ import annotations

import json
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, take_seat
from nod.store.ids import new_id
from nod.store.tables import PersonRow, SavedViewRow

_LARGEST_BYTES, _MOST = 8000, 200


ListOf = Literal["register", "reviews", "submittals", "transmittals", "letters"]


class KeepView(Command):
    """`of` is the station of the list, `content` what the address bar holds.

    With the id of a view of one's own, that one is changed."""

    project_id: str
    of: ListOf = "register"
    id: str = ""
    version: int = 0
    name: str
    shared: bool
    content: dict[str, Any]


class SeenView(Command):
    version: int


class SavedView(Answered):
    id: str
    name: str
    shared: bool
    mine: bool
    by: str
    may_remove: bool
    content: dict[str, Any]
    version: int


def list_views(context: Context, actor: Actor, project_id: str, of: ListOf = "register") -> list[SavedView]:
    """One's own and those that are shared, by name."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        query = (
            select(SavedViewRow, PersonRow.name)
            .join(PersonRow, PersonRow.id == SavedViewRow.person_id)
            .where(
                SavedViewRow.project_id == project_id,
                SavedViewRow.of == of,
                SavedViewRow.shared | (SavedViewRow.person_id == actor.private_id),
            )
        )
        return [
            SavedView(
                id=row.id, name=row.name, shared=row.shared, mine=row.person_id == actor.person_id, by=name,
                may_remove=row.person_id == actor.person_id or seat.runs, content=row.content, version=row.version,
            )
            for row, name in session.execute(query.order_by(SavedViewRow.name))
        ]  # fmt: skip


def keep_view(context: Context, actor: Actor, command: KeepView) -> SavedView:
    """Raises RuleBroken without a name, for one that is taken, and for a view too large to be one."""
    with acting(context, actor) as act:
        act.enter(command.project_id)
        name = " ".join(command.name.split())[:60]
        if not name:
            raise RuleBroken("name_missing", "Give the view a name.")
        if len(json.dumps(command.content)) > _LARGEST_BYTES:
            raise RuleBroken("view_large", "This view is too large to be kept.", name)
        _check_name(act, command, name)
        row = _own(act, command) if command.id else _new(act, command)
        before = {"name": row.name, "shared": row.shared} if command.id else {}
        row.name, row.shared, row.content = name, command.shared, command.content
        act.session.add(row)
        act.session.flush()
        subject = Subject("saved_view", row.id)
        private = "" if row.shared or before.get("shared") else actor.person_id
        after = {"name": name, "shared": row.shared}
        fact = Fact(FactKind.VIEW_KEPT, subject, name, before=before, after=after, private_to=private)
        act.record(command.project_id, fact)
        act.tell(command.project_id, "views", command.project_id)
        return SavedView(
            id=row.id, name=name, shared=row.shared, mine=True, by=actor.name, may_remove=True, content=row.content,
            version=row.version,
        )  # fmt: skip


def _check_name(act: Act, command: KeepView, name: str) -> None:
    mine = select(SavedViewRow).where(
        SavedViewRow.project_id == command.project_id, SavedViewRow.person_id == act.actor.person_id,
        SavedViewRow.of == command.of,
    )  # fmt: skip
    own = list(act.session.scalars(mine))
    if any(each.name.casefold() == name.casefold() and each.id != command.id for each in own):
        raise RuleBroken("view_exists", f"You have a view {name} already.", name)
    if len(own) >= _MOST and not command.id:
        raise RuleBroken("too_many_views", f"You have {_MOST} views already. Remove one first.", name)


def _own(act: Act, command: KeepView) -> SavedViewRow:
    row = act.session.get(SavedViewRow, command.id)
    if row is None or (row.person_id, row.project_id, row.of) != (act.actor.person_id, command.project_id, command.of):
        raise NotFound(command.id)
    check_version(command.version, row.version, row.name)
    row.version += 1
    return row


def _new(act: Act, command: KeepView) -> SavedViewRow:
    return SavedViewRow(
        id=new_id(), project_id=command.project_id, person_id=act.actor.person_id, of=command.of, name="",
        shared=False, content={}, version=1,
    )  # fmt: skip


def remove_view(context: Context, actor: Actor, view_id: str, command: SeenView) -> None:
    """One's own; those who run the project also remove shared ones."""
    with acting(context, actor) as act:
        row = act.session.get(SavedViewRow, view_id)
        if row is None:
            raise NotFound(view_id)
        seat = _seat_of(act.session, actor, row)
        if row.person_id != actor.person_id and not seat:
            raise NotAllowed("not_your_view", "This view is somebody else's.", row.name)
        check_version(command.version, row.version, row.name)
        act.session.delete(row)
        private = "" if row.shared else actor.person_id
        subject = Subject("saved_view", row.id)
        act.record(row.project_id, Fact(FactKind.VIEW_REMOVED, subject, row.name, private_to=private))
        act.tell(row.project_id, "views", row.project_id)


def _seat_of(session: Session, actor: Actor, row: SavedViewRow) -> bool:
    """Whether they run the project. Raises NotFound for a view that is not there for them."""
    try:
        seat = take_seat(session, actor, row.project_id)
    except NotFound as hidden:
        raise NotFound(row.id) from hidden
    if not row.shared and row.person_id != actor.person_id:
        raise NotFound(row.id)
    return seat.runs
