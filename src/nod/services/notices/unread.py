"""The bell: what a person was told in a project, and what of it they have not looked at."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.notices import KINDS
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.notices.notices import note_read
from nod.services.things.things import things_of
from nod.store.tables import NoticeRow, OpenWorkHolderRow, OpenWorkRow

MOST = 100


class NoticeShown(Answered):
    id: str
    at: datetime
    words: str
    because: str
    link: str
    about: list[list[str]]
    unread: bool


class Bell(Answered):
    """The newest first, at most 100; `unread` of them have not been looked at."""

    unread: int
    notices: list[NoticeShown]


class LookedAt(Command):
    """The thing that was looked at, or with both empty all that there is."""

    project_id: str
    kind: str = ""
    target: str = ""


def read_bell(context: Context, actor: Actor, project_id: str) -> Bell:
    """Nothing through another's eyes. What is not there for the person any more is left out.

    What wanted an act is read once it is not with them any more, whoever did it.
    """
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        rows = _rows(session, actor, seat)
        seen = things_of(session, seat, {(kind, target) for row in rows for kind, target in row.about})
        there = [row for row in rows if all((kind, target) in seen for kind, target in row.about)]
        still = _with_me(session, actor, [row for row in there if _is_wanted(row)])
        shown = [_shown(row, still) for row in there]
        return Bell(unread=sum(each.unread for each in shown), notices=shown)


def _rows(session: Session, actor: Actor, seat: Seat) -> list[NoticeRow]:
    query = select(NoticeRow).where(
        NoticeRow.person_id == (actor.private_id or "-"), NoticeRow.project_id == seat.project.id
    )
    return list(session.scalars(query.order_by(NoticeRow.at.desc(), NoticeRow.id).limit(MOST)))


def _is_wanted(row: NoticeRow) -> bool:
    return row.read_at is None and row.kind in KINDS and KINDS[row.kind].wants_act


def _with_me(session: Session, actor: Actor, rows: list[NoticeRow]) -> set[tuple[str, str]]:
    """Of the things that these are about, those on which something is with the person or their company."""
    ids = {target for row in rows for _, target in row.about}
    if not ids:
        return set()
    mine = select(OpenWorkHolderRow.work_id).where(OpenWorkHolderRow.holder_id.in_([actor.person_id, actor.company_id]))
    query = select(OpenWorkRow.thing_kind, OpenWorkRow.thing_id).where(
        OpenWorkRow.thing_id.in_(ids), OpenWorkRow.id.in_(mine), ~OpenWorkRow.is_coming
    )
    return {(kind, thing_id) for kind, thing_id in session.execute(query)}


def _shown(row: NoticeRow, still: set[tuple[str, str]]) -> NoticeShown:
    done = _is_wanted(row) and not any((kind, target) in still for kind, target in row.about)
    return NoticeShown(
        id=row.id, at=row.at, words=row.words, because=row.because, link=row.link, about=row.about,
        unread=row.read_at is None and not done,
    )  # fmt: skip


def note_looked_at(context: Context, actor: Actor, command: LookedAt) -> None:
    """What tells of the thing is read. No entry of the trail: it is the person's own, and nothing of the project."""
    with acting(context, actor) as act:
        act.enter(command.project_id)
        things = {(command.kind, command.target)} if command.kind else set()
        note_read(act.session, command.project_id, actor.person_id, things, act.at)
