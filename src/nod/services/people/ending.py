"""Ending sign-ins: of somebody who was removed, has a new password or lost what they signed in with."""

from __future__ import annotations

from sqlalchemy import select

from nod.services.acts.context import Act
from nod.store.tables import SignInRow


def end_all(act: Act, person_id: str, but: str = "") -> None:
    """Ends the person's sign-ins, except the one with the id `but`."""
    for row in act.session.scalars(select(SignInRow).where(SignInRow.person_id == person_id, SignInRow.id != but)):
        act.session.delete(row)
