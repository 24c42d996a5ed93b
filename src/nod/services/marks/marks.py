"""Marks on a sheet: seen, drawn in pencil, changed, taken away and brought back (handbook §6)."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import asdict
from typing import Any

from pydantic import Field
from sqlalchemy import exists, select

from nod.core.access.audiences import for_folders
from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.marks import marks as rules
from nod.core.marks import measures as measuring
from nod.core.marks.marks import Look, MarkKind, MarkState, Shape
from nod.core.marks.readers import EVERYBODY
from nod.core.threads.threads import Way, check_text
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import ink_convention
from nod.services.acts.seats import Actor
from nod.services.marks.hindrances import check_may_draw
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_notices import tell_of_mark
from nod.services.marks.mark_rows import audience_of_mark, find_mark, is_read_by, places_of, private_to, shape_of
from nod.services.marks.marks_view import Kind, Mark, MarkLook, Pair, revision_measurer
from nod.services.things.things import who_sees
from nod.store.ids import new_id
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    MarkRow,
    PersonRow,
    ProjectRow,
    ReplyRow,
    RevisionRow,
    SessionRow,
    ThreadRow,
)

MOST_AT_ONCE = 500


class NewMark(Command):
    """`points` in PDF points of the unrotated page, see `core.marks.marks.POINTS`; `page` counts from 0.

    `rings`: how many points each outline of an area has. `aim_pt`: a pixel of the screen while it was drawn.
    """

    page: int = Field(ge=0)
    kind: Kind
    points: list[Pair]
    look: MarkLook = MarkLook()
    text: str = ""
    label: str = ""
    discipline: str = ""
    rings: list[int] = Field(default_factory=list)
    aim_pt: float = Field(default=0.0, ge=0, le=1000)


class DrawMarks(Command):
    marks: list[NewMark]


class MarkChange(Command):
    """What is left out stays. A locked mark takes nothing but being unlocked. `rank`: what is higher lies on top."""

    id: str
    version: int
    points: list[Pair] | None = None
    rings: list[int] | None = None
    look: MarkLook | None = None
    text: str | None = None
    label: str | None = None
    discipline: str | None = None
    meant_for: str | None = None
    locked: bool | None = None
    aim_pt: float | None = Field(default=None, ge=0, le=1000)
    rank: int | None = Field(default=None, ge=-1_000_000, le=1_000_000)


class ChangeMarks(Command):
    changes: list[MarkChange]


class RemoveMarks(Command):
    """Each with the version seen."""

    marks: dict[str, int]


class BringBackMarks(Command):
    marks: list[str]


def draw_marks(context: Context, actor: Actor, revision_id: str, command: DrawMarks) -> list[Mark]:
    """New marks in pencil, for their author alone, in the order given."""
    with acting(context, actor) as act:
        revision, document, _ = see_revision(act.session, actor, revision_id, Level.MARK)
        rows = put_marks(act, document, revision, command.marks)
        return tell(act, document, rows, rows)


def put_marks(
    act: Act, document: DocumentRow, revision: RevisionRow, marks: Sequence[NewMark], session_id: str = ""
) -> list[MarkRow]:
    """In pencil, with their entries; for an act that has asked whether the actor may draw there."""
    check_may_draw(act, revision.id, document.number)
    _check_count(len(marks))
    pages = act.session.get_one(BlobRow, revision.sha256).page_count
    known = act.session.get_one(ProjectRow, document.project_id).rules["disciplines"]
    rows = [_drawn(act, document, revision.id, each, pages, known) for each in marks]
    for row in rows:
        row.thread.session_id = session_id
    check_measures(act, revision.id, rows)
    act.session.add_all(rows)
    act.session.flush()
    # In words: whoever sees the sheet reads the entry, whether or not the session is there for them.
    where = {"session": act.session.get_one(SessionRow, session_id).number} if session_id else {}
    for row in rows:
        record(act, document, row, FactKind.MARK_DRAWN, after={**content_of(row), **where})
    return rows


def check_measures(act: Act, revision_id: str, rows: Sequence[MarkRow]) -> None:
    """Raises RuleBroken for a measure across regions of different scale, and for an outline without one area."""
    for row in rows:
        measuring.check_rings(MarkKind(row.kind), len(row.points), row.rings)
    measures = [row for row in rows if row.kind in rules.MEASURES]
    if measures:
        measurer = revision_measurer(act.session, revision_id, measures)
        for row in measures:
            measurer.check(row)


def _check_count(count: int) -> None:
    if not 1 <= count <= MOST_AT_ONCE:
        raise RuleBroken("too_many_changes", f"From 1 to {MOST_AT_ONCE} marks are drawn or changed at once.")


def _drawn(
    act: Act, document: DocumentRow, revision_id: str, new: NewMark, pages: int, disciplines: Container[str]
) -> MarkRow:
    look = Look(**new.look.model_dump())
    rules.check_shape(Shape(MarkKind(new.kind), tuple(new.points), look))
    if new.page >= pages:
        raise RuleBroken("page_missing", f"The sheet has no page {new.page + 1}.", document.number)
    thread = new_thread(act, document, revision_id, check_text(new.text, required=False))
    return MarkRow(
        id=thread.id, thread=thread, document_id=document.id, revision_id=revision_id, page=new.page, kind=new.kind,
        points=[list(point) for point in new.points], look=asdict(look), label=rules.check_label(new.label), rank=0,
        locked=False, rings=new.rings, aim_pt=new.aim_pt, version=1,
        discipline=rules.check_discipline(new.discipline, disciplines),
    )  # fmt: skip


def put_marks_of_guest(
    act: Act, document: DocumentRow, revision: RevisionRow, marks: Sequence[NewMark], said: tuple[str, str]
) -> list[MarkRow]:
    """Of somebody who came by a link: `said` in which session, and in which visit; in the name they typed, or as
    who they are.
    """
    rows = put_marks(act, document, revision, marks, said[0])
    for row in rows:
        thread = row.thread
        thread.guest_id = said[1]
        if not act.actor.person_id:
            thread.author_id, thread.way = None, Way.LINK.value
            thread.author_name, thread.author_company = act.actor.name, act.actor.company_code
    act.session.flush()
    return rows


def new_thread(act: Act, document: DocumentRow, revision_id: str, text: str) -> ThreadRow:
    """Begun on a revision, for its author alone. Its first mark gets the same id."""
    return ThreadRow(
        id=new_id(), project_id=document.project_id, kind="mark", on_kind="document", on_id=document.id,
        said_on=revision_id, text=text, author_id=act.actor.person_id or None, said_at=act.at, way=Way.PERSON.value,
        author_name="", author_company="", file_id="", meant_for="", state=MarkState.OPEN.value, state_by="",
        state_on="", version=0, readers=EVERYBODY,
    )  # fmt: skip


def content_of(row: MarkRow) -> dict[str, Any]:
    """What the trail keeps of a mark."""
    thread = row.thread
    kept = {
        "kind": row.kind, "page": row.page + 1, "points": row.points, "text": thread.text, "state": thread.state,
        "outlines": row.rings, "look": row.look, "label": row.label, "discipline": row.discipline,
        "meant for": thread.meant_for, "locked": row.locked, "rank": row.rank,
    }  # fmt: skip
    return {key: value for key, value in kept.items() if value not in ("", False, []) or key == "text"}


def record(
    act: Act,
    document: DocumentRow,
    row: MarkRow,
    kind: FactKind,
    before: dict[str, Any] | None = None,
    after: dict[str, Any] | None = None,
    others: tuple[Subject, ...] = (),
    why: str = "",
    state: dict[str, Any] | None = None,
) -> None:
    """What happens in pencil stays with its author. People are told by their names."""
    only = private_to(row.thread)
    others = (Subject("mark", row.id), Subject("thread", row.thread_id), Subject("revision", row.revision_id), *others)
    fact = Fact(
        kind, Subject("document", document.id), f"{row.kind} on {document.number} {document.revision}", others,
        _by_name(act, before or {}), _by_name(act, after or {}), why, only, state or {},
    )  # fmt: skip
    act.record(document.project_id, fact)


def _by_name(act: Act, side: dict[str, Any]) -> dict[str, Any]:
    person_id = side.get("meant for")
    return {**side, "meant for": act.session.get_one(PersonRow, person_id).name} if person_id else side


def known_mark(act: Act, mark_id: str) -> tuple[MarkRow, DocumentRow]:
    """Raises NotFound for a mark that is not there, is another's pencil, or ink that is not for the actor."""
    row = find_mark(act.session, mark_id)
    if row is None:
        raise NotFound(mark_id)
    try:
        _, document, seat = see_revision(act.session, act.actor, row.revision_id, Level.MARK, let_in=True)
    except NotFound as hidden:
        raise NotFound(mark_id) from hidden
    reads = is_read_by(seat, document)
    if act.session.scalar(select(ThreadRow.id).where(ThreadRow.id == row.thread_id, reads)) is None:
        raise NotFound(mark_id)
    return row, document


def visible_mark(act: Act, mark_id: str) -> tuple[MarkRow, DocumentRow]:
    """As `known_mark`, and raises NotFound for a mark that was taken away."""
    row, document = known_mark(act, mark_id)
    if row.removed_at:
        raise NotFound(mark_id)
    return row, document


def _own(act: Act, revision_id: str, mark_id: str, version: int) -> tuple[MarkRow, DocumentRow]:
    """A mark of this revision that the actor may change now, as they have seen it."""
    row, document = visible_mark(act, mark_id)
    if row.revision_id != revision_id:
        raise NotFound(mark_id)
    check_own(act, document, row, version, (row.thread.author_id or "", act.actor.person_id))
    return row, document


def check_own(act: Act, document: DocumentRow, row: MarkRow, version: int, who: tuple[str, str]) -> None:
    """`who` drew it and who acts, by person or by visit. Raises as `rules.check_may_change` does, and Stale."""
    answered = bool(act.session.scalar(select(exists().where(ReplyRow.thread_id == row.thread_id))))
    rules.check_may_change(*who, answered=answered)
    check_version(version, row.seen_version, document.number)


def take_away(act: Act, document: DocumentRow, row: MarkRow) -> None:
    """Off the sheet; the row and the trail keep it. For an act that has asked whether it is the actor's own."""
    if row.locked:
        raise RuleBroken("mark_locked", "This mark is locked. Unlock it first.", document.number)
    row.removed_at, row.version = act.at, row.version + 1
    record(act, document, row, FactKind.MARK_REMOVED, before=content_of(row))


def change_marks(context: Context, actor: Actor, revision_id: str, command: ChangeMarks) -> list[Mark]:
    """Move, reshape, reword one's own marks, until somebody has answered them; all of them or none."""
    with acting(context, actor) as act:
        see_revision(act.session, actor, revision_id, Level.MARK, let_in=True)
        _check_count(len(command.changes))
        rows: list[MarkRow] = []
        asked: list[MarkRow] = []
        for change in command.changes:
            row, document = _own(act, revision_id, change.id, change.version)
            before = content_of(row)
            _change(act, row, document, change)
            if change.points is not None or change.rings is not None:
                check_measures(act, revision_id, [row])
            row.version, row.changed_at = row.version + 1, act.at
            rows += _say(act, document, row, change)
            record(act, document, row, FactKind.MARK_CHANGED, *changed(before, content_of(row)))
            if row.thread.shared_at and (change.text is not None or change.meant_for is not None):
                tell_of_mark(act, document, row)
            rows.append(row)
            asked.append(row)
        return tell(act, document, rows, asked)


def _say(act: Act, document: DocumentRow, row: MarkRow, change: MarkChange) -> list[MarkRow]:
    """What is said is the same wherever the mark was carried; returns it there."""
    if change.text is None and change.meant_for is None:
        return []
    thread = row.thread
    if change.text is not None:
        thread.text = check_text(change.text, required=False)
    if change.meant_for is not None:
        thread.meant_for = _meant(act, document, thread, change.meant_for)
    elsewhere = [each for each in places_of(act.session, row) if each.id != row.id]
    for each in elsewhere:
        each.version, each.changed_at = each.version + 1, act.at
    return elsewhere


def _change(act: Act, row: MarkRow, document: DocumentRow, change: MarkChange) -> None:
    if row.locked and change.locked is not False:
        raise RuleBroken("mark_locked", "This mark is locked. Unlock it first.", document.number)
    shape = shape_of(row)
    look = Look(**change.look.model_dump()) if change.look else shape.look
    if change.points is not None or change.look:
        points = tuple(change.points) if change.points is not None else shape.points
        rules.check_shape(Shape(MarkKind(row.kind), points, look))
        row.points, row.look = [list(point) for point in points], asdict(look)
        # Its places are as exact as the one that was placed worst.
        row.aim_pt = max(row.aim_pt, change.aim_pt or 0.0)
    row.rings = row.rings if change.rings is None else change.rings
    if change.label is not None:
        row.label = rules.check_label(change.label)
    if change.discipline is not None:
        _draft(row, act.session.get_one(ProjectRow, document.project_id), change.discipline, keep_ink=bool(change.look))
    row.locked = row.locked if change.locked is None else change.locked
    row.rank = row.rank if change.rank is None else change.rank


def _draft(row: MarkRow, project: ProjectRow, discipline: str, *, keep_ink: bool) -> None:
    """The mark is of a discipline from now on, and in its ink where the project gives it one."""
    row.discipline = rules.check_discipline(discipline, project.rules["disciplines"])
    convention = ink_convention(project)
    ink = convention.ink_for(discipline, "") if convention.by == "discipline" else ""
    if ink and not keep_ink:
        row.look = {**row.look, "colour": ink}


def check_meant(act: Act, document: DocumentRow, thread: ThreadRow) -> None:
    """Raises RuleBroken for ink that is meant for somebody who is not among its readers."""
    _meant(act, document, thread, thread.meant_for)


def _meant(act: Act, document: DocumentRow, thread: ThreadRow, person_id: str) -> str:
    """Pencil may be for anybody who sees the sheet; when it is inked, they must be among its readers."""
    if not person_id:
        return ""
    audience = audience_of_mark(act.session, document, thread) if thread.shared_at else for_folders(document.folder_id)
    if person_id not in who_sees(act.session, document.project_id, audience):
        words = (
            "This person does not read the mark."
            if thread.readers != EVERYBODY
            else "This person does not see the sheet."
        )
        raise RuleBroken("person_sees_not", words, document.number)
    return person_id


def remove_marks(context: Context, actor: Actor, revision_id: str, command: RemoveMarks) -> None:
    """Takes one's own marks off the sheet; the rows and the trail keep them."""
    with acting(context, actor) as act:
        see_revision(act.session, actor, revision_id, Level.MARK, let_in=True)
        _check_count(len(command.marks))
        rows = []
        for mark_id, version in command.marks.items():
            row, document = _own(act, revision_id, mark_id, version)
            take_away(act, document, row)
            rows.append(row)
        tell(act, document, rows)


def bring_back_marks(context: Context, actor: Actor, revision_id: str, command: BringBackMarks) -> list[Mark]:
    """Undo of taking away one's own marks."""
    with acting(context, actor) as act:
        see_revision(act.session, actor, revision_id, Level.MARK, let_in=True)
        _check_count(len(command.marks))
        rows = []
        for mark_id in command.marks:
            row, document = known_mark(act, mark_id)
            if row.revision_id != revision_id:
                raise NotFound(mark_id)
            if row.thread.author_id != actor.person_id:
                raise NotAllowed("not_your_mark", "Only its author brings a mark back.")
            if row.removed_at is None:
                raise RuleBroken("mark_still_there", "This mark is on the sheet.")
            row.removed_at, row.version = None, row.version + 1
            record(act, document, row, FactKind.MARK_BROUGHT_BACK, after=content_of(row))
            rows.append(row)
        return tell(act, document, rows, rows)
