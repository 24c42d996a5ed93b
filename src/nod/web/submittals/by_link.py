"""A submittal, for whoever holds a link to it, over HTTP."""

from __future__ import annotations

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.attachments.attachments import Attachment
from nod.services.submittals import by_link
from nod.services.submittals.by_link import GuestAnswers, GuestSubmittal
from nod.services.submittals.sending_in import SendIn
from nod.web.answers import ANY_FILE, answers, feature, file_answers, send
from nod.web.bodies import body_pieces, largest_file, raw_body
from nod.web.guard import context, guest_secret, once, permission

api = feature("submittals_by_link")


class NameQuery(FromOutside):
    name: str


class GuestFilePath(FromOutside):
    attachment_id: str


@api.get("/api/guest/submittal", responses=answers(GuestSubmittal))
@permission("link")
def read_guest_submittal() -> GuestSubmittal:
    """The submittal with its rounds, and what is wanted of whoever came by the link."""
    return by_link.read_submittal(context(), guest_secret())


@api.put("/api/guest/submittal/files", responses=answers(Attachment))
@permission("link")
@raw_body(largest_file)
def add_guest_file(query: NameQuery) -> Attachment:
    """Add a file to what one is about to send in or answer: its bytes are the body."""
    return by_link.add_file(context(), guest_secret(), query.name, body_pieces())


@api.delete("/api/guest/submittal/files/<attachment_id>", responses=answers())
@permission("link")
def remove_guest_file(path: GuestFilePath) -> None:
    """Take a file back that was not sent yet."""
    by_link.remove_file(context(), guest_secret(), path.attachment_id)


@api.post("/api/guest/submittal/files/<attachment_id>/download", responses=file_answers(*ANY_FILE))
@permission("link")
def download_guest_attachment(path: GuestFilePath) -> Response:
    """A file of one of its rounds. A POST, because each download is recorded."""
    return send(by_link.download_file(context(), guest_secret(), path.attachment_id))


@api.post("/api/guest/submittal/send-in", responses=answers())
@permission("link")
def send_in_by_link(body: SendIn) -> None:
    """Send it in, with files that were added before."""
    by_link.send_in(context(), guest_secret(), body, once())


@api.post("/api/guest/submittal/answer", responses=answers())
@permission("link")
def answer_by_link(body: GuestAnswers) -> None:
    """Answer it with a verdict and a file."""
    by_link.answer(context(), guest_secret(), body, once())
