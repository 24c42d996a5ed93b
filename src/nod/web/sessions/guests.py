"""What whoever came by a link to a session can do there, without an account."""

from __future__ import annotations

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.sessions import guests
from nod.services.sessions.guests import (
    DrawAsGuest,
    GuestSession,
    GuestSheetMarks,
    ReplyAsGuest,
    SeenMark,
    StateAsGuest,
)
from nod.services.sessions.presence import Here
from nod.web.answers import PICTURES, answers, feature, file_answers, send_unkept
from nod.web.guard import context, guest_secret, once, permission, press

api = feature("session_guests")


class SheetPath(FromOutside):
    revision_id: str


class MarkPath(FromOutside):
    mark_id: str


class LevelPath(SheetPath):
    page: int
    level: int


class TilePath(LevelPath):
    column: int
    row: int


@api.get("/api/guest/session", responses=answers(GuestSession))
@permission("link")
def read_guest_session() -> GuestSession:
    """The session behind a link."""
    return guests.read_as_guest(context(), guest_secret())


@api.get("/api/guest/session/sheets/<revision_id>/marks", responses=answers(GuestSheetMarks))
@permission("link")
def list_guest_marks(path: SheetPath) -> GuestSheetMarks:
    """The session's ink on a sheet."""
    return guests.read_marks(context(), guest_secret(), path.revision_id)


@api.post("/api/guest/session/sheets/<revision_id>/marks", responses=answers(GuestSheetMarks))
@permission("link")
def draw_as_guest(path: SheetPath, body: DrawAsGuest) -> GuestSheetMarks:
    """Draw marks in ink."""
    return guests.draw_as_guest(context(), guest_secret(), path.revision_id, body, once())


@api.post("/api/guest/session/marks/<mark_id>/replies", responses=answers(GuestSheetMarks))
@permission("link")
def reply_as_guest(path: MarkPath, body: ReplyAsGuest) -> GuestSheetMarks:
    """Answer a mark of the session."""
    return guests.reply_as_guest(context(), guest_secret(), path.mark_id, body, once())


@api.post("/api/guest/session/marks/<mark_id>/state", responses=answers(GuestSheetMarks))
@permission("link")
def set_state_as_guest(path: MarkPath, body: StateAsGuest) -> GuestSheetMarks:
    """Say what became of a mark of the session."""
    return guests.set_state_as_guest(context(), guest_secret(), path.mark_id, body, once())


@api.post("/api/guest/session/marks/<mark_id>/remove", responses=answers())
@permission("link")
def remove_as_guest(path: MarkPath, body: SeenMark) -> None:
    """Take away what one has drawn in this visit."""
    guests.remove_as_guest(context(), guest_secret(), path.mark_id, body)


@api.post("/api/guest/session/here", responses=answers())
@permission("link")
def be_here_as_guest(body: Here) -> None:
    """Say where one looks, to those who are in the session."""
    guests.be_here_as_guest(context(), guest_secret(), body)


@api.get("/api/guest/session/sheets/<revision_id>/tiles/<int:page>/<int:level>", responses=file_answers(*PICTURES))
@permission("link")
def read_met_page(path: LevelPath) -> Response:
    """A whole page of a sheet of the session."""
    leaf = (path.page, path.level)
    return send_unkept(guests.read_page(context(), press(), guest_secret(), path.revision_id, leaf))


@api.get(
    "/api/guest/session/sheets/<revision_id>/tiles/<int:page>/<int:level>/<int:column>/<int:row>",
    responses=file_answers(*PICTURES),
)
@permission("link")
def read_met_tile(path: TilePath) -> Response:
    """A tile of a page of a sheet of the session."""
    tile = (path.page, path.level, path.column, path.row)
    return send_unkept(guests.read_tile(context(), press(), guest_secret(), path.revision_id, tile))
