"""A long list of the register as a file: made by the worker with its progress told, fetched by whoever asked for it.

It is kept, stopped, fetched and put away as a folder's ZIP is (see `folder_packs`).
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from typing import Any, Literal

from sqlalchemy.orm import Session

from nod.core.access.levels import Level, downward
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Value
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting, today_in
from nod.services.acts.seats import Actor, actor_of, take_seat, tree_of
from nod.services.acts.work import Concern, Job, Lane, work
from nod.services.files.tables_out import write_table
from nod.services.register.exports import asked_for, rows_of
from nod.services.register.folder_packs import (
    OPEN,
    PackShown,
    PackStopped,
    finish,
    path_of,
    show,
    tell_pack,
)
from nod.services.register.register_list import AskedView
from nod.store.ids import new_id
from nod.store.tables import FolderPackRow

_TELL_EVERY = 1000
_ASKED = ("words", "filters", "sorts", "group")


class AskList(Command):
    """A list as `AskedView` has it; `columns` are keys, the usual ones where there are none."""

    project_id: str
    words: str = ""
    filters: str = ""
    sorts: str = ""
    group: str = ""
    columns: list[str]
    form: Literal["xlsx", "csv"]


def ask_list(context: Context, actor: Actor, command: AskList) -> PackShown:
    """Recorded when it is asked for, as every list that leaves. Raises RuleBroken for one with no lines or too many."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id)
        kept = command.model_dump(exclude={"project_id"})
        asked = AskedView(command.project_id, *(kept[key] for key in _ASKED))
        _, columns, total = asked_for(act.session, seat, asked, command.columns)
        if not total:
            raise RuleBroken("list_empty", "The list has no lines.")
        tree = tree_of(act.session, command.project_id)
        name = f"{seat.project.number} register {today_in(seat.project, act.at).isoformat()}"
        row = FolderPackRow(
            id=new_id(), project_id=command.project_id, person_id=actor.person_id, revisions="latest",
            folder_id=next(each for each in downward(tree) if seat.at(each) > Level.NONE), names_as_came=False,
            asked_at=act.at, state="waiting", files=total, size_bytes=0, done=0, view={**kept, "name": name},
        )  # fmt: skip
        act.session.add(row)
        act.session.flush()
        after = {"lines": total, "columns": [each.head for each in columns], "as": command.form}
        fact = Fact(FactKind.REGISTER_EXPORTED, Subject("project", seat.project.id), seat.project.name, after=after)
        act.record(seat.project.id, fact)
        act.tell(command.project_id, "packs", row.id, only=actor.person_id)
        act.ask("pack_list", f"pack_list:{row.id}", {"pack_id": row.id})
        return show(row, {})


def _concerns(session: Session, payload: dict[str, Any]) -> list[Concern]:
    pack = session.get(FolderPackRow, payload["pack_id"])
    if pack is None:
        return []
    on = Subject("folder", pack.folder_id)
    return [Concern(pack.project_id, on, pack.view["name"], "/register", person_id=pack.person_id)]


@work("pack_list", Lane.REST, "making the list", _concerns)
def make_list(job: Job, payload: dict[str, Any]) -> None:
    """As the one who asked may see it now. Harmless when done twice."""
    context, pack_id = job.context, payload["pack_id"]
    with context.database.read() as session:
        row = session.get_one(FolderPackRow, pack_id)
        if row.state not in OPEN:
            return
        kept, actor = row.view, actor_of(session, row.person_id)
        target = path_of(context, row)
    target.parent.mkdir(exist_ok=True)
    aside = target.with_suffix(".part")
    documents: list[str] = []
    try:
        with context.database.read() as session:
            seat = take_seat(session, actor, row.project_id)
            asked = AskedView(row.project_id, *(kept[key] for key in _ASKED))
            view, columns, total = asked_for(session, seat, asked, kept["columns"])
            rows = rows_of(session, seat, view, columns, context.clock.now())
            heads, widths = [each.head for each in columns], [each.width for each in columns]
            write_table(aside, kept["form"], heads, widths, _telling(job, pack_id, rows, documents))
    except PackStopped:
        aside.unlink(missing_ok=True)
        return
    except (NotFound, RuleBroken) as broken:
        finish(context, pack_id, state="failed", fault=broken.words or "It is not there for you any more.")
        return
    aside.replace(target)
    with target.open("rb") as made:
        digest = hashlib.file_digest(made, "sha256").hexdigest()
    size = target.stat().st_size
    finish(
        context, pack_id, state="ready", sha256=digest, size_bytes=size, files=total, done=total, documents=documents
    )


def _telling(
    job: Job, pack_id: str, rows: Iterator[tuple[str, list[Value]]], documents: list[str]
) -> Iterator[list[Value]]:  # fmt: skip
    """The lines one by one, with progress told. Raises PackStopped once it has been stopped."""
    seen: dict[str, None] = {}
    for done, (document_id, cells) in enumerate(rows):
        if done % _TELL_EVERY == 0:
            with job.context.database.write() as session:
                row = session.get_one(FolderPackRow, pack_id)
                if row.state not in OPEN:
                    raise PackStopped
                row.state, row.done = "making", done
                tell_pack(job.context, session, row)
            job.go_on()
        seen[document_id] = None
        yield cells
    documents += seen
