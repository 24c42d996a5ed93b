"""What exists for a person: the conditions that every list, count and search puts into its query (decision 0007).

They name their own aliases: a condition that shared a table with the query around it would silently look at the
row at hand instead of at all rows.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple, TypeVar

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.services.acts.seats import Actor, Seat, take_seat, too_low
from nod.store.bulk import rows_of
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.register_query import copies_of_seen
from nod.store.tables import (
    DocumentRow,
    RevisionRow,
)


def see_document(
    session: Session, actor: Actor, document_id: str, level: Level = Level.READ, *, copies: bool = False
) -> tuple[DocumentRow, Seat]:
    """Raises NotFound for a document that is not there for this person, NotAllowed below `level` in its folder.

    A copy is looked at and marked like a document; what needs a higher level is refused, unless `copies` are meant.
    """
    document = session.scalars(select(DocumentRow).where(DocumentRow.id == document_id)).one_or_none()
    if document is None:
        raise NotFound(document_id)
    seat = take_seat(session, actor, document.project_id)
    if seat.at(document.folder_id) is Level.NONE:
        raise NotFound(document_id)
    seat.need_at(document.folder_id, level, document.number)
    if level >= Level.FILE and not copies:
        refuse_copy(document)
    return document, seat


def see_documents(session: Session, seat: Seat, ids: Sequence[str], level: Level = Level.READ) -> list[DocumentRow]:
    """Many of one project, in the order asked for. Raises as `see_document` does, for the first that is not there."""
    query = select(DocumentRow).where(unindexed(DocumentRow.project_id) == seat.project.id, one_of(DocumentRow.id, ids))
    return _all_seen(seat, {row.id: row for row in session.scalars(query)}, ids, level)


class Line(NamedTuple):
    """What an act on hundreds of documents asks of each and of its latest revision: no mapped rows for that."""

    id: str
    folder_id: str
    number: str
    revision: str
    revision_id: str
    withdrawn: bool
    copy_of: str
    filed_by: str
    came_person: str


def see_lines(session: Session, seat: Seat, ids: Sequence[str], level: Level = Level.READ) -> list[Line]:
    """As `see_documents`."""
    of, latest = DocumentRow, RevisionRow
    query = (
        select(
            of.id, of.folder_id, of.number, of.revision, of.revision_id, of.withdrawn, of.copy_of,
            latest.filed_by, latest.came_person,
        )
        .join(latest, latest.id == of.revision_id)
        .where(unindexed(of.project_id) == seat.project.id, one_of(of.id, ids))
    )  # fmt: skip
    return _all_seen(seat, {row[0]: Line(*row) for row in rows_of(session, query)}, ids, level)


Seen = TypeVar("Seen", DocumentRow, Line)


def _all_seen(seat: Seat, rows: Mapping[str, Seen], ids: Sequence[str], level: Level) -> list[Seen]:
    for id in ids:
        row = rows.get(id)
        if row is None or seat.at(row.folder_id) is Level.NONE:
            raise NotFound(id)
        seat.need_at(row.folder_id, level, row.number)
        if level >= Level.FILE:
            refuse_copy(row)
    return [rows[id] for id in ids]


def refuse_copy(document: DocumentRow | Line) -> None:
    """Raises NotAllowed for a copy: what is kept of a document is changed where it lies."""
    if document.copy_of:
        words = f"This is a copy of {document.number} in a folder. It changes with the document that it came from."
        raise NotAllowed("a_copy", words, document.number)


def is_line(seat: Seat) -> ColumnElement[bool]:
    """Documents as a list has them: those in folders that the seat sees, without copies of what it sees already."""
    folders = None if seat.runs else frozenset(seat.levels)
    return seat.sees(DocumentRow.folder_id) & DocumentRow.seq.not_in(copies_of_seen(seat.project.id, folders))


Widening = Callable[[Session, Seat, str], Level]
"""What somebody may do besides their folders' access with one revision, by its id; NONE for nothing."""

_WIDENINGS: list[Widening] = []


def widening(found: Widening) -> Widening:
    """Registers a feature by which somebody may be let in to single revisions."""
    _WIDENINGS.append(found)
    return found


def widened(session: Session, seat: Seat, revision_id: str) -> Level:
    return max((each(session, seat, revision_id) for each in _WIDENINGS), default=Level.NONE)


def see_revision(
    session: Session, actor: Actor, revision_id: str, level: Level = Level.READ, *, let_in: bool = False
) -> tuple[RevisionRow, DocumentRow, Seat]:
    """As `see_document`, by one of its revisions.

    `let_in`: also who sees this one revision alone, because they were let in to it (`widening`). Whoever asks like
    this tells nothing of the document's other revisions, its folder or its trail to a seat that does not see them.
    """
    revision = session.get(RevisionRow, revision_id)
    if revision is None:
        raise NotFound(revision_id)
    if let_in and (found := _let_in(session, actor, revision, level)):
        return revision, *found
    document, seat = see_document(session, actor, revision.document_id, level)
    return revision, document, seat


def _let_in(
    session: Session, actor: Actor, revision: RevisionRow, level: Level
) -> tuple[DocumentRow, Seat] | None:  # fmt: skip
    """None for those who have to be let in by their folders. Raises NotAllowed below `level`."""
    document = session.scalars(select(DocumentRow).where(DocumentRow.id == revision.document_id)).one()
    seat = take_seat(session, actor, document.project_id)
    here = seat.at(document.folder_id)
    if here >= level:
        return None
    wider = widened(session, seat, revision.id)
    if wider >= level:
        return document, seat
    if here is Level.NONE and wider > Level.NONE:
        raise too_low(level, document.number)
    return None
