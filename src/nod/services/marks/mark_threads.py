"""What becomes of marks among people: inked, answered, their state set, those they name told (handbook §6)."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.audiences import for_folders
from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.marks import marks as rules
from nod.core.marks.marks import MarkKind, MarkState
from nod.core.trail.entries import FactKind
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor
from nod.services.marks.mark_notices import tell_of_mark, tell_of_reply
from nod.services.marks.marks import content_of, record, rows_of_thread, tell, visible_mark
from nod.services.marks.marks_view import Mark, show_marks
from nod.services.things.things import who_sees
from nod.store.ids import new_id
from nod.store.tables import MarkRow, ReplyRow


class InkMarks(Command):
    """Pencil marks of one's own, each with the version seen."""

    marks: dict[str, int]


class WriteReply(Command):
    text: str


class SetMarkState(Command):
    version: int
    state: Literal["open", "agreed", "declined", "done", "dropped"]


class SheetPeople(Answered):
    """Those who see the sheet, by name: a mark can be meant for them and name them as `@Name`."""

    people: list[Who]


def list_sheet_people(context: Context, actor: Actor, revision_id: str) -> SheetPeople:
    with context.database.read() as session:
        _, document, _ = see_revision(session, actor, revision_id)
        people = people_by_id(session, set(who_sees(session, document.project_id, for_folders(document.folder_id))))
        return SheetPeople(people=sorted(people.values(), key=lambda each: each.name))


def ink_marks(context: Context, actor: Actor, revision_id: str, command: InkMarks) -> list[Mark]:
    """Publishes pencil marks of one's own; pins get their numbers. Cannot be undone."""
    with acting(context, actor) as act:
        _, document, _ = see_revision(act.session, actor, revision_id, Level.MARK)
        rows = [_pencil_row(act, mark_id, revision_id) for mark_id in command.marks]
        for row in rows:
            check_version(command.marks[row.id], row.version, document.number)
        for row in sorted(rows, key=lambda row: row.drawn_at):
            row.inked_at, row.version = act.at, row.version + 1
            row.pin_number = next_pin(act.session, revision_id) if row.kind == MarkKind.PIN else None
            record(act, document, row, FactKind.MARK_INKED, after={**content_of(row), "pin_number": row.pin_number})
            tell_of_mark(act, document, row)
        tell(act, document, rows)
        return show_marks(act.session, actor, rows)


def _pencil_row(act: Act, mark_id: str, revision_id: str) -> MarkRow:
    row = act.session.get(MarkRow, mark_id)
    if row is None or row.revision_id != revision_id or row.removed_at or row.author_id != act.actor.person_id:
        raise NotFound(mark_id)
    if row.inked_at:
        raise RuleBroken("inked_already", "This mark is in ink already.")
    return row


def next_pin(session: Session, revision_id: str) -> int:
    session.flush()
    return (session.scalar(select(func.max(MarkRow.pin_number)).where(MarkRow.revision_id == revision_id)) or 0) + 1


def write_reply(context: Context, actor: Actor, mark_id: str, command: WriteReply) -> Mark:
    """An answer in the mark's thread. Only ink can be answered."""
    text = rules.check_text(command.text, required=True)
    with acting(context, actor) as act:
        row, document = visible_mark(act, mark_id)
        if not row.inked_at:
            raise RuleBroken("still_pencil", "Ink the mark first: a thread is for others to read.")
        reply = ReplyRow(id=new_id(), mark_id=row.thread, author_id=actor.person_id, text=text, at=act.at)
        act.session.add(reply)
        act.session.flush()
        tell_of_reply(act, document, row, reply)
        record(act, document, row, FactKind.MARK_ANSWERED, after={"text": text})
        tell(act, document, rows_of_thread(act.session, row))
        return show_marks(act.session, actor, [row])[0]


def set_state(session: Session, row: MarkRow, state: MarkState, by: str, at: datetime) -> list[MarkRow]:
    """Also on the other revisions where the same mark stands: one thread has one state. Returns all of them."""
    rows = rows_of_thread(session, row)
    for each in rows:
        each.state, each.state_by, each.state_at, each.version = state.value, by, at, each.version + 1
    return rows


def set_mark_state(context: Context, actor: Actor, mark_id: str, command: SetMarkState) -> Mark:
    """What became of the mark, set by anybody who may mark; of its thread, wherever it was carried."""
    with acting(context, actor) as act:
        row, document = visible_mark(act, mark_id)
        if not row.inked_at:
            raise NotAllowed("still_pencil", "Ink the mark first.")
        check_version(command.version, row.version, document.number)
        before = row.state
        carried = set_state(act.session, row, MarkState(command.state), actor.person_id, act.at)
        record(act, document, row, FactKind.MARK_STATE_SET, {"state": before}, {"state": row.state})
        tell(act, document, carried)
        return show_marks(act.session, actor, [row])[0]
