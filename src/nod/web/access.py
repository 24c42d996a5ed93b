"""Folders and access over HTTP."""

from __future__ import annotations

from pydantic import RootModel

from nod.services.access import access_grid, folders
from nod.services.access.access_grid import AccessChanged, AccessGrid, AccessPreview, By, ChangeAccess, SetGrants
from nod.services.access.folders import FolderMade, FolderShown, MakeFolder, MoveFolder, RenameFolder
from nod.services.acts.answers import FromOutside
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("access")


class OfProject(FromOutside):
    project_id: str


class GridQuery(FromOutside):
    project_id: str
    by: By = "people"


class FolderPath(FromOutside):
    folder_id: str


class Folders(RootModel[list[FolderShown]]):
    pass


@api.get("/api/folders", responses=answers(Folders))
@permission("member")
def list_folders(query: OfProject) -> list[FolderShown]:
    """The folders one sees, each after the one it is in."""
    return folders.list_folders(context(), actor(), query.project_id)


@api.post("/api/folders", responses=answers(FolderMade))
@permission("keep")
def make_folder(body: MakeFolder) -> FolderMade:
    """Make a folder."""
    return folders.make_folder(context(), actor(), body)


@api.post("/api/folders/<folder_id>/rename", responses=answers())
@permission("keep")
def rename_folder(path: FolderPath, body: RenameFolder) -> None:
    """Rename a folder."""
    folders.rename_folder(context(), actor(), path.folder_id, body)


@api.post("/api/folders/<folder_id>/move", responses=answers())
@permission("keep")
def move_folder(path: FolderPath, body: MoveFolder) -> None:
    """Move a folder with all that is in it."""
    folders.move_folder(context(), actor(), path.folder_id, body)


@api.delete("/api/folders/<folder_id>", responses=answers())
@permission("keep")
def remove_folder(path: FolderPath) -> None:
    """Remove an empty folder."""
    folders.remove_folder(context(), actor(), path.folder_id)


@api.get("/api/access", responses=answers(AccessGrid))
@permission("keep")
def read_grid(query: GridQuery) -> AccessGrid:
    """The grid of access."""
    return access_grid.read_grid(context(), actor(), query.project_id, query.by)


@api.post("/api/access/preview", responses=answers(AccessPreview))
@permission("keep")
def preview_access(body: ChangeAccess) -> AccessPreview:
    """What a change would change. Changes nothing."""
    return access_grid.preview_access(context(), actor(), body)


@api.post("/api/access", responses=answers(AccessChanged))
@permission("keep")
def change_access(body: ChangeAccess) -> AccessChanged:
    """Change many cells at once."""
    return access_grid.change_access(context(), actor(), body)


@api.post("/api/access/grants", responses=answers(AccessChanged))
@permission("keep")
def set_grants(body: SetGrants) -> AccessChanged:
    """Undo a change."""
    return access_grid.set_grants(context(), actor(), body)
