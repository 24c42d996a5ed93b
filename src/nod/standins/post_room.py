"""The post room: a mail server that delivers to nobody and keeps every message as an .eml file."""

from __future__ import annotations

import hashlib
import os
import signal
from pathlib import Path

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

from nod.clock import Clock
from nod.formats.files.eml import read_mail
from nod.settings import Settings

_LARGEST_BYTES = 32 * 1024 * 1024


class Keeper:
    """Writes each message once: a second one with the same Message-ID replaces the first."""

    def __init__(self, directory: Path, clock: Clock) -> None:
        self._directory = directory
        self._clock = clock
        directory.mkdir(parents=True, exist_ok=True)

    async def handle_DATA(self, _server: SMTP, _session: Session, envelope: Envelope) -> str:
        # As a server does that delivers (RFC 5321, 4.4): by this a mail can come back.
        raw = f"Return-Path: <{envelope.mail_from or ''}>\r\n".encode() + (envelope.original_content or b"")
        key = hashlib.sha256((read_mail(raw).message_id or str(raw)).encode()).hexdigest()[:16]
        known = next(self._directory.glob(f"*_{key}.eml"), None)
        target = known or self._directory / f"{self._clock.now():%Y%m%dT%H%M%S%f}_{key}.eml"
        aside = target.with_suffix(".part")
        with aside.open("wb") as file:
            file.write(raw)
            file.flush()
            os.fsync(file.fileno())
        os.replace(aside, target)
        return "250 kept"


def open_post_room(directory: Path, clock: Clock, host: str, port: int) -> Controller:
    """Listens until `stop()` is called on what is returned."""
    room = Controller(Keeper(directory, clock), hostname=host, port=port, data_size_limit=_LARGEST_BYTES)
    room.start()
    return room


def run(settings: Settings) -> None:
    """Until told to stop by SIGTERM or SIGINT."""
    ends = {signal.SIGTERM, signal.SIGINT}
    # Blocked before the room has threads of its own, which take this over from here.
    signal.pthread_sigmask(signal.SIG_BLOCK, ends)
    room = open_post_room(settings.mail_dir, settings.clock, settings.smtp_host, settings.resolved_smtp_port)
    signal.sigwait(ends)
    room.stop()
