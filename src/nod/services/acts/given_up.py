"""Work that Nod could not do, however often it tried: shown where a person would look, tried again on their word."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Fact, FactKind
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, take_seat
from nod.services.acts.work import Concern, work_of
from nod.store.tables import OutboxRow

_MOST_SHOWN = 200


class GivenUp(Answered):
    """`doing` says in words what did not succeed, `about` with which thing; `link` leads there."""

    id: int
    doing: str
    about: str
    link: str
    tries: int
    gave_up_at: datetime


def list_given_up(context: Context, actor: Actor, project_id: str) -> list[GivenUp]:
    """Of the project, the latest first. Raises NotAllowed but for leads and controllers."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        query = select(OutboxRow).where(OutboxRow.gave_up_at.is_not(None)).order_by(OutboxRow.gave_up_at.desc())
        found = []
        for row in session.scalars(query):
            here = next((each for each in _concerns(session, row) if each.project_id == project_id), None)
            if here:
                found.append(_show(row, here))
            if len(found) == _MOST_SHOWN:
                break
        return found


def given_up_for(session: Session, keys: Iterable[str]) -> dict[str, GivenUp]:
    """By the key of the work, what of it was given up; the caller has asked who may see the thing.

    The same file may have arrived elsewhere, too: of work on a file nothing is told but that it was given up.
    """
    wanted = set(keys)
    # What was given up is little, and what is asked for may be thousands of files.
    query = select(OutboxRow).where(OutboxRow.done_at.is_(None), OutboxRow.gave_up_at.is_not(None))
    rows = [row for row in session.scalars(query) if row.key in wanted]
    return {row.key: _show(row, None if _is_shared(row) else next(iter(_concerns(session, row)), None)) for row in rows}


def _show(row: OutboxRow, concern: Concern | None) -> GivenUp:
    if row.gave_up_at is None:
        raise ValueError(row.key)
    known = work_of(row.kind)
    return GivenUp(
        id=row.seq, doing=known.doing if known else row.kind, about=concern.about if concern else "",
        link=concern.link if concern else "", tries=row.tries, gave_up_at=row.gave_up_at,
    )  # fmt: skip


def try_again(context: Context, actor: Actor, task_id: int) -> None:
    """It is taken up at once. Raises NotFound for what is not given up, or not this person's to ask for."""
    with acting(context, actor) as act:
        row = act.session.get(OutboxRow, task_id)
        if row is None or row.gave_up_at is None:
            raise NotFound(str(task_id))
        concern = next((each for each in _concerns(act.session, row) if _may(act.session, actor, each)), None)
        if concern is None:
            raise NotFound(str(task_id))
        row.tries = row.lapses = 0
        row.gave_up_at, row.leased_until, row.not_before = None, None, act.at
        fact = Fact(FactKind.WORK_TRIED_AGAIN, concern.subject, concern.about, after={"work": row.kind})
        act.record(concern.project_id, fact)


def _may(session: Session, actor: Actor, concern: Concern) -> bool:
    """Leads and controllers of the project, whoever may file where it came in, whoever it was made or sent by."""
    try:
        seat = take_seat(session, actor, concern.project_id)
    except NotFound:
        return False
    may_file = concern.folder_id != "" and seat.at(concern.folder_id) >= Level.FILE
    return seat.runs or may_file or concern.person_id == actor.person_id


def _concerns(session: Session, row: OutboxRow) -> list[Concern]:
    known = work_of(row.kind)
    return known.concerns(session, row.payload) if known else []


def _is_shared(row: OutboxRow) -> bool:
    known = work_of(row.kind)
    return known is None or known.shared
