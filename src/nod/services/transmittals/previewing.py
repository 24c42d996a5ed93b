"""What sending would send, seen before: the mail and the cover sheet.

It is sent in an act that is taken back before it is over: what is shown is what sending makes, by the same code.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from nod.core.transmittals.transmittals import Cover
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.transmittals.packages import cover_of, mail_to
from nod.services.transmittals.transmittals import SendTransmittal, send_in

_LINK = "(a link of their own)"


class SendingPreview(Answered):
    """`number` if nobody of the company sends before. `copy_text` is what those copied in read, empty without any."""

    number: str
    to: list[str]
    copied: list[str]
    subject: str
    text: str
    copy_text: str


@dataclass(frozen=True)
class _Made:
    cover: Cover
    subject: str
    lines: list[str]
    copy_lines: list[str]


class _TakenBack(Exception):
    def __init__(self, made: _Made) -> None:
        super().__init__("tried")
        self.made = made


def _try(context: Context, actor: Actor, command: SendTransmittal) -> _Made:
    """Raises as sending does. Nothing of it stays."""
    try:
        with acting(context, actor) as act:
            row = send_in(act, command)
            act.session.flush()
            cover = cover_of(context, act.session, row)
            subject, lines = mail_to(row, cover, copied=False)
            raise _TakenBack(_Made(cover, subject, lines, mail_to(row, cover, copied=True)[1]))
    except _TakenBack as tried:
        return tried.made


def preview_sending(context: Context, actor: Actor, command: SendTransmittal) -> SendingPreview:
    made = _try(context, actor, command)
    cover = made.cover
    return SendingPreview(
        number=cover.number, to=list(cover.recipients), copied=list(cover.copied), subject=made.subject,
        text=_text(made.lines), copy_text=_text(made.copy_lines) if cover.copied else "",
    )  # fmt: skip


def _text(lines: list[str]) -> str:
    return "\n".join(lines).replace("{link}", _LINK)


def preview_cover(context: Context, actor: Actor, command: SendTransmittal) -> bytes:
    """The cover sheet as a PDF, without what only a sending has: its seal, and the code that tells what still holds."""
    from nod.formats.files.cover_sheet import write_cover

    cover = _try(context, actor, command).cover
    number = f"{cover.number} (not sent)"
    return write_cover(replace(cover, number=number, sent="not sent yet", seal="", address=""))
