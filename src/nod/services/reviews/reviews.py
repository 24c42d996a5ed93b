"""Acts of those who are asked: pick up, put down, hand in (handbook §8)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal
from zoneinfo import ZoneInfo

from sqlalchemy import delete, select

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.reviews import acts
from nod.core.reviews.acts import Somebody
from nod.core.reviews.path import StepAct
from nod.core.reviews.running import Answer, DocumentState, Moment, PlaceState, ReviewState, StepState, Turn
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting, project_clock, today_in
from nod.services.acts.seats import Actor, Seat
from nod.services.reviews import comments, endings, review_mails, review_rows
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.words_shown import open_ink_of, says
from nod.services.things.things import see_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import BegunAnswerRow, DocumentRow, PersonRow, ProjectRow, ReviewRow

LONGEST_TEXT = 4000


class SeenVersion(Command):
    version: int


class DocumentAnswer(Command):
    """About the revision that was looked at; `grave` is how grave the comment is."""

    document_id: str
    revision_id: str = ""
    verdict: str = ""
    comment: str = ""
    grave: Literal["must", "should", "note"] = "should"


class HandIn(Command):
    answers: list[DocumentAnswer]
    note: str = ""


def somebody(act: Act, row: ReviewRow, seat: Seat) -> Somebody:
    return Somebody(act.actor.person_id, seat.runs, row.started_by == act.actor.person_id)


def open_step(act: Act, review_id: str, step_id: str) -> tuple[LoadedReview, Seat, int]:
    """A review, and the place of one of its steps. Raises NotFound."""
    row, seat = see_thing(act.session, act.actor, REVIEW, review_id)
    seat.need(Level.MARK)
    loaded = review_rows.load(act.session, row)
    at = loaded.at(step_id)
    if at is None:
        raise NotFound(step_id)
    return loaded, seat, at


def moment_of(act: Act, seat: Seat, loaded: LoadedReview) -> Moment:
    return moment_in(act, seat.project, loaded)


def moment_in(act: Act, project: ProjectRow, loaded: LoadedReview) -> Moment:
    roster = review_rows.roster_of(act.session, project, loaded, today_in(project, act.at))
    return Moment(act.at, project_clock(act.session, project), roster)


def record(
    act: Act,
    loaded: LoadedReview,
    kind: FactKind,
    after: dict[str, Any],
    why: str = "",
    before: dict[str, Any] | None = None,
    *,
    says_it: bool = False,
) -> None:
    """`says_it`: it tells what was said in the review, which not everybody may see yet."""
    about = f"{loaded.row.number} {loaded.row.name}"
    subjects = (*loaded.subjects(), *(says(loaded.row) if says_it else ()))
    fact = Fact(kind, Subject("review", loaded.row.id), about, subjects, before or {}, after, why)
    act.record(loaded.row.project_id, fact)


def settle(act: Act, loaded: LoadedReview, turn: Turn) -> LoadedReview:
    """The turn is written; what it decided is in the trail; whoever has to know is told."""
    _record_decided(act, loaded, turn)
    before = loaded.value.documents
    loaded = review_rows.write_back(act, loaded, turn)
    left = {
        id: each.verdict
        for id, each in loaded.value.documents.items()
        if each.state is not DocumentState.GOING and before[id].state is DocumentState.GOING
    }
    endings.carry_out(act, loaded, left)
    if loaded.row.answers_id and loaded.value.state is not ReviewState.RUNNING:
        act.ask("review_over", f"review_over:{loaded.row.id}", {"review_id": loaded.row.id})
    open_ink_of(act, loaded, left)
    review_mails.tell_of(act, loaded, turn)
    return loaded


def _record_decided(act: Act, loaded: LoadedReview, turn: Turn) -> None:
    """The outcome of a stage that ended, or the close; each entry names all documents of the review, in their order."""
    before, after = loaded.value.documents, turn.review.documents
    closed = turn.review.state is ReviewState.CLOSED
    if not closed and all(before[id].verdict == each.verdict for id, each in after.items()):
        return
    ids = [each.document_id for each in loaded.documents]
    numbers = numbers_of(act, ids)
    said = [{"number": numbers[id], "verdict": after[id].verdict} for id in ids]
    if closed:
        after_it = {"state": "closed", "verdicts": said}
        record(act, loaded, FactKind.REVIEW_CLOSED, after_it, before={"state": "running"})
    else:
        going = [{**each, "then": after[id].state.value} for id, each in zip(ids, said, strict=True)]
        record(act, loaded, FactKind.STAGE_DECIDED, {"verdicts": going}, says_it=True)


def numbers_of(act: Act, document_ids: Sequence[str]) -> dict[str, str]:
    query = select(DocumentRow.id, DocumentRow.number).where(one_of(DocumentRow.id, document_ids))
    return dict(act.session.execute(query).all())


def pick_up(context: Context, actor: Actor, review_id: str, step_id: str) -> None:
    """Raises RuleBroken that says who was first, and when."""
    with acting(context, actor) as act:
        loaded, seat, at = open_step(act, review_id, step_id)
        _say_who_was_first(act, seat, loaded, at)
        turn = acts.pick_up(loaded.value, somebody(act, loaded.row, seat), at)
        after = {"step": loaded.steps[at].name, "with": actor.name}
        record(act, loaded, FactKind.STEP_PICKED_UP, after, before={"with": "nobody"})
        settle(act, loaded, turn)


def _say_who_was_first(act: Act, seat: Seat, loaded: LoadedReview, at: int) -> None:
    step, run = loaded.steps[at], loaded.value.steps[at]
    others = step.taken_by not in (None, act.actor.person_id) and run.state is StepState.RUNNING
    if others and step.taken_at and run.place_of(act.actor.person_id):
        name = act.session.get_one(PersonRow, step.taken_by).name
        when = step.taken_at.astimezone(ZoneInfo(seat.project.time_zone))
        words = f"{name} was first: {step.name} was picked up at {when:%H:%M} on {when:%-d %B}."
        raise RuleBroken("step_taken", words, loaded.row.number)


def put_down(context: Context, actor: Actor, review_id: str, step_id: str) -> None:
    with acting(context, actor) as act:
        loaded, seat, at = open_step(act, review_id, step_id)
        turn = acts.put_down(loaded.value, somebody(act, loaded.row, seat), at)
        after = {"step": loaded.steps[at].name, "with": "nobody"}
        record(act, loaded, FactKind.STEP_PUT_DOWN, after, before={"with": actor.name})
        settle(act, loaded, turn)


def hand_in(context: Context, actor: Actor, review_id: str, step_id: str, command: HandIn) -> None:
    """One hand's answers for every document; what follows, follows: the next step, or the end."""
    with acting(context, actor) as act:
        loaded, seat, at = open_step(act, review_id, step_id)
        hand_in_at(act, loaded, at, somebody(act, loaded.row, seat), command, moment_of(act, seat, loaded))


def hand_in_at(act: Act, loaded: LoadedReview, at: int, who: Somebody, command: HandIn, moment: Moment) -> None:
    """By whoever is asked there, signed in or by a link. Raises what `acts.hand_in` raises."""
    _check_revisions(act, loaded, command.answers)
    answers = tuple(
        Answer(each.document_id, each.verdict, each.comment.strip()[:LONGEST_TEXT]) for each in command.answers
    )
    graves = {each.document_id: each.grave for each in command.answers}
    turn = acts.hand_in(loaded.value, who, at, answers, moment)
    comments.check_hand_in(act.session, loaded, answers, graves)
    step, note = loaded.steps[at], command.note.strip()[:LONGEST_TEXT]
    place = next(
        number
        for number, each in enumerate(turn.review.steps[at].places)
        if each.person == who.person and each.state is PlaceState.HANDED_IN
    )
    loaded.places[step.id, place].note = note
    review_rows.add_answers(act, step, place, answers)
    _forget_begun(act, step.id)
    numbers = numbers_of(act, [each.document_id for each in answers])
    said = [{"number": numbers[each.document_id], "verdict": each.verdict, "comment": each.comment} for each in answers]
    kind = FactKind.VERDICTS_HANDED_IN if step.act == StepAct.DECIDE.value else FactKind.COMMENTS_HANDED_IN
    record(act, loaded, kind, {"step": step.name, "answers": said, "note": note}, says_it=True)
    comments.raise_handed_in(act, loaded, step, answers, graves)
    settle(act, loaded, turn)


def _forget_begun(act: Act, step_id: str) -> None:
    theirs = (BegunAnswerRow.step_id == step_id, BegunAnswerRow.person_id == act.actor.person_id)
    act.session.execute(delete(BegunAnswerRow).where(*theirs))


def _check_revisions(act: Act, loaded: LoadedReview, answers: Sequence[DocumentAnswer]) -> None:
    """Raises RuleBroken for an answer about a revision that has been swapped meanwhile."""
    now = {each.document_id: each for each in loaded.documents}
    for each in answers:
        here = now.get(each.document_id)
        if here and each.revision_id and here.revision_id != each.revision_id:
            number = numbers_of(act, [each.document_id])[each.document_id]
            words = f"A newer revision of {number} has been swapped in meanwhile. Look at it before you hand in."
            raise RuleBroken("revision_swapped", words, number)
