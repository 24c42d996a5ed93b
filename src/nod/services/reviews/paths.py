"""Paths as they are kept, sent and shown, and as the core reads them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Annotated, Any

from pydantic import Field

from nod.core.acts.working_days import Counting
from nod.core.reviews.path import MOST_STEPS, Named, NamedKind, Path, Quota, Stage, Step, StepAct, Then
from nod.core.reviews.reminders import MOST_DAYS as MOST_REMINDED
from nod.core.reviews.reminders import Remind
from nod.services.acts.answers import Command

LONGEST_NAME, MOST_NAMED, MOST_DAYS = 80, 50, 90


class NamedGiven(Command):
    """A person or a company by id, a role by its code."""

    kind: NamedKind = Field(strict=False)
    id: str


class RemindGiven(Command):
    """In days, see `core.reviews.reminders.Remind`."""

    before: int = Field(default=1, ge=0, le=MOST_REMINDED)
    every: int = Field(default=2, ge=0, le=MOST_REMINDED)
    lead_after: int = Field(default=3, ge=0, le=MOST_REMINDED)


class StepGiven(Command):
    name: str
    act: StepAct = Field(strict=False)
    whom: list[NamedGiven] = Field(max_length=MOST_NAMED)
    quota: Quota = Field(default=Quota.ANY, strict=False)
    least: int = Field(default=1, ge=1, le=MOST_NAMED)
    days: int = Field(ge=1, le=MOST_DAYS)
    counting: Counting = Field(strict=False)
    own_allowed: bool = False
    sums_up: bool = False
    remind: RemindGiven = RemindGiven()
    handing_on: bool = True
    verdicts: str = ""
    marking: bool = True


class StageGiven(Command):
    """Steps beside each other, and what follows each verdict: the codes that are not there go on."""

    steps: list[StepGiven] = Field(max_length=MOST_STEPS)
    then: dict[str, Annotated[Then, Field(strict=False)]] = Field(default_factory=dict)


def path_given(stages: list[StageGiven]) -> Path:
    """As it was sent, tidied."""
    return tuple(Stage(tuple(_step(step) for step in stage.steps), dict(stage.then)) for stage in stages)


def _step(step: StepGiven) -> Step:
    whom = dict.fromkeys(whom_named(step.whom))
    return Step(
        " ".join(step.name.split())[:LONGEST_NAME], step.act, tuple(whom), step.quota, step.least, step.days,
        step.counting, step.own_allowed, step.sums_up,
        Remind(step.remind.before, step.remind.every, step.remind.lead_after), step.handing_on,
        " ".join(step.verdicts.split()), step.marking,
    )  # fmt: skip


def whom_named(given: list[NamedGiven]) -> list[Named]:
    return [Named(each.kind, each.id) for each in given]


def path_kept(stages: list[Any]) -> Path:
    """As a route keeps it."""
    return path_given([StageGiven.model_validate(each, strict=False) for each in stages])


def to_keep(path: Path) -> list[dict[str, Any]]:
    return [
        {
            "steps": [_kept(step) for step in stage.steps],
            "then": {code: each.value for code, each in stage.then.items()},
        }
        for stage in path
    ]


def _kept(step: Step) -> dict[str, Any]:
    return {
        "name": step.name, "act": step.act.value, "whom": whom_kept(step.whom), "quota": step.quota.value,
        "least": step.least, "days": step.days, "counting": step.counting.value, "own_allowed": step.own_allowed,
        "sums_up": step.sums_up, "remind": asdict(step.remind), "handing_on": step.handing_on,
        "verdicts": step.verdicts, "marking": step.marking,
    }  # fmt: skip


def whom_kept(whom: tuple[Named, ...]) -> list[dict[str, str]]:
    return [{"kind": each.kind.value, "id": each.id} for each in whom]


def whom_read(kept: list[Mapping[str, str]]) -> tuple[Named, ...]:
    return tuple(Named(NamedKind(each["kind"]), each["id"]) for each in kept)
