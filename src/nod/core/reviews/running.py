"""A review as it stands: its steps, who is asked, what they said, and where each document is (handbook §8)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from enum import StrEnum
from typing import NamedTuple, Protocol

from nod.core.acts.working_days import ProjectClock
from nod.core.reviews.path import Named, Quota, Step, StepAct, Then
from nod.core.reviews.verdicts import Verdict


class StepState(StrEnum):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    DROPPED = "dropped"


class ReviewState(StrEnum):
    RUNNING = "running"
    CLOSED = "closed"
    CANCELLED = "cancelled"
    RECALLED = "recalled"


class PlaceState(StrEnum):
    """Of somebody who is asked: still, has handed in, is not needed any more, or was there before the stage began
    again."""

    ASKED = "asked"
    HANDED_IN = "handed_in"
    NOT_NEEDED = "not_needed"
    CROSSED = "crossed"


class DocumentState(StrEnum):
    """Of a document in a review: going round, sent back to its author, or done."""

    GOING = "going"
    BACK = "back"
    DONE = "done"


class Answer(NamedTuple):
    """What one hand says about one document: a verdict code (deciding steps) and a comment."""

    document_id: str
    verdict: str
    comment: str


@dataclass(frozen=True)
class Place:
    """Somebody asked in a step. `for_whom` is whose place it was, if another's."""

    person: str
    for_whom: str = ""
    state: PlaceState = PlaceState.ASKED
    at: datetime | None = None
    answers: tuple[Answer, ...] = ()


@dataclass(frozen=True)
class StepRun:
    """A step while it runs. Instants are UTC; `due_on` is the last day in time, in the project's zone.

    `stage` counts from 0; `taken_by` is who has picked up a step that any one of several takes.
    """

    step: Step
    stage: int
    state: StepState = StepState.WAITING
    began_at: datetime | None = None
    due_on: date | None = None
    taken_by: str | None = None
    ended_at: datetime | None = None
    places: tuple[Place, ...] = ()

    @property
    def asked(self) -> tuple[str, ...]:
        """Those whose answer is still wanted: of a step that was picked up, who has it."""
        open_places = tuple(each.person for each in self.places if each.state is PlaceState.ASKED)
        return (self.taken_by,) if self.taken_by in open_places and self.taken_by else open_places

    def place_of(self, person: str) -> Place | None:
        """Of somebody in it now; crossings-out are not asked."""
        return next((each for each in self.places if each.person == person and each.state is not CROSSED), None)


CROSSED = PlaceState.CROSSED


@dataclass(frozen=True)
class UnderReview:
    """A document in a review. `authors`: who filed the revision, or from whom it came."""

    id: str
    authors: frozenset[str]
    state: DocumentState = DocumentState.GOING
    verdict: str = ""


@dataclass(frozen=True)
class Review:
    """`then`: of each stage, what follows a verdict; what is not there goes on."""

    state: ReviewState
    steps: tuple[StepRun, ...]
    documents: Mapping[str, UnderReview]
    then: Sequence[Mapping[str, Then]]
    verdicts: tuple[Verdict, ...]

    def stage_now(self) -> int | None:
        """The running stage, or None when the review is over."""
        running = (run.stage for run in self.steps if run.state is StepState.RUNNING)
        return next(running, None)

    def of_stage(self, stage: int) -> Iterator[tuple[int, StepRun]]:
        return ((at, run) for at, run in enumerate(self.steps) if run.stage == stage)

    def going(self) -> tuple[UnderReview, ...]:
        return tuple(each for each in self.documents.values() if each.state is DocumentState.GOING)

    def answered_by(self, run: StepRun, person: str) -> tuple[UnderReview, ...]:
        """The documents on which somebody answers in a step: all that go round, but those they may not decide on."""
        return tuple(each for each in self.going() if may_answer(run.step, person, each))

    def with_step(self, at: int, run: StepRun) -> Review:
        return replace(self, steps=(*self.steps[:at], run, *self.steps[at + 1 :]))

    def with_documents(self, changed: Mapping[str, UnderReview]) -> Review:
        return replace(self, documents={**self.documents, **changed})


def may_answer(step: Step, person: str, document: UnderReview) -> bool:
    """Nobody decides on what they filed or authored, unless the route says so; anybody comments."""
    return step.act is StepAct.COMMENT or step.own_allowed or person not in document.authors


def needed(run: StepRun) -> int:
    """How many hands end the step; more than there are is never asked."""
    count = sum(each.state in (PlaceState.ASKED, PlaceState.HANDED_IN) for each in run.places)
    return {Quota.ANY: 1, Quota.ALL: count, Quota.SOME: min(run.step.least, count)}[run.step.quota]


class Roster(Protocol):
    """Who holds what today."""

    def people(self, named: Named) -> Sequence[str]: ...

    def stand_in(self, person: str) -> str:
        """Who stands in for somebody who is away, or nobody: ''."""
        ...


@dataclass(frozen=True)
class Moment:
    now: datetime
    at: ProjectClock
    roster: Roster


class Happening(StrEnum):
    """What an act did besides its own: whoever has to know is told by it."""

    STEP_BEGAN = "step_began"
    NOBODY_ASKED = "nobody_asked"
    NOT_NEEDED = "not_needed"
    STEP_DONE = "step_done"
    SENT_BACK = "sent_back"
    CLOSED = "closed"


@dataclass(frozen=True)
class Happened:
    what: Happening
    step: int = -1
    person: str = ""
    document_id: str = ""


@dataclass(frozen=True)
class Turn:
    """The review after an act, and what happened, in its order."""

    review: Review
    happened: tuple[Happened, ...] = field(default=())
