"""The live channel: server-sent events, from a process of its own.

Each client holds a thread, so the channel must not share a process with the API. The database is the truth: one
thread polls it, and a client that was away catches up from the last event it had.
"""

from __future__ import annotations

import json
import threading
from collections import Counter
from collections.abc import Callable, Iterator

import structlog
from flask import Flask, Response, request

from nod.clock import steady_seconds
from nod.core.acts.refusals import NotSignedIn, TooMany
from nod.services.acts import live
from nod.services.acts.context import Context
from nod.services.acts.heartbeats import Beats
from nod.services.acts.live import Event
from nod.services.people.sign_in import who_is
from nod.web.errors import register_errors
from nod.web.guard import COOKIE

KEEP_ALIVE_SECONDS = 4.0
_LOOK_SECONDS = 0.5
_POLL_SECONDS = 0.1
_BEAT_ROUNDS = 20
_PATIENCE_SECONDS = 120.0
MOST_PER_PERSON, MOST_PER_ADDRESS, MOST_LISTENERS = 20, 120, 184
_RETRY_SECONDS = 30
_TOO_MANY = "Nod is open in too many windows here, so this one does not hear of changes by itself. Close some of them."

log = structlog.get_logger()


class Bell:
    """Rings when there are new events."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._condition = threading.Condition()
        self._beats = Beats(context.settings.data_dir)
        self.last_seq = live.last_seq(context)
        threading.Thread(target=self._poll, daemon=True, name="live-poll").start()

    def _poll(self) -> None:
        pause, rounds = threading.Event(), 0
        while not pause.wait(_POLL_SECONDS):
            if rounds % _BEAT_ROUNDS == 0:
                self._beats.beat("live", "poll", _PATIENCE_SECONDS)
            rounds += 1
            try:
                self._look()
            except Exception:
                # Everybody who listens would hear nothing ever after.
                log.exception("the live channel could not ask what is new")
                pause.wait(1.0)

    def _look(self) -> None:
        seq = live.last_seq(self._context)
        if seq != self.last_seq:
            with self._condition:
                self.last_seq = seq
                self._condition.notify_all()

    def wait(self, after: int) -> None:
        """Until there is something after `after`, or it is time to look whether anybody still listens."""
        with self._condition:
            self._condition.wait_for(lambda: self.last_seq > after, _LOOK_SECONDS)


def create_live_app(context: Context) -> Flask:
    app = Flask("nod-live", static_folder=None)
    app.extensions["nod_context"] = context
    app.extensions["nod_largest_body"] = lambda *_: (0, True)
    register_errors(app)
    listeners = Listeners()
    bell = Bell(context)

    @app.get("/live")
    def listen() -> Response:
        token = request.cookies.get(COOKIE, "")
        seat = listeners.take(who_is(context, token).own.person_id, request.remote_addr or "")
        told = request.headers.get("Last-Event-ID") or request.args.get("after", "")
        known = live.seq_of(context, told) if told else bell.last_seq
        gone = request.environ.get("waitress.client_disconnected", lambda: False)
        response = Response(_stream(context, bell, token, known, gone), mimetype="text/event-stream")
        # Also where the stream is closed before it has begun.
        response.call_on_close(seat)
        response.headers["Cache-Control"] = "no-store"
        response.headers["X-Accel-Buffering"] = "no"
        return response

    @app.after_request
    def allow(response: Response) -> Response:
        # Refusals too: the page has to be able to say why it hears nothing.
        _allow_own_pages(response, context)
        return response

    return app


class Listeners:
    """How many windows a person, and an address, has open: each holds a thread, of which there are a fixed number."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._open: Counter[str] = Counter()

    def take(self, person_id: str, address: str) -> Callable[[], None]:
        """Returns what gives the place back, once. Raises TooMany."""
        keys = {f"person {person_id}": MOST_PER_PERSON, f"address {address}": MOST_PER_ADDRESS, "all": MOST_LISTENERS}
        with self._lock:
            if any(self._open[key] >= most for key, most in keys.items()):
                raise TooMany(_RETRY_SECONDS, "too_many_windows", _TOO_MANY)
            self._open.update(keys.keys())
        once = threading.Lock()

        def give_back() -> None:
            if once.acquire(blocking=False):
                with self._lock:
                    self._open.subtract(keys.keys())
                    self._open += Counter()

        return give_back


def _allow_own_pages(response: Response, context: Context) -> None:
    """The channel has a port of its own, so the browser asks whether Nod's pages may read it: those alone may."""
    origin = request.headers.get("Origin", "")
    here = request.host.partition(":")[0]
    if origin in (f"{request.scheme}://{here}:{context.settings.port}", context.settings.resolved_public_url):
        response.headers["Access-Control-Allow-Origin"] = origin
        response.headers["Access-Control-Allow-Credentials"] = "true"
        response.headers["Vary"] = "Origin"


def _stream(context: Context, bell: Bell, token: str, known: int | None, gone: Callable[[], bool]) -> Iterator[str]:
    """`change` events in order, each with its name; `start` says from where, `missed` that too much was missed.

    `gone` says whether the window was closed: its place is wanted for the next.
    """
    after = bell.last_seq if known is None else known
    key = live.key_of(context, after)
    yield f"retry: 1000\nid: {key}\nevent: {'missed' if known is None else 'start'}\ndata: {key}\n\n"
    spoke_at = steady_seconds()
    while True:
        bell.wait(after)
        if gone():
            return
        due = steady_seconds() - spoke_at >= KEEP_ALIVE_SECONDS
        if bell.last_seq <= after and not due:
            continue
        try:
            who = who_is(context, token).actor
        except NotSignedIn:
            return
        events, after = live.events_after(context, who, after)
        # Silence for what one may not know: a sign of life comes by the clock alone.
        if events or due:
            spoke_at = steady_seconds()
            yield "".join(_text(event) for event in events) or ": still here\n\n"


def _text(event: Event) -> str:
    data = json.dumps(
        {"topic": event.topic, "subject": event.subject_id, "project": event.project_id, "by": event.by_person_id}
    )
    return f"id: {event.key}\nevent: change\ndata: {data}\n\n"
