"""Changing what a person may do in a project, and removing them with their open work handed over (handbook §3)."""

from __future__ import annotations

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from nod.core.access.levels import CONTROLLER, LEAD
from nod.core.access.tools import TOOLS, tools_of
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.handing_over import OpenWorkList, hand_over, open_work_of
from nod.services.acts.live import PLACE
from nod.services.acts.seats import Actor, Seat, roles_of, take_seat
from nod.services.people.key_links import INVITATION, end_links
from nod.store.tables import (
    GrantRow,
    MembershipRow,
    PersonRow,
)


class ChangeMember(Command):
    """`tools` null for what the roles bring. `even_without_tools`: the person may be left with no way in."""

    version: int
    roles: list[str]
    tools: list[str] | None
    job: str
    even_without_tools: bool = False


class RemoveMember(Command):
    """`heir_id` takes what is open; empty only if nothing is."""

    version: int
    heir_id: str = ""


def change_member(context: Context, actor: Actor, project_id: str, person_id: str, command: ChangeMember) -> None:
    """Raises RuleBroken for taking away the last lead, or the last tool unless that is meant."""
    with acting(context, actor) as act:
        seat, member, person = _open(act, project_id, person_id)
        roles = list(dict.fromkeys(command.roles))
        _check(act, seat, member, person, roles, command)
        check_version(command.version, member.version, person.name)
        before, after = changed(
            {"roles": list(member.roles), "tools": member.tools, "job": person.job},
            {"roles": roles, "tools": command.tools, "job": command.job.strip()[:120]},
        )
        member.roles, member.tools, person.job = roles, command.tools, command.job.strip()[:120]
        member.version += 1
        seat.project.access_version += 1
        act.record(
            project_id, Fact(FactKind.MEMBER_CHANGED, Subject("person", person_id), person.name, (), before, after)
        )
        act.tell(project_id, "people", project_id)


def _open(act: Act, project_id: str, person_id: str) -> tuple[Seat, MembershipRow, PersonRow]:
    seat = act.enter(project_id)
    seat.need_to_lead()
    member = act.session.get(MembershipRow, (project_id, person_id))
    if member is None or member.state == "removed":
        raise NotFound(person_id)
    return seat, member, act.session.get_one(PersonRow, person_id)


def _check(
    act: Act, seat: Seat, member: MembershipRow, person: PersonRow, roles: list[str], command: ChangeMember
) -> None:
    _check_names(seat, roles, command.tools or [])
    if member.state == "contact" and roles:
        words = f"{person.name} is an outside contact. Add them as a member."
        raise RuleBroken("contact_has_no_role", words, person.name)
    if member.state != "contact" and not roles:
        raise RuleBroken("role_missing", f"Leave {person.name} a role, or remove them.", person.name)
    if LEAD in member.roles and LEAD not in roles:
        _check_not_last_lead(act.session, seat, person)
    own = None if {LEAD, CONTROLLER} & set(roles) else command.tools
    on = seat.project.rules["tools"]
    if roles and on and not tools_of(roles, own, roles_of(seat.project), on) and not command.even_without_tools:
        words = f"{person.name} would have no tool left here: only the register and the Desk."
        raise RuleBroken("last_tool", words, person.name)


def _check_names(seat: Seat, roles: list[str], tools: list[str]) -> None:
    known = roles_of(seat.project)
    for role in roles:
        if role not in known:
            raise RuleBroken("role_unknown", f"There is no role {role} in this project.", role)
    for tool in tools:
        if tool not in TOOLS:
            raise RuleBroken("tool_unknown", f"There is no tool {tool}.", tool)


def _check_not_last_lead(session: Session, seat: Seat, person: PersonRow) -> None:
    active = select(MembershipRow.person_id, MembershipRow.roles).where(
        MembershipRow.project_id == seat.project.id, MembershipRow.state == "active"
    )
    others = [id for id, roles in session.execute(active) if LEAD in roles and id != person.id]
    if not others:
        words = f"{person.name} is the only lead of {seat.project.name}. Make somebody else a lead first."
        raise RuleBroken("last_lead", words, person.name)


def list_open_work(context: Context, actor: Actor, project_id: str, person_id: str) -> OpenWorkList:
    with context.database.read() as session:
        take_seat(session, actor, project_id).need_to_lead()
        if session.get(MembershipRow, (project_id, person_id)) is None:
            raise NotFound(person_id)
        return open_work_of(session, project_id, person_id)


def remove_member(context: Context, actor: Actor, project_id: str, person_id: str, command: RemoveMember) -> None:
    """They see nothing of the project any more; what they did keeps their name.

    Raises RuleBroken for the last lead, and for open work that nobody takes.
    """
    with acting(context, actor) as act:
        seat, member, person = _open(act, project_id, person_id)
        if LEAD in member.roles:
            _check_not_last_lead(act.session, seat, person)
        check_version(command.version, member.version, person.name)
        _hand_over(act, seat, person, command.heir_id)
        before, member.state = member.state, "removed"
        member.version += 1
        act.session.execute(
            delete(GrantRow).where(
                GrantRow.project_id == project_id, GrantRow.to_kind == "person", GrantRow.to_id == person_id
            )
        )
        if before == "invited":
            end_links(act, INVITATION, person_id)
        seat.project.access_version += 1
        fact = Fact(
            FactKind.MEMBER_REMOVED, Subject("person", person_id), person.name, before={"state": before},
            after={"state": "removed"},
        )  # fmt: skip
        act.record(project_id, fact)
        act.tell(project_id, "people", project_id)
        act.tell(project_id, PLACE, person_id, only=person_id)


def _hand_over(act: Act, seat: Seat, person: PersonRow, heir_id: str) -> None:
    work = open_work_of(act.session, seat.project.id, person.id)
    if work.is_empty:
        return
    if not heir_id:
        words = f"{person.name} is named by {work.words}. Say who takes their place."
        raise RuleBroken("open_work", words, person.name)
    heir = act.session.get(PersonRow, heir_id)
    member = act.session.get(MembershipRow, (seat.project.id, heir_id))
    if heir is None or member is None or member.state not in ("active", "invited") or heir_id == person.id:
        raise NotFound(heir_id)
    hand_over(act, seat, person, heir)
