"""Floats kept by day. They are worked out from the present, so that what they were is not to be had otherwise."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

from sqlalchemy import ColumnElement, bindparam, insert, select, update
from sqlalchemy.orm import Session

from nod.core.submittals.analysis import Float, Point, as_of, kept_with, read_kept
from nod.store.bulk import rows_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import Base, SubmittalFloatRow, SubmittalRow

_TABLE = Base.metadata.tables[SubmittalFloatRow.__tablename__]
_SET = update(_TABLE).where(_TABLE.c.submittal_id == bindparam("of")).values(days=bindparam("now"))


def keep_floats(session: Session, on: date, floats: Mapping[str, Float]) -> None:
    """By submittal, what its float is on a day; the last word of a day counts."""
    query = select(_TABLE.c.submittal_id, _TABLE.c.days).where(one_of(_TABLE.c.submittal_id, list(floats)))
    there = {id: days for id, days in rows_of(session, query)}
    now = {id: kept_with(there.get(id, ""), on, value) for id, value in floats.items()}
    new = [{"submittal_id": id, "days": days} for id, days in now.items() if days and id not in there]
    changed = [{"of": id, "now": days} for id, days in now.items() if id in there and days != there[id]]
    connection = session.connection()
    if new:
        connection.execute(insert(_TABLE), new)
    if changed:
        connection.execute(_SET, changed)


def floats_of(session: Session, ids: Sequence[str]) -> dict[str, list[Point]]:
    """By submittal, its past, the oldest first."""
    query = select(_TABLE.c.submittal_id, _TABLE.c.days).where(one_of(_TABLE.c.submittal_id, list(ids)))
    return {id: read_kept(days) for id, days in rows_of(session, query)}


def pasts_in(
    session: Session, project_id: str, since: date, *conditions: ColumnElement[bool]
) -> dict[str, list[Point]]:
    """By submittal of a project, its past as far as it tells the days since one; narrowed by conditions."""
    query = (
        select(_TABLE.c.submittal_id, _TABLE.c.days)
        .join(SubmittalRow, SubmittalRow.id == _TABLE.c.submittal_id)
        .where(SubmittalRow.project_id == project_id, *conditions)
    )
    return {id: read_kept(days, since) for id, days in rows_of(session, query)}


def late_then(session: Session, project_id: str, on: date) -> list[str]:
    """Ids of those whose float was below 0 on a day."""
    pasts = pasts_in(session, project_id, on)
    return [id for id, past in pasts.items() if (value := as_of(past, on)) is not None and value < 0]
