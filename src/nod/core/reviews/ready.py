"""The routes that every project begins with, so that nobody is stuck without one (handbook §8).

They ask roles; days are working days: 5 inside a project team, 10 between companies (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.reviews.path import Named, NamedKind, Path, Quota, Stage, Step, StepAct, Then

_BACK = {"C": Then.BACK, "D": Then.BACK}


@dataclass(frozen=True)
class ReadyPath:
    name: str
    purpose: str
    path: Path


def _step(name: str, act: StepAct, role: str, days: int, quota: Quota = Quota.ANY, *, sums_up: bool = False) -> Step:
    return Step(name, act, (Named(NamedKind.ROLE, role),), quota, days=days, sums_up=sums_up)


def _comments(name: str, role: str, days: int) -> Stage:
    return Stage((_step(name, StepAct.COMMENT, role, days),))


def _decides(name: str, role: str, days: int, **then: Then) -> Stage:
    return Stage((_step(name, StepAct.DECIDE, role, days),), then)


_SIDE_BY_SIDE = Stage(
    (
        *(_step(f"{which} company", StepAct.DECIDE, "reviewer", 10) for which in ("First", "Second", "Third")),
        _step("Sum up", StepAct.DECIDE, "lead", 3, sums_up=True),
    ),
    _BACK,
)

READY: tuple[ReadyPath, ...] = (
    ReadyPath("One verdict", "A reviewer decides on each document.", (_decides("Decide", "reviewer", 5),)),
    ReadyPath(
        "Check and decide",
        "A reviewer comments; a lead gives a verdict on each document.",
        (_comments("Check", "reviewer", 5), _decides("Decide", "lead", 3)),
    ),
    ReadyPath(
        "Three companies side by side, and a lead",
        "Put a company in each of the three; a lead sums up what they say.",
        (_SIDE_BY_SIDE,),
    ),
    ReadyPath(
        "Six steps in line",
        "Completeness, coordination, two checks, a verdict, and the lead’s release.",
        (
            _comments("Complete", "controller", 1),
            _comments("Coordinate", "reviewer", 5),
            _comments("Check", "reviewer", 5),
            _comments("Check again", "reviewer", 5),
            _decides("Decide", "reviewer", 5, **_BACK),
            _decides("Release", "lead", 3),
        ),
    ),
)
