"""Who may do what with a transmittal that was sent."""

from __future__ import annotations

from nod.core.access.levels import Level
from nod.services.acts.seats import Actor, Seat
from nod.store.tables import TransmittalRow


def may_void(row: TransmittalRow, actor: Actor, seat: Seat) -> bool:
    """Those of the company that sent it, who may send; through borrowed eyes nobody."""
    return row.company_id == actor.company_id and seat.level >= Level.FILE and actor.looker is None
