"""The worker: drains the outbox. Any number of workers may run on one machine.

Two threads look into files, one sends, one does what nobody may be kept waiting by (large ZIPs, the search index), and
one reads scans by OCR, which takes seconds a page. No trouble ends a thread. A task that gives no sign of life for too
long cannot be stopped inside a thread: the whole process ends, and is started again by the supervisor.
"""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, nullcontext
from functools import partial
from pathlib import Path
from typing import Any

import structlog

from nod.clock import steady_seconds
from nod.core.acts.refusals import DiskFull
from nod.services import features
from nod.services.acts import outbox
from nod.services.acts.context import Context, open_context
from nod.services.acts.heartbeats import Beats
from nod.services.acts.outbox import Handler, Task
from nod.services.acts.work import Do, Job, Lane, kinds_of, works
from nod.services.attachments.attachments import forget_unsaid
from nod.services.intake.uploads import forget_old_uploads
from nod.services.notices.summaries import send_summaries
from nod.services.press.press import Press
from nod.services.register.folder_packs import forget_old_packs
from nod.services.reviews.reminding import send_reminders
from nod.services.submittals.outlooks import work_out_daily
from nod.services.trail.seals import seal_if_due
from nod.settings import Settings

_IDLE_SECONDS = 0.15
_TROUBLED_SECONDS = 5.0
_IDLE_PATIENCE_SECONDS = 180.0
_HOUSEKEEPING_ROUNDS = 20_000
_CACHE_ROUNDS = 2_000
_SUMMARY_ROUNDS = 100

log = structlog.get_logger()
features.load()


GoOn = Callable[[Context, str], None]


def handlers_with(context: Context, press: Press, go_on: GoOn = outbox.keep_on) -> dict[str, Handler]:
    """By kind. `go_on` is called with a task's key now and then, while it takes long and is getting on."""

    def doing(do: Do) -> Handler:
        def handle(task: Task) -> None:
            do(Job(context, press, task.key, task.tries, partial(go_on, context, task.key)), task.payload)

        return handle

    return {each.kind: doing(each.do) for each in works()}


def drain(context: Context, by_kind: dict[str, Handler], name: str, *lanes: Lane, hands: Hands | None = None) -> int:
    """Do all of these lanes that is ready now; returns how many tasks were tried."""
    count, kinds = 0, kinds_of(*lanes)
    while outbox.waiting(context, kinds):
        task = outbox.take(context, name, kinds)
        if task is None:
            break
        with hands.busy_with(task) if hands else nullcontext():
            trouble = outbox.do_one(context, task, by_kind)
        count += 1
        if trouble:
            log.warning("put off", kind=task.kind, key=task.key, tries=task.tries, trouble=trouble)
    return count


class Hands:
    """What the threads of this process have in hand, and their signs of life."""

    def __init__(self, context: Context) -> None:
        self.context, self._beats = context, Beats(context.settings.data_dir)
        self._keys: dict[str, str] = {}
        self._beaten_at: dict[str, float] = {}
        self._silent_until: dict[str, float] = {}

    def rest(self) -> None:
        """A sign of life between tasks, at most one a second."""
        thread = threading.current_thread().name
        if steady_seconds() - self._beaten_at.get(thread, 0.0) >= 1.0:
            self._beat(thread, _IDLE_PATIENCE_SECONDS)

    @contextmanager
    def busy_with(self, task: Task) -> Iterator[None]:
        thread = threading.current_thread().name
        self._beat(thread, self.context.settings.task_patience_seconds)
        self._keys[thread] = task.key
        try:
            yield
        finally:
            del self._keys[thread]
            self._beat(thread, _IDLE_PATIENCE_SECONDS)

    def go_on(self, _context: Context, key: str) -> None:
        """Whoever does this task gets on with it; its lease is kept by `keep`."""
        for thread, each in list(self._keys.items()):
            if each == key:
                self._beat(thread, self.context.settings.task_patience_seconds)

    def keep(self) -> None:
        """Called often: leases are renewed while this process lives."""
        for key in list(self._keys.values()):
            outbox.keep_on(self.context, key)

    def late(self) -> str:
        """The thread that has been silent for too long, and what it has in hand; empty for none."""
        now = steady_seconds()
        thread = next((each for each, until in list(self._silent_until.items()) if until < now), "")
        return f"{thread} {self._keys.get(thread, '')}".strip()

    def _beat(self, thread: str, patience_seconds: float) -> None:
        self._beaten_at[thread] = steady_seconds()
        self._silent_until[thread] = self._beaten_at[thread] + patience_seconds
        self._beats.beat("worker", thread, patience_seconds)


def _work(hands: Hands, by_kind: dict[str, Handler], lane: Lane, stop: threading.Event) -> None:
    name = f"{os.getpid()}:{threading.current_thread().name}"
    context, rounds = hands.context, 0
    while not stop.is_set():
        rounds += 1
        hands.rest()
        try:
            drain(context, by_kind, name, lane, hands=hands)
            if lane is Lane.SEND:
                _keep_house(context, rounds)
        except DiskFull:
            # Not even that can be noted. What was at hand is taken up again when its lease has run out.
            log.error("no room left on the disk", waits_seconds=_TROUBLED_SECONDS)
            stop.wait(_TROUBLED_SECONDS)
        except Exception:
            # Say, the database locked by another program for a minute. The thread is needed for what comes after.
            log.exception("a round of the worker failed", lane=lane, waits_seconds=_TROUBLED_SECONDS)
            stop.wait(_TROUBLED_SECONDS)
        stop.wait(_IDLE_SECONDS)


def _keep_house(context: Context, rounds: int) -> None:
    if rounds % _SUMMARY_ROUNDS == 1:
        send_reminders(context)
        send_summaries(context)
        work_out_daily(context)
        seal_if_due(context)
    if rounds % _CACHE_ROUNDS == 1:
        context.tiles.forget(context.settings.picture_cache_bytes)
    if rounds % _HOUSEKEEPING_ROUNDS == 1:
        outbox.forget_old_events(context)
        forget_old_uploads(context)
        forget_old_packs(context)
        forget_unsaid(context)


def _threads(lanes: Iterable[Lane], *arguments: Any) -> list[threading.Thread]:
    hands, by_kind, stop = arguments
    return [
        # A thread that hangs does not keep the process from ending.
        threading.Thread(target=_work, args=(hands, by_kind, lane, stop), name=f"{lane}-{place}", daemon=True)
        for place, lane in enumerate(lanes)
    ]


def _is_alive(taken_by: str) -> bool:
    """Of another process that runs now; what this process's number had before is of a former life."""
    pid = taken_by.partition(":")[0]
    return pid != str(os.getpid()) and Path("/proc", pid).exists()


def run(settings: Settings) -> None:
    """Until told to stop by SIGTERM or SIGINT; what is at hand is finished first."""
    context = open_context(settings)
    press = Press(2, settings.page_timeout_seconds)
    stop = threading.Event()
    for each in (signal.SIGTERM, signal.SIGINT):
        signal.signal(each, lambda *_: stop.set())
    hands = Hands(context)
    by_kind = handlers_with(context, press, hands.go_on)
    _try(lambda: outbox.free_leases(context, _is_alive))
    threads = _threads((Lane.LOOK, Lane.LOOK, Lane.SEND, Lane.REST, Lane.SCAN), hands, by_kind, stop)
    for thread in threads:
        thread.start()
    while not stop.wait(settings.lease_seconds / 6):
        _try(hands.keep)
        if late := hands.late():
            log.error("a task gives no sign of life, the worker ends and is started again", late=late)
            os._exit(1)
    for thread in threads:
        thread.join()
    press.close()


def _try(act: Callable[[], None]) -> None:
    try:
        act()
    except Exception:
        log.exception("the worker could not look after its leases")
