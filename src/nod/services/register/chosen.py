"""Documents that somebody chose, many at once: what their acts need to know of each, in one answer."""

from __future__ import annotations

from typing import Any

from pydantic import Field
from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.services.acts.answers import Answered, FromOutside
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.register import standing
from nod.services.register.register_list import AskedView, read_view
from nod.store import register_query
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import DocumentRow, DrawingSetRow, RevisionRow, SetSheetRow

MOST_CHOSEN = 50_000


class ChosenView(FromOutside):
    """A list of the register, see `AskedView`."""

    words: str = ""
    filters: str = ""


class Choose(FromOutside):
    """One of four: ids of documents, ids of revisions, a drawing set, or all that a list leaves."""

    project_id: str
    documents: list[str] = Field(default_factory=list, max_length=MOST_CHOSEN)
    revisions: list[str] = Field(default_factory=list, max_length=MOST_CHOSEN)
    set_id: str = ""
    view: ChosenView | None = None


class ChosenLine(Answered):
    """`revision` is the latest, but where a revision was asked for."""

    id: str
    version: int
    number: str
    title: str
    revision_id: str
    revision: str
    status: str
    verdict: str


class Chosen(Answered):
    """In the order asked for; `missing` counts those that are not there for whoever asks. `name` is the set's."""

    lines: list[ChosenLine]
    missing: int
    name: str


def choose(context: Context, actor: Actor, asked: Choose) -> Chosen:
    """Raises NotFound for a set that is not there, RuleBroken for a list that is none or too long."""
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        if asked.revisions:
            return _by_revision(session, seat, asked.revisions)
        if asked.set_id:
            return _of_set(session, seat, asked.set_id)
        ids = _in_view(session, seat, asked) if asked.view else asked.documents
        query = _seen(seat).where(one_of(DocumentRow.id, ids))
        found = {row.id: _line(row) for row in session.execute(query)}
        return _in_order(ids, found)


def _in_order(wanted: list[str], found: dict[str, ChosenLine], name: str = "") -> Chosen:
    unique = list(dict.fromkeys(wanted))
    lines = [found[each] for each in unique if each in found]
    return Chosen(lines=lines, missing=len(unique) - len(lines), name=name)


def _in_view(session: Session, seat: Seat, asked: Choose) -> list[str]:
    view = asked.view or ChosenView()
    read = read_view(session, seat, AskedView(asked.project_id, view.words, view.filters))
    ids = register_query.ids(session, read, MOST_CHOSEN + 1)
    if len(ids) > MOST_CHOSEN:
        raise RuleBroken("list_large", f"At most {MOST_CHOSEN:,} documents are marked at once. Filter the list first.")
    return ids


def _seen(seat: Seat) -> Select[str, int, str, str, str, str, str, str]:
    document = DocumentRow
    query = select(
        document.id, document.version, document.number, document.title, document.revision_id, document.revision,
        document.status, document.verdict,
    )  # fmt: skip
    return query.where(unindexed(document.project_id) == seat.project.id, seat.sees(document.folder_id))


def _line(row: Any) -> ChosenLine:
    return ChosenLine.model_construct(
        id=row.id, version=row.version, number=row.number, title=row.title, revision_id=row.revision_id,
        revision=row.revision, status=row.status, verdict=row.verdict,
    )  # fmt: skip


def _by_revision(session: Session, seat: Seat, revisions: list[str]) -> Chosen:
    query = (
        select(RevisionRow, DocumentRow)
        .join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        .where(
            unindexed(DocumentRow.project_id) == seat.project.id, seat.sees(DocumentRow.folder_id),
            one_of(RevisionRow.id, revisions),
        )
    )  # fmt: skip
    rows = session.execute(query).all()
    verdicts = standing.verdicts_of(session, [revision.id for revision, _ in rows])
    found = {
        revision.id: ChosenLine(
            id=document.id, version=document.version, number=document.number, title=revision.title,
            revision_id=revision.id, revision=revision.code, status=revision.status,
            verdict=verdicts.get(revision.id, ""),
        )
        for revision, document in rows
    }  # fmt: skip
    return _in_order(revisions, found)


def _of_set(session: Session, seat: Seat, set_id: str) -> Chosen:
    """The sheets of a set at their latest revisions, in its order; what is withdrawn is not among them."""
    row = session.get(DrawingSetRow, set_id)
    if row is None or row.removed or row.project_id != seat.project.id:
        raise NotFound(set_id)
    query = _seen(seat).join(SetSheetRow, SetSheetRow.document_id == DocumentRow.id)
    lines = session.execute(
        query.where(SetSheetRow.set_id == set_id, ~DocumentRow.withdrawn).order_by(SetSheetRow.place)
    )
    return Chosen(lines=[_line(each) for each in lines], missing=0, name=row.name)
