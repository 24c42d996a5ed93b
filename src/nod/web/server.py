"""The web server around an app: one process that takes requests in whole, then answers them by a few threads.

Heads and bodies are taken in by one loop, so that whoever sends slowly holds a socket and no thread (waitress 3.0.2).
Several processes may serve one listening socket, which is bound before they begin: when one dies, those who have
connected and not been heard yet are heard by another.
"""

from __future__ import annotations

import copy
import json
import signal
import socket
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from typing import Any

from flask import Flask
from waitress import wasyncore
from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.utilities import Error, RequestEntityTooLarge

from nod.clock import steady_seconds
from nod.services.acts.heartbeats import Beats

# Views of the register stand in addresses, which may be long.
_LARGEST_HEAD_BYTES = 32 * 1024
_HEAD_SECONDS = 20.0
_BODY_SECONDS, _SLOWEST_BYTES_A_SECOND = 30.0, 4096
"""A body has half a minute, and as much more as it has brought bytes at the slowest: enough for poor reception."""
_IDLE_SECONDS = 60
_CLEANUP_SECONDS = 5
_MOST_CONNECTIONS = 1000
_PATIENCE_SECONDS = 60.0
_STUCK_SECONDS = 180.0


class Larger(Enum):
    """From whom a larger body would be taken."""

    NOBODY = "nobody"
    SIGNED_IN = "who is signed in"
    GUEST = "a guest whose link is open"


LargestBody = Callable[[str, str, str, str], tuple[int, Larger]]
"""By method, path, and the cookie and the secret of a visit that the head brought: how many bytes a body may have."""


@dataclass(frozen=True)
class Size:
    """How many threads answer, how long they may take to end, and the name by which signs of life are given."""

    name: str
    threads: int
    grace_seconds: float


def listen(host: str, port: int) -> socket.socket:
    """Raises OSError where the port is taken."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listening = socket.socket(family, socket.SOCK_STREAM)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listening.bind((host, port))
    listening.listen(1024)
    listening.setblocking(False)
    return listening


class _Refused(Error):
    """A request that is answered before its body is taken in, as a problem like all others (RFC 9457)."""

    def __init__(self, status: int, title: str, code: str, words: str) -> None:
        super().__init__(words)
        self.code, self.reason = status, title
        self._problem = {"type": "about:blank", "title": title, "status": status, "detail": words, "code": code}

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        body = json.dumps({**self._problem, "about": ""}).encode()
        headers = [("Content-Type", "application/problem+json"), ("Connection", "close")]
        return f"{self.code} {self.reason}", headers, body


_TOO_LARGE = (413, "Content Too Large", "too_large", "This is larger than what is taken here.")
_REFUSED = {
    Larger.NOBODY: _TOO_LARGE,
    Larger.SIGNED_IN: (401, "Not signed in", "not_signed_in", "Sign in first."),
    Larger.GUEST: (404, "Not found", "not_found", "This link does not open anything any more."),
}


class _Parser(HTTPRequestParser):
    """Asks how large this body may be once the head is known."""

    adj: Any
    error: Any
    refused = _TOO_LARGE

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        self.adj = copy.copy(self.adj)
        said = (self.headers.get(each, "") for each in ("COOKIE", "X_NOD_GUEST"))
        most, larger = self.adj.largest_body(self.command, self.path, *said)
        self.refused = _REFUSED[larger]
        # The limit itself is allowed; waitress refuses what is as large as its limit.
        self.adj.max_request_body_size = most + 1

    def received(self, data: bytes) -> int:
        taken: int = super().received(data)
        if isinstance(self.error, RequestEntityTooLarge):
            self.error = _Refused(*self.refused)
        return taken


class _Channel(HTTPChannel):
    parser_class = _Parser
    began_at = 0.0

    def received(self, data: bytes) -> bool:
        if self.request is None:
            self.began_at = steady_seconds()
        taken: bool = super().received(data)
        return taken

    def is_too_slow(self, now: float) -> bool:
        """Whether a request has been on its way in for longer than it may."""
        request = self.request
        if request is None or request.completed:
            return False
        if not request.headers_finished:
            return now - self.began_at > _HEAD_SECONDS
        allowed: float = _BODY_SECONDS + request.body_bytes_received / _SLOWEST_BYTES_A_SECOND
        return now - self.began_at > allowed

    def service(self) -> None:
        try:
            super().service()
        finally:
            self.server.served += 1


class _Server(TcpWSGIServer):
    channel_class = _Channel
    served = 0

    def begin(self, beats: Beats, size: Size) -> None:
        self._beats, self._size = beats, size
        self._served_before, self._moved_at = -1, steady_seconds()

    def maintenance(self, now: float) -> None:
        super().maintenance(now)
        steady = steady_seconds()
        for channel in self.active_channels.values():
            if channel.is_too_slow(steady):
                channel.will_close = True
        if self.served != self._served_before or not self.task_dispatcher.queue:
            self._served_before, self._moved_at = self.served, steady
        # With all threads busy for ever while others wait, no sign of life is given, and the process is replaced.
        if steady - self._moved_at < _STUCK_SECONDS:
            self._beats.beat(self._size.name, "loop", _PATIENCE_SECONDS)


def serve_app(make_app: Callable[[], Flask], listening: socket.socket, size: Size) -> None:
    """Until told to stop by SIGTERM; the app is made here, in the process that serves it."""
    stop: list[bool] = []
    for each in (signal.SIGTERM, signal.SIGINT):
        signal.signal(each, lambda *_: stop.append(True))
    app = make_app()
    data_dir = app.extensions["nod_context"].settings.data_dir
    # Bodies wait here until they are whole, on the disk that they will stay on.
    tempfile.tempdir = str(_fresh(data_dir / "incoming"))
    wanted: dict[str, Any] = {
        "threads": size.threads, "channel_timeout": _IDLE_SECONDS, "cleanup_interval": _CLEANUP_SECONDS,
        "connection_limit": _MOST_CONNECTIONS, "asyncore_use_poll": True, "ident": "Nod",
        # Reading on while a request is answered, a window that is closed is noticed.
        "channel_request_lookahead": 1,
        "max_request_header_size": _LARGEST_HEAD_BYTES, "clear_untrusted_proxy_headers": False,
        "expose_tracebacks": False, "sockets": [listening],
    }  # fmt: skip
    adjustments = Adjustments(**wanted)
    adjustments.largest_body = app.extensions["nod_largest_body"]
    server = _Server(
        app, _sock=listening, adj=adjustments, bind_socket=False, sockinfo=(listening.family, None, None, None)
    )
    server.begin(Beats(data_dir), size)
    while not stop:
        _turn(server)
    server.accepting = False
    until = steady_seconds() + size.grace_seconds
    while steady_seconds() < until and any(each.requests for each in server.active_channels.values()):
        _turn(server)
    server.task_dispatcher.shutdown(timeout=0.1)


def _turn(server: _Server) -> None:
    # Waitress names its sockets so, and has no other way to take a turn.
    wasyncore.loop(timeout=0.25, use_poll=True, map=server._map, count=1)  # noqa: SLF001


def _fresh(path: Path) -> Path:
    path.mkdir(parents=True, exist_ok=True)
    return path


def cookie_of(header: str, name: str) -> str:
    """The value of a cookie out of a request's head; empty where there is none."""
    try:
        found = SimpleCookie(header).get(name)
    except CookieError:
        return ""
    return found.value if found else ""
