"""Ink that goes into a folder with the copy of a revision, as it stands then (handbook §8, on the end)."""

from __future__ import annotations

from typing import TypeVar

from sqlalchemy import exists, inspect, select
from sqlalchemy.orm import Session, aliased

from nod.core.trail.entries import FactKind
from nod.services.acts.context import Act
from nod.services.marks.mark_rows import marks_with_threads
from nod.services.marks.marks import content_of, record
from nod.store.ids import new_id
from nod.store.tables import DocumentRow, MarkRow, ReplyRow, RevisionRow, ScaleRow, ThreadRow

Row = TypeVar("Row", MarkRow, ThreadRow, ReplyRow, ScaleRow)


def copy_marks(act: Act, revision_id: str, made: RevisionRow) -> int:
    """What is inked on the revision, with what was answered, onto its copy. Returns how many marks.

    Each is a thread of its own from then on: what is said later on either is not said on the other. Pencil, links and
    attached files stay where they are; a mark that came along before does not come twice.
    """
    rows = _inked(act.session, revision_id, made.id)
    if not rows:
        return 0
    copy = act.session.scalars(select(DocumentRow).where(DocumentRow.id == made.document_id)).one()
    replies = _replies(act.session, [row.thread_id for row in rows])
    for old in rows:
        mark_id = new_id()
        thread = _again(
            old.thread, id=mark_id, on_id=copy.id, said_on=made.id, file_id="", meant_for="",
            state_on=made.id if old.thread.state_on else "", version=0,
        )  # fmt: skip
        act.session.add(thread)
        act.session.flush()
        mark = _again(
            old, id=mark_id, thread_id=thread.id, document_id=copy.id, revision_id=made.id, carried_from=old.id,
            locked=True, version=1,
        )  # fmt: skip
        act.session.add(mark)
        said = replies.get(old.thread_id, [])
        act.session.add_all(
            _again(each, id=new_id(), thread_id=thread.id, said_on=made.id if each.said_on else "", mail_id="")
            for each in said
        )
        act.session.flush()
        act.session.refresh(mark)
        after = {**content_of(mark), "state": thread.state, "answers": len(said)}
        record(act, copy, mark, FactKind.MARK_COPIED, after=after)
    return len(rows)


def copy_scales(act: Act, revision_id: str, made: RevisionRow) -> None:
    """A copy measures as what it was copied from did; where a scale was set on it since, that holds."""
    there = exists().where(ScaleRow.revision_id == made.id)
    if act.session.scalar(select(there)):
        return
    query = select(ScaleRow).where(ScaleRow.revision_id == revision_id, ScaleRow.removed_at.is_(None))
    rows = act.session.scalars(query.order_by(ScaleRow.set_at)).all()
    act.session.add_all(_again(row, id=new_id(), revision_id=made.id) for row in rows)


def _inked(session: Session, revision_id: str, made_id: str) -> list[MarkRow]:
    other = aliased(MarkRow)
    there = select(other.id).where(other.carried_from == MarkRow.id, other.revision_id == made_id)
    query = marks_with_threads().where(
        MarkRow.revision_id == revision_id, MarkRow.removed_at.is_(None), ThreadRow.shared_at.is_not(None),
        ~there.exists(),
    )  # fmt: skip
    return list(session.scalars(query.order_by(MarkRow.page, MarkRow.rank, MarkRow.seq)))


def _replies(session: Session, thread_ids: list[str]) -> dict[str, list[ReplyRow]]:
    found: dict[str, list[ReplyRow]] = {}
    for row in session.scalars(select(ReplyRow).where(ReplyRow.thread_id.in_(thread_ids)).order_by(ReplyRow.seq)):
        found.setdefault(row.thread_id, []).append(row)
    return found


def _again(row: Row, **other: object) -> Row:
    """A row like this one, but for some of its columns."""
    kind = type(row)
    same = {each.key: getattr(row, each.key) for each in inspect(kind).column_attrs if each.key != "seq"}
    return kind(**(same | other))
