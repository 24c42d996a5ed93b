"""Files added to anything, over HTTP."""

from __future__ import annotations

from typing import Literal

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.attachments import attachments
from nod.services.attachments.attachments import Attachment, Attachments
from nod.services.files.file_previews import FilePreview
from nod.web.answers import ANY_FILE, PICTURES, answers, feature, file_answers, send, send_picture
from nod.web.bodies import body_pieces, largest_file, raw_body
from nod.web.guard import actor, context, permission, press

api = feature("attachments")


class OnPath(FromOutside):
    kind: str
    target: str


class NameQuery(FromOutside):
    name: str


class AttachmentPath(FromOutside):
    attachment_id: str


class PagePath(AttachmentPath):
    page: int


class SizeQuery(FromOutside):
    large: Literal["true", "false"] = "false"


class ListQuery(FromOutside):
    """`folders`: ids with commas between."""

    project_id: str
    words: str = ""
    folders: str = ""


@api.get("/api/attachments", responses=answers(Attachments))
@permission("member")
def list_attachments(query: ListQuery) -> Attachments:
    """The attached files of a project, the latest first; of all folders, or of some and those below."""
    folders = [each for each in query.folders.split(",") if each]
    return attachments.list_attachments(context(), actor(), query.project_id, query.words, folders)


@api.put("/api/attachments/<kind>/<target>", responses=answers(Attachment))
@permission("mark")
@raw_body(largest_file)
def add_attachment(path: OnPath, query: NameQuery) -> Attachment:
    """Add a file to what one is about to say: its bytes are the body."""
    return attachments.add_attachment(context(), actor(), path.kind, path.target, query.name, body_pieces())


@api.delete("/api/attachments/<attachment_id>", responses=answers())
@permission("mark")
def remove_attachment(path: AttachmentPath) -> None:
    """Take a file back that was not said yet."""
    attachments.remove_attachment(context(), actor(), path.attachment_id)


@api.post("/api/attachments/<attachment_id>/download", responses=file_answers(*ANY_FILE))
@permission("read")
def download_attachment(path: AttachmentPath) -> Response:
    """The file. A POST, because each download is recorded."""
    return send(attachments.download_attachment(context(), actor(), path.attachment_id))


@api.get("/api/attachments/<attachment_id>/preview", responses=answers(FilePreview))
@permission("read")
def read_attachment_preview(path: AttachmentPath) -> FilePreview:
    """What an attached file says, where it has no pages to look at."""
    return attachments.read_attachment_preview(context(), press(), actor(), path.attachment_id)


@api.get("/api/attachments/<attachment_id>/pages/<int:page>", responses=file_answers(*PICTURES))
@permission("read")
def read_attachment_page(path: PagePath, query: SizeQuery) -> Response:
    """A picture of a page, counted from 0, small or large."""
    large = query.large == "true"
    return send_picture(attachments.read_page_picture(context(), actor(), path.attachment_id, path.page, large=large))
