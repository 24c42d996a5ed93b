"""One's part in the reviews of a revision, as the strip on its sheet shows it (handbook §8, run)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.reviews import acts
from nod.core.reviews.acts import Act, Somebody, outcomes_so_far
from nod.core.reviews.path import StepAct
from nod.core.reviews.running import DocumentState, PlaceState, ReviewState, StepRun, StepState
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, VerdictShown, show_verdicts
from nod.services.acts.context import Context
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat
from nod.services.reviews import review_rows
from nod.services.reviews.begun import BegunShown, begun_of
from nod.services.reviews.comments import musts_of
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.outlooks import follows_of
from nod.services.reviews.review_rows import LoadedReview
from nod.services.things.things import see_thing
from nod.store.tables import (
    AnswerRow,
    MarkRow,
    PersonRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    RevisionRow,
    StepPlaceRow,
    ThreadRow,
)


class SaidHere(Answered):
    """What another hand said of this document."""

    step: str
    who: str
    verdict: str
    comment: str


class LastAnswered(Answered):
    """The revision of this document that one answered on before."""

    revision_id: str
    code: str


class SheetPart(Answered):
    """A step that asks the viewer about a revision: document `place` of `count`, `answered` of which are begun.

    `before_id` and `after_id` are the revisions next to it in the review, `marks` how many marks the viewer has drawn
    here since the step began; without `marking` it is answered in words.
    """

    review_id: str
    number: str
    name: str
    message: str
    step_id: str
    step: str
    act: str
    sums_up: bool
    due_on: date | None
    days_late: int
    may_pick_up: bool
    may_hand_in: bool
    document_id: str
    place: int
    count: int
    answered: int
    open_ids: list[str]
    before_id: str
    after_id: str
    verdict_set: list[VerdictShown]
    said: list[SaidHere]
    proposed: str
    begun: list[BegunShown]
    revisions: dict[str, str]
    last_answered: LastAnswered | None
    marks: int
    marking: bool
    musts: list[int]
    follows: str


def list_parts(context: Context, actor: Actor, revision_id: str) -> list[SheetPart]:
    """Of the steps that run, those in which something is asked of the viewer about this revision."""
    with context.database.read() as session:
        revision, document, seat = see_revision(session, actor, revision_id)
        if "reviews" not in seat.tools or seat.level < Level.MARK or actor.looker is not None:
            return []
        query = (
            select(ReviewRow)
            .join(ReviewDocumentRow, ReviewDocumentRow.review_id == ReviewRow.id)
            .where(
                ReviewDocumentRow.revision_id == revision.id,
                ReviewDocumentRow.state == DocumentState.GOING.value,
                ReviewRow.state == ReviewState.RUNNING.value,
                REVIEW.seen(seat),
            )
            .order_by(ReviewRow.number)
        )
        late = LateBy(session, seat.project, context.clock.now())
        found = []
        for row in session.scalars(query).all():
            part = _Part(session, seat, actor, review_rows.load(session, row), document.id, late)
            found += [part.of(at) for at in part.asked()]
        return found


class _Part:
    def __init__(
        self, session: Session, seat: Seat, actor: Actor, loaded: LoadedReview, document_id: str, late: LateBy
    ) -> None:
        self._session, self._seat, self._loaded, self._document_id = session, seat, loaded, document_id
        self._late = late
        self._who = Somebody(actor.person_id, seat.runs, loaded.row.started_by == actor.person_id)

    def asked(self) -> Sequence[int]:
        """Places of the running steps in which the viewer may pick up or hand in about this document."""
        value = self._loaded.value
        return [
            at
            for at, run in enumerate(value.steps)
            if any(acts.may(value, self._who, act, at) for act in (Act.PICK_UP, Act.HAND_IN))
            and self._document_id in {each.id for each in value.answered_by(run, self._who.person)}
        ]

    def of(self, at: int) -> SheetPart:
        loaded, value = self._loaded, self._loaded.value
        row, run = loaded.steps[at], value.steps[at]
        asked = {each.id for each in value.answered_by(run, self._who.person)}
        order = [each for each in loaded.documents if each.document_id in asked]
        place = next(number for number, each in enumerate(order) if each.document_id == self._document_id)
        begun = begun_of(self._session, row.id, self._who.person)
        done = {each.document_id for each in begun if _is_answered(run, each)}
        hand_in = acts.may(value, self._who, Act.HAND_IN, at)
        return SheetPart(
            review_id=loaded.row.id,
            number=loaded.row.number,
            name=loaded.row.name,
            message=loaded.row.message,
            step_id=row.id,
            step=row.name,
            act=row.act,
            sums_up=row.sums_up,
            due_on=row.due_on,
            days_late=self._late(row.due_on, run.step.counting),
            may_pick_up=acts.may(value, self._who, Act.PICK_UP, at) and run.taken_by is None,
            may_hand_in=hand_in,
            document_id=self._document_id,
            place=place + 1,
            count=len(order),
            answered=len(done & asked),
            open_ids=[each.revision_id for each in order if each.document_id not in done],
            before_id=order[place - 1].revision_id if place else "",
            after_id=order[place + 1].revision_id if place + 1 < len(order) else "",
            verdict_set=show_verdicts(loaded.row.verdict_set, run.step.verdicts),
            said=self._said(),
            proposed=outcomes_so_far(value).get(self._document_id, "") if row.sums_up else "",
            begun=begun,
            revisions={each.document_id: each.revision_id for each in order},
            last_answered=self._last_answered(order[place].revision_id),
            marks=self._marks(order[place].revision_id, row),
            marking=row.marking,
            musts=list(musts_of(self._session, loaded.row.id).get(self._document_id, ())),
            follows=follows_of(self._session, self._seat, loaded, at) if hand_in else "",
        )

    def _said(self) -> list[SaidHere]:
        """By all hands of all steps, in the order of the slip; crossed answers are left out."""
        query = (
            select(ReviewStepRow.name, PersonRow.name, AnswerRow.verdict, AnswerRow.comment)
            .join(ReviewStepRow, ReviewStepRow.id == AnswerRow.step_id)
            .join(
                StepPlaceRow,
                (StepPlaceRow.step_id == AnswerRow.step_id) & (StepPlaceRow.place == AnswerRow.place),
            )
            .join(PersonRow, PersonRow.id == StepPlaceRow.person_id)
            .where(
                ReviewStepRow.review_id == self._loaded.row.id,
                AnswerRow.document_id == self._document_id,
                StepPlaceRow.state != PlaceState.CROSSED.value,
            )
            .order_by(ReviewStepRow.place, AnswerRow.place)
        )
        return [
            SaidHere(step=step, who=who, verdict=verdict, comment=comment)
            for step, who, verdict, comment in self._session.execute(query)
            if verdict or comment
        ]

    def _last_answered(self, revision_id: str) -> LastAnswered | None:
        """The latest other revision of the document on which the viewer handed in."""
        query = (
            select(RevisionRow.id, RevisionRow.code)
            .join(ReviewDocumentRow, ReviewDocumentRow.revision_id == RevisionRow.id)
            .join(ReviewStepRow, ReviewStepRow.review_id == ReviewDocumentRow.review_id)
            .join(StepPlaceRow, StepPlaceRow.step_id == ReviewStepRow.id)
            .where(
                RevisionRow.document_id == self._document_id,
                RevisionRow.id != revision_id,
                StepPlaceRow.person_id == self._who.person,
                StepPlaceRow.state == PlaceState.HANDED_IN.value,
            )
            .order_by(StepPlaceRow.at.desc())
            .limit(1)
        )
        found = self._session.execute(query).one_or_none()
        return LastAnswered(revision_id=found.id, code=found.code) if found else None

    def _marks(self, revision_id: str, step: ReviewStepRow) -> int:
        query = (
            select(func.count())
            .select_from(MarkRow)
            .join(ThreadRow, ThreadRow.id == MarkRow.thread_id)
            .where(
                MarkRow.revision_id == revision_id,
                MarkRow.removed_at.is_(None),
                ThreadRow.author_id == self._who.person,
                ThreadRow.said_at >= step.began_at,
            )
        )
        return self._session.scalar(query) or 0


def _is_answered(run: StepRun, begun: BegunShown) -> bool:
    return bool(begun.verdict) or (run.step.act is StepAct.COMMENT and bool(begun.comment))


def first_open(context: Context, actor: Actor, review_id: str) -> str:
    """The first revision on which the viewer has not begun to answer, of the steps that are with them; '' for none."""
    with context.database.read() as session:
        row, seat = see_thing(session, actor, REVIEW, review_id)
        loaded = review_rows.load(session, row)
        who = Somebody(actor.person_id, seat.runs)
        for at, run in enumerate(loaded.value.steps):
            if run.state is not StepState.RUNNING or actor.looker or not _is_mine(loaded, who, at):
                continue
            asked = {each.id for each in loaded.value.answered_by(run, actor.person_id)}
            begun = begun_of(session, loaded.steps[at].id, actor.person_id)
            done = {each.document_id for each in begun if _is_answered(run, each)}
            order = [each for each in loaded.documents if each.document_id in asked]
            if not order:
                continue
            return next((each.revision_id for each in order if each.document_id not in done), order[0].revision_id)
        return ""


def _is_mine(loaded: LoadedReview, who: Somebody, at: int) -> bool:
    return any(acts.may(loaded.value, who, act, at) for act in (Act.PICK_UP, Act.HAND_IN))
