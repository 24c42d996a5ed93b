"""Sheets, their tiles, and the marks on them, over HTTP."""

from __future__ import annotations

from flask import Response
from pydantic import BaseModel, RootModel

from nod.services import marks, sheets
from nod.services.marks import ChangeMark, DrawMark, InkMarks, Mark, RemoveMark, SetMarkState, WriteReply
from nod.services.sheets import Sheet
from nod.web.answering import answers, feature, send_picture
from nod.web.guard import actor, context, permission, press

api = feature("sheets")


class RevisionPath(BaseModel):
    revision_id: str


class TilePath(BaseModel):
    revision_id: str
    page: int
    level: int
    column: int
    row: int


class MarkPath(BaseModel):
    mark_id: str


class Marks(RootModel[list[Mark]]):
    pass


@api.get("/api/sheets/<revision_id>", responses=answers(Sheet))
@permission("read")
def read_sheet(path: RevisionPath) -> Sheet:
    """A revision as the sheet view opens it."""
    return sheets.read_sheet(context(), actor(), path.revision_id)


@api.get("/api/sheets/<revision_id>/tiles/<int:page>/<int:level>/<int:column>/<int:row>")
@permission("read")
def read_tile(path: TilePath) -> Response:
    """A tile of a page, as WebP."""
    where = (path.revision_id, path.page, path.level, path.column, path.row)
    return send_picture(sheets.read_tile(context(), press(), actor(), *where))


@api.get("/api/sheets/<revision_id>/thumbnail")
@permission("read")
def read_thumbnail(path: RevisionPath) -> Response:
    """The first page, small."""
    return send_picture(sheets.read_thumbnail(context(), actor(), path.revision_id))


@api.get("/api/sheets/<revision_id>/marks", responses=answers(Marks))
@permission("read")
def list_marks(path: RevisionPath) -> list[Mark]:
    """All ink on a revision, and one's own pencil."""
    return marks.list_marks(context(), actor(), path.revision_id)


@api.post("/api/sheets/<revision_id>/marks", responses=answers(Mark))
@permission("mark")
def draw_mark(path: RevisionPath, body: DrawMark) -> Mark:
    """Draw a mark in pencil."""
    return marks.draw_mark(context(), actor(), path.revision_id, body)


@api.post("/api/sheets/<revision_id>/ink", responses=answers(Marks))
@permission("mark")
def ink_marks(path: RevisionPath, body: InkMarks) -> list[Mark]:
    """Ink one's own pencil marks."""
    return marks.ink_marks(context(), actor(), path.revision_id, body)


@api.patch("/api/marks/<mark_id>", responses=answers(Mark))
@permission("mark")
def change_mark(path: MarkPath, body: ChangeMark) -> Mark:
    """Move or reword one's own mark."""
    return marks.change_mark(context(), actor(), path.mark_id, body)


@api.post("/api/marks/<mark_id>/remove", responses=answers())
@permission("mark")
def remove_mark(path: MarkPath, body: RemoveMark) -> None:
    """Take one's own mark off the sheet."""
    marks.remove_mark(context(), actor(), path.mark_id, body)


@api.post("/api/marks/<mark_id>/bring-back", responses=answers(Mark))
@permission("mark")
def bring_back_mark(path: MarkPath) -> Mark:
    """Undo the removal of one's own mark."""
    return marks.bring_back_mark(context(), actor(), path.mark_id)


@api.post("/api/marks/<mark_id>/replies", responses=answers(Mark))
@permission("mark")
def write_reply(path: MarkPath, body: WriteReply) -> Mark:
    """Answer in a mark's thread."""
    return marks.write_reply(context(), actor(), path.mark_id, body)


@api.post("/api/marks/<mark_id>/state", responses=answers(Mark))
@permission("mark")
def set_mark_state(path: MarkPath, body: SetMarkState) -> Mark:
    """Say what became of a mark."""
    return marks.set_mark_state(context(), actor(), path.mark_id, body)
