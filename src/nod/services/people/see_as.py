"""Looking through another's eyes: read only, in one project, marked and recorded (handbook §3)."""

from __future__ import annotations

from sqlalchemy import select

from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import IN_PROJECT
from nod.services.people.sign_in import SignedIn, token_hash
from nod.store.tables import MembershipRow, PersonRow, SignInRow


class SeeAs(Command):
    project_id: str
    person_id: str


def begin(context: Context, signed_in: SignedIn, token: str, command: SeeAs) -> None:
    """For leads. Raises NotFound for somebody who is not a member; one who is invited is seen as they will see it."""
    with acting(context, signed_in.own) as act:
        seat = act.enter(command.project_id)
        seat.need_to_lead()
        query = select(PersonRow).join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        person = act.session.scalars(
            query.where(
                MembershipRow.project_id == command.project_id,
                MembershipRow.state.in_(IN_PROJECT),
                PersonRow.id == command.person_id,
            )
        ).one_or_none()
        if person is None:
            raise NotFound(command.person_id)
        row = act.session.get_one(SignInRow, token_hash(token))
        row.sees_as, row.sees_in = person.id, command.project_id
        act.record(command.project_id, Fact(FactKind.SEEN_AS, Subject("person", person.id), person.name))


def end(context: Context, signed_in: SignedIn, token: str) -> None:
    """Back to one's own eyes."""
    with acting(context, signed_in.own) as act:
        row = act.session.get_one(SignInRow, token_hash(token))
        if row.sees_as:
            subject = Subject("person", row.sees_as)
            act.record(
                row.sees_in, Fact(FactKind.SEEING_AS_ENDED, subject, act.session.get_one(PersonRow, row.sees_as).name)
            )
        row.sees_as = row.sees_in = ""
