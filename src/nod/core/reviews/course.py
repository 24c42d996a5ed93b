"""What follows an act: steps begin and end, stages too, documents go on, back or out (handbook §8)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace

from nod.core.acts import working_days as clock
from nod.core.reviews.path import Quota, Step, StepAct, Then
from nod.core.reviews.running import (
    CROSSED,
    DocumentState,
    Happened,
    Happening,
    Moment,
    Place,
    PlaceState,
    Review,
    ReviewState,
    StepRun,
    StepState,
    Turn,
    may_answer,
    needed,
)


class Course:
    """A review on its way through one act; `turn` is what comes of it."""

    def __init__(self, review: Review, moment: Moment) -> None:
        self.review = review
        self._moment = moment
        self._happened: list[Happened] = []

    @property
    def turn(self) -> Turn:
        return Turn(self.review, tuple(self._happened))

    def begin_stage(self, stage: int) -> None:
        for at, run in self.review.of_stage(stage):
            if not run.step.sums_up:
                self._begin(at)

    def _begin(self, at: int) -> None:
        run = self.review.steps[at]
        began_on = clock.local_date(self._moment.now, self._moment.at.zone)
        due = clock.due_on(began_on, run.step.days, run.step.counting, self._moment.at.calendar)
        places = tuple(places_of(self.review, run.step, self._moment))
        # With a single candidate there is nobody to keep from doing it twice: it is theirs at once.
        taker = places[0].person if len(places) == 1 and run.step.quota is Quota.ANY else None
        crossed = tuple(each for each in run.places if each.state is CROSSED)
        begun = replace(
            run, state=StepState.RUNNING, began_at=self._moment.now, due_on=due, taken_by=taker, ended_at=None,
            places=(*crossed, *places),
        )  # fmt: skip
        self.review = self.review.with_step(at, begun)
        self._happened.append(Happened(Happening.STEP_BEGAN if places else Happening.NOBODY_ASKED, at))

    def hand_in(self, at: int, place: Place) -> None:
        """`place` as it is now stands in the step, which ends if enough have handed in."""
        run = self.review.steps[at]
        places = tuple(place if each.person == place.person and each.state is not CROSSED else each
                       for each in run.places)  # fmt: skip
        run = replace(run, places=places)
        self.review = self.review.with_step(at, run)
        self.end_if_enough(at)

    def end_if_enough(self, at: int) -> None:
        run = self.review.steps[at]
        done = sum(each.state is PlaceState.HANDED_IN for each in run.places)
        if done and done >= needed(run):
            self.end_step(at)

    def end_step(self, at: int) -> None:
        """Whoever has not handed in need not any more; the stage goes on."""
        run = self.review.steps[at]
        spared = [each for each in run.places if each.state is PlaceState.ASKED]
        places = tuple(replace(each, state=PlaceState.NOT_NEEDED) if each in spared else each for each in run.places)
        done = replace(run, state=StepState.DONE, ended_at=self._moment.now, places=places)
        self.review = self.review.with_step(at, done)
        self._happened.append(Happened(Happening.STEP_DONE, at))
        self._happened += [Happened(Happening.NOT_NEEDED, at, person) for person in told_not_needed(run)]
        self._go_on(run.stage)

    def _go_on(self, stage: int) -> None:
        open_steps = [(at, run) for at, run in self.review.of_stage(stage) if run.state is not StepState.DONE]
        if not open_steps:
            self._end_stage(stage)
        elif all(run.step.sums_up for _, run in open_steps):
            for at, run in open_steps:
                if run.state is StepState.WAITING:
                    self._begin(at)

    def _end_stage(self, stage: int) -> None:
        self._decide(stage)
        following = stage + 1
        if self.review.going() and any(self.review.of_stage(following)):
            self.begin_stage(following)
        else:
            self._close()

    def _decide(self, stage: int) -> None:
        """Each document has its outcome, and goes on, back or out."""
        then = self.review.then[stage]
        changed = {}
        outcomes = outcomes_of(self.review, stage)
        for document in self.review.going():
            verdict = outcomes.get(document.id)
            if not verdict:
                continue
            follows = then.get(verdict, Then.ON)
            state = {Then.ON: document.state, Then.BACK: DocumentState.BACK, Then.END: DocumentState.DONE}[follows]
            changed[document.id] = replace(document, verdict=verdict, state=state)
            if follows is Then.BACK:
                self._happened.append(Happened(Happening.SENT_BACK, document_id=document.id))
        self.review = self.review.with_documents(changed)

    def _close(self) -> None:
        rest = {each.id: replace(each, state=DocumentState.DONE) for each in self.review.going()}
        steps = tuple(
            replace(run, state=StepState.DROPPED, ended_at=self._moment.now) if run.state is StepState.WAITING else run
            for run in self.review.steps
        )
        self.review = replace(self.review.with_documents(rest), state=ReviewState.CLOSED, steps=steps)
        self._happened.append(Happened(Happening.CLOSED))


def told_not_needed(run: StepRun) -> tuple[str, ...]:
    """Whoever was asked and need not any more. Of what any one takes, others saw who had it."""
    if run.step.quota is Quota.ANY and run.taken_by:
        return ()
    return tuple(each.person for each in run.places if each.state is PlaceState.ASKED)


def outcomes_of(review: Review, stage: int) -> dict[str, str]:
    """What a stage says of each document: who sums up, otherwise the most severe. Where nobody decided, nothing."""
    weight = {verdict.code: verdict.severity for verdict in review.verdicts}
    gravest: dict[str, tuple[bool, int, str]] = {}
    for _, run in review.of_stage(stage):
        for place in run.places:
            if place.state is not PlaceState.HANDED_IN:
                continue
            for each in place.answers:
                if each.verdict:
                    said = (run.step.sums_up, weight[each.verdict], each.verdict)
                    gravest[each.document_id] = max(said, gravest.get(each.document_id, said))
    return {document_id: verdict for document_id, (_, _, verdict) in gravest.items()}


def places_of(review: Review, step: Step, moment: Moment) -> Iterator[Place]:
    """Who is asked when a step begins, each once, in the order of the route; for those away, who stands in.

    In a deciding step nobody has a place who may decide on nothing of it; where one hand or so many are enough, nobody
    who may not decide on all of it.
    """
    seen: set[str] = set()
    for named in step.whom:
        for person in moment.roster.people(named):
            for place in (_stood_in(person, moment), Place(person)):
                if _fits(review, step, place.person):
                    break
            else:
                continue
            if place.person not in seen:
                seen.add(place.person)
                yield place


def _stood_in(person: str, moment: Moment) -> Place:
    other = moment.roster.stand_in(person)
    return Place(other, for_whom=person) if other else Place(person)


def _fits(review: Review, step: Step, person: str) -> bool:
    allowed = [may_answer(step, person, each) for each in review.going()]
    return any(allowed) if step.quota is Quota.ALL else all(allowed)


def undecided(review: Review, step: Step, moment: Moment) -> tuple[str, ...]:
    """Ids of the documents on which nobody asked in a deciding step might decide."""
    if step.act is StepAct.COMMENT:
        return ()
    people = [place.person for place in places_of(review, step, moment)]
    hands = Counter(each.id for person in people for each in review.going() if may_answer(step, person, each))
    return tuple(each.id for each in review.going() if not hands[each.id])
