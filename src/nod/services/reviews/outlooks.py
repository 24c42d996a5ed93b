"""What will follow a hand-in, in words with names."""

from __future__ import annotations

from sqlalchemy.orm import Session

from nod.core.reviews.outlook import words_of
from nod.core.reviews.running import StepRun
from nod.services.acts.seats import Seat
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.roster import ProjectRoster
from nod.store.tables import PersonRow


def asks_of(session: Session, seat: Seat, steps: tuple[StepRun, ...]) -> list[str]:
    """Whom each step names, in words of today."""
    words = ProjectRoster(session, seat.project).words(named for run in steps for named in run.step.whom)
    return [", ".join(words[each] or "somebody who has left" for each in run.step.whom) for run in steps]


def follows_of(session: Session, seat: Seat, loaded: LoadedReview, at: int) -> str:
    starter = session.get_one(PersonRow, loaded.row.started_by).name
    return words_of(loaded.value, at, asks_of(session, seat, loaded.value.steps), starter)
