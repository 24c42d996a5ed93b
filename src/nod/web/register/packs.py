"""Folders as ZIPs over HTTP."""

from __future__ import annotations

from typing import Literal

from flask import Response
from pydantic import RootModel

from nod.services.acts.answers import FromOutside
from nod.services.register import folder_packs
from nod.services.register import list_packs as list_packs_of
from nod.services.register.folder_packs import AskPack, PackShown, PackSize
from nod.services.register.list_packs import AskList
from nod.web.answers import TABLES, answers, feature, file_answers, send
from nod.web.guard import actor, context, permission

api = feature("packs")


class OfProject(FromOutside):
    project_id: str


class FolderPath(FromOutside):
    folder_id: str


class SizeQuery(FromOutside):
    revisions: Literal["in_force", "latest", "all"] = "latest"


class PackPath(FromOutside):
    pack_id: str


class Packs(RootModel[list[PackShown]]):
    pass


@api.get("/api/folders/<folder_id>/pack-size", responses=answers(PackSize))
@permission("read")
def read_pack_size(path: FolderPath, query: SizeQuery) -> PackSize:
    """How many files and bytes a ZIP of the folder would hold."""
    return folder_packs.read_size(context(), actor(), path.folder_id, query.revisions)


@api.get("/api/packs", responses=answers(Packs))
@permission("member")
def list_packs(query: OfProject) -> list[PackShown]:
    """One's own ZIPs, the newest first."""
    return folder_packs.list_packs(context(), actor(), query.project_id)


@api.post("/api/packs", responses=answers(PackShown))
@permission("read")
def ask_pack(body: AskPack) -> PackShown:
    """Have a folder made into a ZIP."""
    return folder_packs.ask_pack(context(), actor(), body)


@api.post("/api/packs/lists", responses=answers(PackShown))
@permission("member")
def ask_list(body: AskList) -> PackShown:
    """Have a long list of the register made into a file."""
    return list_packs_of.ask_list(context(), actor(), body)


@api.post("/api/packs/<pack_id>/stop", responses=answers())
@permission("read")
def stop_pack(path: PackPath) -> None:
    """Stop one that is being made."""
    folder_packs.stop_pack(context(), actor(), path.pack_id)


@api.post("/api/packs/<pack_id>/download", responses=file_answers("application/zip", *TABLES))
@permission("read")
def download_pack(path: PackPath) -> Response:
    """The ZIP, or the list. A POST, because each download is recorded."""
    return send(folder_packs.download_pack(context(), actor(), path.pack_id))
