"""A knock on the door of the live process after a commit, so that it need not wait until it looks by itself.

A datagram without content to this machine alone, on the number of the live channel's port. It says nothing and is asked
for nothing: one that is lost, or comes from somebody else, costs a look at most.
"""

from __future__ import annotations

import socket
from contextlib import suppress

_HERE = "127.0.0.1"


class Knocker:
    """Knocks; never raises, never waits."""

    def __init__(self, port: int) -> None:
        self._to = (_HERE, port)

    def __call__(self) -> None:
        # Whatever is wrong with the line, the live process looks by itself every so often.
        with suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as line:
            line.setblocking(False)
            line.sendto(b"", self._to)


class Door:
    """Hears knocks, where the port is free; otherwise waiting is all it does."""

    def __init__(self, port: int) -> None:
        self._socket: socket.socket | None = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        try:
            self._socket.bind((_HERE, port))
        except OSError:
            self._socket.close()
            self._socket = None

    @property
    def open(self) -> bool:
        return self._socket is not None

    def wait(self, seconds: float) -> bool:
        """Whether somebody knocked before the time was over; all that knocked meanwhile have been heard."""
        if self._socket is None:
            return False
        self._socket.settimeout(seconds)
        try:
            self._socket.recv(1)
        except (TimeoutError, OSError):
            return False
        self._socket.setblocking(False)
        with suppress(OSError):
            while True:
                self._socket.recv(1)
        return True

    def close(self) -> None:
        if self._socket is not None:
            self._socket.close()
