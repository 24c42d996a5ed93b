"""Routes that are there, or are made from names: every project begins with some, and one without makes its first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.reviews.path import Named, NamedKind, Path, Stage, Step, StepAct
from nod.core.reviews.ready import READY
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import add_route
from nod.services.acts.seats import Actor
from nod.services.reviews.endings import ends_kept, ends_read
from nod.services.reviews.paths import MOST_DAYS, MOST_NAMED, path_kept, to_keep
from nod.services.reviews.roster import ProjectRoster
from nod.services.reviews.route_checks import check_route, check_route_name
from nod.store.tables import MembershipRow, ProjectRow, RouteRow


class MakeReadyRoute(Command):
    """Ids of people; any one of a step takes it. Days are working days."""

    project_id: str
    name: str
    commenting: list[str] = Field(default_factory=list, max_length=MOST_NAMED)
    comment_days: int = Field(default=5, ge=1, le=MOST_DAYS)
    deciding: list[str] = Field(default_factory=list, max_length=MOST_NAMED)
    decide_days: int = Field(default=3, ge=1, le=MOST_DAYS)


class RouteMade(Answered):
    id: str


def make_ready_route(context: Context, actor: Actor, command: MakeReadyRoute) -> RouteMade:
    """By a lead or a controller. Raises RuleBroken without a name or anybody to decide, NotFound for a stranger."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, tool="reviews")
        seat.need_to_run()
        name = check_route_name(act.session, command.project_id, command.name)
        if not command.deciding:
            raise RuleBroken("nobody_decides", "Name at least one who decides.", name)
        roster = ProjectRoster(act.session, seat.project)
        for person_id in (*command.commenting, *command.deciding):
            if not roster.is_there(person_id):
                raise NotFound(person_id)
        path = [_stage("Decide", StepAct.DECIDE, command.deciding, command.decide_days)]
        if command.commenting:
            path.insert(0, _stage("Check", StepAct.COMMENT, command.commenting, command.comment_days))
        check_route(roster, tuple(path), name)
        purpose = "Comments, then a verdict" if command.commenting else "A verdict"
        return RouteMade(id=add_route(act, command.project_id, name, purpose, to_keep(tuple(path))))


def _stage(name: str, what: StepAct, people: Sequence[str], days: int) -> Stage:
    return Stage((Step(name, what, tuple(Named(NamedKind.PERSON, each) for each in dict.fromkeys(people)), days=days),))


def add_ready_routes(act: Act, project_id: str) -> None:
    """Those that every project begins with."""
    for each in READY:
        add_route(act, project_id, each.name, each.purpose, to_keep(each.path))


def routes_for_starter(session: Session, project: ProjectRow) -> list[dict[str, Any]]:
    """The project's routes in use as another can begin with: people as the first of their roles, companies as
    reviewers."""
    rows = session.scalars(
        select(RouteRow).where(RouteRow.project_id == project.id, RouteRow.retired_at.is_(None)).order_by(RouteRow.name)
    )
    members = select(MembershipRow.person_id, MembershipRow.roles).where(MembershipRow.project_id == project.id)
    roles = {person: tuple(held)[:1] for person, held in session.execute(members)}
    return [
        {
            "name": row.name, "purpose": row.purpose, "stages": to_keep(_as_roles(path_kept(row.stages), roles)),
            "ends": _ends_as_roles(row.ends, roles),
        }
        for row in rows
    ]  # fmt: skip


def _ends_as_roles(kept: Mapping[str, Any], roles: Mapping[str, tuple[str, ...]]) -> dict[str, Any]:
    """Without fields and folders, whose ids are the project's own."""
    ends = ends_read(kept)
    plain = {
        code: replace(
            end,
            fields={},
            copy_to="",
            with_marks=False,
            tell=tuple(dict.fromkeys(_role_of(each, roles) for each in end.tell)),
        )
        for code, end in ends.items()
    }
    return ends_kept({code: end for code, end in plain.items() if not end.nothing})


def _role_of(named: Named, roles: Mapping[str, tuple[str, ...]]) -> Named:
    if named.kind is NamedKind.ROLE:
        return named
    held = roles.get(named.id, ()) if named.kind is NamedKind.PERSON else ()
    return Named(NamedKind.ROLE, held[0] if held else "reviewer")


def _as_roles(path: Path, roles: Mapping[str, tuple[str, ...]]) -> Path:
    return tuple(
        replace(
            stage,
            steps=tuple(
                replace(step, whom=tuple(dict.fromkeys(_role_of(each, roles) for each in step.whom)))
                for step in stage.steps
            ),
        )
        for stage in path
    )


def add_starter_routes(act: Act, project_id: str, kept: list[dict[str, Any]] | None) -> None:
    """What a starter brings; the ready ones where it says nothing of routes."""
    if kept is None:
        add_ready_routes(act, project_id)
    for each in kept or ():
        add_route(
            act, project_id, each["name"], each["purpose"], to_keep(path_kept(each["stages"])), ends=each.get("ends")
        )
