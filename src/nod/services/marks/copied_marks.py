"""Ink that goes into a folder with the copy of a revision, as it stands then (handbook §8, on the end)."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import TypeVar

from sqlalchemy import inspect, select
from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.services.acts.context import Act
from nod.services.marks.mark_rows import marks_with_threads
from nod.services.marks.marks import content_of, record
from nod.services.marks.readers import is_open_ink
from nod.services.marks.scales import record_scale
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import DocumentRow, MarkRow, PageRow, ReplyRow, RevisionRow, ScaleRow, ThreadRow

Row = TypeVar("Row", MarkRow, ThreadRow, ReplyRow, ScaleRow)


def copy_marks(act: Act, made: Mapping[str, RevisionRow]) -> int:
    """What is inked for everybody on these revisions, with its answers, onto their copies. Returns how many marks.

    Each is a thread of its own from then on: what is said later on either is not said on the other. Pencil, links and
    attached files stay where they are; a mark that came along before does not come twice.
    """
    rows = _inked(act.session, made)
    replies = _replies(act.session, [row.thread_id for row in rows])
    documents = _documents(act.session, {made[row.revision_id].document_id for row in rows})
    for old in rows:
        copy = made[old.revision_id]
        said = replies.get(old.thread_id, [])
        mark = _copied(act, old, copy, said)
        after = {**content_of(mark), "state": mark.thread.state, "answers": len(said)}
        record(act, documents[copy.document_id], mark, FactKind.MARK_COPIED, after=after)
    return len(rows)


def _copied(act: Act, old: MarkRow, copy: RevisionRow, said: Sequence[ReplyRow]) -> MarkRow:
    mark_id = new_id()
    thread = _again(
        old.thread, id=mark_id, on_id=copy.document_id, said_on=copy.id, file_id="", meant_for="",
        state_on=copy.id if old.thread.state_on else "", version=0,
    )  # fmt: skip
    act.session.add(thread)
    act.session.flush()
    mark = _again(
        old, id=mark_id, thread_id=thread.id, document_id=copy.document_id, revision_id=copy.id, carried_from=old.id,
        locked=True, version=1,
    )  # fmt: skip
    act.session.add(mark)
    act.session.add_all(
        _again(each, id=new_id(), thread_id=thread.id, said_on=copy.id if each.said_on else "", mail_id="")
        for each in said
    )
    act.session.flush()
    act.session.refresh(mark)
    return mark


def copy_scales(act: Act, made: Mapping[str, RevisionRow]) -> None:
    """A copy measures as what it was copied from did; where a scale was set on it since, that holds.

    `made` has, by revision, its copy.
    """
    there = select(ScaleRow.revision_id).where(one_of(ScaleRow.revision_id, [each.id for each in made.values()]))
    own = set(act.session.scalars(there))
    query = select(ScaleRow).where(one_of(ScaleRow.revision_id, list(made)), ScaleRow.removed_at.is_(None))
    rows = [row for row in act.session.scalars(query.order_by(ScaleRow.set_at)) if made[row.revision_id].id not in own]
    documents = _documents(act.session, {made[row.revision_id].document_id for row in rows})
    for row in rows:
        copy = made[row.revision_id]
        new = _again(row, id=new_id(), revision_id=copy.id)
        act.session.add(new)
        page = act.session.get_one(PageRow, (copy.sha256, row.page))
        record_scale(act, documents[copy.document_id], new, FactKind.SCALE_SET, page)


def _inked(session: Session, made: Mapping[str, RevisionRow]) -> list[MarkRow]:
    there = select(MarkRow.carried_from).where(
        one_of(MarkRow.revision_id, [each.id for each in made.values()]), MarkRow.carried_from != ""
    )
    query = marks_with_threads().where(
        one_of(MarkRow.revision_id, list(made)), MarkRow.removed_at.is_(None), is_open_ink(),
        MarkRow.id.not_in(there),
    )  # fmt: skip
    return list(session.scalars(query.order_by(MarkRow.revision_id, MarkRow.page, MarkRow.rank, MarkRow.seq)))


def _documents(session: Session, ids: Collection[str]) -> dict[str, DocumentRow]:
    return {row.id: row for row in session.scalars(select(DocumentRow).where(one_of(DocumentRow.id, ids)))}


def _replies(session: Session, thread_ids: list[str]) -> dict[str, list[ReplyRow]]:
    found: dict[str, list[ReplyRow]] = {}
    for row in session.scalars(select(ReplyRow).where(one_of(ReplyRow.thread_id, thread_ids)).order_by(ReplyRow.seq)):
        found.setdefault(row.thread_id, []).append(row)
    return found


def _again(row: Row, **other: object) -> Row:
    """A row like this one, but for some of its columns."""
    kind = type(row)
    same = {each.key: getattr(row, each.key) for each in inspect(kind).column_attrs if each.key != "seq"}
    return kind(**(same | other))
