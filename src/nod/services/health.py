"""How Nod is: what /healthz says."""

from __future__ import annotations

import nod
from nod.services import outbox
from nod.services.answers import Answered
from nod.services.context import Context
from nod.store import journal


class TrailHealth(Answered):
    entries: int
    root: str


class Health(Answered):
    status: str
    version: str
    trail: TrailHealth
    outbox: dict[str, int]


def read_health(context: Context) -> Health:
    with context.database.read() as session:
        head = journal.trail_head(session)
    return Health(
        status="ok",
        version=nod.__version__,
        trail=TrailHealth(entries=head.size, root=head.root().hex()),
        outbox=outbox.counts(context),
    )
