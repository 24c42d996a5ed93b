"""The mail of a project over HTTP: what is held, what became of the rest, what came back."""

from __future__ import annotations

from flask import Response

from nod.services.acts.answers import FromOutside
from nod.services.mail_in import held_mail
from nod.services.mail_in.held_mail import AddSender, FileMail, LetGo, Mailbox, MailRead, MailVersion, Tab
from nod.web.answers import answers, feature, file_answers, send
from nod.web.guard import actor, context, permission, press

api = feature("mail_in")


class MailboxQuery(FromOutside):
    project_id: str
    tab: Tab = "held"


class MailPath(FromOutside):
    mail_id: str


@api.get("/api/mail", responses=answers(Mailbox))
@permission("run")
def read_mailbox(query: MailboxQuery) -> Mailbox:
    """Mail that came in for a project, or what came back of the mail that left."""
    return held_mail.read_mailbox(context(), actor(), query.project_id, query.tab)


@api.get("/api/mail/<mail_id>", responses=answers(MailRead))
@permission("run")
def read_mail(path: MailPath) -> MailRead:
    """A mail that came in, to be read."""
    return held_mail.read_mail(context(), press(), actor(), path.mail_id)


@api.post("/api/mail/<mail_id>/file", responses=answers())
@permission("run")
def file_mail(path: MailPath, body: FileMail) -> None:
    """Hand a held mail to a thing, as an answer of its sender."""
    held_mail.file_mail(context(), press(), actor(), path.mail_id, body)


@api.post("/api/mail/<mail_id>/sender", responses=answers())
@permission("run")
def add_sender(path: MailPath, body: AddSender) -> None:
    """Add the sender of a held mail as an outside contact, and have it judged again."""
    held_mail.add_sender(context(), actor(), path.mail_id, body)


@api.post("/api/mail/<mail_id>/let-go", responses=answers())
@permission("run")
def let_go(path: MailPath, body: LetGo) -> None:
    """Let a held mail go: it is handed to nothing."""
    held_mail.let_go(context(), actor(), path.mail_id, body)


@api.post("/api/mail/<mail_id>/hold-again", responses=answers())
@permission("run")
def hold_again(path: MailPath, body: MailVersion) -> None:
    """Take back that a mail was let go."""
    held_mail.hold_again(context(), actor(), path.mail_id, body)


@api.post("/api/mail/<mail_id>/bytes", responses=file_answers("message/rfc822"))
@permission("read")
def download_mail(path: MailPath) -> Response:
    """The mail byte for byte as it came. A POST, because each download is recorded."""
    return send(held_mail.download_mail(context(), actor(), path.mail_id))
