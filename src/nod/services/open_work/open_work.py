"""Writing what is with whom, and reading it: standings of things, lines of the register, words for who has it."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import NamedTuple

from sqlalchemy import delete, or_, select, update
from sqlalchemy.orm import Session

from nod.core.acts.open_work import Holder, with_words
from nod.core.acts.working_days import Counting
from nod.core.trail.entries import Subject
from nod.services.acts.answers import Standing
from nod.services.acts.late import LateBy
from nod.store.bulk import add_rows, rows_of
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import (
    Base,
    CompanyRow,
    DocumentRow,
    OpenWorkDocumentRow,
    OpenWorkHolderRow,
    OpenWorkRow,
    PersonRow,
)


@dataclass(frozen=True)
class Wanted:
    """What is wanted of whom, see `OpenWorkRow`; `people` and `companies` by id, in their order."""

    kind: str
    people: Sequence[str] = ()
    companies: Sequence[str] = ()
    part: str = ""
    what: str = ""
    each: bool = False
    waiter_id: str = ""
    since_at: datetime | None = None
    due_on: date | None = None
    counting: Counting = Counting.WORKING
    is_coming: bool = False
    documents: Collection[str] = ()


def set_open_work(session: Session, project_id: str, thing: Subject, wanted: Iterable[Wanted]) -> None:
    """All that is open on a thing from now on, in place of what was. The lines of its documents follow.

    What stays open keeps its row and the documents it is on: of a review of hundreds only who has it changes.
    """
    session.flush()
    query = select(OpenWorkRow).where(OpenWorkRow.thing_id == thing.id, OpenWorkRow.thing_kind == thing.kind)
    rows = list(session.scalars(query))
    there = {(row.kind, row.part): row for row in rows}
    documents: set[str] = set()
    staying: set[str] = set()
    new = []
    for each in wanted:
        row = there.get((each.kind, each.part))
        if row is None or row.id in staying:
            new.append(each)
            continue
        staying.add(row.id)
        documents |= _change(session, row, each)
    documents |= _forget(session, [row.id for row in rows if row.id not in staying])
    documents |= _add(session, project_id, thing, new)
    mirror(session, documents)


def begin_open_work(session: Session, project_id: str, wanted: Iterable[tuple[Subject, Wanted]]) -> None:
    """Of things on which nothing is open yet, many at once."""
    mirror(session, _add_all(session, project_id, list(wanted)))


def _change(session: Session, row: OpenWorkRow, wanted: Wanted) -> set[str]:
    """Returns the documents whose lines may say something else now."""
    for field, value in _fields(wanted).items():
        setattr(row, field, value)
    on = set(session.scalars(select(OpenWorkDocumentRow.document_id).where(OpenWorkDocumentRow.work_id == row.id)))
    session.execute(delete(OpenWorkHolderRow).where(OpenWorkHolderRow.work_id == row.id))
    _add_holders(session, {row.id: wanted})
    now = set(wanted.documents)
    gone = OpenWorkDocumentRow.document_id.in_(on - now)
    if on - now:
        session.execute(delete(OpenWorkDocumentRow).where(OpenWorkDocumentRow.work_id == row.id, gone))
    _add_documents(session, {row.id: now - on})
    return on | now


def _fields(wanted: Wanted) -> dict[str, object]:
    return {
        "what": wanted.what, "each": wanted.each, "waiter_id": wanted.waiter_id, "since_at": wanted.since_at,
        "due_on": wanted.due_on, "counting": wanted.counting.value, "is_coming": wanted.is_coming,
    }  # fmt: skip


def settle(session: Session, thing: Subject, kind: str) -> None:
    """What is of a kind on a thing is done."""
    session.flush()
    of_it = (OpenWorkRow.thing_id == thing.id, OpenWorkRow.thing_kind == thing.kind, OpenWorkRow.kind == kind)
    mirror(session, _forget(session, list(session.scalars(select(OpenWorkRow.id).where(*of_it)))))


def _forget(session: Session, ids: list[str]) -> set[str]:
    """Returns the documents it was on."""
    if not ids:
        return set()
    on = select(OpenWorkDocumentRow.document_id).where(OpenWorkDocumentRow.work_id.in_(ids))
    documents = set(session.scalars(on))
    for table in (OpenWorkDocumentRow, OpenWorkHolderRow):
        session.execute(delete(table).where(table.work_id.in_(ids)))
    session.execute(delete(OpenWorkRow).where(OpenWorkRow.id.in_(ids)))
    return documents


def _add(session: Session, project_id: str, thing: Subject, new: Iterable[Wanted]) -> set[str]:
    return _add_all(session, project_id, [(thing, each) for each in new])


def _add_all(session: Session, project_id: str, new: Sequence[tuple[Subject, Wanted]]) -> set[str]:
    """Returns the documents whose lines may say something else now."""
    by_id = {new_id(): wanted for _, wanted in new}
    session.add_all(
        OpenWorkRow(
            id=work_id, project_id=project_id, kind=wanted.kind, thing_kind=thing.kind, thing_id=thing.id,
            part=wanted.part, **_fields(wanted),
        )
        for (work_id, wanted), (thing, _) in zip(by_id.items(), new, strict=True)
    )  # fmt: skip
    session.flush()
    _add_holders(session, by_id)
    _add_documents(session, {work_id: wanted.documents for work_id, wanted in by_id.items()})
    return {each for wanted in by_id.values() for each in wanted.documents}


def _add_holders(session: Session, by_id: Mapping[str, Wanted]) -> None:
    rows: list[tuple[str, str, str, int]] = []
    for work_id, wanted in by_id.items():
        holders = [("person", each) for each in wanted.people] + [("company", each) for each in wanted.companies]
        rows += [(work_id, *holder, place) for place, holder in enumerate(dict.fromkeys(holders))]
    add_rows(session, OpenWorkHolderRow, ("work_id", "kind", "holder_id", "place"), rows)


def _add_documents(session: Session, by_id: Mapping[str, Collection[str]]) -> None:
    on = [(work_id, each) for work_id, documents in by_id.items() for each in sorted(set(documents))]
    add_rows(session, OpenWorkDocumentRow, ("work_id", "document_id"), on)


_LINES = Base.metadata.tables[DocumentRow.__tablename__]


def mirror(session: Session, document_ids: Collection[str]) -> None:
    """Brings With, Since and Due of these documents' lines in line: of several, what is due first."""
    if not document_ids:
        return
    query = (
        select(OpenWorkDocumentRow.document_id, OpenWorkDocumentRow.work_id)
        .join(OpenWorkRow, OpenWorkRow.id == OpenWorkDocumentRow.work_id)
        .where(one_of(OpenWorkDocumentRow.document_id, list(document_ids)), ~OpenWorkRow.is_coming)
        .order_by(OpenWorkRow.due_on.is_(None), OpenWorkRow.due_on, OpenWorkRow.since_at)
    )
    pairs = rows_of(session, query)
    works = {
        work.id: work
        for work in session.scalars(select(OpenWorkRow).where(OpenWorkRow.id.in_({work_id for _, work_id in pairs})))
    }
    first: dict[str, str] = {}
    for document_id, work_id in pairs:
        first.setdefault(document_id, work_id)
    held = held_by(session, works.values())
    says = {each.id: (held[each.id].words, each.since_at, each.due_on) for each in works.values()}
    saying: dict[tuple[str, datetime | None, date | None], list[str]] = {}
    for document_id in document_ids:
        line = says[first[document_id]] if document_id in first else ("", None, None)
        saying.setdefault(line, []).append(document_id)
    # Hundreds of one step say the same.
    for line, ids in saying.items():
        said = zip((_LINES.c.with_whom, _LINES.c.since_at, _LINES.c.due_on), line, strict=True)
        changes = or_(*(column.is_distinct_from(now) for column, now in said))
        to = update(_LINES).where(one_of(_LINES.c.id, ids), changes)
        session.connection().execute(to.values(with_whom=line[0], since_at=line[1], due_on=line[2]))
    _read_anew(session, set(document_ids))


def _read_anew(session: Session, document_ids: Collection[object]) -> None:
    """What is loaded of these lines is as the tables have it now."""
    for row in list(session.identity_map.values()):
        if isinstance(row, DocumentRow) and row.id in document_ids:
            session.expire(row, ["with_whom", "since_at", "due_on"])


def renamed(session: Session, holder_id: str) -> None:
    """Somebody, or a company, has another name: the lines of the register say it at once."""
    session.flush()
    query = (
        select(OpenWorkDocumentRow.document_id)
        .join(OpenWorkHolderRow, OpenWorkHolderRow.work_id == OpenWorkDocumentRow.work_id)
        .where(OpenWorkHolderRow.holder_id == holder_id)
    )
    mirror(session, set(session.scalars(query)))


def hand_on(session: Session, gone_id: str, kept_id: str) -> None:
    """A company has become another: what was with it is with that one."""
    rows = select(OpenWorkHolderRow).where(OpenWorkHolderRow.holder_id == gone_id)
    for row in session.scalars(rows).all():
        place = row.place
        session.delete(row)
        if session.get(OpenWorkHolderRow, (row.work_id, row.kind, kept_id)) is None:
            session.add(OpenWorkHolderRow(work_id=row.work_id, kind=row.kind, holder_id=kept_id, place=place))
    renamed(session, kept_id)


class Held(NamedTuple):
    """Who has something, in their order and in words."""

    holders: list[Holder]
    words: str


def held_by(session: Session, works: Iterable[OpenWorkRow]) -> dict[str, Held]:
    """By id of the work, with the names of today."""
    rows = {each.id: each for each in works}
    if not rows:
        return {}
    holders: dict[str, list[Holder]] = {work_id: [] for work_id in rows}
    for work_id, holder_id, name in _holders(session, rows):
        holders[work_id].append(Holder(holder_id, name))
    return {
        work_id: Held(holders[work_id], with_words(holders[work_id], row.what, each=row.each))
        for work_id, row in rows.items()
    }


def _holders(session: Session, work_ids: Collection[str]) -> Iterator[tuple[str, str, str]]:
    """Work, id of whoever has it, and their name."""
    holder = OpenWorkHolderRow
    query = (
        select(holder.work_id, holder.holder_id, PersonRow.name, CompanyRow.name)
        .outerjoin(PersonRow, (holder.kind == "person") & (PersonRow.id == holder.holder_id))
        .outerjoin(CompanyRow, (holder.kind == "company") & (CompanyRow.id == holder.holder_id))
        .where(holder.work_id.in_(work_ids))
        .order_by(holder.work_id, holder.place)
    )
    for work_id, holder_id, person, company in session.execute(query):
        yield work_id, holder_id, person or company or ""


def standing_of(work: OpenWorkRow, words: str, late: LateBy) -> Standing:
    days = late(work.due_on, Counting(work.counting))
    return Standing(with_whom=words, since_at=work.since_at, due_on=work.due_on, days_late=days)


def standings(
    session: Session, kind: str, thing_kind: str, thing_ids: Collection[str], late: LateBy
) -> dict[str, Standing]:
    """By id of the thing, where it stands with what is of a kind; nothing for those on which nothing is open.

    With an empty `kind`, whatever is open on it.
    """
    query = select(OpenWorkRow).where(
        OpenWorkRow.thing_id.in_(thing_ids), OpenWorkRow.thing_kind == thing_kind, ~OpenWorkRow.is_coming
    )
    if kind:
        query = query.where(OpenWorkRow.kind == kind)
    works = list(session.scalars(query.order_by(OpenWorkRow.due_on.is_(None), OpenWorkRow.due_on)))
    held = held_by(session, works)
    by_thing: dict[str, list[OpenWorkRow]] = {}
    for each in works:
        by_thing.setdefault(each.thing_id, []).append(each)
    return {
        thing: standing_of(of[0], _together([held[each.id] for each in of]), late) for thing, of in by_thing.items()
    }


def _together(beside: Sequence[Held]) -> str:
    """With whom something is that is with several beside each other: due first is named first."""
    if len(beside) == 1:
        return beside[0].words
    holders = list({each.id: each for held in beside for each in held.holders}.values())
    return with_words(holders, "", each=True) if holders else ""
