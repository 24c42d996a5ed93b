"""The ready route: those who comment, then those who decide, made from names where a project has no route yet."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import add_route
from nod.services.acts.seats import Actor
from nod.services.reviews.route_checks import MOST_PEOPLE, check_route_name, who_can_be_named


class MakeReadyRoute(Command):
    """Ids of people; any one of a step takes it. Days are working days."""

    project_id: str
    name: str
    commenting: list[str] = Field(default_factory=list, max_length=MOST_PEOPLE)
    comment_days: int = Field(default=5, ge=1, le=90)
    deciding: list[str] = Field(default_factory=list, max_length=MOST_PEOPLE)
    decide_days: int = Field(default=3, ge=1, le=90)


class RouteMade(Answered):
    id: str


def make_ready_route(context: Context, actor: Actor, command: MakeReadyRoute) -> RouteMade:
    """By a lead or a controller. Raises RuleBroken without a name or anybody to decide, NotFound for a stranger."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, tool="reviews")
        seat.need_to_run()
        name = check_route_name(act.session, command.project_id, command.name)
        _check(act, command, name)
        steps: list[dict[str, Any]] = []
        if command.commenting:
            steps.append(_step("Check", "comment", command.commenting, command.comment_days))
        steps.append(_step("Decide", "decide", command.deciding, command.decide_days))
        purpose = "Comments, then a verdict" if command.commenting else "A verdict"
        return RouteMade(id=add_route(act, command.project_id, name, purpose, steps))


def _step(name: str, what: str, people: list[str], days: int) -> dict[str, Any]:
    return {"name": name, "act": what, "people": list(dict.fromkeys(people)), "days": days, "counting": "working"}


def _check(act: Act, command: MakeReadyRoute, name: str) -> None:
    if not command.deciding:
        raise RuleBroken("nobody_decides", "Name at least one who decides.", name)
    strange = {*command.commenting, *command.deciding} - who_can_be_named(act.session, command.project_id)
    if strange:
        raise NotFound(sorted(strange)[0])
