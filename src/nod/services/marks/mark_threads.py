"""What becomes of marks among people: inked, answered, their state set, those they name told (handbook §6)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.audiences import for_folders
from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.marks.marks import MarkKind, MarkState
from nod.core.marks.readers import EVERYBODY, Group, Readers, check_may_open, for_group, opened
from nod.core.threads.threads import check_text
from nod.core.trail.entries import FactKind, Subject
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor
from nod.services.attachments.attachments import attach
from nod.services.marks.kind import THREAD
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_notices import tell_of_mark, tell_of_reply
from nod.services.marks.mark_rows import find_mark, places_of
from nod.services.marks.marks import check_meant, content_of, record, visible_mark
from nod.services.marks.marks_view import Mark
from nod.services.marks.readers import (
    ReaderOffers,
    group_for,
    named_readers,
    offers,
    people_who_meet,
    put_readers,
    readers_of,
)
from nod.services.things.things import see_thing, who_sees
from nod.services.threads.said import add_reply
from nod.store.tables import DocumentRow, MarkRow, RevisionRow


class InkMarks(Command):
    """Pencil marks of one's own, each with the version seen.

    `readers` is `everybody` who sees the sheet, `company` or another kind of group, and `group` which one.
    """

    marks: dict[str, int]
    readers: str = EVERYBODY
    group: str = ""


class OpenMarks(Command):
    """Ink that some read, each with the version seen, and who reads it besides from now on."""

    marks: dict[str, int]
    readers: str = EVERYBODY
    group: str = ""


class WriteReply(Command):
    """`attachments` are files that one has added to the document; with any, the text may be empty."""

    text: str
    attachments: list[str] = Field(default_factory=list)


class SetMarkState(Command):
    version: int
    state: Literal["open", "agreed", "declined", "done", "dropped"]


def list_readers(context: Context, actor: Actor, revision_id: str) -> ReaderOffers:
    """For whom the viewer may ink on a sheet."""
    with context.database.read() as session:
        _, _, seat = see_revision(session, actor, revision_id, let_in=True)
        return offers(session, actor, seat, revision_id)


class SheetPeople(Answered):
    """Those who see the sheet, or meet on it, by name: a mark can be meant for them and name them as `@Name`."""

    people: list[Who]


def list_sheet_people(context: Context, actor: Actor, revision_id: str) -> SheetPeople:
    with context.database.read() as session:
        _, document, seat = see_revision(session, actor, revision_id, let_in=True)
        ids = people_who_meet(session, actor.person_id, revision_id)
        if seat.at(document.folder_id) > Level.NONE:
            ids |= set(who_sees(session, document.project_id, for_folders(document.folder_id)))
        people = people_by_id(session, ids)
        return SheetPeople(people=sorted(people.values(), key=lambda each: each.name))


def ink_marks(context: Context, actor: Actor, revision_id: str, command: InkMarks) -> list[Mark]:
    """Shows pencil marks of one's own to their readers; pins get their numbers. Cannot be undone."""
    with acting(context, actor) as act:
        _, document, _ = see_revision(act.session, actor, revision_id, Level.MARK, let_in=True)
        readers = for_group(group_for(act.session, actor, revision_id, command.readers, command.group))
        rows = [_pencil_row(act, mark_id, revision_id) for mark_id in command.marks]
        for row in rows:
            check_version(command.marks[row.id], row.seen_version, document.number)
        ink(act, document, rows, readers)
        return tell(act, document, rows, rows)


def ink(act: Act, document: DocumentRow, rows: Sequence[MarkRow], readers: Readers) -> None:
    """With its entry for each, and those whom it names told; for an act that has asked whether the actor may."""
    for row in sorted(rows, key=lambda row: row.thread.said_at):
        row.thread.shared_at, row.version = act.at, row.version + 1
        put_readers(act.session, row.thread, readers)
        check_meant(act, document, row.thread)
        row.pin_number = next_pin(act.session, row.revision_id) if row.kind == MarkKind.PIN else None
        after = {**content_of(row), "pin_number": row.pin_number, "readers": named_readers(act.session, readers)}
        record(act, document, row, FactKind.MARK_INKED, after=after, state={"readers": readers.kept})
        tell_of_mark(act, document, row)


def open_marks(context: Context, actor: Actor, revision_id: str, command: OpenMarks) -> list[Mark]:
    """Ink that some read is read by more from now on. Never undone.

    Raises NotFound for what the actor does not read, NotAllowed for a mark of another, RuleBroken where it is open.
    """
    with acting(context, actor) as act:
        _, _, seat = see_revision(act.session, actor, revision_id, Level.MARK)
        group = group_for(act.session, actor, revision_id, command.readers, command.group)
        changed: list[MarkRow] = []
        asked: list[MarkRow] = []
        for mark_id, version in command.marks.items():
            row, document = visible_mark(act, mark_id)
            if row.revision_id != revision_id:
                raise NotFound(mark_id)
            if not row.thread.shared_at:
                raise RuleBroken("still_pencil", "Ink the mark first.")
            check_may_open(row.thread.author_id or "", actor.person_id, runs=seat.runs)
            check_version(version, row.seen_version, document.number)
            changed += open_mark(act, document, row, group)
            asked.append(row)
        return tell(act, document, changed, asked) if asked else []


def open_mark(act: Act, document: DocumentRow, row: MarkRow, group: Group | None, why: str = "") -> list[MarkRow]:
    """With its entry in the trail, and whoever it names told. Returns the mark wherever it stands."""
    before = readers_of(act.session, row.thread)
    after = opened(before, group)
    put_readers(act.session, row.thread, after)
    row.thread.version += 1
    was, now = (named_readers(act.session, each) for each in (before, after))
    record(
        act,
        document,
        row,
        FactKind.MARK_OPENED,
        {"readers": was},
        {"readers": now},
        why=why,
        state={"readers": after.kept},
    )
    tell_of_mark(act, document, row)
    return places_of(act.session, row)


def _pencil_row(act: Act, mark_id: str, revision_id: str) -> MarkRow:
    row = find_mark(act.session, mark_id)
    mine = row is not None and row.thread.author_id == act.actor.person_id
    if row is None or row.revision_id != revision_id or row.removed_at or not mine:
        raise NotFound(mark_id)
    if row.thread.shared_at:
        raise RuleBroken("inked_already", "This mark is in ink already.")
    return row


def next_pin(session: Session, revision_id: str) -> int:
    session.flush()
    return (session.scalar(select(func.max(MarkRow.pin_number)).where(MarkRow.revision_id == revision_id)) or 0) + 1


def write_reply(context: Context, actor: Actor, mark_id: str, command: WriteReply) -> Mark:
    """An answer in the mark's thread. Only ink can be answered."""
    text = check_text(command.text, required=not command.attachments)
    with acting(context, actor) as act:
        row, document = visible_mark(act, mark_id)
        if not row.thread.shared_at:
            raise RuleBroken("still_pencil", "Ink the mark first: a thread is for others to read.")
        if command.attachments and row.thread.readers != EVERYBODY:
            words = "Files stay with the document, for all who see it: open the mark to everybody first, or use words."
            raise RuleBroken("files_for_all", words, document.number)
        reply = add_reply(act, row.thread, text, said_on=row.revision_id)
        files = attach(act, Subject("document", document.id), reply.id, command.attachments)
        tell_of_reply(act, document, row, reply)
        after = {"text": text} | ({"files": files} if files else {})
        record(act, document, row, FactKind.MARK_ANSWERED, after=after)
        return tell(act, document, places_of(act.session, row), [row])[0]


def set_state(session: Session, row: MarkRow, state: MarkState, by: str, at: datetime) -> list[MarkRow]:
    """Of the thread, wherever the mark stands. Returns all these places."""
    thread = row.thread
    thread.state, thread.state_by, thread.state_at, thread.state_on = state.value, by, at, row.revision_id
    thread.version += 1
    return places_of(session, row)


def set_mark_state(context: Context, actor: Actor, mark_id: str, command: SetMarkState) -> Mark:
    """What became of the mark, set by anybody who may mark; of its thread, wherever it was carried."""
    with acting(context, actor) as act:
        row, document = visible_mark(act, mark_id)
        if not row.thread.shared_at:
            raise NotAllowed("still_pencil", "Ink the mark first.")
        check_version(command.version, row.seen_version, document.number)
        before = row.thread.state
        carried = set_state(act.session, row, MarkState(command.state), actor.person_id, act.at)
        record(act, document, row, FactKind.MARK_STATE_SET, {"state": before}, {"state": row.thread.state})
        return tell(act, document, carried, [row])[0]


class MarkPlace(Answered):
    """Where a mark lies on the newest revision that it stands on, or stood on; `page` counts from 0."""

    revision_id: str
    mark_id: str
    page: int


def find_place(context: Context, actor: Actor, thread_id: str) -> MarkPlace:
    """Raises NotFound for a mark that is not there for this person."""
    with context.database.read() as session:
        see_thing(session, actor, THREAD, thread_id)
        query = select(MarkRow).join(RevisionRow, RevisionRow.id == MarkRow.revision_id)
        newest = (MarkRow.removed_at.is_not(None), RevisionRow.filed_at.desc(), MarkRow.seq.desc())
        row = session.scalars(query.where(MarkRow.thread_id == thread_id).order_by(*newest).limit(1)).one()
        return MarkPlace(revision_id=row.revision_id, mark_id=row.id, page=row.page)
