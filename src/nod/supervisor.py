"""Starts all of Nod: web, live channel, worker, and in the demo the post room. What dies is started again."""

from __future__ import annotations

import ctypes
import os
import signal
import subprocess
import sys
import threading
from dataclasses import dataclass

import structlog

from nod.clock import steady_seconds
from nod.settings import Settings

_GRACE_SECONDS = 8.0
# A part that dies at once, say because its port is taken, is not started in a mad rush.
_SHORTEST_LIFE_SECONDS = 1.0
_PR_SET_PDEATHSIG = 1
_LIVE_THREADS = 192

log = structlog.get_logger()


@dataclass(frozen=True)
class Part:
    """A process of Nod."""

    name: str
    command: tuple[str, ...]


def parts_of(settings: Settings) -> list[Part]:
    python = sys.executable
    # Views of the register stand in addresses, which may be long.
    longest = ("--limit-request-line", "8190")
    gunicorn = (
        python,
        "-m",
        "gunicorn",
        "--no-control-socket",
        "--worker-class",
        "gthread",
        "--timeout",
        "0",
        *longest,
    )
    bind = ("--bind", f"{settings.host}:{settings.port}")
    live_bind = ("--bind", f"{settings.host}:{settings.resolved_live_port}")
    web_size = ("--workers", str(settings.web_workers), "--threads", str(settings.web_threads))
    live_size = ("--workers", "1", "--threads", str(_LIVE_THREADS), "--graceful-timeout", "1")
    parts = [
        Part("web", (*gunicorn, *bind, *web_size, "--graceful-timeout", "5", "nod.web.wsgi:make_web()")),
        Part("live", (*gunicorn, *live_bind, *live_size, "nod.web.wsgi:make_live()")),
        Part("worker", (python, "-m", "nod.cli", "worker")),
    ]
    if settings.demo:
        parts.append(Part("post room", (python, "-m", "nod.cli", "post-room")))
    return parts


def _die_with_parent() -> None:
    """The kernel ends a part whose supervisor was killed, so that no port stays taken."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


class Supervisor:
    """Starts the parts and keeps them running until `stop`."""

    def __init__(self, settings: Settings) -> None:
        self._parts = parts_of(settings)
        self._processes: dict[str, subprocess.Popen[bytes]] = {}
        self._started_at: dict[str, float] = {}
        self._stop = threading.Event()

    def _start(self, part: Part) -> None:
        self._started_at[part.name] = steady_seconds()
        self._processes[part.name] = subprocess.Popen(
            part.command, env=os.environ.copy(), preexec_fn=_die_with_parent, start_new_session=True
        )

    def run(self) -> None:
        for each in (signal.SIGTERM, signal.SIGINT):
            signal.signal(each, lambda *_: self._stop.set())
        for part in self._parts:
            self._start(part)
        while not self._stop.wait(0.25):
            for part in self._parts:
                code = self._processes[part.name].poll()
                if code is not None and steady_seconds() - self._started_at[part.name] > _SHORTEST_LIFE_SECONDS:
                    log.warning("started again", part=part.name, ended_with=code)
                    self._start(part)
        self._end()

    def _end(self) -> None:
        for process in self._processes.values():
            process.terminate()
        until = steady_seconds() + _GRACE_SECONDS
        for process in self._processes.values():
            try:
                process.wait(max(0.1, until - steady_seconds()))
            except subprocess.TimeoutExpired:
                os.killpg(process.pid, signal.SIGKILL)
                process.wait()
