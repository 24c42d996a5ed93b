"""The door for mail (RFC 5321): an SMTP server that takes mail for Nod's own addresses, behind one's own mail server.

A 250 after the content means that the bytes and their row are committed. Whatever stands in the way of that is a 4xx,
so that the sender tries again.
"""

from __future__ import annotations

import asyncio
import re
import signal
from email import message_from_bytes
from email.utils import getaddresses

import structlog
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

from nod.core.acts.refusals import DiskFull
from nod.services.acts.context import Context, open_context
from nod.services.mail_in import door
from nod.settings import Settings
from nod.store.blobs import NoRoom

MOST_RECIPIENTS = 100
_LONGEST_LINE = 64 * 1024 * 1024
"""The standard says 998; mail that breaks it is common, and a 5xx would lose it."""
EX_NOUSER, EX_TEMPFAIL = 67, 75
"""For servers that pipe (sysexits.h, as their documentation says)."""

log = structlog.get_logger()


class Handler:
    """Asks whose an address is, and has the content taken in, away from the loop that talks to the others."""

    def __init__(self, context: Context) -> None:
        self._context = context

    async def handle_RCPT(
        self, _server: SMTP, _session: Session, envelope: Envelope, address: str, _options: list[str]
    ) -> str:
        if len(envelope.rcpt_tos) >= MOST_RECIPIENTS:
            return "452 4.5.3 too many recipients at once, send the others again"
        try:
            ours = await asyncio.to_thread(door.is_ours, self._context, address)
        except Exception:
            log.exception("could not look up an address")
            return "451 4.3.0 try again later"
        if not ours:
            return "550 5.1.1 there is no such address here"
        envelope.rcpt_tos.append(address)
        return "250 2.1.5 so it is"

    async def handle_DATA(self, _server: SMTP, _session: Session, envelope: Envelope) -> str:
        raw = envelope.original_content or b""
        try:
            ids = await asyncio.to_thread(
                door.take_in, self._context, envelope.mail_from or "<>", envelope.rcpt_tos, raw
            )
        except (DiskFull, NoRoom):
            log.error("no room for a mail")
            return "452 4.3.1 there is no room, try again later"
        except Exception:
            log.exception("could not take in a mail")
            return "451 4.3.0 could not be kept, try again later"
        return f"250 2.0.0 kept as {' '.join(ids)}" if ids else "451 4.3.0 try again later"


class _Server(SMTP):
    line_length_limit = _LONGEST_LINE


class _Door(Controller):
    largest = 0

    def factory(self) -> SMTP:
        return _Server(
            self.handler, data_size_limit=self.largest, enable_SMTPUTF8=True, ident="Nod", hostname="nod", timeout=300
        )


def open_door(context: Context, host: str, port: int) -> Controller:
    """Listens until `stop()` is called on what is returned."""
    opened = _Door(Handler(context), hostname=host, port=port)
    opened.largest = context.settings.largest_mail_bytes
    opened.start()
    return opened


def run(settings: Settings) -> None:
    """Until told to stop by SIGTERM or SIGINT."""
    ends = {signal.SIGTERM, signal.SIGINT}
    # Blocked before there are threads, which take this over from here.
    signal.pthread_sigmask(signal.SIG_BLOCK, ends)
    context = open_context(settings)
    listening = open_door(context, settings.mail_in_host or settings.host, settings.resolved_mail_in_port)
    signal.sigwait(ends)
    listening.stop()
    context.database.close()


def pipe(context: Context, raw: bytes, recipient: str, sender: str) -> int:
    """For a mail server that pipes: an exit code by which it knows whether to try again.

    Without `recipient`, the mail is for whom its headers say that it was delivered, or to whom it was written.
    """
    try:
        recipients = [recipient] if recipient else _recipients(raw)
        return 0 if door.take_in(context, sender, recipients, raw) else EX_NOUSER
    except Exception:
        log.exception("could not take in a mail")
        return EX_TEMPFAIL


def _recipients(raw: bytes) -> list[str]:
    message = message_from_bytes(re.split(rb"\r?\n\r?\n", raw[:256_000], maxsplit=1)[0])
    for names in (("Delivered-To", "X-Original-To"), ("To", "Cc")):
        values = [str(value) for name in names for value in message.get_all(name, [])]
        if found := [address for _, address in getaddresses(values) if "@" in address]:
            return found
    return []
