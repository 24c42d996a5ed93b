"""A part in a review, for whoever holds the link to it, over HTTP."""

from __future__ import annotations

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.reviews import by_link, marks_by_link
from nod.services.reviews.begun import KeepBegun
from nod.services.reviews.by_link import GuestPart, GuestResponds
from nod.services.reviews.marks_by_link import DrawInPart, GuestMarks, SeenMark
from nod.services.reviews.reviews import HandIn
from nod.web.answers import ANY_FILE, PICTURES, answers, feature, file_answers, send, send_unkept
from nod.web.guard import context, guest_secret, once, permission, press

api = feature("parts_by_link")


class RevisionPath(FromOutside):
    revision_id: str


class LevelPath(RevisionPath):
    page: int
    level: int


class TilePath(LevelPath):
    column: int
    row: int


class StepPath(FromOutside):
    step_id: str


class MarkPath(FromOutside):
    mark_id: str


class CommentPath(FromOutside):
    comment_id: str


@api.get("/api/guest/review", responses=answers(GuestPart))
@permission("link")
def read_guest_part() -> GuestPart:
    """What is asked of whoever came by the link."""
    return by_link.read_part(context(), guest_secret())


@api.get("/api/guest/review/<revision_id>/tiles/<int:page>/<int:level>", responses=file_answers(*PICTURES))
@permission("link")
def read_guest_sheet(path: LevelPath) -> Response:
    """A whole page of a sheet that goes round."""
    leaf = (path.page, path.level)
    return send_unkept(by_link.read_page(context(), press(), guest_secret(), path.revision_id, leaf))


@api.get(
    "/api/guest/review/<revision_id>/tiles/<int:page>/<int:level>/<int:column>/<int:row>",
    responses=file_answers(*PICTURES),
)
@permission("link")
def read_guest_tile(path: TilePath) -> Response:
    """A tile of a page of a sheet that goes round."""
    tile = (path.page, path.level, path.column, path.row)
    return send_unkept(by_link.read_tile(context(), press(), guest_secret(), path.revision_id, tile))


@api.get("/api/guest/review/<revision_id>/marks", responses=answers(GuestMarks))
@permission("link")
def read_guest_marks(path: RevisionPath) -> GuestMarks:
    """The ink on a sheet that goes round."""
    return marks_by_link.read_marks(context(), guest_secret(), path.revision_id)


@api.post("/api/guest/review/<revision_id>/marks", responses=answers(GuestMarks))
@permission("link")
def draw_by_link(path: RevisionPath, body: DrawInPart) -> GuestMarks:
    """Mark a sheet on which one answers, in ink."""
    return marks_by_link.draw_by_link(context(), guest_secret(), path.revision_id, body, once())


@api.post("/api/guest/review/marks/<mark_id>/remove", responses=answers())
@permission("link")
def remove_by_link(path: MarkPath, body: SeenMark) -> None:
    """Take away what one has drawn oneself."""
    marks_by_link.remove_by_link(context(), guest_secret(), path.mark_id, body)


@api.post("/api/guest/review/<revision_id>/file", responses=file_answers(*ANY_FILE))
@permission("link")
def download_guest_sheet(path: RevisionPath) -> Response:
    """The file of a sheet that goes round. A POST, because each download is recorded."""
    return send(by_link.download_sheet(context(), guest_secret(), path.revision_id))


@api.put("/api/guest/review/steps/<step_id>/begun", responses=answers())
@permission("link")
def keep_guest_begun(path: StepPath, body: KeepBegun) -> None:
    """Keep what has been begun, for another day or device."""
    by_link.keep_begun(context(), guest_secret(), path.step_id, body)


@api.post("/api/guest/review/steps/<step_id>/hand-in", responses=answers())
@permission("link")
def hand_in_as_guest(path: StepPath, body: HandIn) -> None:
    """Hand in the answers on every document."""
    by_link.hand_in(context(), guest_secret(), path.step_id, body)


@api.post("/api/guest/review/comments/<comment_id>/respond", responses=answers())
@permission("link")
def respond_as_guest(path: CommentPath, body: GuestResponds) -> None:
    """Respond to what was said of one's document."""
    by_link.respond(context(), guest_secret(), path.comment_id, body)
