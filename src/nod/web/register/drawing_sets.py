"""Drawing sets over HTTP."""

from __future__ import annotations

from pydantic import RootModel

from nod.services.acts.answers import FromOutside
from nod.services.register import drawing_sets
from nod.services.register.drawing_sets import (
    AddByView,
    ChangeSet,
    DrawingSet,
    MakeSet,
    SeenSet,
    SetLine,
    SetMade,
    SetSheets,
    SheetsSet,
)
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("drawing_sets")


class OfProject(FromOutside):
    project_id: str


class SetPath(FromOutside):
    set_id: str


class SetLines(RootModel[list[SetLine]]):
    pass


@api.get("/api/sets", responses=answers(SetLines))
@permission("member")
def list_sets(query: OfProject) -> list[SetLine]:
    """The drawing sets by name."""
    return drawing_sets.list_sets(context(), actor(), query.project_id)


@api.post("/api/sets", responses=answers(SetMade))
@permission("file")
def make_set(body: MakeSet) -> SetMade:
    """Make a drawing set."""
    return drawing_sets.make_set(context(), actor(), body)


@api.get("/api/sets/<set_id>", responses=answers(DrawingSet))
@permission("member")
def read_set(path: SetPath) -> DrawingSet:
    """A drawing set with its sheets in their order."""
    return drawing_sets.read_set(context(), actor(), path.set_id)


@api.post("/api/sets/<set_id>", responses=answers())
@permission("file")
def change_set(path: SetPath, body: ChangeSet) -> None:
    """Its name and date."""
    drawing_sets.change_set(context(), actor(), path.set_id, body)


@api.post("/api/sets/<set_id>/remove", responses=answers())
@permission("file")
def remove_set(path: SetPath, body: SeenSet) -> None:
    """Take the set away; its sheets stay."""
    drawing_sets.remove_set(context(), actor(), path.set_id, body)


@api.post("/api/sets/<set_id>/bring-back", responses=answers())
@permission("file")
def bring_back_set(path: SetPath) -> None:
    """A set that was taken away stands again."""
    drawing_sets.bring_back_set(context(), actor(), path.set_id)


@api.post("/api/sets/<set_id>/sheets", responses=answers(SheetsSet))
@permission("file")
def set_sheets(path: SetPath, body: SetSheets) -> SheetsSet:
    """Which sheets, in which order."""
    return drawing_sets.set_sheets(context(), actor(), path.set_id, body)


@api.post("/api/sets/<set_id>/add", responses=answers(SheetsSet))
@permission("file")
def add_by_view(path: SetPath, body: AddByView) -> SheetsSet:
    """Add every document that a filter leaves."""
    return drawing_sets.add_by_view(context(), actor(), path.set_id, body)
