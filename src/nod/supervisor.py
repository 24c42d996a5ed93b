"""Starts all of Nod: web, live channel, worker, and in the demo the post room. What dies is started again.

All that the parts need is loaded once, here, and each part is a fork of this process: it is there at once, also when it
is started again, and what was loaded is in memory once.
"""

from __future__ import annotations

import ctypes
import gc
import multiprocessing
import os
import signal
import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from multiprocessing.process import BaseProcess

import structlog

from nod import mail_door, worker
from nod.clock import steady_seconds
from nod.services.acts.heartbeats import Beats
from nod.settings import Settings
from nod.standins import post_room
from nod.web.server import Size, listen, serve_app
from nod.web.wsgi import make_live, make_web

_GRACE_SECONDS = 8.0
# A part that dies at once, say because its port is taken, is not started in a mad rush.
_SHORTEST_LIFE_SECONDS = 1.0
_PR_SET_PDEATHSIG, _PR_SET_NAME = 1, 15
_LIVE_THREADS = 192
_LOOK_SECONDS = 2.0

log = structlog.get_logger()


@dataclass(frozen=True)
class Part:
    """A process of Nod."""

    name: str
    run: Callable[[], None]


def parts_of(settings: Settings) -> list[Part]:
    # Bound here, so that they stay while a process behind them is started again.
    web, live = listen(settings.host, settings.port), listen(settings.host, settings.resolved_live_port)
    parts = [
        Part(name, partial(serve_app, make_web, web, Size(name, settings.web_threads, grace_seconds=5)))
        for name in (f"web-{place + 1}" for place in range(settings.web_workers))
    ]
    parts += [
        Part("live", partial(serve_app, make_live, live, Size("live", _LIVE_THREADS, grace_seconds=1))),
        Part("worker", partial(worker.run, settings)),
        Part("mail door", partial(mail_door.run, settings)),
    ]
    if settings.demo:
        parts.append(Part("post room", partial(post_room.run, settings)))
    return parts


def _become(part: Part, supervisor: int) -> None:
    """In the new process: its name for `ps`, a group of its own, and the signals as any program finds them."""
    os.setsid()
    kernel = ctypes.CDLL(None)
    kernel.prctl(_PR_SET_NAME, f"nod {part.name}".encode(), 0, 0, 0)
    # The kernel ends a part whose supervisor was killed, so that no port stays taken.
    kernel.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
    if os.getppid() != supervisor:
        sys.exit(1)
    for each in (signal.SIGTERM, signal.SIGINT):
        signal.signal(each, signal.SIG_DFL)
    part.run()


class Supervisor:
    """Starts the parts and keeps them running until `stop`."""

    def __init__(self, settings: Settings) -> None:
        self._parts = parts_of(settings)
        self._processes: dict[str, BaseProcess] = {}
        self._started_at: dict[str, float] = {}
        self._stop = threading.Event()
        self._beats = Beats(settings.data_dir)
        self._look_again_at = 0.0

    def _start(self, part: Part) -> None:
        self._started_at[part.name] = steady_seconds()
        self._beats.forget(part.name)
        # This process has no threads and no open database, so that there is nothing a fork could tear apart.
        process = multiprocessing.get_context("fork").Process(target=_become, args=(part, os.getpid()))
        process.start()
        self._processes[part.name] = process

    def run(self) -> None:
        for each in (signal.SIGTERM, signal.SIGINT):
            signal.signal(each, lambda *_: self._stop.set())
        # What is loaded by now stays; the collector of a part would only write to memory that all of them share.
        gc.collect()
        gc.freeze()
        for part in self._parts:
            self._start(part)
        while not self._stop.wait(0.25):
            for part in self._parts:
                code = self._processes[part.name].exitcode
                if code is not None and steady_seconds() - self._started_at[part.name] > _SHORTEST_LIFE_SECONDS:
                    log.warning("started again", part=part.name, ended_with=code)
                    self._start(part)
            self._end_silent()
        self._end()

    def _end_silent(self) -> None:
        """A part with a thread that hangs, or has died, is ended whole; the next round starts it again."""
        if steady_seconds() < self._look_again_at:
            return
        self._look_again_at = steady_seconds() + _LOOK_SECONDS
        for beat in self._beats.read():
            process = self._processes.get(beat.part)
            if beat.late and process and process.pid and process.is_alive():
                log.error("no sign of life", part=beat.part, thread=beat.thread, for_seconds=round(beat.age_seconds))
                self._beats.forget(beat.part)
                os.killpg(process.pid, signal.SIGKILL)

    def _end(self) -> None:
        for process in self._processes.values():
            process.terminate()
        until = steady_seconds() + _GRACE_SECONDS
        for process in self._processes.values():
            process.join(max(0.1, until - steady_seconds()))
            if process.is_alive() and process.pid:
                os.killpg(process.pid, signal.SIGKILL)
                process.join()
