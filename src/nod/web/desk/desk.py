"""The Desk over HTTP."""

from __future__ import annotations

from nod.services import desk, whereabouts
from nod.services.acts.answers import FromOutside
from nod.services.desk import Desk
from nod.services.whereabouts import Whereabouts
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("desk")


class OfProject(FromOutside):
    project_id: str


class ThingPath(FromOutside):
    thing_id: str


@api.get("/api/whereabouts/<thing_id>", responses=answers(Whereabouts))
@permission("read")
def find_project(path: ThingPath) -> Whereabouts:
    """The project of a thing, for addresses that do not name one."""
    return whereabouts.find_project(context(), actor(), path.thing_id)


@api.get("/api/desk", responses=answers(Desk))
@permission("member")
def read_desk(query: OfProject) -> Desk:
    """What waits on me, what I wait for, what is late."""
    return desk.read_desk(context(), actor(), query.project_id)
