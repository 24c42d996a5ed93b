"""What of submittals is with a person who leaves, and whoever takes their place."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import RUNNING_ROLES
from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.states import OVER, State
from nod.core.trail.entries import FactKind
from nod.services.acts.context import Act
from nod.services.acts.handing_over import Estate, OpenThing, OpenWorkList, register
from nod.services.acts.seats import Seat
from nod.services.submittals.submittal_rows import ask_person, last_round, record, settle
from nod.store.tables import CompanyRow, MembershipRow, PersonRow, SubmittalRow

_OVER = [each.value for each in OVER]


def _open(session: Session, project_id: str, person_id: str) -> list[SubmittalRow]:
    """Those that run and that name them: asked for it, to answer it, keeping it."""
    named = or_(
        SubmittalRow.person_id == person_id, SubmittalRow.approver_id == person_id,
        SubmittalRow.keeper_id == person_id,
    )  # fmt: skip
    query = select(SubmittalRow).where(SubmittalRow.project_id == project_id, named, SubmittalRow.state.not_in(_OVER))
    return list(session.scalars(query.order_by(SubmittalRow.number)))


def list_open(session: Session, project_id: str, person_id: str) -> OpenWorkList:
    things = [
        OpenThing(key=row.id, number=row.number, name=row.title, part=_part(row, person_id))
        for row in _open(session, project_id, person_id)
    ]
    return OpenWorkList(steps=[], routes=[], things=things)


def _part(row: SubmittalRow, person_id: str) -> str:
    if row.approver_id == person_id and State(row.state) is State.UNDER_REVIEW:
        return "to be answered by them"
    if row.person_id == person_id and State(row.state) in (State.ASKED, State.PREPARING):
        return "asked of them"
    return "kept by them" if row.keeper_id == person_id else "names them"


def hand_over(act: Act, seat: Seat, person: PersonRow, heir: PersonRow) -> None:
    """The heir stands in the person's place. Raises RuleBroken for one who would answer what their company sends in.

    What is asked of somebody whose company the heir is not of is with that company. What was kept is kept by an heir
    who runs the project, otherwise by whoever removes the person.
    """
    rows = _open(act.session, seat.project.id, person.id)
    keeper = heir.id if _runs(act.session, seat, heir) else act.actor.person_id
    for row in rows:
        before = [row.person_id, row.approver_id, row.keeper_id]
        company = act.session.get_one(CompanyRow, row.company_id)
        theirs = heir.company_id in (company.id, company.merged_into)
        if row.approver_id == person.id:
            if theirs:
                words = f"{heir.name} is of {company.name}, which sends in {row.number}, and cannot answer it."
                raise RuleBroken("answers_own", words, row.number)
            _answered_by(act.session, row, heir)
        if row.person_id == person.id:
            row.person_id = heir.id if theirs else None
        if row.keeper_id == person.id:
            row.keeper_id = keeper
        after = [row.person_id, row.approver_id, row.keeper_id]
        kind, now = FactKind.SUBMITTAL_HANDED_OVER, _names(act.session, after)
        record(act, row, kind, now, before=_names(act.session, before))
    settle(act, seat.project, rows)
    for row in rows:
        if heir.id in (row.person_id, row.approver_id) and State(row.state) not in (State.PLANNED, State.SENT_IN):
            ask_person(act, row, heir.id, "it is with you now", [f"You take the place of {person.name}."])


def _answered_by(session: Session, row: SubmittalRow, heir: PersonRow) -> None:
    row.approver_id = heir.id
    sent = last_round(session, row)
    if sent is not None and State(row.state) is State.UNDER_REVIEW:
        sent.approver_id, sent.approver_company_id = heir.id, heir.company_id


def _runs(session: Session, seat: Seat, person: PersonRow) -> bool:
    member = session.get(MembershipRow, (seat.project.id, person.id))
    return member is not None and bool(RUNNING_ROLES & set(member.roles))


def _names(session: Session, people: Sequence[str | None]) -> dict[str, str]:
    parts = ("asked", "approver", "keeper")
    return {
        part: session.get_one(PersonRow, each).name if each else ""
        for part, each in zip(parts, people, strict=True)
    }  # fmt: skip


register(Estate(list_open, hand_over))
