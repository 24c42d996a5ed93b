"""How Nod is: what /healthz says."""

from __future__ import annotations

from typing import Literal

import nod
from nod.services.acts import outbox
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.heartbeats import Beats
from nod.store import journal

_PARTS = ("live", "web", "worker")


class PartHealth(Answered):
    """A thread of a part, and for how long it has given no sign of life; `late` if that is longer than it said."""

    part: str
    thread: str
    silent_seconds: float
    late: bool


class Health(Answered):
    """`status` is `ok` only while every part lives; `work`, how much waits and was given up, is for members alone."""

    status: Literal["ok", "degraded"]
    version: str
    parts: list[PartHealth]
    work: dict[str, int] | None


def read_health(context: Context, *, for_member: bool) -> Health:
    """For anybody; says nothing of what is in Nod, and how much goes on there only to those who are in."""
    beats = Beats(context.settings.data_dir).read()
    living = {each.part.partition("-")[0] for each in beats}
    well = living >= set(_PARTS) and not any(each.late for each in beats)
    # A database that cannot be read is no health: this fails then.
    with context.database.read() as session:
        journal.trail_head(session)
    return Health(
        status="ok" if well else "degraded",
        version=nod.__version__,
        parts=[
            PartHealth(part=each.part, thread=each.thread, silent_seconds=round(each.age_seconds, 1), late=each.late)
            for each in beats
        ],
        work=outbox.counts(context) if for_member else None,
    )
