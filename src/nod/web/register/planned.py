"""Planned documents over HTTP. The list comes as a raw body: tried first, then kept."""

from __future__ import annotations

import json

from pydantic import Field

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.answers import FromOutside
from nod.services.register import planned, planned_list
from nod.services.register.planned import PlannedList, PutPlanned, RemovePlanned
from nod.services.register.planned_list import ListAsked, ListRead
from nod.web.answers import answers, feature
from nod.web.bodies import body_pieces, raw_body
from nod.web.guard import actor, context, permission

api = feature("planned")
_LARGEST_BYTES = 21 * 1024**2


class OfProject(FromOutside):
    project_id: str


class ListQuery(FromOutside):
    """`columns` is JSON: field to place of its column from 0; empty to have them guessed by the row that names them.

    That row is `heads`, 0 to have it found; of a book `sheet` says which.
    """

    project_id: str
    columns: str = ""
    day_first: bool = True
    keep: bool = False
    sheet: str = ""
    heads: int = Field(default=0, ge=0)


@api.get("/api/planned", responses=answers(PlannedList))
@permission("member")
def list_planned(query: OfProject) -> PlannedList:
    """What is planned, received and late."""
    return planned.list_planned(context(), actor(), query.project_id)


@api.put("/api/planned", responses=answers(ListRead))
@permission("run")
@raw_body(lambda _: _LARGEST_BYTES)
def read_planned_list(query: ListQuery) -> ListRead:
    """Try a list of planned documents, or keep it: the file is the body."""
    asked = ListAsked(query.project_id, _columns(query.columns), query.day_first, query.keep, query.sheet, query.heads)
    return planned_list.read_list(context(), actor(), asked, body_pieces())


def _columns(said: str) -> dict[str, int] | None:
    if not said:
        return None
    try:
        found = json.loads(said)
    except ValueError as error:
        raise RuleBroken("columns_wanted", "The columns are not said in a way that can be read.") from error
    if not isinstance(found, dict) or not all(isinstance(at, int) for at in found.values()):
        raise RuleBroken("columns_wanted", "The columns are not said in a way that can be read.")
    return found


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
