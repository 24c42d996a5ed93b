"""Telling leads that the contract's time for an answer has passed. Nod tells, and never sets a verdict by itself."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.answer_times import SILENCE
from nod.core.reviews.running import ReviewState
from nod.core.trail.entries import FactKind
from nod.services.acts.context import Act, Context, today_in
from nod.services.acts.seats import NOBODY
from nod.services.reviews import review_mails, review_rows
from nod.services.reviews.reviews import record
from nod.store.tables import ProjectRow, ReviewRow


def tell_of_silence(context: Context, now: datetime) -> int:
    """Once for each review that runs past its day where silence means something; returns how many."""
    with context.database.read() as session:
        waiting = list(_past(session, now))
    return sum(_tell(context, review_id, now) for review_id in waiting)


def _past(session: Session, now: datetime) -> Iterable[str]:
    for project in session.scalars(select(ProjectRow)).all():
        query = select(ReviewRow.id).where(
            ReviewRow.project_id == project.id, ReviewRow.state == ReviewState.RUNNING.value,
            ReviewRow.answer_by < today_in(project, now), ReviewRow.silence != "nothing",
            ReviewRow.silence_told_at.is_(None),
        )  # fmt: skip
        yield from session.scalars(query)


def _tell(context: Context, review_id: str, now: datetime) -> bool:
    with context.database.write() as session:
        if review_id not in set(_past(session, now)):
            return False
        row = session.get_one(ReviewRow, review_id)
        act = Act(context, session, NOBODY, now)
        loaded = review_rows.load(session, row)
        row.silence_told_at = now
        words = SILENCE[row.silence]
        record(act, loaded, FactKind.SILENCE_TOLD, {"answer_by": f"{row.answer_by:%Y-%m-%d}", "silence": words})
        review_mails.tell_leads_silent(act, loaded, words)
        return True
