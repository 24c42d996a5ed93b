"""Who reads ink: the groups that there are, as values of one thread and as conditions of a query (handbook §6).

A company is one by itself. Features whose things have people register theirs with `reader_group`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, Select, and_, exists, false, func, or_, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.marks.readers import COMPANY, EVERYBODY, Group, Readers
from nod.core.sessions.sessions import SessionState
from nod.services.acts.answers import Answered
from nod.services.acts.seats import Actor, Seat
from nod.store.asides import aside, asides
from nod.store.dialects.sqlite import one_of
from nod.store.tables import CompanyRow, PersonRow, SessionRow, SessionSheetRow, ThreadReaderRow, ThreadRow


@dataclass(frozen=True)
class Offer:
    """A group that somebody may ink for on a revision. `first`: it is what is offered first there."""

    id: str
    first: bool = False


@dataclass(frozen=True)
class ReaderGroup:
    """The people of things of one kind.

    `has(person, groups)`: a condition that a person is in one of the groups whose ids the query has. `names`: by id,
    how a group is called in a sentence. `offered(session, person, revision)`: those of somebody on a revision.
    Whoever runs the project reads with them. `meets`: what was said in a thing of the kind that is open now is there
    for these people whatever folders they see, for as long as it is open.
    """

    kind: str
    has: Callable[[Any, Select[Any]], ColumnElement[bool]]
    names: Callable[[Session, Sequence[str]], Mapping[str, str]]
    offered: Callable[[Session, str, str], Sequence[Offer]]
    meets: bool = False


_GROUPS: dict[str, ReaderGroup] = {}
SESSION_GROUP = "session"
"""The people of a session, as the feature registers them."""


def reader_group(group: ReaderGroup) -> None:
    """Registers the people of a kind of thing. Raises ValueError for a second one of the same kind."""
    if group.kind in _GROUPS or group.kind in (COMPANY, EVERYBODY):
        raise ValueError(f"There are readers {group.kind} already")
    _GROUPS[group.kind] = group


def _groups_of(thread_id: Any, kind: str) -> Select[Any]:
    thread, reader = asides("groups_of", ThreadRow, ThreadReaderRow)
    query = select(reader.group_id).join(thread, thread.id == reader.thread_id)
    some = (thread.shared_at.is_not(None), thread.readers != EVERYBODY)
    query = query.where(reader.thread_id == thread_id, reader.kind == kind, *some)
    return query.correlate_except(thread, reader)


def companies_of_thread(thread_id: Any) -> Select[Any]:
    """Of `AudienceOf`: the companies that read it, and those that they were merged into."""
    company = aside("companies_of_thread", CompanyRow)
    among = company.id.in_(_groups_of(thread_id, COMPANY))
    return select(func.coalesce(company.merged_into, company.id)).where(among)


def people_of_thread(thread_id: Any) -> Select[Any]:
    """Of `AudienceOf`: those who are in a group that reads it, and those who meet where it was said."""
    person = aside("people_of_thread", PersonRow)
    among = [group.has(person.id, _groups_of(thread_id, kind)) for kind, group in _GROUPS.items()]
    among += [group.has(person.id, _open_meeting(thread_id)) for group in _GROUPS.values() if group.meets]
    return select(person.id).where(or_(false(), *among))


def guests_of_thread(thread_id: Any) -> Select[Any]:
    """Of `AudienceOf`: the session in which it was said, whose id the eyes of its guests have for a person's."""
    row = aside("guests_of_thread", SessionRow)
    meets = row.id.in_(_open_meeting(thread_id))
    return select(row.id).where(or_(meets, row.id.in_(_groups_of(thread_id, SESSION_GROUP))))


def _open_meeting(thread_id: Any) -> Select[Any]:
    """The session in which ink for everybody was said, while it is open and has the sheet."""
    thread, row, sheet = asides("open_meeting", ThreadRow, SessionRow, SessionSheetRow)
    query = (
        select(row.id)
        .join(thread, thread.session_id == row.id)
        .join(sheet, (sheet.session_id == row.id) & (sheet.revision_id == thread.said_on))
    )
    here = (row.state == SessionState.OPEN.value, sheet.left_at.is_(None), thread.readers == EVERYBODY)
    query = query.where(thread.id == thread_id, thread.shared_at.is_not(None), *here)
    return query.correlate_except(thread, row, sheet)


def is_between_those_who_meet(thread_id: Any) -> ColumnElement[bool]:
    """Ink that the people of a session read which is open now: they need not see the folder of the sheet."""
    thread, row, sheet, reader = asides(
        "is_between_those_who_meet", ThreadRow, SessionRow, SessionSheetRow, ThreadReaderRow
    )
    return exists().where(
        thread.id == thread_id, row.id == thread.session_id, row.state == SessionState.OPEN.value,
        sheet.session_id == row.id, sheet.revision_id == thread.said_on, sheet.left_at.is_(None),
        reader.thread_id == thread.id, reader.kind == SESSION_GROUP, reader.group_id == row.id,
    )  # fmt: skip


def is_for_everybody(thread_id: Any) -> ColumnElement[bool]:
    thread = aside("is_for_everybody", ThreadRow)
    return exists().where(thread.id == thread_id, thread.shared_at.is_not(None), thread.readers == EVERYBODY)


def is_for_those_who_run(thread_id: Any) -> ColumnElement[bool]:
    """What is for more than companies: these keep theirs to themselves."""
    thread, reader = asides("is_for_those_who_run", ThreadRow, ThreadReaderRow)
    group = exists().where(
        reader.thread_id == thread_id,
        reader.kind != COMPANY,
        thread.id == reader.thread_id,
        thread.shared_at.is_not(None),
    )
    return or_(is_for_everybody(thread_id), group)


def is_open_ink() -> ColumnElement[bool]:
    """Of threads: ink for whoever sees the sheet."""
    return and_(ThreadRow.shared_at.is_not(None), ThreadRow.readers == EVERYBODY)


def reads_with(kind: str, group_id: str) -> ColumnElement[bool]:
    """Of threads: those that a group reads, besides ink for everybody."""
    reader = aside("reads_with", ThreadReaderRow)
    return exists().where(reader.thread_id == ThreadRow.id, reader.kind == kind, reader.group_id == group_id)


def readers_of(session: Session, thread: ThreadRow) -> Readers:
    if thread.readers == EVERYBODY:
        return Readers()
    rows = session.scalars(select(ThreadReaderRow).where(ThreadReaderRow.thread_id == thread.id))
    return Readers(everybody=False, groups=frozenset(Group(row.kind, row.group_id) for row in rows))


def put_readers(session: Session, thread: ThreadRow, readers: Readers) -> None:
    """As `core.marks.readers.opened` made them: none that is there is taken out."""
    thread.readers = EVERYBODY if readers.everybody else "some"
    there = readers_of(session, thread).groups
    session.add_all(
        ThreadReaderRow(thread_id=thread.id, kind=each.kind, group_id=each.id) for each in readers.groups - there
    )
    session.flush()


def named_readers(session: Session, readers: Readers) -> str:
    """As people read it in the trail."""
    if readers.everybody:
        return EVERYBODY
    return ", ".join(sorted(named_groups(session, readers.groups).values()))


class MarkReaders(Answered):
    """A group that reads a mark: the company with its code, or the people of a thing, as a sentence calls them."""

    kind: str
    id: str
    words: str


class ReaderOffers(Answered):
    """For whom the viewer may ink on a sheet besides everybody; the one at `first` is offered first, -1 everybody."""

    groups: list[MarkReaders]
    first: int


def shown_readers(session: Session, threads: Iterable[ThreadRow]) -> dict[str, list[MarkReaders]]:
    """By thread, those who read it; nothing for what everybody does. In a fixed number of queries."""
    ids = [each.id for each in threads if each.readers != EVERYBODY]
    if not ids:
        return {}
    rows = session.execute(
        select(ThreadReaderRow.thread_id, ThreadReaderRow.kind, ThreadReaderRow.group_id)
        .where(one_of(ThreadReaderRow.thread_id, ids))
        .order_by(ThreadReaderRow.kind, ThreadReaderRow.group_id)
    ).all()
    names = named_groups(session, {Group(kind, group_id) for _, kind, group_id in rows})
    found: dict[str, list[MarkReaders]] = {}
    for thread_id, kind, group_id in rows:
        shown = MarkReaders(kind=kind, id=group_id, words=names[Group(kind, group_id)])
        found.setdefault(thread_id, []).append(shown)
    return found


def named_groups(session: Session, groups: Iterable[Group]) -> dict[Group, str]:
    by_kind: dict[str, list[str]] = {}
    for each in groups:
        by_kind.setdefault(each.kind, []).append(each.id)
    found: dict[Group, str] = {}
    for kind, ids in by_kind.items():
        names = _companies(session, ids) if kind == COMPANY else _GROUPS[kind].names(session, ids)
        found |= {Group(kind, id): names.get(id, "people who are not there any more") for id in ids}
    return found


def _companies(session: Session, ids: Sequence[str]) -> dict[str, str]:
    return dict(session.execute(select(CompanyRow.id, CompanyRow.code).where(CompanyRow.id.in_(ids))).all())


def people_who_meet(session: Session, person_id: str, revision_id: str) -> set[str]:
    """Ids of those who meet on a revision now together with this person."""
    found: set[str] = set()
    for group in _GROUPS.values():
        ids = [each.id for each in group.offered(session, person_id, revision_id)] if group.meets else []
        if ids:
            among = select(SessionRow.id).where(SessionRow.id.in_(ids))
            found |= set(session.scalars(select(PersonRow.id).where(group.has(PersonRow.id, among))))
    return found


def offers(session: Session, actor: Actor, seat: Seat, revision_id: str) -> ReaderOffers:
    """Those of the viewer; the project says whether their company comes before everybody."""
    found = [(Group(COMPANY, actor.company_id), seat.project.rules.get("ink_for") == COMPANY)]
    for kind, group in _GROUPS.items():
        found += [(Group(kind, each.id), each.first) for each in group.offered(session, actor.person_id, revision_id)]
    names = named_groups(session, [group for group, _ in found])
    firsts = [at for at, (_, first) in enumerate(found) if first]
    return ReaderOffers(
        groups=[MarkReaders(kind=each.kind, id=each.id, words=names[each]) for each, _ in found],
        first=firsts[-1] if firsts else -1,
    )


def group_for(session: Session, actor: Actor, revision_id: str, kind: str, group_id: str) -> Group | None:
    """What is asked for, None for everybody. Raises NotFound for a group that the actor is not offered."""
    if kind == EVERYBODY:
        return None
    if kind == COMPANY:
        offered = {actor.company_id}
    else:
        group = _GROUPS.get(kind)
        offered = {each.id for each in group.offered(session, actor.person_id, revision_id)} if group else set()
    if group_id not in offered:
        raise NotFound(group_id)
    return Group(kind, group_id)
