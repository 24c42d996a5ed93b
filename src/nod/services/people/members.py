"""Changing what a person may do in a project, and removing them with their open work handed over (handbook §3)."""

from __future__ import annotations

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import CONTROLLER, LEAD, Level
from nod.core.access.tools import TOOLS, tools_of
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat, can_see_all, reach, roles_of, take_seat
from nod.services.people.key_links import INVITATION, end_links
from nod.services.reviews import review_rows
from nod.services.reviews.review_rows import LoadedReview
from nod.store.tables import (
    DocumentRow,
    GrantRow,
    MembershipRow,
    PersonRow,
    ReviewRow,
    ReviewStepRow,
    RouteRow,
    StepPersonRow,
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


class OpenWork(Answered):
    """A step that is, or will be, with the person."""

    review_id: str
    number: str
    name: str
    step: str
    state: str
    alone: bool


class OpenWorkList(Answered):
    """`routes` are those that name the person: the heir takes their place there too."""

    steps: list[OpenWork]
    routes: list[str]


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
        act.record(project_id, Fact("member_changed", Subject("person", person_id), person.name, (), before, after))
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
        steps = [
            OpenWork(
                review_id=review.id, number=review.number, name=review.name, step=step.name, state=step.state,
                alone=_count(session, step.id) == 1,
            )
            for step, review in _open_steps(session, project_id, person_id)
        ]  # fmt: skip
        return OpenWorkList(steps=steps, routes=[row.name for row in _routes(session, project_id, person_id)])


def _count(session: Session, step_id: str) -> int:
    return session.scalar(select(func.count()).where(StepPersonRow.step_id == step_id)) or 0


def _open_steps(session: Session, project_id: str, person_id: str) -> list[tuple[ReviewStepRow, ReviewRow]]:
    query = (
        select(ReviewStepRow, ReviewRow)
        .join(ReviewRow, ReviewRow.id == ReviewStepRow.review_id)
        .join(StepPersonRow, StepPersonRow.step_id == ReviewStepRow.id)
        .where(
            ReviewRow.project_id == project_id,
            ReviewRow.state == "running",
            ReviewStepRow.state.in_(("running", "waiting")),
            StepPersonRow.person_id == person_id,
        )
        .order_by(ReviewRow.number, ReviewStepRow.place)
    )
    return [(step, review) for step, review in session.execute(query)]


def _routes(session: Session, project_id: str, person_id: str) -> list[RouteRow]:
    rows = session.scalars(select(RouteRow).where(RouteRow.project_id == project_id).order_by(RouteRow.name))
    return [row for row in rows if any(person_id in step["people"] for step in row.steps)]


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
            "member_removed", Subject("person", person_id), person.name, before={"state": before},
            after={"state": "removed"},
        )  # fmt: skip
        act.record(project_id, fact)
        act.tell(project_id, "people", project_id)


def _hand_over(act: Act, seat: Seat, person: PersonRow, heir_id: str) -> None:
    steps = _open_steps(act.session, seat.project.id, person.id)
    routes = _routes(act.session, seat.project.id, person.id)
    if not steps and not routes:
        return
    if not heir_id:
        words = f"{len(steps)} open steps and {len(routes)} routes name {person.name}. Say who takes them."
        raise RuleBroken("open_work", words, person.name)
    heir = act.session.get(PersonRow, heir_id)
    member = act.session.get(MembershipRow, (seat.project.id, heir_id))
    if heir is None or member is None or member.state not in ("active", "invited") or heir_id == person.id:
        raise NotFound(heir_id)
    for review in {review.id: review for _, review in steps}.values():
        _hand_over_review(act, seat, review, person, heir)
    for route in routes:
        route.steps = [
            {**step, "people": list(dict.fromkeys(heir_id if id == person.id else id for id in step["people"]))}
            for step in route.steps
        ]
        after = {"from": person.name, "to": heir.name}
        act.record(seat.project.id, Fact("work_handed_over", Subject("route", route.id), route.name, after=after))


def _hand_over_review(act: Act, seat: Seat, review: ReviewRow, person: PersonRow, heir: PersonRow) -> None:
    """The heir stands in the person's place in every step that has not ended, and is told of one that runs."""
    loaded = review_rows.load(act.session, review)
    _check_heir(act, seat, loaded, heir)
    for row in loaded.steps:
        place = act.session.get(StepPersonRow, (row.id, person.id))
        if row.state not in ("running", "waiting") or place is None:
            continue
        if act.session.get(StepPersonRow, (row.id, heir.id)) is None:
            act.session.add(StepPersonRow(step_id=row.id, person_id=heir.id, place=place.place))
        act.session.delete(place)
        if row.taken_by == person.id:
            row.taken_by, row.taken_at = heir.id, act.at
    act.session.flush()
    after = review_rows.load(act.session, review)
    fact = Fact(
        "work_handed_over", Subject("review", review.id), f"{review.number} {review.name}", after.subjects(),
        {"with": person.name}, {"with": heir.name},
    )  # fmt: skip
    act.record(seat.project.id, fact)
    review_rows.write_back(act, after, after.value)
    review_rows.mail_heir(act, after, heir)


def _check_heir(act: Act, seat: Seat, loaded: LoadedReview, heir: PersonRow) -> None:
    """Raises RuleBroken for an heir who could not answer, or would decide on what they filed."""
    documents = [each.document_id for each in loaded.documents]
    folders = act.session.scalars(select(DocumentRow.folder_id).where(DocumentRow.id.in_(documents)))
    if not can_see_all(reach(act.session, seat.project, heir.id), folders, Level.MARK):
        words = f"{heir.name} may not mark all documents of {loaded.row.number}. Set their access, or take another."
        raise RuleBroken("heir_cannot_mark", words, loaded.row.number)
    if heir.id in loaded.value.filed_by.values():
        words = f"{heir.name} filed a document of {loaded.row.number} and cannot decide on it."
        raise RuleBroken("heir_is_author", words, loaded.row.number)
