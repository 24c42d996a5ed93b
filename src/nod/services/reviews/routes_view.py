"""What is shown of routes: their stages with the days they would take, were they begun now."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from sqlalchemy import func, select

from nod.core.reviews.forecast import as_planned, forecast
from nod.core.reviews.path import Named, Path, Step
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.acts.seats import Actor, take_seat
from nod.services.reviews.endings import EndGiven, EndSaid, ends_read, said_of
from nod.services.reviews.paths import RemindGiven, path_kept, whom_read
from nod.services.reviews.roster import ProjectRoster
from nod.services.reviews.route_checks import check_may_start, people_of
from nod.store.tables import ReviewRow, RouteRow


class NamedShown(Answered):
    """A person, a role or a company; `words` is empty for what is not there any more."""

    kind: str
    id: str
    words: str


class RouteStepShown(Answered):
    """`people` is how many it would ask today."""

    name: str
    act: str
    whom: list[NamedShown]
    people: int
    quota: str
    least: int
    days: int
    counting: str
    own_allowed: bool
    sums_up: bool
    remind: RemindGiven
    handing_on: bool
    verdicts: str
    marking: bool
    planned_on: date


class RouteStageShown(Answered):
    steps: list[RouteStepShown]
    then: dict[str, str]


class RouteShown(Answered):
    """A route and the dates it would take if it began now. `may_start`: by the viewer.

    `may_change`: whoever starts may put other people in. `shows` as `core.reviews.path.Shows`.
    """

    id: str
    name: str
    purpose: str
    stages: list[RouteStageShown]
    starters: list[NamedShown]
    may_start: bool
    may_change: bool
    shows: str
    ends: dict[str, EndGiven]
    ends_said: list[EndSaid]
    retired: bool
    version: int


def list_routes(context: Context, actor: Actor, project_id: str, *, retired: bool = False) -> list[RouteShown]:
    """Those that can be started on, what was gone on last first; or with `retired` all of them, by name."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool("reviews")
        query = select(RouteRow).where(RouteRow.project_id == project_id).order_by(RouteRow.name)
        rows = list(session.scalars(query if retired else query.where(RouteRow.retired_at.is_(None))))
        if not retired:
            last = select(ReviewRow.route_name, func.max(ReviewRow.started_at)).where(
                ReviewRow.project_id == project_id
            )
            used = {name: at for name, at in session.execute(last.group_by(ReviewRow.route_name))}
            rows.sort(key=lambda row: used[row.name].timestamp() if row.name in used else 0, reverse=True)
        roster = ProjectRoster(session, seat.project)
        today = today_in(seat.project, context.clock.now())
        at = project_clock(session, seat.project)
        found = []
        for row in rows:
            path = path_kept(row.stages)
            ends = iter(day or today for day in forecast(as_planned(path), today, at))
            found.append(
                RouteShown(
                    id=row.id, name=row.name, purpose=row.purpose, retired=row.retired_at is not None,
                    version=row.version, stages=_stages(roster, path, ends),
                    starters=_named(roster, whom_read(row.may_start)),
                    may_start=check_may_start(session, seat, actor, row),
                    may_change=row.may_change,
                    shows=row.shows,
                    ends={code: EndGiven.model_validate(each, strict=False) for code, each in row.ends.items()},
                    ends_said=said_of(session, seat, ends_read(row.ends)),
                )
            )  # fmt: skip
        return found


def _stages(roster: ProjectRoster, path: Path, ends: Iterable[date]) -> list[RouteStageShown]:
    days = iter(ends)
    return [
        RouteStageShown(
            steps=[_step(roster, step, next(days)) for step in stage.steps],
            then={code: each.value for code, each in stage.then.items()},
        )
        for stage in path
    ]


def _step(roster: ProjectRoster, step: Step, planned_on: date) -> RouteStepShown:
    return RouteStepShown(
        name=step.name, act=step.act, whom=_named(roster, step.whom), people=len(people_of(roster, step.whom)),
        quota=step.quota, least=step.least, days=step.days, counting=step.counting, own_allowed=step.own_allowed,
        sums_up=step.sums_up, planned_on=planned_on,
        remind=RemindGiven(before=step.remind.before, every=step.remind.every, lead_after=step.remind.lead_after),
        handing_on=step.handing_on, verdicts=step.verdicts, marking=step.marking,
    )  # fmt: skip


def _named(roster: ProjectRoster, whom: Iterable[Named]) -> list[NamedShown]:
    order = list(whom)
    words = roster.words(order)
    return [NamedShown(kind=each.kind, id=each.id, words=words[each]) for each in order]
