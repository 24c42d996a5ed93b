"""Sets up the project, its companies, people and ready route."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy import select

from nod.core.access.levels import Grantee, Level, To
from nod.core.reviews.path import Named, NamedKind, Stage, Step, StepAct
from nod.core.reviews.ready import READY
from nod.demo import scenario
from nod.services.acts import projects
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import NOBODY, Actor, actor_of
from nod.services.people.sign_in import DEMO_PASSWORD, hasher
from nod.services.reviews.paths import to_keep
from nod.store.tables import FolderRow, PersonRow


@dataclass(frozen=True)
class Cast:
    """The project, its people by their short names, its folders by name."""

    project_id: str
    route_id: str
    people: dict[str, str]
    context: Context
    folders: dict[str, str]

    def actor(self, key: str) -> Actor:
        with self.context.database.read() as session:
            return actor_of(session, self.people[key])


def set_up(context: Context, holidays: tuple[tuple[date, str], ...]) -> Cast:
    """One transaction for everything that has to be there before the first file arrives."""
    with context.database.write() as session:
        act = Act(context, session, NOBODY, context.clock.now())
        companies = {code: projects.add_company(act, name, code, part) for code, name, part in scenario.COMPANIES}
        rules = projects.make_rules(scenario.NUMBER_FIELDS, scenario.DISCIPLINES)
        project_id = projects.make_project(
            act, scenario.PROJECT_NUMBER, scenario.PROJECT_NAME, scenario.TIME_ZONE, rules
        )
        password_hash = hasher(context).hash(DEMO_PASSWORD)
        people = {each.key: _add(act, each, companies, password_hash) for each in scenario.PEOPLE}
        for each in scenario.PEOPLE:
            if not each.steward:
                projects.add_member(act, project_id, people[each.key], each.roles, "removed" if each.left else "")
        folders = _add_folders(act, project_id, people | companies)
        for on, name in holidays:
            projects.add_holiday(act, project_id, on, name)
        route_id = _add_route(act, project_id, people)
    return Cast(project_id, route_id, people, context, folders)


def _add(act: Act, person: scenario.DemoPerson, companies: dict[str, str], password_hash: str) -> str:
    secret = "" if person.outside else password_hash
    id = projects.add_person(act, person.name, person.email, companies[person.company], person.job, secret)
    act.session.get_one(PersonRow, id).steward = person.steward
    return id


def _add_folders(act: Act, project_id: str, grantees: dict[str, str]) -> dict[str, str]:
    """Every folder's id by its name, with what is granted in it."""
    root = act.session.scalars(select(FolderRow.id).where(FolderRow.project_id == project_id)).one()
    found = {"": root}
    for path in scenario.FOLDERS:
        parent = found[path[-2]] if len(path) > 1 else root
        found[path[-1]] = projects.add_folder(act, project_id, parent, path[-1])
    for folder, kind, key, level in scenario.GRANTS:
        id = grantees.get(key, key)
        projects.give(act, project_id, found[folder], Grantee(To(kind), id), Level[level.upper()])
    return found


def _add_route(act: Act, project_id: str, people: dict[str, str]) -> str:
    """The one that most reviews take; the ready ones are there as in every project, but for the one of its name."""
    engineers = tuple(Named(NamedKind.PERSON, people[key]) for key in ("leilani", "anouk", "rafael"))
    path = (
        Stage((Step("Check", StepAct.COMMENT, engineers),)),
        Stage((Step("Decide", StepAct.DECIDE, (Named(NamedKind.PERSON, people["saoirse"]),)),)),
    )
    purpose = "One of several engineers checks and comments; the design lead gives a verdict on each document."
    for each in READY:
        if each.name != "Check and decide":
            projects.add_route(act, project_id, each.name, each.purpose, to_keep(each.path))
    return projects.add_route(act, project_id, "Check and decide", purpose, to_keep(path))
