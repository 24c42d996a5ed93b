"""Starters: a project's set-up, kept, and beginning a project from one (handbook §3). Two are shipped."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Grantee, Level, To
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.marks.pens import InkConvention
from nod.core.register.numbers import NumberField
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts import projects
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.projects import ink_convention
from nod.services.acts.seats import Actor, tree_of
from nod.services.people.people import root_folder
from nod.services.reviews.ready_route import add_starter_routes, routes_for_starter
from nod.store.ids import new_id
from nod.store.tables import FolderRow, GrantRow, PersonRow, ProjectRow, StarterRow


class StarterShown(Answered):
    """`may_remove`: the viewer may take it away. The shipped ones stay."""

    id: str
    name: str
    purpose: str
    made_by: str
    folders: int
    number_like: str
    shipped: bool
    may_remove: bool


class StarterList(Answered):
    starters: list[StarterShown]


class KeepStarter(Command):
    project_id: str
    name: str
    purpose: str


_DISCIPLINES = {
    "A": "Architecture", "S": "Structure", "C": "Civil works", "M": "Mechanical", "E": "Electrical",
    "P": "Public health", "L": "Landscape", "F": "Fire", "Z": "General",
}  # fmt: skip
_FORMS = {"D": "drawing", "S": "schedule", "C": "calculation", "R": "report", "P": "specification", "M": "model"}
_FIGURES = NumberField("number", {}, r"\d{4}", "four figures")


def _shipped() -> dict[str, dict[str, Any]]:
    """Two ways of working, by id. Disciplines and forms are common practice; every project edits them."""
    building = projects.make_rules(
        [
            NumberField("project", {"PRJ": "this project"}),
            NumberField("originator", {}, "[A-Z]{3}", "three capitals"),
            NumberField("functional", {"ZZ": "several zones", "Z1": "zone 1", "Z2": "zone 2"}),
            NumberField("spatial", {"XX": "no level", "ZZ": "several levels", "00": "ground", "01": "level 1"}),
            NumberField("form", _FORMS),
            NumberField("discipline", _DISCIPLINES),
            _FIGURES,
        ],
        _DISCIPLINES,
    )
    works = projects.make_rules(
        [NumberField("discipline", _DISCIPLINES), NumberField("form", _FORMS), _FIGURES], _DISCIPLINES
    )
    works["revision_scheme"] = "letters"
    drawings = [
        ("Drawings",),
        *(("Drawings", name) for name in ("Architecture", "Structure", "Services", "Civil works")),
    ]
    rest = [("Schedules",), ("Reports",), ("Specification",), ("Contractor only",)]
    closed = [{"path": ["Contractor only"], "kind": "everyone", "id": "", "alone": False, "level": 0}]
    given = [
        {"path": [], "kind": "role", "id": role, "alone": False, "level": int(level)}
        for role, level in projects.ROLE_LEVELS.items()
    ]
    return {
        "shipped-building": {
            "name": "Building, seven-field numbers",
            "purpose": "Numbers after the UK annex of ISO 19650-2, revisions P01 and C01, folders by discipline.",
            "content": _content(building, [*drawings, *rest], [*given, *closed]),
        },
        "shipped-works": {
            "name": "Small works, short numbers",
            "purpose": "Numbers like A-D-0001, revisions by letter, three folders.",
            "content": _content(works, [("Drawings",), ("Reports",), ("Letters in",)], given),
        },
    }


def _content(rules: dict[str, Any], folders: list[tuple[str, ...]], grants: list[dict[str, Any]]) -> dict[str, Any]:
    return {
        "rules": rules,
        "profile": {"units": "metric"},
        "folders": [list(path) for path in folders],
        "grants": grants,
    }


def list_starters(context: Context, actor: Actor) -> StarterList:
    """For stewards, who begin projects, and for leads, who keep starters: anybody who is signed in may see them."""
    with context.database.read() as session:
        query = select(StarterRow, PersonRow.name).join(PersonRow, PersonRow.id == StarterRow.made_by)
        mine = actor.person_id
        kept = [
            _shown(
                row.id,
                {"name": row.name, "purpose": row.purpose, "content": row.content},
                by,
                may_remove=actor.steward or row.made_by == mine,
            )
            for row, by in session.execute(query.order_by(StarterRow.name))
        ]
    return StarterList(starters=[*(_shown(id, each, "") for id, each in _shipped().items()), *kept])


def _shown(id: str, starter: dict[str, Any], by: str, *, may_remove: bool = False) -> StarterShown:
    fields = starter["content"]["rules"]["convention"]
    outline = fields["separator"].join(each["name"] for each in fields["fields"])
    return StarterShown(
        id=id, name=starter["name"], purpose=starter["purpose"], made_by=by,
        folders=len(starter["content"]["folders"]), number_like=outline, shipped=not by, may_remove=may_remove,
    )  # fmt: skip


def keep_starter(context: Context, actor: Actor, command: KeepStarter) -> None:
    """Rules, folders and what roles and everyone have in them; not the people, companies and dates of the project."""
    name = " ".join(command.name.split())[:80]
    if not name:
        raise RuleBroken("name_missing", "Give the starter a name.")
    with acting(context, actor) as act:
        seat = act.enter(command.project_id)
        seat.need_to_lead()
        taken = {each["name"].casefold() for each in _shipped().values()}
        taken |= {each.casefold() for each in act.session.scalars(select(StarterRow.name))}
        if name.casefold() in taken:
            raise RuleBroken("starter_exists", f"There is a starter {name} already.", name)
        row = StarterRow(
            id=new_id(), name=name, purpose=" ".join(command.purpose.split())[:300],
            content=_of_project(act.session, seat.project), made_by=actor.person_id, made_at=act.at,
        )  # fmt: skip
        act.session.add(row)
        act.record(seat.project.id, Fact(FactKind.STARTER_KEPT, Subject("project", seat.project.id), name))


def _of_roles(shares: list[list[str]]) -> list[list[str]]:
    return [each for each in shares if each[0] == "role"]


def _of_project(session: Session, project: ProjectRow) -> dict[str, Any]:
    paths = _paths(session, project.id)
    query = select(GrantRow).where(GrantRow.project_id == project.id, GrantRow.to_kind.in_(("role", "everyone")))
    grants = [
        {"path": paths[row.folder_id], "kind": row.to_kind, "id": row.to_id, "alone": row.alone, "level": row.level}
        for row in session.scalars(query)
    ]
    folders = sorted((path for path in paths.values() if path), key=lambda path: (len(path), path))
    profile = {key: project.profile[key] for key in ("units", "currency") if key in project.profile}
    # A field of one folder is for the whole project there: folders of another project have other ids.
    fields = [{**each, "folder_id": ""} for each in project.rules["fields"]]
    # Companies are not in it, so neither are their inks, their times for answers and what they are to get.
    inks = ink_convention(project)
    terms = [each for each in project.rules.get("answer_terms", ()) if not each["company_id"]]
    matrix = [
        {**line, "shares": _of_roles(line["shares"]), "sent_by": ""} for line in project.rules.get("distribution", ())
    ]
    rules = {
        **project.rules, "answer_terms": terms, "distribution": matrix, "fields": fields,
        "mark_inks": asdict(InkConvention() if inks.by == "company" else inks),
    }  # fmt: skip
    routes = routes_for_starter(session, project)
    return {"rules": rules, "profile": profile, "folders": folders, "grants": grants, "routes": routes}


def _paths(session: Session, project_id: str) -> dict[str, list[str]]:
    """Each folder's names from below the topmost one, which has none."""
    tree = tree_of(session, project_id)
    names = dict(session.execute(select(FolderRow.id, FolderRow.name).where(FolderRow.project_id == project_id)).all())

    def path(folder: str) -> list[str]:
        parent = tree[folder]
        return [*path(parent), names[folder]] if parent else []

    return {folder: path(folder) for folder in tree}


def remove_starter(context: Context, actor: Actor, starter_id: str) -> None:
    """By whoever kept it, or a steward. Projects begun from it are not touched."""
    with acting(context, actor) as act:
        row = act.session.get(StarterRow, starter_id)
        if row is None or not (actor.steward or row.made_by == actor.person_id):
            raise NotFound(starter_id)
        act.session.delete(row)
        act.record("", Fact(FactKind.STARTER_REMOVED, Subject("person", actor.person_id), row.name))


def begin_from(act: Act, starter_id: str, number: str, name: str, time_zone: str) -> str:
    """Makes the project with the starter's set-up; returns its id. Raises NotFound for no such starter."""
    content = _find(act.session, starter_id)
    rules = _with_number(content["rules"], number, name)
    project_id = projects.make_project(act, number, name, time_zone, rules)
    project = act.session.get_one(ProjectRow, project_id)
    project.profile = content["profile"]
    root = root_folder(act.session, project_id)
    # What every project begins with; the starter says who sees what.
    act.session.execute(delete(GrantRow).where(GrantRow.project_id == project_id))
    state = projects.grants_kept(act.session, root)
    about = "as the starter has it"
    act.record(project_id, Fact(FactKind.ACCESS_CHANGED, Subject("folder", root), about, state=state))
    folders: dict[tuple[str, ...], str] = {(): root}
    for path in content["folders"]:
        folders[tuple(path)] = projects.add_folder(act, project_id, folders[tuple(path[:-1])], path[-1])
    act.session.flush()
    for grant in content["grants"]:
        to = Grantee(To(grant["kind"]), grant["id"])
        projects.give(act, project_id, folders[tuple(grant["path"])], to, Level(grant["level"]), alone=grant["alone"])
    add_starter_routes(act, project_id, content.get("routes"))
    return project_id


def _find(session: Session, starter_id: str) -> dict[str, Any]:
    shipped = _shipped()
    if starter_id in shipped:
        return dict(shipped[starter_id]["content"])
    row = session.get(StarterRow, starter_id)
    if row is None:
        raise NotFound(starter_id)
    return dict(row.content)


def _with_number(rules: dict[str, Any], number: str, name: str) -> dict[str, Any]:
    """A field called project takes the new project's own number as its code."""
    fields = [
        {**asdict(NumberField("project", {number: name}))} if each["name"] == "project" and each["codes"] else each
        for each in rules["convention"]["fields"]
    ]
    return {**rules, "convention": {**rules["convention"], "fields": fields}}
