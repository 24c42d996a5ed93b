"""The acts on a review, and who may do them: the same question for what is shown and for what is done (handbook §8)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from nod.core.acts.refusals import NotAllowed, Refusal, RuleBroken
from nod.core.reviews.course import Course, outcomes_of, undecided
from nod.core.reviews.path import Named, NamedKind, Path, Quota, StepAct, check_path
from nod.core.reviews.running import (
    CROSSED,
    Answer,
    Moment,
    Place,
    PlaceState,
    Review,
    ReviewState,
    StepRun,
    StepState,
    Turn,
    UnderReview,
)
from nod.core.reviews.verdicts import Verdict, in_set


class Act(StrEnum):
    PICK_UP = "pick_up"
    PUT_DOWN = "put_down"
    HAND_IN = "hand_in"
    HAND_ON = "hand_on"
    PUT_IN = "put_in"
    END_STEP = "end_step"
    RECALL = "recall"
    CANCEL = "cancel"
    SWAP = "swap"


@dataclass(frozen=True)
class Somebody:
    """Who acts: `runs` the project, or started this review."""

    person: str
    runs: bool = False
    started: bool = False


def start(path: Path, documents: Sequence[UnderReview], verdicts: tuple[Verdict, ...], moment: Moment) -> Turn:
    """A running review whose first stage has begun. Raises RuleBroken naming what is missing."""
    if not documents:
        raise RuleBroken("no_documents", "Choose at least one document to review.")
    check_path(path)
    steps = tuple(StepRun(step, number) for number, stage in enumerate(path) for step in stage.steps)
    review = Review(
        ReviewState.RUNNING, steps, {each.id: each for each in documents}, tuple(stage.then for stage in path), verdicts
    )
    for run in steps:
        _check_named(review, run, moment)
    course = Course(review, moment)
    course.begin_stage(0)
    return course.turn


def _check_named(review: Review, run: StepRun, moment: Moment) -> None:
    step = run.step
    if not any(moment.roster.people(named) for named in step.whom):
        raise RuleBroken("step_without_people", f"Nobody is there for the step {step.name}.", step.name)
    if undecided(review, step, moment):
        raise RuleBroken(
            "separation_of_duties",
            f"Nobody decides on a document they filed: name somebody else for the step {step.name}.",
            step.name,
        )


# --- who may what -----------------------------------------------------------------------------------------------------


def refusal(review: Review, who: Somebody, act: Act, at: int = -1) -> Refusal | None:
    """Why somebody may not; None if they may. `at` is the step it is about, where it is about one."""
    not_theirs = _not_theirs(review, who, act, at)
    if not_theirs:
        return not_theirs
    if review.state is not ReviewState.RUNNING:
        return RuleBroken("review_over", "This review is over.")
    if act is Act.RECALL and is_decided(review):
        return RuleBroken("decided_already", "A verdict has been handed in: it can be cancelled, with a reason.")
    if act in _OF_THE_WHOLE:
        return None
    run = review.steps[at]
    if act in _OF_LEADS:
        running = run.state is StepState.RUNNING
        return None if running else RuleBroken("step_not_running", f"{run.step.name} does not run.", run.step.name)
    return _refusal_of_a_place(run, who.person, act)


_OF_THE_WHOLE = (Act.CANCEL, Act.RECALL, Act.SWAP)


_OF_LEADS = (Act.PUT_IN, Act.END_STEP)


def _not_theirs(review: Review, who: Somebody, act: Act, at: int) -> Refusal | None:
    """Whoever may never do this here, whatever the state."""
    if act is Act.RECALL and not who.started:
        return NotAllowed("not_your_review", "Its starter can recall it.")
    if act in _OF_THE_WHOLE and not (who.started or who.runs):
        return NotAllowed("not_your_review", "This is for its starter, a lead or a controller.")
    if act in _OF_LEADS and not who.runs:
        return NotAllowed("not_running", "This is for the project's leads and controllers.")
    if act in _OF_A_PLACE and not review.steps[at].place_of(who.person):
        name = review.steps[at].step.name
        return NotAllowed("not_your_step", f"The step {name} is with others.", name)
    return None


def _refusal_of_a_place(run: StepRun, person: str, act: Act) -> Refusal | None:
    place = run.place_of(person)
    if run.state is not StepState.RUNNING or place is None or place.state is PlaceState.NOT_NEEDED:
        return RuleBroken("step_over", f"The step {run.step.name} is over.", run.step.name)
    if place.state is PlaceState.HANDED_IN:
        return RuleBroken("handed_in_already", f"You have handed in for {run.step.name}.", run.step.name)
    return _OF_A_PLACE[act](run, person)


def _taken_by_another(run: StepRun, person: str) -> Refusal | None:
    if run.taken_by in (None, person):
        return None
    return RuleBroken("step_taken", f"The step {run.step.name} has been picked up already.", run.step.name)


def _no_pick_up(run: StepRun, person: str) -> Refusal | None:
    if run.step.quota is not Quota.ANY:
        return RuleBroken("nothing_to_pick_up", f"Each hands in for themselves in {run.step.name}.", run.step.name)
    return _taken_by_another(run, person)


def _no_put_down(run: StepRun, person: str) -> Refusal | None:
    if run.taken_by != person:
        return RuleBroken("step_not_yours", f"You have not picked up the step {run.step.name}.", run.step.name)
    if sum(each.state is not CROSSED for each in run.places) == 1:
        return RuleBroken("only_candidate", f"Nobody else is named for the step {run.step.name}.", run.step.name)
    return None


def _no_hand_in(run: StepRun, person: str) -> Refusal | None:
    if run.step.quota is not Quota.ANY or run.taken_by == person:
        return None
    return _taken_by_another(run, person) or RuleBroken(
        "pick_up_first", f"Pick up the step {run.step.name} first, so that nobody does it twice.", run.step.name
    )


def _no_hand_on(run: StepRun, person: str) -> Refusal | None:
    if not run.step.handing_on:
        words = f"The step {run.step.name} is not handed on. A lead can put somebody else in."
        return RuleBroken("not_handed_on", words, run.step.name)
    return _taken_by_another(run, person)


_OF_A_PLACE = {
    Act.PICK_UP: _no_pick_up,
    Act.PUT_DOWN: _no_put_down,
    Act.HAND_IN: _no_hand_in,
    Act.HAND_ON: _no_hand_on,
}


def may(review: Review, who: Somebody, act: Act, at: int = -1) -> bool:
    return refusal(review, who, act, at) is None


def _need(review: Review, who: Somebody, act: Act, at: int = -1) -> None:
    refused = refusal(review, who, act, at)
    if refused:
        raise refused


def is_decided(review: Review) -> bool:
    """A verdict has been handed in, one that was crossed out later too."""
    return any(each.verdict for run in review.steps for place in run.places for each in place.answers)


# --- the acts ---------------------------------------------------------------------------------------------------------


def pick_up(review: Review, who: Somebody, at: int) -> Turn:
    """The step is now with one alone. Raises RuleBroken(`step_taken`) if another has it."""
    _need(review, who, Act.PICK_UP, at)
    return Turn(review.with_step(at, replace(review.steps[at], taken_by=who.person)))


def put_down(review: Review, who: Somebody, at: int) -> Turn:
    """The step is with all of its people again."""
    _need(review, who, Act.PUT_DOWN, at)
    return Turn(review.with_step(at, replace(review.steps[at], taken_by=None)))


def hand_in(review: Review, who: Somebody, at: int, answers: Sequence[Answer], moment: Moment) -> Turn:
    """One hand is done; the step ends with the last that is needed. Every document needs its answer."""
    _need(review, who, Act.HAND_IN, at)
    run = review.steps[at]
    place = run.place_of(who.person)
    if place is None:  # asked above
        raise RuleBroken("step_over", f"The step {run.step.name} is over.", run.step.name)
    _check_answers(review, run, who.person, answers)
    course = Course(review, moment)
    course.hand_in(at, replace(place, state=PlaceState.HANDED_IN, at=moment.now, answers=tuple(answers)))
    return course.turn


def _check_answers(review: Review, run: StepRun, person: str, answers: Sequence[Answer]) -> None:
    wanted = {each.id for each in review.answered_by(run, person)}
    answered = [each.document_id for each in answers]
    for document_id in answered:
        if document_id in review.documents and document_id not in wanted:
            _refuse_answer(review, person, document_id)
    if sorted(answered) != sorted(wanted):
        raise RuleBroken("answers_incomplete", "Answer for each document of the review, once.", run.step.name)
    known = {each.code for each in in_set(review.verdicts, run.step.verdicts)}
    for each in answers:
        if run.step.act is StepAct.DECIDE and each.verdict not in known:
            raise RuleBroken("verdict_missing", "Every document needs a verdict.", each.document_id)
        if run.step.act is StepAct.COMMENT and each.verdict:
            words = f"The step {run.step.name} comments; it gives no verdict."
            raise RuleBroken("verdict_unasked", words, run.step.name)


def _refuse_answer(review: Review, person: str, document_id: str) -> None:
    if person in review.documents[document_id].authors:
        raise NotAllowed("own_document", "Nobody decides on a document they filed.", document_id)
    raise RuleBroken("document_left", "This document has left the review.", document_id)


def hand_on(review: Review, who: Somebody, at: int, other: str) -> Turn:
    """Somebody's place is another's. Raises RuleBroken for one who has a place there, or may not decide."""
    _need(review, who, Act.HAND_ON, at)
    return Turn(_in_place(review, at, who.person, other))


def put_in(review: Review, who: Somebody, at: int, gone: str, other: str) -> Turn:
    """A lead puts another in somebody's place, or beside the rest where `gone` is nobody: ''."""
    _need(review, who, Act.PUT_IN, at)
    return Turn(_in_place(review, at, gone, other))


def _in_place(review: Review, at: int, gone: str, other: str) -> Review:
    run = review.steps[at]
    check_newcomer(review, run, other)
    if not gone:
        return review.with_step(at, replace(run, places=(*run.places, Place(other))))
    place = run.place_of(gone)
    if place is None or place.state is not PlaceState.ASKED:
        raise RuleBroken("place_not_open", f"In {run.step.name} nothing is asked of them any more.", run.step.name)
    theirs = Place(other, for_whom=place.for_whom or gone)
    places = tuple(theirs if each is place else each for each in run.places)
    taken = other if run.taken_by == gone else run.taken_by
    return review.with_step(at, replace(run, places=places, taken_by=taken))


def stand_in(review: Review, at: int, away: str, other: str) -> Review:
    """The place of somebody who is away is another's. Raises RuleBroken as `put_in` does."""
    return _in_place(review, at, away, other)


def check_newcomer(review: Review, run: StepRun, other: str) -> None:
    """Raises RuleBroken for somebody who is in the step, and for one who would decide on their own."""
    if run.place_of(other):
        raise RuleBroken("in_step_already", f"They are in the step {run.step.name} already.", run.step.name)
    if len(review.answered_by(run, other)) < len(review.going()):
        raise RuleBroken("own_document", "Nobody decides on a document they filed.", run.step.name)


def succeed(review: Review, gone: str, heir: str, moment: Moment) -> Turn:
    """Somebody leaves the project: the heir has their open places, and stands where steps to come name them."""
    old, new = Named(NamedKind.PERSON, gone), Named(NamedKind.PERSON, heir)
    course = Course(review, moment)
    for at, run in enumerate(review.steps):
        if run.state is StepState.WAITING:
            whom = tuple(dict.fromkeys(new if each == old else each for each in run.step.whom))
            course.review = course.review.with_step(at, replace(run, step=replace(run.step, whom=whom)))
        elif is_asked(run, gone):
            course.review = course.review.with_step(at, _inherited(run, gone, heir))
            course.end_if_enough(at)
    return course.turn


def is_asked(run: StepRun, person: str) -> bool:
    place = run.place_of(person) if run.state is StepState.RUNNING else None
    return place is not None and place.state is PlaceState.ASKED


def _inherited(run: StepRun, gone: str, heir: str) -> StepRun:
    """An heir who is in the step already has their own place, and the other is not needed any more."""
    there = run.place_of(heir) is not None

    def given(place: Place) -> Place:
        if place.person != gone or place.state is not PlaceState.ASKED:
            return place
        if there:
            return replace(place, state=PlaceState.NOT_NEEDED)
        return replace(place, person=heir, for_whom=place.for_whom or gone)

    places = tuple(given(each) for each in run.places)
    return replace(run, places=places, taken_by=heir if run.taken_by == gone else run.taken_by)


def is_free(review: Review, run: StepRun, other: str) -> bool:
    """Whether somebody could take a place in a step."""
    try:
        check_newcomer(review, run, other)
    except RuleBroken:
        return False
    return True


def end_step(review: Review, who: Somebody, at: int, reason: str, moment: Moment) -> Turn:
    """A step that nobody answers ends as it stands, with a reason."""
    _need(review, who, Act.END_STEP, at)
    if not reason.strip():
        raise RuleBroken("reason_missing", "Say why the step is ended.")
    course = Course(review, moment)
    course.end_step(at)
    return course.turn


def cancel(review: Review, who: Somebody, reason: str, now: datetime) -> Turn:
    """The review ends without an outcome; steps not done are dropped. A reason is required."""
    _need(review, who, Act.CANCEL)
    if not reason.strip():
        raise RuleBroken("reason_missing", "Say why the review is cancelled.")
    return Turn(_dropped(review, ReviewState.CANCELLED, now))


def recall(review: Review, who: Somebody, now: datetime) -> Turn:
    """Nothing is decided yet: it is taken back, to be sent again otherwise."""
    _need(review, who, Act.RECALL)
    return Turn(_dropped(review, ReviewState.RECALLED, now))


def _dropped(review: Review, state: ReviewState, now: datetime) -> Review:
    steps = tuple(
        run if run.state is StepState.DONE else replace(run, state=StepState.DROPPED, ended_at=now)
        for run in review.steps
    )
    return replace(review, state=state, steps=steps)


def swap(review: Review, who: Somebody, authors: Mapping[str, frozenset[str]], moment: Moment) -> Turn:
    """Documents go on at newer revisions, with these authors: the stage begins again, its answers are crossed out."""
    _need(review, who, Act.SWAP)
    stage = review.stage_now()
    if stage is None or not set(authors) <= {each.id for each in review.going()}:
        raise RuleBroken("document_left", "A document that has left the review is not swapped.")
    swapped = {id: replace(review.documents[id], authors=theirs, verdict="") for id, theirs in authors.items()}
    review = review.with_documents(swapped)
    for at, run in review.of_stage(stage):
        review = review.with_step(at, crossed_out(run))
    course = Course(review, moment)
    course.begin_stage(stage)
    return course.turn


def crossed_out(run: StepRun) -> StepRun:
    places = tuple(replace(each, state=CROSSED) for each in run.places)
    return replace(run, state=StepState.WAITING, places=places, taken_by=None, began_at=None, due_on=None,
                   ended_at=None)  # fmt: skip


def outcomes_so_far(review: Review) -> dict[str, str]:
    """By document what the running stage comes to: where companies differ, whoever sums up is offered it first."""
    stage = review.stage_now()
    return outcomes_of(review, stage) if stage is not None else {}
