"""A thread, for whoever holds a link to it, over HTTP."""

from __future__ import annotations

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.attachments.attachments import Attachment
from nod.services.letters import by_link
from nod.services.letters.by_link import GuestLetter, GuestWrites
from nod.web.answers import ANY_FILE, answers, feature, file_answers, send
from nod.web.bodies import body_pieces, largest_file, raw_body
from nod.web.guard import context, guest_secret, once, permission

api = feature("letters_by_link")


class LetterFileNameQuery(FromOutside):
    name: str


class LetterFilePath(FromOutside):
    attachment_id: str


@api.get("/api/guest/letter", responses=answers(GuestLetter))
@permission("link")
def read_guest_letter() -> GuestLetter:
    """What of the thread is there for whoever came by the link, and what is wanted of them."""
    return by_link.read_letter(context(), guest_secret())


@api.put("/api/guest/letter/files", responses=answers(Attachment))
@permission("link")
@raw_body(largest_file)
def add_guest_letter_file(query: LetterFileNameQuery) -> Attachment:
    """Add a file to what one is about to write: its bytes are the body."""
    return by_link.add_file(context(), guest_secret(), query.name, body_pieces())


@api.delete("/api/guest/letter/files/<attachment_id>", responses=answers())
@permission("link")
def remove_guest_letter_file(path: LetterFilePath) -> None:
    """Take a file back that was not sent yet."""
    by_link.remove_file(context(), guest_secret(), path.attachment_id)


@api.post("/api/guest/letter/files/<attachment_id>/download", responses=file_answers(*ANY_FILE))
@permission("link")
def download_guest_letter_file(path: LetterFilePath) -> Response:
    """A file of the thread. A POST, because each download is recorded."""
    return send(by_link.download_file(context(), guest_secret(), path.attachment_id))


@api.post("/api/guest/letter/write", responses=answers())
@permission("link")
def write_by_link(body: GuestWrites) -> None:
    """Write in the thread, to all who are in it."""
    by_link.write(context(), guest_secret(), body, once())
