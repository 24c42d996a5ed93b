"""A submittal on a route: what was sent in goes round in a review, whose outcome is the answer (handbook §9).

There is no second truth: while it goes round nobody answers it otherwise, and what the review decides is its verdict.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import Refusal, RuleBroken
from nod.core.reviews.path import StepAct
from nod.core.reviews.running import PlaceState, ReviewState
from nod.core.submittals.numbers import shown_number
from nod.core.submittals.states import Deed, State
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Answered, Command, VerdictShown
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import NOBODY, Actor, Seat, actor_of
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.attachments.attachments import attach_mailed
from nod.services.files.new_files import NewBlob, store_file
from nod.services.reviews.comment_files import take_comments
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.review_record import take_record
from nod.services.reviews.starting import StartReview, start_at
from nod.services.submittals.answering import due_by, keep_answer, round_of
from nod.services.submittals.filing import is_filing, revisions_sent
from nod.services.submittals.kind import SUBMITTAL
from nod.services.submittals.making import LONGEST_TEXT
from nod.services.submittals.submittal_rows import ask_person, enter_for, named, quoted, record, settle, tell_those
from nod.services.things.things import things_of
from nod.store.tables import (
    DocumentRow,
    PersonRow,
    ProjectRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    StepPlaceRow,
    SubmittalRoundRow,
    SubmittalRow,
)

_LONGEST_NAME = 200


class GiveToRoute(Command):
    """What was sent in begins to go round on a route of the project."""

    version: int
    route_id: str
    note: str = Field(default="", max_length=LONGEST_TEXT)


class ReviewOf(Answered):
    """A review that answers a submittal, for who sees it."""

    id: str
    number: str


def give_to_route(context: Context, actor: Actor, submittal_id: str, command: GiveToRoute) -> None:
    """Raises RuleBroken where none of its files is registered, and as starting a review does."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.GIVE)
        row, project = entered.row, entered.seat.project
        sent = round_of(act.session, row)
        started = start_at(act, _review_of(act, row, sent, command), Subject(SUBMITTAL.code, row.id))
        review = act.session.get_one(ReviewRow, started.id)
        sent.review_id = row.review_id = review.id
        sent.approver_id = sent.approver_company_id = None
        sent.given_at, sent.due_on = act.at, due_by(act, project, row, sent)
        row.state, row.since_at = State.UNDER_REVIEW.value, act.at
        after = {"route": review.route_name, "review": review.number, "due": sent.due_on.isoformat()}
        after |= {"note": command.note} if command.note else {}
        record(act, row, FactKind.SUBMITTAL_GIVEN, after, others=[Subject(REVIEW.code, review.id)])
        settle(act, project, [row])
        tell_those(act, row, f"sent it round as {review.number}, {review.route_name}", quoted(command.note))


def _review_of(act: Act, row: SubmittalRow, sent: SubmittalRoundRow, command: GiveToRoute) -> StartReview:
    if is_filing(act.session, sent):
        words = "Nod is still registering what was sent in. Wait a moment."
        raise RuleBroken("still_looking", words, row.number)
    revisions = revisions_sent(act.session, sent)
    if not revisions:
        words = "None of its files could be registered, so that nothing can go round. Give it to somebody to answer."
        raise RuleBroken("nothing_to_review", words, row.number)
    name = f"{shown_number(row.number, row.revision)} {row.title}"[:_LONGEST_NAME]
    return StartReview(
        project_id=row.project_id, route_id=command.route_id, name=name, message=command.note.strip(),
        documents={each.document_id: each.id for each in revisions},
    )  # fmt: skip


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    review = session.get_one(ReviewRow, payload["review_id"])
    subject = Subject(REVIEW.code, review.id)
    about, link = f"the answer that {review.number} gives", f"/reviews/{review.id}"
    return [Concern(review.project_id, subject, about, link, person_id=review.started_by)]


@work("review_over", Lane.SEND, "answering a submittal by its review", _concerns)
def review_over(job: Job, payload: Payload) -> None:
    """Harmless when done twice: what is answered is no longer on that review."""
    context = job.context
    with context.database.read() as session:
        review = session.get_one(ReviewRow, payload["review_id"])
        row = _waiting(session, review)
        if row is None:
            return
        papers_by = [review.started_by, row.keeper_id]
        outcome = _outcome(session, review)
        number, review_id = review.number, review.id
    files = _papers(job, review_id, number, papers_by) if outcome else []
    with context.database.write() as session:
        review = session.get_one(ReviewRow, review_id)
        row = _waiting(session, review)
        if row is None:
            return
        now = context.clock.now()
        if outcome:
            decider = actor_of(session, _decider(session, review), "the worker")
            _answer(Act(context, session, decider, now), row, review, outcome, files)
        else:
            # Who cancelled the review is in its own trail; here nobody but Nod acts.
            _give_back(Act(context, session, NOBODY, now), row, review)


def _waiting(session: Session, review: ReviewRow) -> SubmittalRow | None:
    """The submittal that still waits for a review."""
    if review.answers_kind != SUBMITTAL.code:
        return None
    row = session.get(SubmittalRow, review.answers_id)
    return row if row is not None and row.review_id == review.id else None


def _outcome(session: Session, review: ReviewRow) -> VerdictShown | None:
    """The gravest verdict of its documents; None where it did not close, or said nothing of one."""
    if review.state != ReviewState.CLOSED.value:
        return None
    query = select(ReviewDocumentRow.verdict).where(ReviewDocumentRow.review_id == review.id)
    given = list(session.scalars(query))
    known: Mapping[str, Mapping[str, Any]] = {each["code"]: each for each in review.verdict_set}
    if not given or any(each not in known for each in given):
        return None
    gravest = max((known[each] for each in given), key=lambda each: each["severity"])
    return VerdictShown.model_validate(gravest, extra="ignore")


def _decider(session: Session, review: ReviewRow) -> str:
    """Whoever handed in last where it was decided; who started it where nobody did."""
    query = (
        select(StepPlaceRow.person_id)
        .join(ReviewStepRow, ReviewStepRow.id == StepPlaceRow.step_id)
        .where(
            ReviewStepRow.review_id == review.id, ReviewStepRow.act == StepAct.DECIDE.value,
            StepPlaceRow.state == PlaceState.HANDED_IN.value,
        )
        .order_by(StepPlaceRow.at.desc())
    )  # fmt: skip
    return session.scalars(query.limit(1)).first() or review.started_by


def _papers(job: Job, review_id: str, number: str, by: Sequence[str]) -> list[tuple[str, NewBlob]]:
    """The record and the comment sheet of a review, which are the answer's attachments: taken by the first who may.

    Raises what is refused to all of them.
    """
    for place, person_id in enumerate(by, 1):
        with job.context.database.read() as session:
            taker = actor_of(session, person_id, "the worker")
        try:
            taken = take_record(job.context, job.press, taker, review_id)
            sheet = take_comments(job.context, taker, review_id, "pdf")
        except Refusal:
            if place == len(by):
                raise
            continue
        made = ((taken.name, taken.content), (sheet.name, sheet.content))
        return [(name, store_file(job.context, name, [content])) for name, content in made]
    raise LookupError(f"nobody takes the papers of {number}")


def _answer(
    act: Act, row: SubmittalRow, review: ReviewRow, verdict: VerdictShown, files: Sequence[tuple[str, NewBlob]]
) -> None:
    sent = round_of(act.session, row)
    project = act.session.get_one(ProjectRow, row.project_id)
    told = attach_mailed(act, SUBMITTAL, row, sent.answer_files, files, act.actor.person_id)
    decider = act.session.get_one(PersonRow, act.actor.person_id)
    sent.approver_id, sent.approver_company_id = decider.id, decider.company_id
    row.review_id = None
    note = f"{review.number}, {review.route_name}: {_said(act.session, review)}."
    keep_answer(act, row, project, verdict, note, {"files": told, "review": review.number}, review.ended_at)


def _said(session: Session, review: ReviewRow) -> str:
    query = (
        select(DocumentRow.number, ReviewDocumentRow.verdict)
        .join(DocumentRow, DocumentRow.id == ReviewDocumentRow.document_id)
        .where(ReviewDocumentRow.review_id == review.id)
        .order_by(ReviewDocumentRow.place)
    )
    return ", ".join(f"{number} {verdict}" for number, verdict in session.execute(query))


def _give_back(act: Act, row: SubmittalRow, review: ReviewRow) -> None:
    """It waits to be given to somebody again."""
    sent = round_of(act.session, row)
    row.review_id = sent.review_id = sent.given_at = sent.due_on = None
    row.state, row.since_at = State.SENT_IN.value, act.at
    how = "closed without a verdict on all of it" if review.state == ReviewState.CLOSED.value else review.state
    why = review.why_cancelled
    record(act, row, FactKind.SUBMITTAL_RETURNED, {"review": review.number, "it was": how}, why=why)
    settle(act, act.session.get_one(ProjectRow, row.project_id), [row])
    lines = [f"{review.number} was {how}: {named(row)} waits to be given to somebody to answer.", *quoted(why)]
    ask_person(act, row, row.keeper_id, "back without an answer", lines)


def reviews_seen(session: Session, seat: Seat, ids: Sequence[str | None]) -> dict[str, ReviewOf]:
    """By id, those that a seat sees."""
    wanted = {(REVIEW.code, each) for each in ids if each}
    found = things_of(session, seat, wanted) if wanted else {}
    numbers = dict(
        session.execute(select(ReviewRow.id, ReviewRow.number).where(ReviewRow.id.in_([id for _, id in found]))).all()
    )
    return {id: ReviewOf(id=id, number=number) for id, number in numbers.items()}
