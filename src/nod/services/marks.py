"""Marks on a sheet: drawn in pencil, inked, answered (handbook §6)."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field, Strict
from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from nod.core import marks as rules
from nod.core.access import Level
from nod.core.marks import MarkKind, MarkState, Shape
from nod.core.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.trail import Fact, Subject, changed
from nod.services.answers import Answered, Command, Who, people_by_id
from nod.services.context import Act, Context, acting, check_version
from nod.services.notices import Notice, tell_person
from nod.services.seats import Actor
from nod.services.seeing import see_document, see_revision
from nod.store.ids import new_id
from nod.store.tables import BlobRow, DocumentRow, MarkRow, ProjectRow, ReplyRow

# JSON has no tuples: a pair of numbers arrives as a list.
Pair = Annotated[tuple[float, float], Strict(False)]


class DrawMark(Command):
    """`points` in PDF points of the unrotated page; `page` counts from 0."""

    page: int = Field(ge=0)
    kind: Literal["cloud", "pin"]
    points: list[Pair]
    colour: str
    text: str


class ChangeMark(Command):
    version: int
    points: list[Pair] | None = None
    text: str | None = None


class InkMarks(Command):
    """Pencil marks of one's own, each with the version seen."""

    marks: dict[str, int]


class WriteReply(Command):
    text: str


class SetMarkState(Command):
    version: int
    state: Literal["open", "agreed", "declined", "done"]


class RemoveMark(Command):
    version: int


class Reply(Answered):
    id: str
    author: Who
    text: str
    at: datetime


class Mark(Answered):
    """One mark as its viewer may see it. In pencil while `inked_at` is empty. `mine` allows changing it."""

    id: str
    version: int
    page: int
    kind: Literal["cloud", "pin"]
    points: list[tuple[float, float]]
    colour: str
    text: str
    pin_number: int | None
    state: str
    author: Who
    mine: bool
    may_change: bool
    drawn_at: datetime
    inked_at: datetime | None
    replies: list[Reply]


def list_marks(context: Context, actor: Actor, revision_id: str) -> list[Mark]:
    """All ink, and one's own pencil."""
    with context.database.read() as session:
        see_revision(session, actor, revision_id)
        query = select(MarkRow).where(
            MarkRow.revision_id == revision_id,
            MarkRow.removed_at.is_(None),
            or_(MarkRow.inked_at.is_not(None), MarkRow.author_id == actor.private_id),
        )
        rows = list(session.scalars(query.order_by(MarkRow.drawn_at)))
        return _shown(session, actor, rows)


def _shown(session: Session, actor: Actor, rows: list[MarkRow]) -> list[Mark]:
    ids = [row.id for row in rows]
    replies = list(session.scalars(select(ReplyRow).where(ReplyRow.mark_id.in_(ids)).order_by(ReplyRow.at)))
    people = people_by_id(session, {row.author_id for row in rows} | {reply.author_id for reply in replies})
    threads: dict[str, list[Reply]] = {}
    for reply in replies:
        shown = Reply(id=reply.id, author=people[reply.author_id], text=reply.text, at=reply.at)
        threads.setdefault(reply.mark_id, []).append(shown)
    return [_mark(row, people[row.author_id], threads.get(row.id, []), actor) for row in rows]


def _mark(row: MarkRow, author: Who, replies: list[Reply], actor: Actor) -> Mark:
    mine = row.author_id == actor.person_id and actor.looker is None
    return Mark.model_validate(
        {
            "id": row.id,
            "version": row.version,
            "page": row.page,
            "kind": row.kind,
            "points": row.points,
            "colour": row.colour,
            "text": row.text,
            "pin_number": row.pin_number,
            "state": row.state,
            "author": author,
            "mine": mine,
            "may_change": mine and not replies,
            "drawn_at": row.drawn_at,
            "inked_at": row.inked_at,
            "replies": replies,
        }
    )


def draw_mark(context: Context, actor: Actor, revision_id: str, command: DrawMark) -> Mark:
    """A new mark in pencil, for its author alone."""
    rules.check_shape(Shape(MarkKind(command.kind), tuple(command.points), command.colour))
    with acting(context, actor) as act:
        revision, document, _ = see_revision(act.session, actor, revision_id, Level.MARK)
        if command.page >= act.session.get_one(BlobRow, revision.sha256).page_count:
            raise RuleBroken("page_missing", f"The sheet has no page {command.page + 1}.", document.number)
        row = MarkRow(
            id=new_id(), document_id=document.id, revision_id=revision_id, page=command.page, kind=command.kind,
            points=command.points, colour=command.colour, text=rules.check_text(command.text, required=False),
            author_id=actor.person_id, drawn_at=act.at,
        )  # fmt: skip
        act.session.add(row)
        act.session.flush()
        _record(act, document, row, "mark_drawn", after=_content(row))
        return _shown(act.session, actor, [row])[0]


def _content(row: MarkRow) -> dict[str, Any]:
    return {"kind": row.kind, "page": row.page + 1, "points": row.points, "text": row.text, "state": row.state}


def _record(
    act: Act,
    document: DocumentRow,
    row: MarkRow,
    kind: str,
    before: dict[str, Any] | None = None,
    after: dict[str, Any] | None = None,
) -> None:
    """Entry and live event; what happens in pencil stays with its author."""
    only = "" if row.inked_at else row.author_id
    others = (Subject("mark", row.id), Subject("revision", row.revision_id))
    fact = Fact(
        kind, Subject("document", document.id), f"{row.kind} on {document.number} {document.revision}", others,
        before or {}, after or {}, private_to=only,
    )  # fmt: skip
    act.record(document.project_id, fact)
    act.tell(document.project_id, "marks", row.revision_id, {document.folder_id}, only=only)


def _known(act: Act, mark_id: str) -> tuple[MarkRow, DocumentRow]:
    """Raises NotFound for a mark that is not there or is another's pencil."""
    row = act.session.get(MarkRow, mark_id)
    if row is None or not (row.inked_at or row.author_id == act.actor.person_id):
        raise NotFound(mark_id)
    try:
        document, _ = see_document(act.session, act.actor, row.document_id, Level.MARK)
    except NotFound as hidden:
        raise NotFound(mark_id) from hidden
    return row, document


def _visible(act: Act, mark_id: str) -> tuple[MarkRow, DocumentRow]:
    """As `_known`, and raises NotFound for a mark that was taken away."""
    row, document = _known(act, mark_id)
    if row.removed_at:
        raise NotFound(mark_id)
    return row, document


def _has_replies(session: Session, mark_id: str) -> bool:
    return bool(session.scalar(select(func.count()).where(ReplyRow.mark_id == mark_id)))


def change_mark(context: Context, actor: Actor, mark_id: str, command: ChangeMark) -> Mark:
    """Move or reword one's own mark, until somebody has answered it."""
    with acting(context, actor) as act:
        row, document = _visible(act, mark_id)
        rules.check_may_change(row.author_id, actor.person_id, answered=_has_replies(act.session, mark_id))
        check_version(command.version, row.version, document.number)
        before = _content(row)
        if command.points is not None:
            rules.check_shape(Shape(MarkKind(row.kind), tuple(command.points), row.colour))
            row.points = [list(point) for point in command.points]
        if command.text is not None:
            row.text = rules.check_text(command.text, required=False)
        row.version += 1
        _record(act, document, row, "mark_changed", *changed(before, _content(row)))
        return _shown(act.session, actor, [row])[0]


def remove_mark(context: Context, actor: Actor, mark_id: str, command: RemoveMark) -> None:
    """Takes one's own mark off the sheet; the row and the trail keep it."""
    with acting(context, actor) as act:
        row, document = _visible(act, mark_id)
        rules.check_may_change(row.author_id, actor.person_id, answered=_has_replies(act.session, mark_id))
        check_version(command.version, row.version, document.number)
        row.removed_at, row.version = act.at, row.version + 1
        _record(act, document, row, "mark_removed", before=_content(row))


def bring_back_mark(context: Context, actor: Actor, mark_id: str) -> Mark:
    """Undo of taking away one's own mark."""
    with acting(context, actor) as act:
        row, document = _known(act, mark_id)
        if row.author_id != actor.person_id:
            raise NotAllowed("not_your_mark", "Only its author brings a mark back.")
        if row.removed_at is None:
            raise RuleBroken("mark_still_there", "This mark is on the sheet.")
        row.removed_at, row.version = None, row.version + 1
        _record(act, document, row, "mark_brought_back", after=_content(row))
        return _shown(act.session, actor, [row])[0]


def ink_marks(context: Context, actor: Actor, revision_id: str, command: InkMarks) -> list[Mark]:
    """Publishes pencil marks of one's own; pins get their numbers. Cannot be undone."""
    with acting(context, actor) as act:
        _, document, _ = see_revision(act.session, actor, revision_id, Level.MARK)
        rows = [_pencil_row(act, mark_id, revision_id) for mark_id in command.marks]
        for row in rows:
            check_version(command.marks[row.id], row.version, document.number)
        for row in sorted(rows, key=lambda row: row.drawn_at):
            row.inked_at, row.version = act.at, row.version + 1
            row.pin_number = _next_pin(act.session, revision_id) if row.kind == MarkKind.PIN else None
            _record(act, document, row, "mark_inked", after={**_content(row), "pin_number": row.pin_number})
        return _shown(act.session, actor, rows)


def _pencil_row(act: Act, mark_id: str, revision_id: str) -> MarkRow:
    row = act.session.get(MarkRow, mark_id)
    if row is None or row.revision_id != revision_id or row.removed_at or row.author_id != act.actor.person_id:
        raise NotFound(mark_id)
    if row.inked_at:
        raise RuleBroken("inked_already", "This mark is in ink already.")
    return row


def _next_pin(session: Session, revision_id: str) -> int:
    session.flush()
    return (session.scalar(select(func.max(MarkRow.pin_number)).where(MarkRow.revision_id == revision_id)) or 0) + 1


def write_reply(context: Context, actor: Actor, mark_id: str, command: WriteReply) -> Mark:
    """An answer in the mark's thread. Only ink can be answered."""
    text = rules.check_text(command.text, required=True)
    with acting(context, actor) as act:
        row, document = _visible(act, mark_id)
        if not row.inked_at:
            raise RuleBroken("still_pencil", "Ink the mark first: a thread is for others to read.")
        reply = ReplyRow(id=new_id(), mark_id=mark_id, author_id=actor.person_id, text=text, at=act.at)
        act.session.add(reply)
        act.session.flush()
        _tell_author(act, document, row, reply)
        _record(act, document, row, "mark_answered", after={"text": text})
        return _shown(act.session, actor, [row])[0]


def _tell_author(act: Act, document: DocumentRow, row: MarkRow, reply: ReplyRow) -> None:
    project = act.session.get_one(ProjectRow, document.project_id)
    subject = f"{project.number}: {act.actor.name} answered your mark on {document.number}"
    lines = [f"{act.actor.name} answered your mark on {document.number} {document.title}:", "", reply.text]
    notice = Notice(f"answer:{reply.id}", subject, lines, f"/sheet/{row.revision_id}", [document.id])
    tell_person(act, project, "answer", row.author_id, notice)


def set_mark_state(context: Context, actor: Actor, mark_id: str, command: SetMarkState) -> Mark:
    """What became of the mark, set by anybody who may mark."""
    with acting(context, actor) as act:
        row, document = _visible(act, mark_id)
        if not row.inked_at:
            raise NotAllowed("still_pencil", "Ink the mark first.")
        check_version(command.version, row.version, document.number)
        before, row.state = row.state, MarkState(command.state).value
        row.version += 1
        _record(act, document, row, "mark_state_set", {"state": before}, {"state": row.state})
        return _shown(act.session, actor, [row])[0]
