"""Routes as leads and controllers write them: made, copied, changed, retired (handbook §8).

A review that runs keeps the steps it was sent with: what is changed here is for those to come.
"""

from __future__ import annotations

from datetime import date
from typing import Any

from pydantic import Field

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.working_days import Counting
from nod.core.reviews import routes
from nod.core.reviews.routes import Review, ReviewState, Step, StepAct, StepRun
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version, project_clock, today_in
from nod.services.acts.projects import add_route
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.reviews.ready_route import RouteMade
from nod.services.reviews.route_checks import LONGEST_NAME, MOST_PEOPLE, check_route_name, who_can_be_named
from nod.store.tables import RouteRow

MOST_STEPS, _LONGEST_PURPOSE = 10, 300


class StepGiven(Command):
    """Any one of `people`, by id, takes it."""

    name: str
    act: StepAct = Field(strict=False)
    people: list[str] = Field(max_length=MOST_PEOPLE)
    days: int = Field(ge=1, le=90)
    counting: Counting = Field(strict=False)


class WriteRoute(Command):
    """`version` is the one that was changed; 0 for a new route."""

    name: str
    purpose: str
    steps: list[StepGiven] = Field(max_length=MOST_STEPS)
    version: int = 0


class MakeRoute(WriteRoute):
    project_id: str


class SeenRoute(Command):
    version: int


class TryRoute(Command):
    project_id: str
    steps: list[StepGiven] = Field(max_length=MOST_STEPS)


class StepTried(Answered):
    """The day on which a step would end, were the route begun today; `trouble` says what cannot work."""

    ends_on: date
    trouble: str


class RouteTried(Answered):
    steps: list[StepTried]


def make_route(context: Context, actor: Actor, command: MakeRoute) -> RouteMade:
    """Raises RuleBroken naming what cannot work."""
    with acting(context, actor) as act:
        seat = _enter(act, command.project_id)
        name, purpose, steps = _checked(act, seat, command, "")
        return RouteMade(id=add_route(act, command.project_id, name, purpose, steps))


def change_route(context: Context, actor: Actor, route_id: str, command: WriteRoute) -> None:
    with acting(context, actor) as act:
        row, seat = _open(act, route_id, command.version)
        name, purpose, steps = _checked(act, seat, command, row.id)
        before = {"name": row.name, "purpose": row.purpose, "steps": row.steps}
        row.name, row.purpose, row.steps = name, purpose, steps
        old, new = changed(before, {"name": name, "purpose": purpose, "steps": steps})
        _note(act, row, FactKind.ROUTE_CHANGED, old, new)


def retire_route(context: Context, actor: Actor, route_id: str, command: SeenRoute) -> None:
    """Nobody can start on it any more; reviews that run go on."""
    with acting(context, actor) as act:
        row, _ = _open(act, route_id, command.version)
        if row.retired_at:
            raise RuleBroken("route_retired", f"The route {row.name} is retired already.", row.name)
        row.retired_at = act.at
        _note(act, row, FactKind.ROUTE_RETIRED, {}, {})


def bring_route_back(context: Context, actor: Actor, route_id: str, command: SeenRoute) -> None:
    with acting(context, actor) as act:
        row, seat = _open(act, route_id, command.version)
        if not row.retired_at:
            raise RuleBroken("route_in_use", f"The route {row.name} is in use.", row.name)
        check_route_name(act.session, seat.project.id, row.name, row.id)
        row.retired_at = None
        _note(act, row, FactKind.ROUTE_BROUGHT_BACK, {}, {})


def try_route(context: Context, actor: Actor, command: TryRoute) -> RouteTried:
    """Changes nothing: when its steps would end, and what cannot work, step by step."""
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        seat.need_tool("reviews")
        seat.need_to_run()
        known = who_can_be_named(session, command.project_id)
        steps = tuple(Step(each.name, each.act, tuple(each.people), each.days, each.counting) for each in command.steps)
        begun = Review(ReviewState.RUNNING, tuple(StepRun(step) for step in steps), {}, ())
        today = today_in(seat.project, context.clock.now())
        ends = routes.forecast(begun, today, project_clock(session, seat.project))
        tried = [
            StepTried(ends_on=day or today, trouble=_trouble(each, known))
            for each, day in zip(command.steps, ends, strict=True)
        ]
        return RouteTried(steps=tried)


def _enter(act: Act, project_id: str) -> Seat:
    seat = act.enter(project_id, tool="reviews")
    seat.need_to_run()
    return seat


def _open(act: Act, route_id: str, version: int) -> tuple[RouteRow, Seat]:
    row = act.session.get(RouteRow, route_id)
    if row is None:
        raise NotFound(route_id)
    seat = _enter(act, row.project_id)
    check_version(version, row.version, row.name)
    return row, seat


def _note(act: Act, row: RouteRow, kind: FactKind, before: dict[str, Any], after: dict[str, Any]) -> None:
    row.version += 1
    act.record(row.project_id, Fact(kind, Subject("route", row.id), row.name, before=before, after=after))
    act.tell(row.project_id, "routes", row.project_id)


def _checked(act: Act, seat: Seat, command: WriteRoute, own_id: str) -> tuple[str, str, list[dict[str, Any]]]:
    name = check_route_name(act.session, seat.project.id, command.name, own_id)
    if not command.steps:
        raise RuleBroken("step_count", "A route has one to ten steps.", name)
    known = who_can_be_named(act.session, seat.project.id)
    for place, each in enumerate(command.steps, 1):
        trouble = _trouble(each, known)
        if trouble:
            raise RuleBroken("step_unfit", f"Step {place}: {trouble}", name)
    steps = [
        {
            "name": " ".join(each.name.split())[:LONGEST_NAME], "act": each.act.value,
            "people": list(dict.fromkeys(each.people)), "days": each.days, "counting": each.counting.value,
        }
        for each in command.steps
    ]  # fmt: skip
    return name, " ".join(command.purpose.split())[:_LONGEST_PURPOSE], steps


def _trouble(step: StepGiven, known: set[str]) -> str:
    if not step.name.strip():
        return "Give the step a name."
    if not step.people:
        return "Nobody is named for it."
    if set(step.people) - known:
        return "Somebody named for it is not in the project any more."
    return ""
