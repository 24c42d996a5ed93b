"""Whom to tell of what was registered: people, roles, companies, at once, whatever they follow."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from pydantic import BaseModel, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.counted import counted
from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Subject
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import Actor, take_seat
from nod.services.notices.notices import Notice, tell_person
from nod.services.things.things import member_eyes, seen_by
from nod.store.ids import new_id
from nod.store.tables import CompanyRow, DocumentRow, MembershipRow, PersonRow, ProjectRow

_MOST_LINES = 40
_TOLD = ("active", "invited")


class Tell(BaseModel):
    """Ids of people and of companies, codes of roles."""

    people: list[str] = Field(default_factory=list, max_length=500)
    roles: list[str] = Field(default_factory=list, max_length=100)
    companies: list[str] = Field(default_factory=list, max_length=100)


def people_of(session: Session, project: ProjectRow, tell: Tell) -> list[str]:
    """Ids of everybody meant, each once. Raises NotFound for who is not in the project, and a role that it has not."""
    query = select(MembershipRow, PersonRow.company_id).join(PersonRow, PersonRow.id == MembershipRow.person_id)
    query = query.where(MembershipRow.project_id == project.id, MembershipRow.state.in_(_TOLD))
    members = {member.person_id: (member, company) for member, company in session.execute(query)}
    known = {each["code"] for each in project.rules["roles"]}
    strange = [*(set(tell.people) - set(members)), *(set(tell.roles) - known)]
    strange += set(tell.companies) - {company for _, company in members.values()}
    if strange:
        raise NotFound(strange[0])
    return [
        person_id
        for person_id, (member, company) in members.items()
        if person_id in tell.people or company in tell.companies or set(tell.roles) & set(member.roles)
    ]


def tell_of(
    act: Act, project: ProjectRow, tell: Tell, documents: Sequence[str], note: str, came_from: str, place: str = ""
) -> int:
    """Each is told of those documents that they see, and of none that they do not. Returns how many were told of some.

    `place` is where all of them are listed, if there is such a place.
    """
    people = people_of(act.session, project, tell)
    if not people or not documents:
        return 0
    rows = list(act.session.scalars(select(DocumentRow).where(DocumentRow.id.in_(documents))))
    rows.sort(key=lambda row: row.number)
    told, key = 0, new_id()
    for person_id in people:
        eyes = member_eyes(act.session, project.id, person_id)
        if eyes is None or person_id == act.actor.person_id:
            continue
        there = seen_by(act.session, eyes, {Subject("document", row.id) for row in rows})
        seen = [row for row in rows if Subject("document", row.id) in there]
        if seen:
            told += 1
            tell_person(
                act, project, "filed", person_id, _notice(act, project, seen, note, came_from, place, key, person_id)
            )
    return told


def _notice(
    act: Act, project: ProjectRow, rows: list[DocumentRow], note: str, came_from: str, place: str, key: str, to: str
) -> Notice:  # fmt: skip
    first = rows[0]
    what = f"{first.number} {first.revision}" if len(rows) == 1 else counted(len(rows), "document")
    lines = [f"{act.actor.name} registered {what} from {came_from}."]
    if note:
        lines += ["", note]
    lines += ["", *(f"{row.number} {row.revision} {row.status} {row.title}" for row in rows[:_MOST_LINES])]
    if len(rows) > _MOST_LINES:
        lines.append(f"and {len(rows) - _MOST_LINES} more")
    link = f"/sheet/{first.revision_id}" if len(rows) == 1 else place or "/register"
    about = [Subject("document", row.id) for row in rows]
    return Notice(f"filed:{key}:{to}", f"{project.number}: registered, {what}", lines, link, about, act.actor.name)


class PersonToTell(Answered):
    id: str
    name: str
    company: str
    company_id: str


class GroupToTell(Answered):
    """A role by its code, or a company by its id; `people` counts who is in it."""

    key: str
    name: str
    people: int


class Tellable(Answered):
    """Whom whoever registers can have told; oneself is told of nothing, and is not counted."""

    people: list[PersonToTell]
    roles: list[GroupToTell]
    companies: list[GroupToTell]


def list_tellable(context: Context, actor: Actor, project_id: str) -> Tellable:
    """For those who may file."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need(Level.FILE)
        query = (
            select(MembershipRow, PersonRow, CompanyRow)
            .join(PersonRow, PersonRow.id == MembershipRow.person_id)
            .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
            .where(MembershipRow.project_id == project_id, MembershipRow.state.in_(_TOLD))
            .order_by(PersonRow.name)
        )
        rows = [row for row in session.execute(query) if row[1].id != actor.person_id]
        in_roles = Counter(role for member, _, _ in rows for role in member.roles)
        in_companies = Counter(company.id for _, _, company in rows)
        companies = {company.id: company.name for _, _, company in rows}
        return Tellable(
            people=[
                PersonToTell(id=person.id, name=person.name, company=company.code, company_id=company.id)
                for _, person, company in rows
            ],
            roles=[
                GroupToTell(key=each["code"], name=each["name"], people=in_roles[each["code"]])
                for each in seat.project.rules["roles"]
                if in_roles[each["code"]]
            ],
            companies=[
                GroupToTell(key=id, name=name, people=in_companies[id])
                for id, name in sorted(companies.items(), key=lambda each: each[1])
            ],
        )
