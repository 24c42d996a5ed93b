"""Who acts, and their seat in a project: its folders, tools and what a query may bring them."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from sqlalchemy import ColumnElement, select, true
from sqlalchemy.orm import Session

from nod.core.access import tools
from nod.core.access.audiences import Eyes
from nod.core.access.levels import RUNNING_ROLES, Effect, Grant, Grantee, Holder, Level, Reach, To, effective
from nod.core.access.tools import Role
from nod.core.acts.once import Once
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.store.database import while_access_stands
from nod.store.journal import Witness
from nod.store.tables import CompanyRow, FolderRow, GrantRow, MembershipRow, PersonRow, ProjectRow


@dataclass(frozen=True)
class Actor:
    """The person who acts, and from where.

    Looking through another's eyes, everything is theirs except `looker`, who really looks; then nothing can be
    changed, and only the project `only_project` is there. An act with `once` is done under that key alone once.
    """

    person_id: str
    name: str
    company_id: str
    company_code: str
    came_from: str = "browser"
    steward: bool = False
    looker: Witness | None = None
    only_project: str = ""
    once: Once | None = field(default=None, compare=False)

    def witness(self) -> Witness:
        return self.looker or Witness(self.person_id, self.name, self.company_code, self.came_from)

    @property
    def private_id(self) -> str:
        """Whose pencil and private entries may be shown: nobody's through another's eyes."""
        return "" if self.looker else self.person_id


IN_PROJECT = ("active", "invited")
"""States of a member who has a place in a project, whether they have come in yet or not."""

NOBODY = Actor("", "Nod", "", "", "the worker")
SYSTEM = NOBODY.witness()


def need_steward(actor: Actor) -> None:
    """Raises NotAllowed for all but the stewards of the workspace, and for one who looks through another's eyes."""
    if not actor.steward or actor.looker:
        raise NotAllowed("not_steward", "This is for the stewards of the workspace.")


def actor_of(session: Session, person_id: str, came_from: str = "browser") -> Actor:
    """Raises NotFound for nobody."""
    person = session.get(PersonRow, person_id)
    if person is None:
        raise NotFound(person_id)
    company = session.get_one(CompanyRow, person.company_id)
    return Actor(person.id, person.name, company.id, company.code, came_from, person.steward)


@dataclass(frozen=True)
class Seat:
    """A person's place in a project. `levels` has the folders they see, unless they run the project."""

    project: ProjectRow
    roles: tuple[str, ...]
    runs: bool
    tools: frozenset[str]
    eyes: Eyes
    levels: Mapping[str, Level] = field(default_factory=dict)

    @property
    def level(self) -> Level:
        """The highest level they have anywhere."""
        return Level.KEEP if self.runs else max(self.levels.values(), default=Level.NONE)

    def at(self, folder_id: str) -> Level:
        return Level.KEEP if self.runs else self.levels.get(folder_id, Level.NONE)

    def need(self, level: Level) -> None:
        """Raises NotAllowed if they have not `level` in any folder."""
        if self.level < level:
            raise too_low(level, self.project.name)

    def need_at(self, folder_id: str, level: Level, about: str) -> None:
        """Raises NotFound in a folder they do not see, NotAllowed below `level`."""
        here = self.at(folder_id)
        if here is Level.NONE:
            raise NotFound(about)
        if here < level:
            raise too_low(level, about)

    def need_tool(self, tool: str) -> None:
        """Raises NotAllowed if the tool is off, for the project or for the person."""
        if tool not in self.tools:
            raise NotAllowed("tool_off", f"The tool {tools.TOOLS[tool]} is not on for you here.", self.project.name)

    def need_to_run(self) -> None:
        """Raises NotAllowed for anybody but leads, controllers and stewards."""
        if not self.runs:
            raise NotAllowed("not_running", "This is for the project's leads and controllers.", self.project.name)

    def need_to_lead(self) -> None:
        """Raises NotAllowed for anybody but leads and stewards."""
        if "lead" not in self.roles:
            raise NotAllowed("not_leading", "This is for the project's leads.", self.project.name)

    def sees(self, folder_id: Any, level: Level = Level.READ) -> ColumnElement[bool]:
        """A condition on a column of folders: those in which they have at least `level`."""
        if self.runs:
            return true()
        return folder_id.in_([folder for folder, here in self.levels.items() if here >= level])  # type: ignore[no-any-return]

    def hides(self, folder_id: Any) -> ColumnElement[bool]:
        """The contrary of `sees`."""
        return folder_id.not_in(list(self.levels))  # type: ignore[no-any-return]


def too_low(level: Level, about: str) -> NotAllowed:
    return NotAllowed("level_too_low", f"This needs the access level {level.name.lower()}.", about)


def take_seat(session: Session, actor: Actor, project_id: str) -> Seat:
    """Raises NotFound for a project that is not there or in which the person has no part.

    Stewards enter every project as leads do.
    """
    if actor.only_project not in ("", project_id):
        raise NotFound(project_id)
    project = session.get(ProjectRow, project_id)
    member = session.get(MembershipRow, (project_id, actor.person_id))
    # Who looks ahead through the eyes of somebody invited sees what they will see.
    active = member is not None and member.state in (IN_PROJECT if actor.looker else ("active",))
    if project is None or not (active or actor.steward):
        raise NotFound(project_id)
    roles = tuple(member.roles) if member and active else ()
    if actor.steward and "lead" not in roles:
        roles = ("lead", *roles)
    leads = bool(active and member and RUNNING_ROLES & set(member.roles))
    holder = Holder(actor.person_id, actor.company_id, frozenset(roles))
    own_tools = member.tools if member and active and not holder.runs else None
    on = tools.tools_of(roles, own_tools, roles_of(project), project.rules["tools"])
    borrowed = actor.looker is not None
    eyes = Eyes(actor.person_id, actor.company_id, None, leads, actor.steward, borrowed, frozenset(on))
    if holder.runs:
        return Seat(project, roles, True, on, eyes)
    found = effective(tree_of(session, project_id), grants_of(session, project_id, holder), holder)
    levels = {folder: effect.level for folder, effect in found.items() if effect.level > Level.NONE}
    return Seat(project, roles, False, on, replace(eyes, folders=frozenset(levels)), levels)


def roles_of(project: ProjectRow) -> dict[str, Role]:
    """The project's roles by code, the fixed ones first."""
    own = [Role(each["code"], each["name"], tuple(each["tools"])) for each in project.rules["roles"]]
    return {each.code: each for each in (*tools.FIXED_ROLES, *own)}


def tree_of(session: Session, project_id: str) -> dict[str, str | None]:
    rows = session.execute(select(FolderRow.id, FolderRow.parent_id).where(FolderRow.project_id == project_id))
    return {folder: parent for folder, parent in rows}


def grants_of(session: Session, project_id: str, holder: Holder | None = None) -> list[Grant]:
    """All grants of a project, or those that touch `holder`."""
    query = select(GrantRow.folder_id, GrantRow.to_kind, GrantRow.to_id, GrantRow.level, GrantRow.alone)
    query = query.where(GrantRow.project_id == project_id)
    if holder:
        query = query.where(GrantRow.to_id.in_([each.id for each in holder.grantees()]))
    rows = session.execute(query)
    return [Grant(folder, Grantee(To(kind), id), Level(level), alone) for folder, kind, id, level, alone in rows]


def reach_in(session: Session, project_id: str) -> Reach:
    """The tree and all grants of a project, fetched once for as long as they stand."""
    return while_access_stands(
        session, ("reach", project_id), lambda: Reach(tree_of(session, project_id), grants_of(session, project_id))
    )


def reach(session: Session, project: ProjectRow, person_id: str) -> dict[str, Effect]:
    """A member's effective access to every folder of a project; empty unless they are active in it."""
    member = session.get(MembershipRow, (project.id, person_id))
    if member is None or member.state not in ("active", "invited"):
        return {}
    holder = holder_of(session, member)
    return effective(tree_of(session, project.id), grants_of(session, project.id, holder), holder)


def reach_of_all(session: Session, project: ProjectRow, person_ids: Iterable[str]) -> dict[str, dict[str, Effect]]:
    """`reach` of each, with the tree and the grants fetched once."""
    wanted = list(person_ids)
    reach = reach_in(session, project.id)
    members = members_of(session, project.id, wanted)
    found = {member.person_id: reach.of(holder_of(session, member)) for member, _ in members}
    return {person_id: found.get(person_id, {}) for person_id in wanted}


def members_of(session: Session, project_id: str, person_ids: Collection[str]) -> list[tuple[MembershipRow, PersonRow]]:
    """Of these people, those who are in the project."""
    query = (
        select(MembershipRow, PersonRow)
        .join(PersonRow, PersonRow.id == MembershipRow.person_id)
        .where(
            MembershipRow.project_id == project_id,
            MembershipRow.person_id.in_(person_ids),
            MembershipRow.state.in_(IN_PROJECT),
        )
    )
    return [(member, person) for member, person in session.execute(query)]


def holder_of(session: Session, member: MembershipRow) -> Holder:
    company_id = session.get_one(PersonRow, member.person_id).company_id
    return Holder(member.person_id, company_id, frozenset(member.roles))


def can_see_all(effects: Mapping[str, Effect], folders: Iterable[str], level: Level) -> bool:
    return all(folder in effects and effects[folder].level >= level for folder in folders)
