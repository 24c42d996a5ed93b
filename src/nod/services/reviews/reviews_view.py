"""What is shown of reviews: the list and the slip."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session
from typing_extensions import TypedDict

from nod.core.access.levels import Level
from nod.core.acts.working_days import local_date
from nod.core.reviews import acts
from nod.core.reviews.acts import Act, Somebody
from nod.core.reviews.forecast import forecast
from nod.core.reviews.outlook import words_of
from nod.core.reviews.path import NamedKind
from nod.core.reviews.running import PlaceState, StepRun, StepState
from nod.services.acts.answers import Answered, Standing, VerdictShown, Who, initials, people_by_id, show_verdicts
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat
from nod.services.open_work.open_work import standings
from nod.services.reviews import review_rows
from nod.services.reviews.contract import ReviewContract, contract_shown
from nod.services.reviews.endings import EndSaid, ends_read, said_of
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import STEP
from nod.services.reviews.outlooks import asks_of
from nod.services.reviews.pace import expected_end
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.words_shown import WordsShown, words_for
from nod.services.things.kinds import seen_of
from nod.services.things.things import Thing, see_thing, things_of
from nod.store.bulk import rows_of
from nod.store.tables import DocumentRow, ReviewDocumentRow, ReviewRow, ReviewStepRow, RevisionRow, TransmittalRow


class ReviewLine(Answered):
    id: str
    number: str
    name: str
    state: str
    step: str
    documents: int
    standing: Standing
    started_by: Who
    started_at: datetime
    ended_at: datetime | None


class AnswerShown(TypedDict):
    """What one hand said of a document: `step` and `place` are those of the slip. There may be thousands."""

    step: int
    place: int
    verdict: str
    comment: str


class PlaceShown(Answered):
    """Somebody asked in a step. `verdicts`: the codes they gave, the mildest first."""

    who: Who
    for_whom: Who | None
    state: str
    at: datetime | None
    stamp: str
    verdicts: list[str]
    note: str


class MyStep(Answered):
    """What the viewer may do in a step now, and on which documents they answer in it.

    `follows` says what will, once they have handed in.
    """

    may_pick_up: bool
    may_put_down: bool
    may_hand_in: bool
    may_hand_on: bool
    may_put_in: bool
    may_end: bool
    answers: list[str]
    follows: str


class SlipRow(Answered):
    """One step on the slip; those of a `stage` are beside each other.

    `verdicts` is the set that is given in it. `asks` says whom the route names, `asks_one` whether that is one person.
    `planned_on` is its forecast last day while it has not ended.
    """

    id: str
    name: str
    act: str
    state: str
    stage: int
    sums_up: bool
    verdicts: str
    quota: str
    needed: int
    asks: str
    asks_one: bool
    places: list[PlaceShown]
    taken_by: Who | None
    began_at: datetime | None
    taken_at: datetime | None
    due_on: date | None
    planned_on: date | None
    ended_at: datetime | None
    why_ended: str
    days: int
    counting: str
    days_late: int
    mine: MyStep


class ReviewedDocument(Answered):
    """`state` is going, back (to its author) or done; `proposed` what the others' verdicts come to, for who sums up."""

    document_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    current_revision: str
    verdict: str
    state: str
    proposed: str
    said: list[AnswerShown]


class MyPart(Answered):
    """What the viewer may do with the whole of it now."""

    may_cancel: bool
    may_recall: bool
    may_swap: bool
    may_send: bool


class Review(Answered):
    """`shows`: when others than its people see what is said in it, `at_once` or at the `end`; `shows_me`: now.

    `answers`: what waits for its outcome, or did, for who sees that.
    """

    id: str
    project_id: str
    number: str
    name: str
    message: str
    route_name: str
    state: str
    version: int
    started_by: Who
    started_at: datetime
    ended_at: datetime | None
    why_cancelled: str
    forecast_end_on: date | None
    ends: list[EndSaid]
    contract: ReviewContract | None
    verdict_set: list[VerdictShown]
    slip: list[SlipRow]
    documents: list[ReviewedDocument]
    transmittals: list[str]
    answers: Thing | None
    my_part: MyPart
    shows: str
    shows_me: bool


def review_lines(session: Session, rows: Sequence[ReviewRow], late: LateBy) -> list[ReviewLine]:
    ids = [row.id for row in rows]
    steps = select(ReviewStepRow).where(ReviewStepRow.review_id.in_(ids), ReviewStepRow.state == "running")
    running: dict[str, list[str]] = {}
    for step in session.scalars(steps.order_by(ReviewStepRow.place)):
        running.setdefault(step.review_id, []).append(step.name)
    counting = select(ReviewDocumentRow.review_id, func.count()).where(ReviewDocumentRow.review_id.in_(ids))
    counts = dict(session.execute(counting.group_by(ReviewDocumentRow.review_id)).all())
    people = people_by_id(session, {row.started_by for row in rows})
    stands = standings(session, STEP.code, "review", ids, late)
    return [
        ReviewLine(
            id=row.id,
            number=row.number,
            name=row.name,
            state=row.state,
            step=", ".join(running.get(row.id, ())),
            documents=counts.get(row.id, 0),
            standing=stands.get(row.id, Standing()),
            started_by=people[row.started_by],
            started_at=row.started_at,
            ended_at=row.ended_at,
        )
        for row in rows
    ]


def read_review(context: Context, actor: Actor, review_id: str) -> Review:
    now = context.clock.now()
    with context.database.read() as session:
        row, seat = see_thing(session, actor, REVIEW, review_id)
        loaded = review_rows.load(session, row, whole=True)
        at = project_clock(session, seat.project)
        today = today_in(seat.project, now)
        planned = forecast(loaded.value.steps, today, at)
        ends_on = expected_end(session, seat.project, loaded, today, at)
        late = LateBy(session, seat.project, now)
        sent = select(TransmittalRow.number).where(TransmittalRow.review_id == review_id, seen_of("transmittal", seat))
        people = people_by_id(session, _all_people(loaded))
        may_act = seat.level >= Level.MARK and actor.looker is None
        who = Somebody(actor.person_id, seat.runs, row.started_by == actor.person_id)
        words = words_for(session, seat, row)
        slip = _Slip(session, seat, loaded, late, people, who if may_act else None, words)
        return Review(
            id=row.id,
            project_id=row.project_id,
            number=row.number,
            name=row.name,
            message=row.message,
            route_name=row.route_name,
            state=row.state,
            version=row.version,
            started_by=people[row.started_by],
            started_at=row.started_at,
            ended_at=row.ended_at,
            why_cancelled=row.why_cancelled,
            ends=said_of(session, seat, ends_read(row.ends)),
            contract=contract_shown(row, ends_on, local_date(row.ended_at, at.zone) if row.ended_at else today),
            forecast_end_on=ends_on,
            verdict_set=show_verdicts(row.verdict_set),
            slip=[slip.row(at, day) for at, day in enumerate(planned)],
            documents=_documents(session, loaded, words),
            shows=row.shows,
            shows_me=words.everything,
            transmittals=list(session.scalars(sent.order_by(TransmittalRow.sent_at))),
            answers=_answers(session, seat, row),
            my_part=_my_part(loaded, seat, who, may_act=may_act),
        )


def _answers(session: Session, seat: Seat, row: ReviewRow) -> Thing | None:
    waiting = (row.answers_kind, row.answers_id)
    return things_of(session, seat, [waiting]).get(waiting) if row.answers_id else None


def _all_people(loaded: LoadedReview) -> set[str]:
    places = [place for run in loaded.value.steps for place in run.places]
    asked = {each.person for each in places} | {each.for_whom for each in places if each.for_whom}
    return asked | {loaded.row.started_by}


class _Slip:
    """The rows of a slip, as `who` may act on them; nobody may, if it is None."""

    def __init__(
        self, session: Session, seat: Seat, loaded: LoadedReview, late: LateBy, people: dict[str, Who],
        who: Somebody | None, words: WordsShown,
    ) -> None:  # fmt: skip
        self._words = words
        self._loaded, self._late, self._people, self._who = loaded, late, people, who
        self._asks = asks_of(session, seat, loaded.value.steps)
        self._order = [verdict.code for verdict in loaded.value.verdicts]

    def row(self, at: int, planned_on: date | None) -> SlipRow:
        row, run = self._loaded.steps[at], self._loaded.value.steps[at]
        running = run.state is StepState.RUNNING
        return SlipRow(
            id=row.id,
            name=row.name,
            act=row.act,
            state=row.state,
            stage=row.stage,
            sums_up=row.sums_up,
            verdicts=row.verdicts,
            quota=row.quota,
            needed=row.least,
            asks=self._asks[at],
            asks_one=[each.kind for each in run.step.whom] == [NamedKind.PERSON],
            places=[self._place(row, number, run) for number in range(len(run.places))],
            taken_by=self._people.get(row.taken_by) if row.taken_by else None,
            began_at=row.began_at,
            taken_at=row.taken_at,
            due_on=row.due_on,
            planned_on=None if run.state is StepState.DONE else planned_on,
            ended_at=row.ended_at,
            why_ended=row.why_ended,
            days=row.days,
            counting=row.counting,
            days_late=self._late(row.due_on, run.step.counting) if running else 0,
            mine=self._mine(at, run),
        )

    def _place(self, row: ReviewStepRow, number: int, run: StepRun) -> PlaceShown:
        place = run.places[number]
        who = self._people[place.person]
        given = {each.verdict for each in place.answers if each.verdict}
        return PlaceShown(
            who=who,
            for_whom=self._people.get(place.for_whom),
            state=place.state.value,
            at=place.at,
            stamp=initials(who.name) if place.at else "",
            verdicts=sorted(given, key=self._order.index) if self._words.everything else [],
            note=self._loaded.places[row.id, number].note if self._words.everything else "",
        )

    def _mine(self, at: int, run: StepRun) -> MyStep:
        value, who = self._loaded.value, self._who

        def may(act: Act) -> bool:
            return who is not None and acts.may(value, who, act, at)

        hand_in = may(Act.HAND_IN)
        return MyStep(
            may_pick_up=may(Act.PICK_UP) and run.taken_by is None,
            may_put_down=may(Act.PUT_DOWN),
            may_hand_in=hand_in,
            may_hand_on=may(Act.HAND_ON),
            may_put_in=may(Act.PUT_IN),
            may_end=may(Act.END_STEP),
            answers=[each.id for each in value.answered_by(run, who.person)] if who and hand_in else [],
            follows=words_of(value, at, self._asks, self._people[self._loaded.row.started_by].name) if hand_in else "",
        )


def _documents(session: Session, loaded: LoadedReview, words: WordsShown) -> list[ReviewedDocument]:
    query = (
        select(
            DocumentRow.id.label("document_id"),
            RevisionRow.id.label("revision_id"),
            DocumentRow.number,
            RevisionRow.title,
            RevisionRow.code.label("revision"),
            DocumentRow.revision.label("current_revision"),
            ReviewDocumentRow.verdict,
            ReviewDocumentRow.state,
        )
        .join(ReviewDocumentRow, ReviewDocumentRow.document_id == DocumentRow.id)
        .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
        .where(ReviewDocumentRow.review_id == loaded.row.id)
        .order_by(ReviewDocumentRow.place)
    )
    said = _said(loaded)
    proposes = any(run.step.sums_up and run.state is StepState.RUNNING and run.places for run in loaded.value.steps)
    proposed = acts.outcomes_so_far(loaded.value) if proposes else {}
    return [
        ReviewedDocument.model_construct(
            **row._mapping,
            said=said.get(row.document_id, []) if words.of(row.document_id) else [],
            proposed=proposed.get(row.document_id, "") if words.everything else "",
        )
        for row in rows_of(session, query)
    ]


def _said(loaded: LoadedReview) -> dict[str, list[AnswerShown]]:
    """By document, in the order of the slip; empty answers are none, and those that were crossed out are left out."""
    found: dict[str, list[AnswerShown]] = {each.document_id: [] for each in loaded.documents}
    for at, run in enumerate(loaded.value.steps):
        for number, place in enumerate(run.places):
            if place.state is PlaceState.CROSSED:
                continue
            for document_id, verdict, comment in place.answers:
                if verdict or comment:
                    found[document_id].append({"step": at, "place": number, "verdict": verdict, "comment": comment})
    return found


def _my_part(loaded: LoadedReview, seat: Seat, who: Somebody, *, may_act: bool) -> MyPart:
    def may(act: Act) -> bool:
        return may_act and acts.may(loaded.value, who, act)

    closed = loaded.row.state == "closed"
    return MyPart(
        may_cancel=may(Act.CANCEL),
        may_recall=may(Act.RECALL),
        may_swap=may(Act.SWAP),
        may_send=closed and may_act and seat.level >= Level.FILE and "transmittals" in seat.tools,
    )
