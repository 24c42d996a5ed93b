"""The Desk over HTTP."""

from __future__ import annotations

from nod.services import desk
from nod.services.acts.answers import FromOutside
from nod.services.desk import Desk
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("desk")


class OfProject(FromOutside):
    project_id: str


@api.get("/api/desk", responses=answers(Desk))
@permission("member")
def read_desk(query: OfProject) -> Desk:
    """What waits on me, what I wait for, what is late."""
    return desk.read_desk(context(), actor(), query.project_id)
