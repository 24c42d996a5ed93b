"""The ready route: those who comment, then those who decide, made from names where a project has no route yet."""

from __future__ import annotations

from typing import Any

from pydantic import Field
from sqlalchemy import select

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import add_route
from nod.services.acts.seats import Actor
from nod.store.tables import MembershipRow, RouteRow

_LONGEST_NAME, _MOST_PEOPLE = 80, 50
_MEMBERS = ("active", "invited")


class MakeReadyRoute(Command):
    """Ids of people; any one of a step takes it. Days are working days."""

    project_id: str
    name: str
    commenting: list[str] = Field(default_factory=list, max_length=_MOST_PEOPLE)
    comment_days: int = Field(default=5, ge=1, le=90)
    deciding: list[str] = Field(default_factory=list, max_length=_MOST_PEOPLE)
    decide_days: int = Field(default=3, ge=1, le=90)


class RouteMade(Answered):
    id: str


def make_ready_route(context: Context, actor: Actor, command: MakeReadyRoute) -> RouteMade:
    """By a lead or a controller. Raises RuleBroken without a name or anybody to decide, NotFound for a stranger."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, tool="reviews")
        seat.need_to_run()
        name = " ".join(command.name.split())[:_LONGEST_NAME]
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
    if not name:
        raise RuleBroken("name_missing", "Give the route a name.")
    if not command.deciding:
        raise RuleBroken("nobody_decides", "Name at least one who decides.", name)
    query = select(RouteRow.id).where(
        RouteRow.project_id == command.project_id, RouteRow.name == name, RouteRow.retired_at.is_(None)
    )
    if act.session.scalar(query):
        raise RuleBroken("route_exists", f"There is a route {name} already.", name)
    members = select(MembershipRow.person_id).where(
        MembershipRow.project_id == command.project_id, MembershipRow.state.in_(_MEMBERS)
    )
    strange = {*command.commenting, *command.deciding} - set(act.session.scalars(members))
    if strange:
        raise NotFound(sorted(strange)[0])
