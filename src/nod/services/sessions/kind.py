"""Sessions as things: for their host and those invited, leads and controllers; and what being invited opens."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from sqlalchemy import ColumnElement, Select, exists, func, or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.sessions.sessions import May, SessionState
from nod.services.access.visibility import widening
from nod.services.acts.seats import Seat
from nod.services.marks.readers import SESSION_GROUP, Offer, ReaderGroup, reader_group
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside, asides
from nod.store.tables import CompanyRow, PersonRow, SessionPartyRow, SessionRow, SessionSheetRow


def _host(session_id: Any) -> Select[Any]:
    row = aside("sessions_host", SessionRow)
    return select(row.host_id).where(row.id == session_id)


def _people(session_id: Any) -> Select[Any]:
    party = aside("sessions_people", SessionPartyRow)
    return select(party.party_id).where(party.session_id == session_id, party.kind == "person")


def _companies(session_id: Any) -> Select[Any]:
    party, company = asides("sessions_companies", SessionPartyRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(party, party.party_id == company.id)
    return now.where(party.session_id == session_id, party.kind == "company")


def _its_guests(session_id: Any) -> Select[Any]:
    """Whoever comes by a link to the session stands for nobody else: their eyes have its id for a person's."""
    row = aside("sessions_its_guests", SessionRow)
    return select(row.id).where(row.id == session_id)


SESSION = thing_kind(
    ThingKind(
        code="session",
        words="session",
        plural="sessions",
        row=SessionRow,
        audience=AudienceOf(people=(_host, _people, _its_guests), companies=(_companies,), is_open=False),
        number=lambda row: row.number,
        title=lambda row: row.name,
        address=lambda row: f"/sessions/{row.id}",
        named_by=(SessionRow.number, SessionRow.name),
        listed=(SessionRow.id, SessionRow.number, SessionRow.name),
        newest=SessionRow.number,
        topic="sessions",
        tool="sessions",
    )
)


Among = Callable[[Any], ColumnElement[bool]]
"""A condition on a column of ids of sessions."""


def takes_part(person_id: Any, among: Among) -> ColumnElement[bool]:
    """Whoever hosts one of these sessions, or is invited to it, by themselves or with their company."""
    row, party, person, company = asides("sessions_takes_part", SessionRow, SessionPartyRow, PersonRow, CompanyRow)
    hosts = select(row.id).where(among(row.id), row.host_id == person_id)
    here = among(party.session_id)
    named = select(party.party_id).where(here, party.kind == "person", party.party_id == person_id)
    theirs = select(party.party_id).where(
        here, party.kind == "company", company.id == party.party_id, person.id == person_id,
        person.company_id == func.coalesce(company.merged_into, company.id),
    )  # fmt: skip
    return or_(
        exists(hosts.correlate_except(row)), exists(named.correlate_except(party)),
        exists(theirs.correlate_except(party, person, company)),
    )  # fmt: skip


def _names(session: Session, ids: Sequence[str]) -> dict[str, str]:
    numbers = session.execute(select(SessionRow.id, SessionRow.number).where(SessionRow.id.in_(ids)))
    return {id: f"the people of {number}" for id, number in numbers}


def open_with(session: Session, revision_id: str) -> list[SessionRow]:
    """The sessions that are open with a revision."""
    query = select(SessionRow).join(SessionSheetRow, SessionSheetRow.session_id == SessionRow.id)
    here = (SessionSheetRow.revision_id == revision_id, SessionSheetRow.left_at.is_(None))
    return list(session.scalars(query.where(*here, SessionRow.state == SessionState.OPEN.value)))


def _offered(session: Session, person_id: str, revision_id: str) -> list[Offer]:
    among = [row.id for row in open_with(session, revision_id)]
    if not among:
        return []
    found = select(SessionRow.id).where(SessionRow.id.in_(among))
    part = takes_part(person_id, lambda column: column == SessionRow.id)
    return [Offer(id) for id in session.scalars(found.where(part))]


reader_group(
    ReaderGroup(SESSION_GROUP, lambda person, of: takes_part(person, lambda c: c.in_(of)), _names, _offered, meets=True)
)


def level_in(session: Session, row: SessionRow, person_id: str, company_id: str) -> May | None:
    """What somebody is invited to do: of what they and their company are, the most."""
    if person_id and row.host_id == person_id:
        return May.MARK
    companies = (
        select(CompanyRow.id).where(or_(CompanyRow.id == company_id, CompanyRow.merged_into == company_id))
    )  # fmt: skip
    mine = or_(
        (SessionPartyRow.kind == "person") & (SessionPartyRow.party_id == person_id),
        (SessionPartyRow.kind == "company") & SessionPartyRow.party_id.in_(companies),
    )
    query = select(SessionPartyRow.may).where(SessionPartyRow.session_id == row.id, mine)
    return max((May[each.upper()] for each in session.scalars(query)), default=None)


_LEVELS = {May.LOOK: Level.READ, May.COMMENT: Level.MARK, May.MARK: Level.MARK}


@widening
def let_in_by_session(session: Session, seat: Seat, revision_id: str) -> Level:
    """Whoever is invited sees the session's sheets at their revisions while it is open (handbook §7)."""
    if SESSION.tool not in seat.tools:
        return Level.NONE
    eyes = seat.eyes
    found = (level_in(session, row, eyes.person_id, eyes.company_id) for row in open_with(session, revision_id))
    return max((_LEVELS[each] for each in found if each), default=Level.NONE)
