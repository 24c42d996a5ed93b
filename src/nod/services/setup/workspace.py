"""What stewards do: projects, companies and people across the workspace (handbook §3)."""

from __future__ import annotations

import re

from sqlalchemy import func, or_, select, update
from sqlalchemy.orm import Session

from nod.core.access.levels import LEAD
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.people.company_codes import PARTS, check_code
from nod.core.people.pasted_people import is_email, name_from
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts import projects
from nod.services.acts.answers import Answered, Command, Who
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, need_steward
from nod.services.open_work.open_work import hand_on, renamed
from nod.services.people.account import check_zone
from nod.services.people.ending import end_all
from nod.services.people.key_links import mail_invitation
from nod.services.people.newcomers import NewCompany, company_for
from nod.services.people.people import company_codes
from nod.services.setup import starters
from nod.services.transmittals.holding import refresh_holders
from nod.store.tables import CompanyRow, GrantRow, HoldingRow, MembershipRow, PersonRow, ProjectRow


class ProjectLine(Answered):
    id: str
    number: str
    name: str
    people: int
    leads: list[str]


class DirectoryCompany(Answered):
    id: str
    code: str
    name: str
    part: str
    people: int
    projects: int


class DirectoryPerson(Answered):
    """`state` is active, contact (no sign-in) or removed from the workspace."""

    who: Who
    email: str
    state: str
    steward: bool
    second_factor_on: bool
    projects: list[str]


class Workspace(Answered):
    projects: list[ProjectLine]
    companies: list[DirectoryCompany]
    people: list[DirectoryPerson]
    parts: list[str]


class MakeProject(Command):
    """`lead_email` may be the steward's own or that of somebody new, with `lead_name` and the company.

    That is `lead_company_id`, or `lead_company` for one that the workspace does not know.
    """

    number: str
    name: str
    time_zone: str
    starter_id: str
    lead_email: str
    lead_name: str = ""
    lead_company_id: str = ""
    lead_company: NewCompany | None = None


class ProjectMade(Answered):
    id: str


class ChangeCompany(Command):
    name: str
    part: str
    code: str


class MergeCompanies(Command):
    """`from_id` goes up into `into_id`."""

    from_id: str
    into_id: str


class ChangePerson(Command):
    name: str
    company_id: str
    steward: bool
    state: str


def read_workspace(context: Context, actor: Actor) -> Workspace:
    need_steward(actor)
    with context.database.read() as session:
        return Workspace(
            projects=_projects(session), companies=_companies(session), people=_people(session), parts=list(PARTS)
        )


def _projects(session: Session) -> list[ProjectLine]:
    query = (
        select(MembershipRow.project_id, MembershipRow.roles, PersonRow.name)
        .join(PersonRow, PersonRow.id == MembershipRow.person_id)
        .where(MembershipRow.state.in_(("active", "invited")))
    )
    members: dict[str, list[tuple[list[str], str]]] = {}
    for project_id, roles, name in session.execute(query):
        members.setdefault(project_id, []).append((roles, name))
    return [
        ProjectLine(
            id=row.id, number=row.number, name=row.name, people=len(members.get(row.id, ())),
            leads=[name for roles, name in members.get(row.id, ()) if LEAD in roles],
        )
        for row in session.scalars(select(ProjectRow).order_by(ProjectRow.number))
    ]  # fmt: skip


def _companies(session: Session) -> list[DirectoryCompany]:
    query = (
        select(CompanyRow, func.count(PersonRow.id.distinct()), func.count(MembershipRow.project_id.distinct()))
        .outerjoin(PersonRow, PersonRow.company_id == CompanyRow.id)
        .outerjoin(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(CompanyRow.merged_into.is_(None))
        .group_by(CompanyRow.id)
        .order_by(CompanyRow.name)
    )
    return [
        DirectoryCompany(id=row.id, code=row.code, name=row.name, part=row.part, people=people, projects=count)
        for row, people, count in session.execute(query)
    ]


def _people(session: Session) -> list[DirectoryPerson]:
    places: dict[str, list[str]] = {}
    of = select(MembershipRow.person_id, ProjectRow.number).join(ProjectRow, ProjectRow.id == MembershipRow.project_id)
    for person_id, number in session.execute(of.where(MembershipRow.state != "removed").order_by(ProjectRow.number)):
        places.setdefault(person_id, []).append(number)
    query = select(PersonRow, CompanyRow.code).join(CompanyRow, CompanyRow.id == PersonRow.company_id)
    return [
        DirectoryPerson(
            who=Who(id=row.id, name=row.name, company=code, job=row.job), email=row.email,
            state=row.state if row.state != "active" or row.password_hash else "contact",
            steward=row.steward, second_factor_on=row.second_factor_on, projects=places.get(row.id, []),
        )
        for row, code in session.execute(query.order_by(PersonRow.name))
    ]  # fmt: skip


def make_project(context: Context, actor: Actor, command: MakeProject) -> ProjectMade:
    """From a starter, with its first lead, who is invited. Raises RuleBroken for a number that is taken or odd."""
    need_steward(actor)
    number, name = command.number.strip().upper(), " ".join(command.name.split())[:120]
    if not re.fullmatch(r"[A-Z0-9]{2,10}", number):
        raise RuleBroken(
            "project_number", "A project's number has 2 to 10 capitals and figures, like BFT.", number[:20]
        )
    if not name:
        raise RuleBroken("name_missing", "Give the project a name.")
    check_zone(command.time_zone)
    with acting(context, actor) as act:
        if act.session.scalar(select(ProjectRow.id).where(ProjectRow.number == number)):
            raise RuleBroken("number_taken", f"There is a project {number} already.", number)
        project_id = starters.begin_from(act, command.starter_id, number, name, command.time_zone)
        lead = _lead(act, command)
        state = "active" if lead.password_hash else "invited"
        projects.add_member(act, project_id, lead.id, (LEAD,), state)
        if lead.id != actor.person_id:
            act.session.get_one(MembershipRow, (project_id, lead.id)).invited_at = act.at
            mail_invitation(act, lead, act.session.get_one(ProjectRow, project_id), "You lead this project.")
        act.tell(project_id, "people", project_id)
        return ProjectMade(id=project_id)


def _lead(act: Act, command: MakeProject) -> PersonRow:
    email = command.lead_email.strip().lower()
    if not is_email(email):
        raise RuleBroken("email_invalid", f"“{email[:80]}” is not an e-mail address.", email)
    person = act.session.scalars(select(PersonRow).where(PersonRow.email == email)).one_or_none()
    if person:
        return person
    company = company_for(act, command.lead_company_id, command.lead_company, email)
    id = projects.add_person(act, command.lead_name.strip()[:120] or name_from(email), email, company.id, "", "")
    return act.session.get_one(PersonRow, id)


def change_company(context: Context, actor: Actor, company_id: str, command: ChangeCompany) -> None:
    """Numbers that were given keep the code they were given with."""
    need_steward(actor)
    with acting(context, actor) as act:
        row = _company(act.session, company_id)
        name = " ".join(command.name.split())[:120]
        if not name:
            raise RuleBroken("name_missing", "Give the company a name.")
        if command.part not in PARTS:
            raise RuleBroken("part_unknown", f"Say which part {name} plays.", name)
        code = check_code(command.code.strip(), company_codes(act.session) - {row.code})
        before, after = changed(
            {"name": row.name, "part": row.part, "code": row.code}, {"name": name, "part": command.part, "code": code}
        )
        row.name, row.part, row.code = name, command.part, code
        renamed(act.session, row.id)
        act.record("", Fact(FactKind.COMPANY_CHANGED, Subject("company", row.id), name, (), before, after))


def _company(session: Session, company_id: str) -> CompanyRow:
    row = session.get(CompanyRow, company_id)
    if row is None or row.merged_into:
        raise NotFound(company_id)
    return row


def merge_companies(context: Context, actor: Actor, command: MergeCompanies) -> None:
    """One that was typed twice: its people and its access go over; what it sent keeps its name and number."""
    need_steward(actor)
    if command.from_id == command.into_id:
        raise RuleBroken("same_company", "A company cannot be merged into itself.")
    with acting(context, actor) as act:
        gone, kept = _company(act.session, command.from_id), _company(act.session, command.into_id)
        act.session.execute(update(PersonRow).where(PersonRow.company_id == gone.id).values(company_id=kept.id))
        touched = _merge_grants(act.session, gone.id, kept.id)
        people = select(PersonRow.id).where(PersonRow.company_id == kept.id)
        touched |= set(act.session.scalars(select(MembershipRow.project_id).where(MembershipRow.person_id.in_(people))))
        gone.merged_into = kept.id
        # Those that had gone into it before go along: nothing has to be followed twice.
        earlier = update(CompanyRow).where(CompanyRow.merged_into == gone.id).values(merged_into=kept.id)
        act.session.execute(earlier)
        held = list(act.session.scalars(select(HoldingRow.document_id).where(HoldingRow.company_id == gone.id)))
        refresh_holders(act.session, held)
        hand_on(act.session, gone.id, kept.id)
        after = {"into": f"{kept.code} {kept.name}"}
        about = f"{gone.code} {gone.name}"
        act.record(
            "",
            Fact(
                FactKind.COMPANIES_MERGED, Subject("company", gone.id), about, (Subject("company", kept.id),), {}, after
            ),
        )
        for project_id in sorted(touched):
            project = act.session.get_one(ProjectRow, project_id)
            project.access_version += 1
            act.record(project_id, Fact(FactKind.COMPANIES_MERGED, Subject("company", kept.id), about, (), {}, after))
            act.tell(project_id, "people", project_id)


def _merge_grants(session: Session, gone: str, kept: str) -> set[str]:
    """Where both had a grant in a folder, the higher one stays. Returns the projects that were touched."""
    touched = set()
    for row in session.scalars(select(GrantRow).where(GrantRow.to_kind == "company", GrantRow.to_id == gone)).all():
        other = session.get(GrantRow, (row.folder_id, "company", kept, row.alone))
        if other:
            other.level = max(other.level, row.level)
        else:
            values = {"folder_id": row.folder_id, "to_kind": "company", "to_id": kept, "alone": row.alone}
            session.add(GrantRow(**values, project_id=row.project_id, level=row.level))
        touched.add(row.project_id)
        session.delete(row)
    return touched


def change_person(context: Context, actor: Actor, person_id: str, command: ChangePerson) -> None:
    """Raises RuleBroken for taking away the last steward, or somebody a project still has."""
    need_steward(actor)
    if command.state not in ("active", "removed"):
        raise RuleBroken("state_unknown", "A person is active or removed.", command.state)
    with acting(context, actor) as act:
        row = act.session.get(PersonRow, person_id)
        if row is None:
            raise NotFound(person_id)
        company = _company(act.session, command.company_id)
        name = " ".join(command.name.split())[:120] or row.name
        _check_person(act.session, row, command)
        before = {"name": row.name, "company": row.company_id, "steward": row.steward, "state": row.state}
        row.name, row.company_id, row.steward, row.state = name, company.id, command.steward, command.state
        renamed(act.session, row.id)
        old, new = changed(before, {"name": name, "company": company.id, "steward": row.steward, "state": row.state})
        if row.state == "removed":
            end_all(act, row.id)
        act.record("", Fact(FactKind.PERSON_CHANGED, Subject("person", row.id), name, (), old, new))


def _check_person(session: Session, row: PersonRow, command: ChangePerson) -> None:
    stays = command.steward and command.state == "active"
    if row.steward and not stays:
        others = select(func.count()).where(
            PersonRow.steward, PersonRow.state == "active", PersonRow.id != row.id, PersonRow.password_hash != ""
        )
        if not session.scalar(others):
            raise RuleBroken("last_steward", f"{row.name} is the only steward. Make somebody else one first.", row.name)
    if command.steward and not row.password_hash:
        raise RuleBroken("contact_has_no_role", f"{row.name} has no sign-in and cannot be a steward.", row.name)
    if command.state == "removed":
        places = select(ProjectRow.number).join(MembershipRow, MembershipRow.project_id == ProjectRow.id)
        numbers = list(
            session.scalars(places.where(MembershipRow.person_id == row.id, MembershipRow.state != "removed"))
        )
        if numbers:
            words = (
                f"{row.name} is still in {', '.join(numbers)}. Remove them there first: their open work is handed over."
            )
            raise RuleBroken("still_in_projects", words, row.name)


def make_steward(context: Context, name: str, email: str, company: tuple[str, str, str]) -> str:
    """For the command line: the first steward, with a link to set a password. Returns the link's id."""
    from nod.services.acts.seats import NOBODY
    from nod.services.people.key_links import INVITATION, make_link

    if not is_email(email):
        raise RuleBroken("email_invalid", f"“{email[:80]}” is not an e-mail address.", email)
    with context.database.write() as session:
        act = Act(context, session, NOBODY, context.clock.now())
        person = session.scalars(select(PersonRow).where(PersonRow.email == email.lower())).one_or_none()
        if person is None:
            code, company_name, part = company
            row = session.scalars(select(CompanyRow).where(or_(CompanyRow.code == code))).one_or_none()
            company_id = row.id if row else projects.add_company(act, company_name, check_code(code, ()), part)
            person = session.get_one(PersonRow, projects.add_person(act, name, email.lower(), company_id, "", ""))
        person.steward, person.state = True, "active"
        act.record(
            "", Fact(FactKind.PERSON_CHANGED, Subject("person", person.id), person.name, (), {}, {"steward": True})
        )
        return make_link(act, INVITATION, person).id
