"""The audit trail over HTTP."""

from __future__ import annotations

from flask import Response

from nod.services import trail
from nod.services.trail import TrailPage, TrailView
from nod.web.answering import TABLES, answers, feature, file_answers
from nod.web.guard import actor, context, permission

api = feature("trail")


@api.get("/api/audit", responses=answers(TrailPage))
@permission("member")
def read_log(query: TrailView) -> TrailPage:
    """A page of the log, or of the timeline of one thing."""
    return trail.read_log(context(), actor(), query)


@api.post("/api/audit/export", responses=file_answers(*TABLES))
@permission("member")
def export_log(form: TrailView) -> Response:
    """What the filters leave, as CSV. A POST, because each export is recorded."""
    text = trail.export_log(context(), actor(), form)
    response = Response(text, mimetype="text/csv")
    response.headers["Content-Disposition"] = "attachment; filename=activity.csv"
    return response
