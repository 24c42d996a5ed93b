"""Who holds a role, who is of a company, and who of them may mark what is reviewed (handbook §8, whom).

Outside contacts are asked by their name alone, never by a company: they see what goes round by their link, whatever
its folder.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from datetime import date
from functools import cached_property

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.reviews.path import Named, NamedKind
from nod.services.acts.seats import IN_PROJECT, can_see_all, reach_of_all, roles_of
from nod.store.database import while_access_stands
from nod.store.tables import AbsenceRow, CompanyRow, MembershipRow, PersonRow, ProjectRow


def contact_ids(session: Session, project_id: str) -> list[str]:
    """Of the outside contacts of a project, in the order of their names."""
    query = (
        select(MembershipRow.person_id)
        .join(PersonRow, PersonRow.id == MembershipRow.person_id)
        .where(
            MembershipRow.project_id == project_id, MembershipRow.state == "contact", PersonRow.state == "active"
        )
        .order_by(PersonRow.name)
    )  # fmt: skip
    return while_access_stands(session, ("contacts", project_id), lambda: list(session.scalars(query)))


class ProjectRoster:
    """Of a project. With `folders`, only those who may mark in all of them are there at all; `on` is the day by which
    it is known who is away."""

    def __init__(
        self, session: Session, project: ProjectRow, folders: Collection[str] = (), on: date | None = None
    ) -> None:
        self.session, self._project, self._folders, self._on = session, project, folders, on
        self._may_mark: dict[str, bool] = {}

    @cached_property
    def verdict_sets(self) -> frozenset[str]:
        """By name; the usual one is empty."""
        return frozenset(each.get("of_set", "") for each in self._project.rules["verdict_set"])

    @cached_property
    def _members(self) -> Mapping[str, tuple[str, frozenset[str]]]:
        """Company and roles by id of the person, in the order of their names."""
        query = (
            select(MembershipRow.person_id, PersonRow.company_id, MembershipRow.roles)
            .join(PersonRow, PersonRow.id == MembershipRow.person_id)
            .where(MembershipRow.project_id == self._project.id, MembershipRow.state.in_(IN_PROJECT))
            .order_by(PersonRow.name)
        )

        def find() -> Mapping[str, tuple[str, frozenset[str]]]:
            return {person: (company, frozenset(roles)) for person, company, roles in self.session.execute(query)}

        return while_access_stands(self.session, ("members", self._project.id), find)

    @cached_property
    def _contacts(self) -> list[str]:
        return contact_ids(self.session, self._project.id)

    def contacts(self) -> list[str]:
        return self._contacts

    def is_contact(self, person_id: str) -> bool:
        return person_id in self._contacts

    def named(self, named: Named) -> list[str]:
        """Ids of those in the project whom it names, whatever they see."""
        if named.kind is NamedKind.PERSON:
            return [named.id] if named.id in self._members or named.id in self._contacts else []
        if named.kind is NamedKind.COMPANY:
            now = self._company_now(named.id)
            return [person for person, (company, _) in self._members.items() if company == now]
        return [person for person, (_, roles) in self._members.items() if named.id in roles]

    def _company_now(self, company_id: str) -> str:
        """The company it was merged into, if it was."""
        row = self.session.get(CompanyRow, company_id)
        return self._company_now(row.merged_into) if row and row.merged_into else company_id

    def people(self, named: Named) -> list[str]:
        found = self.named(named)
        if not self._folders:
            return found
        self._look_up(found)
        return [each for each in found if self._may_mark[each]]

    def everybody(self) -> list[str]:
        """Ids of the project's members, in the order of their names."""
        return list(self._members)

    def is_there(self, person_id: str) -> bool:
        return person_id in self._members

    def look_up(self, named: Iterable[Named]) -> None:
        """Who of all these may mark, asked at once instead of one by one."""
        self._look_up({person for each in named for person in self.named(each)})

    def may_mark(self, person_id: str) -> bool:
        self._look_up([person_id])
        return self._may_mark[person_id]

    def _look_up(self, people: Collection[str]) -> None:
        self._may_mark |= {each: True for each in people if each in self._contacts}
        missing = [each for each in people if each not in self._may_mark]
        if missing:
            reached = reach_of_all(self.session, self._project, missing)
            self._may_mark |= {each: can_see_all(reached[each], self._folders, Level.MARK) for each in missing}

    def stand_in(self, person: str) -> str:
        """Who stands in on the day for which the roster was asked, and may mark what is reviewed."""
        other = self._away.get(person, "")
        return other if other and self.is_there(other) and (not self._folders or self.may_mark(other)) else ""

    @cached_property
    def _away(self) -> Mapping[str, str]:
        if self._on is None:
            return {}
        query = select(AbsenceRow.person_id, AbsenceRow.stand_in_id).where(
            AbsenceRow.project_id == self._project.id, AbsenceRow.removed_at.is_(None),
            AbsenceRow.first_on <= self._on, AbsenceRow.last_on >= self._on,
        )  # fmt: skip
        return dict(self.session.execute(query.order_by(AbsenceRow.set_at)).all())

    def words(self, named: Iterable[Named]) -> dict[Named, str]:
        """Names of today; an empty one for what is not there any more."""
        wanted = set(named)
        ids = {kind: [each.id for each in wanted if each.kind is kind] for kind in NamedKind}
        people = select(PersonRow.id, PersonRow.name).where(PersonRow.id.in_(ids[NamedKind.PERSON]))
        companies = select(CompanyRow.id, CompanyRow.name).where(CompanyRow.id.in_(ids[NamedKind.COMPANY]))
        names: dict[NamedKind, dict[str, str]] = {
            NamedKind.PERSON: dict(self.session.execute(people).all()),
            NamedKind.COMPANY: dict(self.session.execute(companies).all()),
            NamedKind.ROLE: {code: role.name for code, role in roles_of(self._project).items()},
        }
        return {each: names[each.kind].get(each.id, "") for each in wanted}
