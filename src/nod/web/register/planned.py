"""Planned documents over HTTP. The list comes as a raw body: tried first, then kept."""

from __future__ import annotations

from nod.services.acts.answers import FromOutside
from nod.services.register import planned, planned_list
from nod.services.register.planned import PlannedList, PutPlanned, RemovePlanned
from nod.services.register.planned_list import ListRead
from nod.web.answers import answers, feature
from nod.web.bodies import body_pieces, raw_body
from nod.web.guard import actor, context, permission
from nod.web.lists import LARGEST_BODY_BYTES, ListQuery

api = feature("planned")


class OfProject(FromOutside):
    project_id: str


@api.get("/api/planned", responses=answers(PlannedList))
@permission("member")
def list_planned(query: OfProject) -> PlannedList:
    """What is planned, received and late."""
    return planned.list_planned(context(), actor(), query.project_id)


@api.put("/api/planned", responses=answers(ListRead))
@permission("run")
@raw_body(lambda _: LARGEST_BODY_BYTES)
def read_planned_list(query: ListQuery) -> ListRead:
    """Try a list of planned documents, or keep it: the file is the body."""
    return planned_list.read_list(context(), actor(), query.asked(), body_pieces())


@api.post("/api/planned", responses=answers())
@permission("run")
def put_planned(body: PutPlanned) -> None:
    """Make or change one planned document."""
    planned.put_planned(context(), actor(), body)


@api.post("/api/planned/remove", responses=answers())
@permission("run")
def remove_planned(body: RemovePlanned) -> None:
    """Take a planned document away."""
    planned.remove_planned(context(), actor(), body)
