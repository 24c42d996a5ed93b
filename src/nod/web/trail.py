"""The audit trail over HTTP."""

from __future__ import annotations

from nod.services import trail
from nod.services.trail import TrailPage, TrailView
from nod.web.answering import answers, feature
from nod.web.guard import actor, context, permission

api = feature("trail")


@api.get("/api/audit", responses=answers(TrailPage))
@permission("log")
def read_log(query: TrailView) -> TrailPage:
    """A page of the log, or of the timeline of one thing."""
    return trail.read_log(context(), actor(), query)
