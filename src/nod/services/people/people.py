"""The people of a project: who they are, and adding many in one act (handbook §3)."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import CONTROLLER, LEAD, Holder, Level, Reach
from nod.core.access.tools import TOOLS
from nod.core.people.company_codes import PARTS, propose_code
from nod.core.people.pasted_people import is_email, name_from, read_people
from nod.services.access.access_grid import LEVEL_NAMES
from nod.services.acts.answers import Answered, Command, Who
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, grants_of, roles_of, take_seat, tree_of
from nod.store.tables import CompanyRow, FolderRow, GrantRow, MembershipRow, PersonRow, SignInRow

_MOST_SUGGESTED = 8
MOST_AT_ONCE = 200


class RoleShown(Answered):
    """A role with what it brings: tools, and its level in the topmost folder. `fixed` ones cannot be changed."""

    code: str
    name: str
    tools: list[str]
    level: str
    fixed: bool
    people: int


class ToolShown(Answered):
    code: str
    words: str
    on: bool


class MemberLine(Answered):
    """One person of the project. `tools` are those in force; `own_tools` whether they are the person's own setting."""

    who: Who
    email: str
    company_id: str
    company_name: str
    state: str
    roles: list[str]
    tools: list[str]
    own_tools: bool
    level: str
    invited_at: datetime | None
    last_here_at: datetime | None
    version: int


class CompanyLine(Answered):
    id: str
    code: str
    name: str
    part: str
    people: int


class People(Answered):
    """Everything the page about the project's people shows."""

    members: list[MemberLine]
    roles: list[RoleShown]
    tools: list[ToolShown]
    companies: list[CompanyLine]
    parts: list[str]


class ReadPeople(Command):
    project_id: str
    text: str


class Known(Answered):
    """Somebody the workspace knows. `state` is theirs in this project, empty for none."""

    person_id: str
    name: str
    email: str
    company_id: str
    company: str
    state: str


class Suggestions(Answered):
    people: list[Known]


class ReadPerson(Answered):
    """A line of what was typed or pasted. `known` is who the workspace knows under the address.

    `company_id` is that of the workspace's company that was pasted; `company` its name where there is none such.
    """

    name: str
    email: str
    company_id: str
    company: str
    known: Known | None
    trouble: str


class PeopleRead(Answered):
    people: list[ReadPerson]


class ProposedCode(Answered):
    """`known`: the workspace has a company of this name, and this is its code."""

    code: str
    known: bool


def list_people(context: Context, actor: Actor, project_id: str) -> People:
    """For leads and controllers."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        query = (
            select(MembershipRow, PersonRow, CompanyRow, func.max(SignInRow.seen_at))
            .join(PersonRow, PersonRow.id == MembershipRow.person_id)
            .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
            .outerjoin(SignInRow, SignInRow.person_id == PersonRow.id)
            .where(MembershipRow.project_id == project_id)
            .group_by(MembershipRow.person_id)
            .order_by(MembershipRow.state == "removed", CompanyRow.name, PersonRow.name)
        )
        reach = Reach(tree_of(session, project_id), grants_of(session, project_id))
        members = []
        for member, person, company, seen in session.execute(query):
            holder = Holder(person.id, company.id, frozenset(member.roles))
            effects = reach.of(holder) if member.state in ("active", "invited") else {}
            level = max((each.level for each in effects.values()), default=Level.NONE)
            members.append(_member(seat, member, person, company, level, seen))
        return People(
            members=members,
            roles=_roles(session, seat, members),
            tools=[ToolShown(code=c, words=w, on=c in seat.project.rules["tools"]) for c, w in TOOLS.items()],
            companies=_companies(session, members),
            parts=list(PARTS),
        )


def _member(
    seat: Seat, member: MembershipRow, person: PersonRow, company: CompanyRow, level: Level, seen: datetime | None
) -> MemberLine:
    known = roles_of(seat.project)
    own = member.tools if not {LEAD, CONTROLLER} & set(member.roles) else None
    brought = {tool for role in member.roles if role in known for tool in known[role].tools}
    return MemberLine(
        who=Who(id=person.id, name=person.name, company=company.code, job=person.job),
        email=person.email,
        company_id=company.id,
        company_name=company.name,
        state=member.state,
        roles=list(member.roles),
        tools=sorted((brought if own is None else set(own)) & set(seat.project.rules["tools"])),
        own_tools=own is not None,
        level=level.name.lower(),
        invited_at=member.invited_at,
        last_here_at=seen,
        version=member.version,
    )


def _roles(session: Session, seat: Seat, members: list[MemberLine]) -> list[RoleShown]:
    root = root_folder(session, seat.project.id)
    granted = select(GrantRow.to_id, GrantRow.level).where(GrantRow.folder_id == root, GrantRow.to_kind == "role")
    levels: dict[str, int] = dict(session.execute(granted.where(GrantRow.alone.is_(False))).all())
    fixed = {LEAD, CONTROLLER}
    return [
        RoleShown(
            code=role.code,
            name=role.name,
            tools=list(role.tools),
            level="keep" if role.code in fixed else LEVEL_NAMES[levels.get(role.code, 0)],
            fixed=role.code in fixed,
            people=sum(role.code in each.roles for each in members if each.state in ("active", "invited")),
        )
        for role in roles_of(seat.project).values()
    ]


def _companies(session: Session, members: list[MemberLine]) -> list[CompanyLine]:
    """Those of the project; the directory of all is the workspace's."""
    counts: dict[str, int] = {}
    for each in members:
        if each.state != "removed":
            counts[each.company_id] = counts.get(each.company_id, 0) + 1
    query = select(CompanyRow).where(CompanyRow.id.in_({each.company_id for each in members}))
    return [
        CompanyLine(id=row.id, code=row.code, name=row.name, part=row.part, people=counts.get(row.id, 0))
        for row in session.scalars(query.order_by(CompanyRow.name))
    ]


def root_folder(session: Session, project_id: str) -> str:
    query = select(FolderRow.id).where(FolderRow.project_id == project_id, FolderRow.parent_id.is_(None))
    return session.scalars(query).one()


def suggest_people(context: Context, actor: Actor, project_id: str, words: str) -> Suggestions:
    """Those the workspace knows whose name or address has the words at the beginning of a part. For leads."""
    plain = words.strip().replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    with context.database.read() as session:
        take_seat(session, actor, project_id).need_to_lead()
        if len(plain) < 2:
            return Suggestions(people=[])
        starts = or_(
            PersonRow.name.ilike(f"{plain}%", escape="\\"),
            PersonRow.name.ilike(f"% {plain}%", escape="\\"),
            PersonRow.email.ilike(f"{plain}%", escape="\\"),
        )
        query = _known_query(project_id).where(starts, PersonRow.state == "active")
        rows = session.execute(query.order_by(PersonRow.name).limit(_MOST_SUGGESTED))
        return Suggestions(people=[_known(*row) for row in rows])


def _known_query(project_id: str):  # type: ignore[no-untyped-def]
    here = (MembershipRow.person_id == PersonRow.id) & (MembershipRow.project_id == project_id)
    return (
        select(PersonRow, CompanyRow, MembershipRow.state)
        .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
        .outerjoin(MembershipRow, here)
    )


def _known(person: PersonRow, company: CompanyRow, state: str | None) -> Known:
    return Known(
        person_id=person.id, name=person.name, email=person.email, company_id=company.id, company=company.code,
        state=state or "",
    )  # fmt: skip


def read_pasted(context: Context, actor: Actor, command: ReadPeople) -> PeopleRead:
    """What was typed or pasted as lines to go through before anybody is added. Changes nothing."""
    named = read_people(command.text[:100_000])[:MOST_AT_ONCE]
    with context.database.read() as session:
        take_seat(session, actor, command.project_id).need_to_lead()
        query = _known_query(command.project_id).where(PersonRow.email.in_([each.email for each in named]))
        known = {row[0].email: _known(*row) for row in session.execute(query)}
        lines = []
        for each in named:
            found = known.get(each.email)
            name = found.name if found else each.name or name_from(each.email)
            company = _company_of(session, each.company)
            lines.append(
                ReadPerson(
                    name=name, email=each.email, known=found, trouble=_trouble(each.email, found),
                    company_id=company.id if company else "",
                    company="" if company else each.company[:_LONGEST_COMPANY],
                )
            )  # fmt: skip
        return PeopleRead(people=lines)


_LONGEST_COMPANY = 120


def _company_of(session: Session, said: str) -> CompanyRow | None:
    """By its code, or its name however it is spaced and capitalised."""
    if not said:
        return None
    by_code = select(CompanyRow).where(CompanyRow.code == said.upper(), CompanyRow.merged_into.is_(None))
    return session.scalars(by_code).first() or company_named(session, said)


def _trouble(email: str, known: Known | None) -> str:
    if not email:
        return "An e-mail address is missing."
    if not is_email(email):
        return f"“{email}” is not an e-mail address."
    if known and known.state in ("active", "invited", "contact"):
        return "In this project already."
    return ""


def propose(context: Context, actor: Actor, project_id: str, name: str) -> ProposedCode:
    """A free code for a company that is typed in. For leads."""
    with context.database.read() as session:
        take_seat(session, actor, project_id).need_to_lead()
        known = company_named(session, name)
        code = known.code if known else propose_code(name, company_codes(session))
        return ProposedCode(code=code, known=known is not None)


def company_named(session: Session, name: str) -> CompanyRow | None:
    """The company of the workspace with this name, however it is spaced and capitalised."""
    plain = " ".join(name.split()).lower()
    query = select(CompanyRow).where(func.lower(CompanyRow.name) == plain, CompanyRow.merged_into.is_(None))
    return session.scalars(query).first()


def company_codes(session: Session) -> set[str]:
    return set(session.scalars(select(CompanyRow.code)))
