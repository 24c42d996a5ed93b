"""What somebody has begun to answer in a step: theirs alone, kept over devices and days until they hand in.

It is no fact about the review, and stands in no trail, like pencil that is not drawn yet (decision 0046).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.reviews import acts
from nod.core.reviews.acts import Act as ReviewAct
from nod.core.reviews.acts import Somebody
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.reviews import LONGEST_TEXT, open_step, somebody
from nod.services.things.things import see_thing
from nod.store.dialects.sqlite import add_or_replace
from nod.store.tables import Base, BegunAnswerRow, ReviewStepRow

MOST_AT_ONCE = 1000


class BegunAnswer(Command):
    document_id: str
    verdict: str = ""
    comment: str = Field(default="", max_length=LONGEST_TEXT)
    grave: Literal["must", "should", "note"] = "should"


class KeepBegun(Command):
    """Those that changed; the others stay as they are."""

    answers: list[BegunAnswer] = Field(max_length=MOST_AT_ONCE)


class BegunShown(Answered):
    document_id: str
    verdict: str
    comment: str
    grave: str


def read_begun(context: Context, actor: Actor, review_id: str, step_id: str) -> list[BegunShown]:
    """One's own; through another's eyes nothing."""
    with context.database.read() as session:
        row, _ = see_thing(session, actor, REVIEW, review_id)
        step = session.get(ReviewStepRow, step_id)
        if step is None or step.review_id != row.id:
            raise NotFound(step_id)
        return begun_of(session, step_id, actor.private_id)


def begun_of(session: Session, step_id: str, person_id: str) -> list[BegunShown]:
    query = select(BegunAnswerRow).where(BegunAnswerRow.step_id == step_id, BegunAnswerRow.person_id == person_id)
    return [
        BegunShown(document_id=row.document_id, verdict=row.verdict, comment=row.comment, grave=row.grave)
        for row in session.scalars(query)
    ]


_TABLE = Base.metadata.tables[BegunAnswerRow.__tablename__]


def keep_begun(context: Context, actor: Actor, review_id: str, step_id: str, command: KeepBegun) -> None:
    """Raises what handing in would raise for somebody who may not, and RuleBroken for what nobody asked them."""
    with acting(context, actor) as act:
        loaded, seat, at = open_step(act, review_id, step_id)
        keep_begun_at(act, loaded, at, somebody(act, loaded.row, seat), command)


def keep_begun_at(act: Act, loaded: LoadedReview, at: int, who: Somebody, command: KeepBegun) -> None:
    """By whoever is asked there, signed in or by a link."""
    refused = acts.refusal(loaded.value, who, ReviewAct.HAND_IN, at)
    if refused:
        raise refused
    _check(loaded, at, who, command.answers)
    for each in command.answers:
        row = {
            "step_id": loaded.steps[at].id, "person_id": who.person, "document_id": each.document_id,
            "verdict": each.verdict, "comment": each.comment, "grave": each.grave, "at": act.at,
        }  # fmt: skip
        act.session.execute(add_or_replace(_TABLE, row, "verdict", "comment", "grave", "at"))


def _check(loaded: LoadedReview, at: int, who: Somebody, answers: Sequence[BegunAnswer]) -> None:
    run = loaded.value.steps[at]
    asked = {each.id for each in loaded.value.answered_by(run, who.person)}
    known = {"", *(each.code for each in loaded.value.verdicts)}
    for each in answers:
        if each.document_id not in asked:
            raise RuleBroken("document_left", "This document is not asked of you any more.", each.document_id)
        if each.verdict not in known:
            raise RuleBroken("verdict_unknown", "There is no such verdict.", each.verdict)
