"""A knock on the door of the live process after a commit, so that it need not wait until it looks by itself.

A datagram without content to this machine alone, on the number of the live channel's port. It says nothing and is asked
for nothing: one that is lost, or comes from somebody else, costs a look at most. What passes and is kept nowhere (where
people look) goes the same way, signed, so that nobody else on this machine can say it.
"""

from __future__ import annotations

import hashlib
import hmac
import json
import socket
from contextlib import suppress
from typing import Any

_HERE = "127.0.0.1"
_MOST_BYTES = 60_000
_SIGN_BYTES = 32


def _sign(secret: bytes, said: bytes) -> bytes:
    return hmac.digest(secret, b"in passing " + said, hashlib.sha256)


class Knocker:
    """Knocks, and says what passes; never raises, never waits."""

    def __init__(self, port: int, secret: bytes = b"") -> None:
        self._to, self._secret = (_HERE, port), secret

    def __call__(self) -> None:
        self._send(b"")

    def say(self, what: dict[str, Any]) -> None:
        said = json.dumps(what).encode()
        if len(said) <= _MOST_BYTES:
            self._send(_sign(self._secret, said) + said)

    def _send(self, content: bytes) -> None:
        # Whatever is wrong with the line, the live process looks by itself every so often.
        with suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as line:
            line.setblocking(False)
            line.sendto(content, self._to)


class Door:
    """Hears knocks, where the port is free; otherwise waiting is all it does."""

    def __init__(self, port: int, secret: bytes = b"") -> None:
        self._secret, self._said = secret, list[dict[str, Any]]()
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
        """Whether somebody knocked before the time was over; all that came meanwhile has been heard.

        It ends with what was said in passing, too, which is no knock.
        """
        if self._socket is None:
            return False
        self._socket.settimeout(seconds)
        try:
            knocked = self._hear(self._socket.recv(65_536))
        except (TimeoutError, OSError):
            return False
        self._socket.setblocking(False)
        with suppress(OSError):
            while True:
                knocked = self._hear(self._socket.recv(65_536)) or knocked
        return knocked

    def _hear(self, content: bytes) -> bool:
        """Whether it was a knock: whatever is not said by Nod's own hand is taken for one."""
        sign, said = content[:_SIGN_BYTES], content[_SIGN_BYTES:]
        if said and hmac.compare_digest(sign, _sign(self._secret, said)):
            self._said.append(json.loads(said))
            return False
        return True

    def take_said(self) -> list[dict[str, Any]]:
        """What was said since this was asked last, in its order."""
        said, self._said = self._said, []
        return said

    def close(self) -> None:
        if self._socket is not None:
            self._socket.close()
