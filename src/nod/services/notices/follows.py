"""What people follow: things of every kind, folders, and every mark of a project (handbook §13)."""

from __future__ import annotations

import json
from collections.abc import Iterable
from urllib.parse import quote

from sqlalchemy import Select, delete, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.things.things import things_of
from nod.store.dialects.sqlite import put_unless_there
from nod.store.tables import DrawingSetRow, FolderRow, FollowRow, MembershipRow

MARKS, FOLDER, SET = "marks", "folder", "drawing_set"
"""What can be followed besides things."""


class Followed(Answered):
    """Something that can be followed. `words` name it; `address` is where it opens."""

    kind: str
    target: str
    kind_words: str
    words: str
    address: str


class Following(Answered):
    """Whether I follow it, and who does."""

    mine: bool
    followers: list[Who]


class Follows(Answered):
    """What I follow in a project, by name; `marks` is every mark in it."""

    marks: bool
    follows: list[Followed]


def read_following(context: Context, actor: Actor, project_id: str, kind: str, target: str) -> Following:
    """Raises NotFound for what is not there for this person."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        _find(session, seat, kind, target)
        return _following(session, actor, seat, kind, target)


def _following(session: Session, actor: Actor, seat: Seat, kind: str, target: str) -> Following:
    query = (
        select(FollowRow.person_id)
        .join(MembershipRow, MembershipRow.person_id == FollowRow.person_id)
        .where(
            FollowRow.kind == kind, FollowRow.target == target, FollowRow.project_id == seat.project.id,
            MembershipRow.project_id == seat.project.id, MembershipRow.state == "active",
        )
    )  # fmt: skip
    people = people_by_id(session, set(session.scalars(query)))
    return Following(
        mine=actor.person_id in people, followers=sorted(people.values(), key=lambda each: (each.name, each.id))
    )


def follow(context: Context, actor: Actor, project_id: str, kind: str, target: str) -> Following:
    """Harmless when done twice. Raises NotFound for what is not there for this person."""
    with acting(context, actor) as act:
        seat = act.enter(project_id)
        found = _find(act.session, seat, kind, target)
        row = {
            "person_id": actor.person_id, "kind": kind, "target": target, "project_id": project_id, "since_at": act.at,
        }  # fmt: skip
        if not _following(act.session, actor, seat, kind, target).mine:
            put_unless_there(act.session, FollowRow, "person_id", "kind", "target", **row)
            act.record(project_id, Fact(FactKind.FOLLOW_BEGUN, _subject(found, project_id), found.words))
        return _following(act.session, actor, seat, kind, target)


def unfollow(context: Context, actor: Actor, project_id: str, kind: str, target: str) -> Following:
    """Harmless for what is not followed, also where it is not to be seen any more."""
    with acting(context, actor) as act:
        seat = act.enter(project_id)
        mine = (FollowRow.person_id == actor.person_id, FollowRow.kind == kind, FollowRow.target == target)
        here = FollowRow.project_id == project_id
        if act.session.scalar(select(FollowRow.target).where(*mine, here)) is None:
            return Following(mine=False, followers=[])
        act.session.execute(delete(FollowRow).where(*mine, here))
        found = _names(act.session, seat, [(kind, target)]).get((kind, target))
        subject = _subject(found, project_id) if found else Subject("project", project_id)
        act.record(project_id, Fact(FactKind.FOLLOW_ENDED, subject, found.words if found else ""))
        return _following(act.session, actor, seat, kind, target) if found else Following(mine=False, followers=[])


def list_follows(context: Context, actor: Actor, project_id: str) -> Follows:
    """Without what is not there for them any more."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        query = select(FollowRow.kind, FollowRow.target).where(
            FollowRow.person_id == actor.person_id, FollowRow.project_id == project_id
        )
        pairs = [(kind, target) for kind, target in session.execute(query)]
        found = _names(session, seat, pairs)
        listed = [each for each in found.values() if each.kind != MARKS]
        return Follows(
            marks=(MARKS, project_id) in found, follows=sorted(listed, key=lambda each: (each.kind_words, each.words))
        )


def _sets(seat: Seat, ids: list[str]) -> Select[DrawingSetRow]:
    """Everybody in the project sees them."""
    here = (DrawingSetRow.project_id == seat.project.id, ~DrawingSetRow.removed)
    return select(DrawingSetRow).where(DrawingSetRow.id.in_(ids), *here)


def _set(row: DrawingSetRow) -> Followed:
    return Followed(kind=SET, target=row.id, kind_words="drawing set", words=row.name, address=address_of_set(row.id))


def address_of_set(set_id: str) -> str:
    return f"/register/sets?set={set_id}"


def _subject(found: Followed, project_id: str) -> Subject:
    return Subject("project", project_id) if found.kind == MARKS else Subject(found.kind, found.target)


def _find(session: Session, seat: Seat, kind: str, target: str) -> Followed:
    found = _names(session, seat, [(kind, target)])
    if (kind, target) not in found:
        raise NotFound(target)
    return found[kind, target]


def _names(session: Session, seat: Seat, pairs: Iterable[tuple[str, str]]) -> dict[tuple[str, str], Followed]:
    """Those that are there for the seat."""
    asked = list(pairs)
    found = {
        key: Followed(
            kind=each.kind, target=each.target, kind_words=each.kind_words, words=each.words, address=each.address
        )
        for key, each in things_of(session, seat, asked).items()
    }
    folders = [target for kind, target in asked if kind == FOLDER and seat.at(target) >= Level.READ]
    query = select(FolderRow).where(FolderRow.id.in_(folders), FolderRow.project_id == seat.project.id)
    for row in session.scalars(query):
        name = row.name or "the whole project"
        view = quote(json.dumps([["folder", "is", row.id]]))
        address = f"/register?filters={view}" if row.parent_id else "/register"
        found[FOLDER, row.id] = Followed(kind=FOLDER, target=row.id, kind_words="folder", words=name, address=address)
    sets = [target for kind, target in asked if kind == SET]
    found |= {(SET, row.id): _set(row) for row in session.scalars(_sets(seat, sets))}
    if (MARKS, seat.project.id) in asked:
        words = "every mark in this project"
        found[MARKS, seat.project.id] = Followed(
            kind=MARKS, target=seat.project.id, kind_words="marks", words=words, address="/register"
        )
    return found
