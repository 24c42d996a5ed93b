"""Things of any kind, as one person may meet them: by id, by words, by name."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy import ColumnElement, and_, false, or_, select
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience, Eyes, is_seen
from nod.core.access.levels import Effect, Level, effective
from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Subject
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act
from nod.services.acts.seats import Actor, Seat, grants_of, holder_of, members_of, reach_in, take_seat, tree_of
from nod.services.things.audiences import audience_of, seen
from nod.services.things.kinds import Row, ThingKind, kind_of, thing_kinds
from nod.store.tables import MembershipRow, PersonRow


class Thing(Answered):
    """`words` name it, beginning with its `number` if it has one; `kind_words` say what it is.

    It opens at `address`, a path of Nod or a web address.
    """

    kind: str
    target: str
    number: str
    words: str
    kind_words: str
    address: str


def see_thing(session: Session, actor: Actor, kind: ThingKind[Row], thing_id: str) -> tuple[Row, Seat]:
    """Raises NotFound for a thing that is not there for this person, NotAllowed without its tool."""
    row = session.scalars(select(kind.row).where(kind.columns.id == thing_id)).one_or_none()
    if row is None:
        raise NotFound(thing_id)
    seat = take_seat(session, actor, project_of(row))
    if session.scalar(select(kind.columns.id).where(kind.columns.id == thing_id, kind.seen(seat))) is None:
        raise NotFound(thing_id)
    if kind.tool:
        seat.need_tool(kind.tool)
    return row, seat


def things_of(session: Session, seat: Seat, asked: Iterable[tuple[str, str]]) -> dict[tuple[str, str], Thing]:
    """Those of `asked` (kind and id) that are there for a seat, with one query a kind."""
    found: dict[tuple[str, str], Thing] = {}
    for kind, ids in _by_kind(asked):
        if kind.is_on(seat):
            here = (kind.columns.project_id == seat.project.id, kind.seen(seat))
            found |= _shown(session, kind, ids, *here)
    return found


def all_things_of(session: Session, asked: Iterable[tuple[str, str]]) -> dict[tuple[str, str], Thing]:
    """Those of `asked` that there are, whoever may see them, with one query a kind."""
    found: dict[tuple[str, str], Thing] = {}
    for kind, ids in _by_kind(asked):
        found |= _shown(session, kind, ids)
    return found


def _by_kind(asked: Iterable[tuple[str, str]]) -> list[tuple[ThingKind[Any], set[str]]]:
    by_kind: dict[str, set[str]] = {}
    for code, thing_id in asked:
        by_kind.setdefault(code, set()).add(thing_id)
    return [(kind, ids) for code, ids in by_kind.items() if (kind := kind_of(code)) is not None]


def _shown(
    session: Session, kind: ThingKind[Any], ids: set[str], *conditions: ColumnElement[bool]
) -> dict[tuple[str, str], Thing]:
    query = select(kind.row).where(kind.columns.id.in_(ids), *conditions)
    return {(kind.code, each.target): each for each in (show_thing(kind, row) for row in session.scalars(query))}


def any_seen(seat: Seat, kind_code: Any, thing_id: Any) -> ColumnElement[bool]:
    """A condition on two columns that name things of any kind: those that are there for a seat."""
    of = (and_(kind_code == kind.code, kind.seen(seat, thing_id)) for kind in thing_kinds() if kind.is_on(seat))
    return or_(false(), *of)


def find_things(session: Session, seat: Seat, kind: ThingKind[Any], words: str, most: int) -> list[Thing]:
    """Those of a kind that words may mean, for a seat; none for less than two letters."""
    asked = words.strip()
    if len(asked) < 2 or not kind.is_on(seat):
        return []
    if kind.find is not None:
        return [show_thing(kind, row) for row in kind.find(session, seat, asked, most)]
    named = or_(*(column.icontains(asked, autoescape=True) for column in kind.named_by))
    query = select(kind.row).where(kind.columns.project_id == seat.project.id, named, kind.seen(seat))
    return [show_thing(kind, row) for row in session.scalars(query.order_by(kind.newest.desc()).limit(most))]


def show_thing(kind: ThingKind[Row], row: Row) -> Thing:
    return Thing(
        kind=kind.code,
        target=id_of(row),
        number=kind.number(row),
        words=kind.name(row),
        kind_words=kind.words,
        address=kind.address(row),
    )


def id_of(row: Any) -> str:
    return str(row.id)


def project_of(row: Any) -> str:
    return str(row.project_id)


def audience_of_thing(session: Session, subject: Subject) -> Audience | None:
    """None for what is no registered kind of thing."""
    session.flush()
    kind = kind_of(subject.kind)
    return audience_of(session, kind.audience, subject.id) if kind else None


def tell_thing(act: Act, kind: ThingKind[Row], row: Row) -> Audience:
    """Tells live that a thing has changed, those for whom it is there, who are returned."""
    act.session.flush()
    audience = audience_of(act.session, kind.audience, id_of(row))
    act.tell_audience(project_of(row), kind.topic, id_of(row), audience)
    return audience


def who_sees(session: Session, project_id: str, audience: Audience) -> list[str]:
    """Ids of the project's people for whom a thing is there."""
    reach = reach_in(session, project_id)
    members = select(MembershipRow).where(MembershipRow.project_id == project_id, MembershipRow.state == "active")
    return [
        member.person_id
        for member in session.scalars(members)
        if is_seen(audience, _eyes(session, member, reach.of(holder_of(session, member))))
    ]


def may_know(session: Session, project_id: str, person_id: str, subjects: Iterable[Subject]) -> bool:
    """Whether a member of the project, or somebody invited to it, sees all these things."""
    eyes = member_eyes(session, project_id, person_id)
    asked = set(subjects)
    return eyes is not None and seen_by(session, eyes, asked) == asked


def who_may_know(
    session: Session, project_id: str, person_ids: Iterable[str], subjects: Iterable[Subject]
) -> frozenset[str]:
    """Of these people, the members and those invited who see all these things, which are there.

    The same as `may_know` of each, asked for all of them at once.
    """
    audiences = [audience_of_thing(session, each) for each in set(subjects)]
    if None in audiences:
        return frozenset()
    reach = reach_in(session, project_id)
    found = set()
    for member, _ in members_of(session, project_id, list(person_ids)):
        eyes = _eyes(session, member, reach.of(holder_of(session, member)))
        if all(is_seen(audience, eyes) for audience in audiences if audience is not None):
            found.add(member.person_id)
    return frozenset(found)


def seen_by(session: Session, eyes: Eyes, subjects: Iterable[Subject]) -> set[Subject]:
    """Those that are there for these eyes, with one query a kind; nothing of what is no registered kind of thing."""
    session.flush()
    found: set[Subject] = set()
    for kind, ids in _by_kind((each.kind, each.id) for each in subjects):
        there = select(kind.columns.id).where(kind.columns.id.in_(ids), seen(kind.audience, kind.columns.id, eyes))
        found |= {Subject(kind.code, each) for each in session.scalars(there)}
    return found


def member_eyes(session: Session, project_id: str, person_id: str) -> Eyes | None:
    """Of a member, or of somebody invited; None for anybody else."""
    member = session.get(MembershipRow, (project_id, person_id))
    if member is None or member.state not in ("active", "invited"):
        return None
    holder = holder_of(session, member)
    effects = effective(tree_of(session, project_id), grants_of(session, project_id, holder), holder)
    return _eyes(session, member, effects)


def _eyes(session: Session, member: MembershipRow, effects: dict[str, Effect]) -> Eyes:
    holder = holder_of(session, member)
    folders = frozenset(folder for folder, effect in effects.items() if effect.level >= Level.READ)
    steward = session.get_one(PersonRow, member.person_id).steward
    return Eyes(member.person_id, holder.company_id, None if holder.runs else folders, holder.runs, steward)
