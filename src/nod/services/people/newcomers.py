"""Adding people to a project: many in one act, their companies with them, each with an invitation (handbook §3)."""

from __future__ import annotations

from pydantic import Field
from sqlalchemy import select

from nod.core.access.levels import Grantee, Level, To
from nod.core.access.tools import TOOLS
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.people.company_codes import PARTS, check_code
from nod.core.people.pasted_people import is_email, name_from
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.access_grid import LevelName
from nod.services.acts import projects
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.live import PLACE
from nod.services.acts.seats import Actor, Seat, roles_of
from nod.services.people.key_links import mail_invitation
from nod.services.people.people import MOST_AT_ONCE, company_codes, company_named, root_folder
from nod.store.tables import CompanyRow, MembershipRow, PersonRow, ProjectRow


class NewCompany(Command):
    name: str
    code: str
    part: str


class PersonToAdd(Command):
    """`company_id`, or `company` for one that is typed in. `level` empty for what the roles bring; so `tools` null."""

    name: str
    email: str
    company_id: str = ""
    company: NewCompany | None = None
    job: str = ""
    roles: list[str] = Field(default_factory=list)
    contact: bool = False
    level: LevelName | None = None
    tools: list[str] | None = None


class AddPeople(Command):
    project_id: str
    people: list[PersonToAdd]
    message: str = ""


class Added(Answered):
    person_id: str
    name: str
    email: str
    state: str


class PeopleAdded(Answered):
    people: list[Added]


def add_people(context: Context, actor: Actor, command: AddPeople) -> PeopleAdded:
    """All of them in one act, with an invitation each; or none, and the refusal names the line that is wrong."""
    if not command.people:
        raise RuleBroken("nobody_named", "Name at least one person.")
    if len(command.people) > MOST_AT_ONCE:
        raise RuleBroken("too_many_people", f"Add at most {MOST_AT_ONCE} people at a time.")
    emails = [each.email.strip().lower() for each in command.people]
    for email in emails:
        if emails.count(email) > 1:
            raise RuleBroken("email_twice", f"{email} is in the list more than once.", email)
    with acting(context, actor) as act:
        seat = act.enter(command.project_id)
        seat.need_to_lead()
        companies: dict[str, CompanyRow] = {}
        added = [_add(act, seat, each, companies, command.message.strip()[:2000]) for each in command.people]
        act.tell(seat.project.id, "people", seat.project.id)
        return PeopleAdded(people=added)


class ContactToAdd(Command):
    """`company_id`, or `company` for one that is typed in."""

    name: str
    company_id: str = ""
    company: NewCompany | None = None


def add_contact(act: Act, seat: Seat, email: str, given: ContactToAdd) -> str:
    """Somebody outside who can be written to and answer by mail: for whoever runs the project, as they see nothing.

    Returns the person's id.
    """
    seat.need_to_run()
    person = PersonToAdd(name=given.name, email=email, company_id=given.company_id, company=given.company, contact=True)
    added = _add(act, seat, person, {}, "")
    act.tell(seat.project.id, "people", seat.project.id)
    return added.person_id


def _add(act: Act, seat: Seat, given: PersonToAdd, companies: dict[str, CompanyRow], message: str) -> Added:
    email = given.email.strip().lower()
    if not is_email(email):
        raise RuleBroken("email_invalid", f"“{given.email.strip()[:80]}” is not an e-mail address.", email)
    _check_roles(seat.project, given, email)
    person = act.session.scalars(select(PersonRow).where(PersonRow.email == email)).one_or_none()
    if person is None:
        name = " ".join(given.name.split())[:120] or name_from(email)
        company = company_for(act, given.company_id, given.company, email, companies)
        id = projects.add_person(act, name, email, company.id, given.job.strip()[:120], "")
        person = act.session.get_one(PersonRow, id)
    state = "contact" if given.contact else "active" if person.password_hash else "invited"
    _join(act, seat, person, given, state)
    if state != "contact":
        act.tell(seat.project.id, PLACE, person.id, only=person.id)
        act.session.get_one(MembershipRow, (seat.project.id, person.id)).invited_at = act.at
        mail_invitation(act, person, seat.project, message)
    return Added(person_id=person.id, name=person.name, email=email, state=state)


def _check_roles(project: ProjectRow, given: PersonToAdd, email: str) -> None:
    known = roles_of(project)
    for role in given.roles:
        if role not in known:
            raise RuleBroken("role_unknown", f"There is no role {role} in this project.", email)
    if not given.roles and not given.contact:
        raise RuleBroken("role_missing", f"Give {email} a role, or add them as an outside contact.", email)
    for tool in given.tools or ():
        if tool not in TOOLS:
            raise RuleBroken("tool_unknown", f"There is no tool {tool}.", email)


def company_for(
    act: Act, company_id: str, new: NewCompany | None, email: str, made: dict[str, CompanyRow] | None = None
) -> CompanyRow:
    """The one chosen, or one typed in. Raises RuleBroken without a company, NotFound for one that is not there.

    One that is typed in for several people of a list is made once: `made` keeps them by name.
    """
    if company_id:
        row = act.session.get(CompanyRow, company_id)
        if row is None or row.merged_into:
            raise NotFound(company_id)
        return row
    if new is None or not new.name.strip():
        raise RuleBroken("company_missing", f"Say for which company {email} works.", email)
    name, made = " ".join(new.name.split())[:120], {} if made is None else made
    key = name.casefold()
    if key not in made:
        made[key] = _new_company(act, name, new)
    return made[key]


def _new_company(act: Act, name: str, given: NewCompany) -> CompanyRow:
    """One with the same name is taken for the same."""
    known = company_named(act.session, name)
    if known:
        return known
    if given.part not in PARTS:
        raise RuleBroken("part_unknown", f"Say which part {name} plays.", name)
    code = check_code(given.code.strip(), company_codes(act.session))
    return act.session.get_one(CompanyRow, projects.add_company(act, name, code, given.part))


def _join(act: Act, seat: Seat, person: PersonRow, given: PersonToAdd, state: str) -> None:
    """Raises RuleBroken for somebody who is in the project. Whoever was removed comes back."""
    roles = [] if given.contact else list(dict.fromkeys(given.roles))
    tools = None if given.tools is None else list(dict.fromkeys(given.tools))
    member = act.session.get(MembershipRow, (seat.project.id, person.id))
    if member is None:
        projects.add_member(act, seat.project.id, person.id, tuple(roles), state, tools)
    elif member.state == "removed" or (member.state == "contact" and not given.contact):
        before, member.state, member.roles, member.tools = member.state, state, roles, tools
        member.version += 1
        fact = Fact(
            FactKind.MEMBER_CHANGED, Subject("person", person.id), person.name, before={"state": before},
            after={"state": state, "roles": roles, "tools": tools},
        )  # fmt: skip
        act.record(seat.project.id, fact)
    else:
        raise RuleBroken(
            "in_project_already", f"{person.name} ({person.email}) is in this project already.", person.email
        )
    if given.level is not None:
        level = Level[given.level.upper()]
        root = root_folder(act.session, seat.project.id)
        projects.give(act, seat.project.id, root, Grantee(To.PERSON, person.id), level)
        seat.project.access_version += 1


def send_again(context: Context, actor: Actor, project_id: str, person_id: str) -> None:
    """The invitation, with a new link; the old one is worth nothing from now on."""
    with acting(context, actor) as act:
        seat = act.enter(project_id)
        seat.need_to_lead()
        member = act.session.get(MembershipRow, (project_id, person_id))
        if member is None:
            raise NotFound(person_id)
        person = act.session.get_one(PersonRow, person_id)
        if member.state != "invited":
            raise RuleBroken("not_invited", f"{person.name} is not waiting for an invitation.", person.email)
        member.invited_at = act.at
        mail_invitation(act, person, seat.project, "")
        after = {"sent again to": person.email}
        act.record(project_id, Fact(FactKind.PERSON_INVITED, Subject("person", person_id), person.name, after=after))
        act.tell(project_id, "people", project_id)
