"""What a route says: stages, their steps, whom they ask and what follows each verdict (handbook §8)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Counting
from nod.core.reviews.reminders import Remind

MOST_STEPS = 10


class StepAct(StrEnum):
    """What a step does with each document."""

    COMMENT = "comment"
    DECIDE = "decide"


class Quota(StrEnum):
    """How many of those asked must hand in: the first who picks up, everybody, or at least so many."""

    ANY = "any"
    ALL = "all"
    SOME = "some"


class Then(StrEnum):
    """What follows a verdict at the end of a deciding stage, for that document."""

    ON = "on"
    BACK = "back"
    END = "end"


class Shows(StrEnum):
    """When what is said in a review is shown to others than its people: at once, or when a document leaves it."""

    AT_ONCE = "at_once"
    END = "end"


class NamedKind(StrEnum):
    PERSON = "person"
    ROLE = "role"
    COMPANY = "company"


@dataclass(frozen=True)
class Named:
    """Whom a step asks: a person, or whoever holds a role or is of a company when the step begins."""

    kind: NamedKind
    id: str


@dataclass(frozen=True)
class Step:
    """`least` counts for Quota.SOME only; `days` is within how many days, counted as `counting` says.

    `handing_on`: whoever is asked may hand their place on. `verdicts` is the set that a deciding step gives, by its
    name; empty for the project's usual one. Without `marking`, whoever is asked answers in words and draws no marks.
    """

    name: str
    act: StepAct
    whom: tuple[Named, ...]
    quota: Quota = Quota.ANY
    least: int = 1
    days: int = 3
    counting: Counting = Counting.WORKING
    own_allowed: bool = False
    sums_up: bool = False
    remind: Remind = field(default_factory=Remind)
    handing_on: bool = True
    verdicts: str = ""
    marking: bool = True


@dataclass(frozen=True)
class Stage:
    """Steps beside each other. One that sums up begins when the others are done, and its word counts.

    `then`: by verdict code; what is not there goes on.
    """

    steps: tuple[Step, ...]
    then: Mapping[str, Then] = field(default_factory=dict)

    @property
    def decides(self) -> bool:
        return any(step.act is StepAct.DECIDE for step in self.steps)

    @property
    def verdict_sets(self) -> frozenset[str]:
        """By name, those of its deciding steps; one, if it can work."""
        return frozenset(step.verdicts for step in self.steps if step.act is StepAct.DECIDE)


Path = tuple[Stage, ...]


def check_path(path: Sequence[Stage]) -> None:
    """Raises RuleBroken naming the first step that cannot be."""
    count = sum(len(stage.steps) for stage in path)
    if not 1 <= count <= MOST_STEPS or not all(stage.steps for stage in path):
        raise RuleBroken("step_count", "A route has one to ten steps.")
    for stage in path:
        for step in stage.steps:
            trouble = trouble_of(stage, step)
            if trouble:
                raise RuleBroken("step_unfit", f"{step.name or 'A step'}: {trouble}", step.name)


def trouble_of(stage: Stage, step: Step) -> str:
    """What cannot work with a step in its stage, in words; empty if nothing."""
    if not step.name.strip():
        return "Give the step a name."
    if not step.whom:
        return "Nobody is named for it."
    if step.quota is Quota.SOME and step.least < 1:
        return "At least one has to hand in."
    if step.act is StepAct.DECIDE and len(stage.verdict_sets) > 1:
        return "Those who decide in one row give verdicts of one set."
    return _trouble_summing_up(stage, step) if step.sums_up else ""


def _trouble_summing_up(stage: Stage, step: Step) -> str:
    if step is not stage.steps[-1] or sum(each.sums_up for each in stage.steps) > 1:
        return "One sums up, after the others of the row."
    if len(stage.steps) == 1:
        return "There is nothing beside it to sum up."
    if step.act is not StepAct.DECIDE and stage.decides:
        return "Where others decide, who sums up decides as well."
    return ""
