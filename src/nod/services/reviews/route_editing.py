"""Routes as leads and controllers write them: made, copied, changed, retired (handbook §8).

A review that runs keeps the steps it was sent with: what is changed here is for those to come.
"""

from __future__ import annotations

from datetime import date
from typing import Any

from pydantic import Field
from sqlalchemy import select

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.reviews.ends import End
from nod.core.reviews.forecast import as_planned, forecast
from nod.core.reviews.path import MOST_STEPS, Path, Shows
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version, project_clock, today_in
from nod.services.acts.projects import add_route
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.reviews.endings import EndGiven, EndSaid, check_ends, ends_given, ends_kept, said_of
from nod.services.reviews.paths import MOST_NAMED, NamedGiven, StageGiven, path_given, to_keep, whom_named
from nod.services.reviews.ready_route import RouteMade
from nod.services.reviews.roster import ProjectRoster
from nod.services.reviews.route_checks import check_route, check_route_name, hint_on, people_of, trouble_with
from nod.store.tables import PersonRow, RouteRow

_LONGEST_PURPOSE = 300


class WriteRoute(Command):
    """`version` is the one that was changed; 0 for a new route. With nobody in `may_start`, all who file start it."""

    name: str
    purpose: str
    stages: list[StageGiven] = Field(max_length=MOST_STEPS)
    may_start: list[NamedGiven] = Field(default_factory=list, max_length=MOST_NAMED)
    ends: dict[str, EndGiven] = Field(default_factory=dict)
    may_change: bool = False
    shows: Shows = Field(default=Shows.AT_ONCE, strict=False)
    version: int = 0


class MakeRoute(WriteRoute):
    project_id: str


class SeenRoute(Command):
    version: int


class TryRoute(Command):
    project_id: str
    stages: list[StageGiven] = Field(max_length=MOST_STEPS)
    ends: dict[str, EndGiven] = Field(default_factory=dict)


class StepTried(Answered):
    """The day on which a step would end, were the route begun today, and how many people it would ask.

    `trouble` says what cannot work.
    """

    ends_on: date
    people: int
    trouble: str


class StageTried(Answered):
    """`hint` says what is worth a thought, though it works."""

    steps: list[StepTried]
    hint: str


class RouteTried(Answered):
    """`end_trouble` says what cannot work at the end, `ends` what would be done there."""

    stages: list[StageTried]
    ends: list[EndSaid]
    end_trouble: str


def make_route(context: Context, actor: Actor, command: MakeRoute) -> RouteMade:
    """Raises RuleBroken naming what cannot work."""
    with acting(context, actor) as act:
        seat = _enter(act, command.project_id)
        kept = _checked(act, seat, command, "")
        return RouteMade(id=add_route(act, command.project_id, **kept))


def change_route(context: Context, actor: Actor, route_id: str, command: WriteRoute) -> None:
    with acting(context, actor) as act:
        row, seat = _open(act, route_id, command.version)
        kept = _checked(act, seat, command, row.id)
        before = {key: getattr(row, key) for key in kept}
        for key, value in kept.items():
            setattr(row, key, value)
        old, new = changed(before, kept)
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
    """Changes nothing: when its steps would end, whom they would ask, and what cannot work."""
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        seat.need_tool("reviews")
        seat.need_to_run()
        roster = ProjectRoster(session, seat.project)
        path = path_given(command.stages)
        today = today_in(seat.project, context.clock.now())
        days = iter(forecast(as_planned(path), today, project_clock(session, seat.project)))
        people = {person for stage in path for step in stage.steps for person in people_of(roster, step.whom)}
        rows = session.execute(select(PersonRow.id, PersonRow.company_id).where(PersonRow.id.in_(people)))
        companies: dict[str, str] = dict(rows.all())
        stages = [
            StageTried(
                steps=[
                    StepTried(
                        ends_on=next(days) or today,
                        people=len(people_of(roster, step.whom)),
                        trouble=trouble_with(roster, stage, step),
                    )
                    for step in stage.steps
                ],
                hint=hint_on(roster, stage, companies),
            )
            for stage in path
        ]
        ends, end_trouble = _ends_tried(seat, roster, command.ends)
        return RouteTried(stages=stages, ends=said_of(session, seat, ends), end_trouble=end_trouble)


def _ends_tried(seat: Seat, roster: ProjectRoster, given: dict[str, EndGiven]) -> tuple[dict[str, End], str]:
    ends = ends_given(given)
    try:
        return check_ends(seat.project, roster, ends, ""), ""
    except RuleBroken as broken:
        return {}, broken.words


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


def _checked(act: Act, seat: Seat, command: WriteRoute, own_id: str) -> dict[str, Any]:
    """What `RouteRow` keeps of it."""
    name = check_route_name(act.session, seat.project.id, command.name, own_id)
    path: Path = path_given(command.stages)
    if not any(stage.steps for stage in path):
        raise RuleBroken("step_count", "A route has one to ten steps.", name)
    roster = ProjectRoster(act.session, seat.project)
    check_route(roster, path, name)
    codes = {each["code"] for each in seat.project.rules["verdict_set"]}
    if any(set(stage.then) - codes for stage in path):
        raise RuleBroken("verdict_unknown", "It says what follows a verdict that the project has not.", name)
    unknown = [each for each, words in roster.words(whom_named(command.may_start)).items() if not words]
    if unknown:
        raise RuleBroken("starter_unknown", "Somebody who may start it is not there any more.", name)
    starters = [{"kind": each.kind.value, "id": each.id} for each in command.may_start]
    return {
        "name": name, "purpose": " ".join(command.purpose.split())[:_LONGEST_PURPOSE], "stages": to_keep(path),
        "may_start": starters, "may_change": command.may_change, "shows": command.shows.value,
        "ends": ends_kept(check_ends(seat.project, roster, ends_given(command.ends), name)),
    }  # fmt: skip
