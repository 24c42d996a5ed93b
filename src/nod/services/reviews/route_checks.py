"""What every route is asked when it is kept or started on, however it was made."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.reviews.path import Named, NamedKind, Path, Quota, Stage, Step, StepAct, check_path, trouble_of
from nod.services.acts.seats import Actor, Seat
from nod.services.reviews.paths import LONGEST_NAME, whom_read
from nod.services.reviews.roster import ProjectRoster
from nod.store.tables import RouteRow

_NO_USUAL = "Say which of the project's sets of verdicts it gives."


def check_route_name(session: Session, project_id: str, typed: str, own_id: str = "") -> str:
    """Tidied. Raises RuleBroken without one, and for that of another route in use."""
    name = " ".join(typed.split())[:LONGEST_NAME]
    if not name:
        raise RuleBroken("name_missing", "Give the route a name.")
    query = select(RouteRow.id).where(
        RouteRow.project_id == project_id, RouteRow.name == name, RouteRow.id != own_id, RouteRow.retired_at.is_(None)
    )
    if session.scalar(query):
        raise RuleBroken("route_exists", f"There is a route {name} already.", name)
    return name


def check_route(roster: ProjectRoster, path: Path, about: str) -> None:
    """Raises RuleBroken naming the first step that cannot work, by its number."""
    number = 0
    for stage in path:
        for step in stage.steps:
            number += 1
            trouble = trouble_with(roster, stage, step)
            if trouble:
                raise RuleBroken("step_unfit", f"Step {number}: {trouble}", about)
    check_path(path)


def trouble_with(roster: ProjectRoster, stage: Stage, step: Step) -> str:
    """What cannot work with a step, in words; empty if nothing."""
    return trouble_of(stage, step) or _trouble_of_verdicts(roster, step) or _trouble_of_people(roster, step)


def check_verdicts_there(roster: ProjectRoster, path: Path, about: str) -> None:
    """Raises RuleBroken for a step whose verdicts the project has no more: nobody could end it."""
    for stage in path:
        for step in stage.steps:
            trouble = _trouble_of_verdicts(roster, step)
            if trouble:
                raise RuleBroken("step_unfit", f"{step.name}: {trouble}", about)


def _trouble_of_verdicts(roster: ProjectRoster, step: Step) -> str:
    if step.act is not StepAct.DECIDE or step.verdicts in roster.verdict_sets:
        return ""
    return f"The project has no verdicts called “{step.verdicts}” any more." if step.verdicts else _NO_USUAL


def _trouble_of_people(roster: ProjectRoster, step: Step) -> str:
    words = roster.words(step.whom)
    for named in step.whom:
        if not words[named]:
            return "Something named for it is not there any more."
        if not roster.named(named):
            return _nobody(named, words[named])
    asked = people_of(roster, step.whom)
    if step.quota is Quota.SOME and step.least > len(asked):
        return f"It wants {step.least} hands, and names {len(asked)}."
    return ""


def _nobody(named: Named, words: str) -> str:
    if named.kind is NamedKind.ROLE:
        return f"Nobody holds the role {words}."
    if named.kind is NamedKind.COMPANY:
        return f"Nobody of {words} is in the project."
    return f"{words} is not in the project any more."


def people_of(roster: ProjectRoster, whom: Iterable[Named]) -> list[str]:
    return list(dict.fromkeys(person for named in whom for person in roster.named(named)))


def hint_on(roster: ProjectRoster, stage: Stage, companies: dict[str, str]) -> str:
    """What is worth a thought of a stage, though it works; `companies` by person."""
    deciding = [step for step in stage.steps if step.act is StepAct.DECIDE]
    if not deciding or any(step.sums_up for step in stage.steps):
        return ""
    hands = len(deciding) > 1 or any(step.quota is not Quota.ANY for step in deciding)
    theirs = {companies.get(person, "") for step in deciding for person in people_of(roster, step.whom)}
    if hands and len(theirs) > 1:
        return "Several companies decide here. Without somebody who sums up, the most severe verdict counts."
    return ""


def check_may_start(session: Session, seat: Seat, actor: Actor, route: RouteRow) -> bool:
    """Whether somebody may start on a route: those it names, those who run the project, or anybody if it names none."""
    if not route.may_start or seat.runs:
        return True
    roster = ProjectRoster(session, seat.project)
    return actor.person_id in people_of(roster, whom_read(route.may_start))
