"""A project's rules as core values, running numbers, and setting a project up."""

from __future__ import annotations

from dataclasses import asdict
from datetime import date
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from nod.core.access.levels import Grantee, Level, To
from nod.core.access.tools import DEFAULT_ROLES, TOOLS
from nod.core.intake.findings import Rules
from nod.core.marks.pens import InkConvention
from nod.core.register.in_force import use_of
from nod.core.register.numbers import Convention, NumberField
from nod.core.register.revisions import Scheme
from nod.core.reviews.verdicts import DEFAULT_SET
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals.purposes import USUAL, purposes_kept
from nod.services.acts.context import Act, Context
from nod.store.ids import new_id
from nod.store.tables import (
    Base,
    CompanyRow,
    FolderRow,
    GrantRow,
    HolidayRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    RouteRow,
    SeriesRow,
)

# ISO 19650-2 UK national annex, suitability codes, as the handbook lists them.
STATUSES: dict[str, str] = {
    "S0": "work in progress",
    "S1": "coordination",
    "S2": "information",
    "S3": "review and comment",
    "S4": "review and authorisation",
    "S5": "review and acceptance",
    "A1": "authorised and accepted, stage 1",
    "A2": "authorised and accepted, stage 2",
    "A3": "authorised and accepted, stage 3",
    "B1": "partly signed off, with comments, stage 1",
    "B2": "partly signed off, with comments, stage 2",
    "CR": "as constructed",
}


ROLE_LEVELS = {"author": Level.FILE, "reviewer": Level.MARK, "reader": Level.READ}
"""The default access of the default roles: grants in the topmost folder, changed there like all others."""


def rules_of(project: ProjectRow) -> Rules:
    """What arriving files are held against."""
    convention = project.rules["convention"]
    fields = tuple(NumberField(**each) for each in convention["fields"])
    scheme = Scheme(project.rules["revision_scheme"])
    return Rules(
        Convention(fields, convention["separator"]),
        scheme,
        tuple(project.rules["statuses"]),
        tuple(project.rules["reviewed_statuses"]),
        tuple(project.rules.get("native_forms", ())),
        project.rules.get("status_uses", {}),
    )


def forms_of(project: ProjectRow) -> dict[str, str]:
    """Code to words of the forms in the project's numbers; none where the numbers say no form."""
    fields = project.rules["convention"]["fields"]
    return next((dict(each["codes"]) for each in fields if each["name"] == "form"), {})


def ink_convention(project: ProjectRow) -> InkConvention:
    """Projects begun before there were such conventions have none."""
    kept = project.rules.get("mark_inks", {})
    return InkConvention(kept.get("by", ""), kept.get("inks", {}))


def address_in(context: Context, project: ProjectRow, path: str) -> str:
    """The whole address of a path of Nod in a project."""
    return f"{context.settings.resolved_public_url}/p/{project.number}{path}"


def companies_of(session: Session, project_id: str) -> dict[str, str]:
    """Code to name, of all whose people are in the project."""
    query = (
        select(CompanyRow.code, CompanyRow.name)
        .join(PersonRow, PersonRow.company_id == CompanyRow.id)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(MembershipRow.project_id == project_id)
        .distinct()
        .order_by(CompanyRow.name)
    )
    return {code: name for code, name in session.execute(query)}


_SERIES = Base.metadata.tables[SeriesRow.__tablename__]


def next_running(session: Session, project_id: str, series: str) -> int:
    """The next number of a series, from 1; given out for good with the transaction."""
    session.flush()
    at = (_SERIES.c.project_id == project_id, _SERIES.c.name == series)
    giving = update(_SERIES).where(*at).values(last=_SERIES.c.last + 1).returning(_SERIES.c.last)
    given: int | None = session.connection().execute(giving).scalar()
    if given is None:
        session.add(SeriesRow(project_id=project_id, name=series, last=1))
        session.flush()
    return given or 1


def make_rules(fields: list[NumberField], disciplines: dict[str, str]) -> dict[str, Any]:
    """The stored form of a project's rules, with the handbook's defaults for the rest."""
    return {
        "convention": {"separator": "-", "fields": [_field(each) for each in fields]},
        "revision_scheme": Scheme.STAGED.value,
        "statuses": STATUSES,
        "reviewed_statuses": [],
        "status_uses": {code: use_of(code, {}).code for code in STATUSES},
        "working_weekdays": [0, 1, 2, 3, 4],
        "disciplines": disciplines,
        "verdict_set": [asdict(each) for each in DEFAULT_SET],
        "roles": [{"code": each.code, "name": each.name, "tools": list(each.tools)} for each in DEFAULT_ROLES],
        "tools": list(TOOLS),
        "fields": [],
        "notices": {},
        "mark_inks": {"by": "", "inks": {}},
        "ink_for": "everybody",
        "native_forms": [],
        "answer_terms": [],
        "distribution": [],
        "purposes": purposes_kept(USUAL),
    }


def _field(each: NumberField) -> dict[str, Any]:
    return {
        "name": each.name,
        "codes": dict(each.codes),
        "pattern": each.pattern,
        "pattern_words": each.pattern_words,
    }


def make_project(act: Act, number: str, name: str, time_zone: str, rules: dict[str, Any]) -> str:
    """Returns the new project's id. Its topmost folder bears its name; the default roles have their levels there."""
    project = ProjectRow(id=new_id(), number=number, name=name, time_zone=time_zone, rules=rules, profile={})
    act.session.add(project)
    act.session.flush()
    act.record(project.id, Fact(FactKind.PROJECT_MADE, Subject("project", project.id), name, after={"number": number}))
    root = add_folder(act, project.id, None, name)
    for role, level in ROLE_LEVELS.items():
        give(act, project.id, root, Grantee(To.ROLE, role), level)
    return project.id


def add_folder(act: Act, project_id: str, parent_id: str | None, name: str) -> str:
    """Returns the new folder's id."""
    folder = FolderRow(id=new_id(), project_id=project_id, parent_id=parent_id, name=name)
    act.session.add(folder)
    act.session.flush()
    state = {"parent": parent_id or ""}
    act.record(project_id, Fact(FactKind.FOLDER_MADE, Subject("folder", folder.id), name, state=state))
    return folder.id


def grants_kept(session: Session, folder_id: str) -> dict[str, Any]:
    """All that is given in a folder, as entries keep it for replaying: kind, id, whether here alone, level."""
    session.flush()
    query = select(GrantRow.to_kind, GrantRow.to_id, GrantRow.alone, GrantRow.level)
    given = session.execute(query.where(GrantRow.folder_id == folder_id))
    return {"grants": sorted([kind, whom, bool(alone), int(level)] for kind, whom, alone, level in given)}


def give(act: Act, project_id: str, folder_id: str, to: Grantee, level: Level, *, alone: bool = False) -> None:
    """A first grant, while a project is being set up."""
    act.session.add(
        GrantRow(
            folder_id=folder_id, to_kind=to.kind.value, to_id=to.id, alone=alone, project_id=project_id, level=level
        )
    )
    after = {"to": f"{to.kind.value} {to.id}".strip(), "level": level.name.lower(), "below": not alone}
    state = grants_kept(act.session, folder_id)
    act.record(project_id, Fact(FactKind.ACCESS_CHANGED, Subject("folder", folder_id), "", after=after, state=state))


def add_company(act: Act, name: str, code: str, part: str) -> str:
    """Returns the new company's id."""
    company = CompanyRow(id=new_id(), name=name, code=code, part=part)
    act.session.add(company)
    act.session.flush()
    act.record(
        "", Fact(FactKind.COMPANY_ADDED, Subject("company", company.id), name, after={"code": code, "part": part})
    )
    return company.id


def add_person(act: Act, name: str, email: str, company_id: str, job: str, password_hash: str) -> str:
    """Returns the new person's id; an empty `password_hash` makes an outside contact."""
    person = PersonRow(id=new_id(), name=name, email=email, company_id=company_id, job=job, password_hash=password_hash)
    act.session.add(person)
    act.session.flush()
    act.record("", Fact(FactKind.PERSON_ADDED, Subject("person", person.id), name, after={"email": email, "job": job}))
    return person.id


def add_member(
    act: Act, project_id: str, person_id: str, roles: tuple[str, ...], state: str = "", tools: list[str] | None = None
) -> None:
    """`state` is active for somebody with roles and contact without, unless it is given. `tools`: see the row."""
    state = state or ("active" if roles else "contact")
    member = MembershipRow(project_id=project_id, person_id=person_id, state=state, invited_at=None, tools=tools)
    member.roles = list(roles)
    act.session.add(member)
    act.session.flush()
    person = act.session.get_one(PersonRow, person_id)
    after = {"roles": list(roles), "state": state} | ({} if tools is None else {"tools": tools})
    act.record(project_id, Fact(FactKind.MEMBER_ADDED, Subject("person", person_id), person.name, after=after))


def add_holiday(act: Act, project_id: str, on: date, name: str) -> None:
    act.session.add(HolidayRow(project_id=project_id, on=on, name=name))
    fact = Fact(FactKind.HOLIDAYS_SET, Subject("project", project_id), name, after={"on": on.isoformat()})
    act.record(project_id, fact)


def add_route(
    act: Act, project_id: str, name: str, purpose: str, stages: list[dict[str, Any]],
    may_start: list[dict[str, str]] | None = None, ends: dict[str, Any] | None = None,
    may_change: bool = False, shows: str = "at_once",
) -> str:  # fmt: skip
    """`stages`, `may_start` and `ends` as `RouteRow` keeps them. Returns the route's id."""
    route = RouteRow(
        id=new_id(),
        project_id=project_id,
        name=name,
        purpose=purpose,
        stages=stages,
        may_start=may_start or [],
        ends=ends or {},
        may_change=may_change,
        shows=shows,
    )
    act.session.add(route)
    act.session.flush()
    after = {"stages": stages, "may_start": route.may_start, "ends": route.ends}
    act.record(project_id, Fact(FactKind.ROUTE_MADE, Subject("route", route.id), name, after=after))
    act.tell(project_id, "routes", project_id)
    return route.id
