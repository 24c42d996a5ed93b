"""What every route is asked when it is kept, however it was made."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.seats import IN_PROJECT
from nod.store.tables import MembershipRow, RouteRow

LONGEST_NAME, MOST_PEOPLE = 80, 50


def check_route_name(session: Session, project_id: str, typed: str, own_id: str = "") -> str:
    """Tidied. Raises RuleBroken without one, and for that of another route in use."""
    name = " ".join(typed.split())[:LONGEST_NAME]
    if not name:
        raise RuleBroken("name_missing", "Give the route a name.")
    query = select(RouteRow.id).where(
        RouteRow.project_id == project_id, RouteRow.name == name, RouteRow.id != own_id, RouteRow.retired_at.is_(None)
    )
    if session.scalar(query):
        raise RuleBroken("route_exists", f"There is a route {name} already.", name)
    return name


def who_can_be_named(session: Session, project_id: str) -> set[str]:
    """Ids of those in the project, or invited to it."""
    members = select(MembershipRow.person_id).where(
        MembershipRow.project_id == project_id, MembershipRow.state.in_(IN_PROJECT)
    )
    return set(session.scalars(members))
