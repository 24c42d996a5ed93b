"""The worker: drains the outbox. Any number of workers may run.

Two threads look into files, one sends, one does what nobody may be kept waiting by (large ZIPs, the search index), and
one reads scans by OCR, which takes seconds a page.
"""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterable
from typing import Any

import structlog

from nod.core.refusals import DiskFull
from nod.services import outbox
from nod.services.comparing import compare_files
from nod.services.context import Context, open_context
from nod.services.folder_packs import forget_old_packs, make_pack
from nod.services.looking import look_into
from nod.services.notices import send_summaries
from nod.services.outbox import Handler
from nod.services.press import Press
from nod.services.reading_scans import read_scan
from nod.services.splitting import split_set
from nod.services.unpacking import unpack_archive
from nod.services.uploads import forget_old_uploads
from nod.settings import Settings

LOOK_KINDS = ("look_into", "split", "compare", "unpack")
SEND_KINDS = ("pack", "mail")
REST_KINDS = ("index_words", "pack_folder")
OCR_KINDS = ("read_scan",)
_IDLE_SECONDS = 0.15
_FULL_SECONDS = 10.0
_HOUSEKEEPING_ROUNDS = 20_000
_SUMMARY_ROUNDS = 100

log = structlog.get_logger()


def handlers_with(press: Press) -> dict[str, Handler]:
    def look(context: Context, key: str, payload: dict[str, Any]) -> None:
        look_into(context, press, payload, lambda: outbox.keep_on(context, key))

    def split(context: Context, _key: str, payload: dict[str, Any]) -> None:
        split_set(context, press, payload)

    def compare(context: Context, _key: str, payload: dict[str, Any]) -> None:
        compare_files(context, press, payload)

    def unpack(context: Context, _key: str, payload: dict[str, Any]) -> None:
        unpack_archive(context, payload)

    def pack_folder(context: Context, key: str, payload: dict[str, Any]) -> None:
        make_pack(context, payload, lambda: outbox.keep_on(context, key))

    def read(context: Context, key: str, payload: dict[str, Any]) -> None:
        read_scan(context, press, payload, lambda: outbox.keep_on(context, key))

    own: dict[str, Handler] = {"look_into": look, "split": split, "compare": compare, "unpack": unpack}
    own |= {"pack_folder": pack_folder, "read_scan": read}
    return outbox.handlers(own)


def drain(context: Context, by_kind: dict[str, Handler], name: str, kinds: tuple[str, ...]) -> int:
    """Do all that is ready now; returns how many tasks were tried."""
    count = 0
    while outbox.waiting(context, kinds):
        task = outbox.take(context, name, kinds)
        if task is None:
            break
        trouble = outbox.do_one(context, task, by_kind)
        count += 1
        if trouble:
            log.warning("put off", kind=task.kind, key=task.key, tries=task.tries, trouble=trouble)
    return count


def _work(context: Context, by_kind: dict[str, Handler], kinds: tuple[str, ...], stop: threading.Event) -> None:
    name = f"{os.getpid()}:{threading.current_thread().name}"
    rounds = 0
    while not stop.is_set():
        rounds += 1
        try:
            drain(context, by_kind, name, kinds)
            if kinds == SEND_KINDS:
                _keep_house(context, rounds)
        except DiskFull:
            # Not even that can be noted. What was at hand is taken up again when its lease has run out.
            log.error("no room left on the disk", waits_seconds=_FULL_SECONDS)
            stop.wait(_FULL_SECONDS)
        stop.wait(_IDLE_SECONDS)


def _keep_house(context: Context, rounds: int) -> None:
    if rounds % _SUMMARY_ROUNDS == 1:
        send_summaries(context)
    if rounds % _HOUSEKEEPING_ROUNDS == 1:
        outbox.forget_old_events(context)
        forget_old_uploads(context)
        forget_old_packs(context)


def _threads(kinds_each: Iterable[tuple[str, ...]], *arguments: Any) -> list[threading.Thread]:
    context, by_kind, stop = arguments
    return [
        threading.Thread(target=_work, args=(context, by_kind, kinds, stop), name=f"{kinds[0]}-{place}")
        for place, kinds in enumerate(kinds_each)
    ]


def run(settings: Settings) -> None:
    """Until told to stop by SIGTERM or SIGINT; what is at hand is finished first."""
    context = open_context(settings)
    press = Press(2, settings.page_timeout_seconds)
    stop = threading.Event()
    for each in (signal.SIGTERM, signal.SIGINT):
        signal.signal(each, lambda *_: stop.set())
    threads = _threads((LOOK_KINDS, LOOK_KINDS, SEND_KINDS, REST_KINDS, OCR_KINDS), context, handlers_with(press), stop)
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    press.close()
