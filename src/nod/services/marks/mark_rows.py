"""Marks as rows of the database, read so that no row can keep the others of its sheet from being seen."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ColumnElement, Select, or_, select
from sqlalchemy.orm import Session, contains_eager

from nod.core.marks.stored_marks import StoredShape, read_shape
from nod.services.acts.seats import Actor
from nod.store.tables import MarkRow, ThreadRow


def shape_of(row: MarkRow) -> StoredShape:
    """Never raises, whatever has come to be stored; a pin stands for what cannot be drawn."""
    return read_shape(row.kind, row.points, row.rings, row.look)


def marks_with_threads() -> Select[Any]:
    """Marks, with their threads for conditions."""
    query: Select[Any] = select(MarkRow)
    return query.join(MarkRow.thread).options(contains_eager(MarkRow.thread))


def is_shared_with(actor: Actor) -> ColumnElement[bool]:
    """Of threads: ink, and one's own pencil."""
    return or_(ThreadRow.shared_at.is_not(None), ThreadRow.author_id == actor.private_id)


def private_to(thread: ThreadRow) -> str:
    """Its author while it is pencil."""
    return "" if thread.shared_at else thread.author_id or ""


def find_mark(session: Session, mark_id: str) -> MarkRow | None:
    return session.scalars(select(MarkRow).where(MarkRow.id == mark_id)).one_or_none()


def places_of(session: Session, row: MarkRow) -> list[MarkRow]:
    """The mark on every revision where it stands, also where it was taken away: they share a thread."""
    return list(session.scalars(select(MarkRow).where(MarkRow.thread_id == row.thread_id)))
