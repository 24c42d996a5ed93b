"""What Nod could not do, over HTTP."""

from __future__ import annotations

from pydantic import RootModel

from nod.services.acts import given_up
from nod.services.acts.answers import FromOutside
from nod.services.acts.given_up import GivenUp
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("given_up")


class OfProject(FromOutside):
    project_id: str


class TaskPath(FromOutside):
    task_id: int


class AllGivenUp(RootModel[list[GivenUp]]):
    pass


@api.get("/api/given-up", responses=answers(AllGivenUp))
@permission("run")
def list_given_up(query: OfProject) -> list[GivenUp]:
    """What Nod tried again and again in this project, and gave up."""
    return given_up.list_given_up(context(), actor(), query.project_id)


@api.post("/api/given-up/<task_id>/again", responses=answers())
@permission("member")
def try_again(path: TaskPath) -> None:
    """Have it tried again, for whoever may see the thing it is for."""
    given_up.try_again(context(), actor(), path.task_id)
