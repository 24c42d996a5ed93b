"""Reading what the post room keeps: the mail that left Nod, as .eml files. For the demo only."""

from __future__ import annotations

from datetime import datetime

from nod.core.acts.refusals import NotFound
from nod.formats.eml import ReadMail, read_mail
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context

_MOST_SHOWN = 300


class Mail(Answered):
    id: str
    to: list[str]
    subject: str
    date: datetime | None
    text: str


def list_mail(context: Context) -> list[Mail]:
    """Newest first. Raises NotFound outside the demo."""
    if not context.settings.demo:
        raise NotFound("post-room")
    files = sorted(context.settings.mail_dir.glob("*.eml"), reverse=True)[:_MOST_SHOWN]
    return [_mail(file.stem, read_mail(file.read_bytes())) for file in files]


def _mail(name: str, mail: ReadMail) -> Mail:
    return Mail(id=name, to=list(mail.to), subject=mail.subject, date=mail.date, text=mail.text)
