"""Marks as rows of the database, read so that no row can keep the others of its sheet from being seen."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ColumnElement, Select, or_, select
from sqlalchemy.orm import Session, contains_eager

from nod.core.access.audiences import Audience, for_folders, only_for
from nod.core.access.levels import Level
from nod.core.marks.readers import EVERYBODY
from nod.core.marks.stored_marks import StoredShape, read_shape
from nod.services.acts.seats import Seat
from nod.services.marks.kind import THREAD
from nod.services.marks.readers import is_open_ink
from nod.services.things.audiences import audience_of
from nod.store.tables import DocumentRow, MarkRow, ThreadRow


def shape_of(row: MarkRow) -> StoredShape:
    """Never raises, whatever has come to be stored; a pin stands for what cannot be drawn."""
    return read_shape(row.kind, row.points, row.rings, row.look)


def marks_with_threads() -> Select[Any]:
    """Marks, with their threads for conditions."""
    query: Select[Any] = select(MarkRow)
    return query.join(MarkRow.thread).options(contains_eager(MarkRow.thread))


def is_read_by(seat: Seat, document: DocumentRow | None = None) -> ColumnElement[bool]:
    """Of threads on sheets that the seat sees: ink for everybody, ink for them among others, and their own pencil.

    Who was let in to a sheet of this `document`, and does not see its folder, reads what is there for them by name.
    """
    by_name = THREAD.seen(seat, ThreadRow.id)
    if document is not None and seat.at(document.folder_id) is Level.NONE:
        return by_name
    return or_(is_open_ink(), by_name)


def private_to(thread: ThreadRow) -> str:
    """Its author while it is pencil."""
    return "" if thread.shared_at else thread.author_id or ""


def audience_of_mark(session: Session, document: DocumentRow, thread: ThreadRow) -> Audience:
    """Who sees it: its author while it is pencil, its readers then; asked only where these are not everybody."""
    if not thread.shared_at:
        return only_for(private_to(thread))
    if thread.readers == EVERYBODY and not thread.session_id:
        return for_folders(document.folder_id)
    session.flush()
    return audience_of(session, THREAD.audience, thread.id)


def find_mark(session: Session, mark_id: str) -> MarkRow | None:
    return session.scalars(select(MarkRow).where(MarkRow.id == mark_id)).one_or_none()


def places_of(session: Session, row: MarkRow) -> list[MarkRow]:
    """The mark on every revision where it stands, also where it was taken away: they share a thread."""
    return list(session.scalars(select(MarkRow).where(MarkRow.thread_id == row.thread_id)))
