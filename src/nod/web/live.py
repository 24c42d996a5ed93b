"""The live channel: server-sent events, from a process of its own.

Each client holds a thread, so the channel must not share a process with the API. The database is the truth: one thread
reads it for all, when somebody has knocked and every so often, and a client that was away catches up from the last
event it had (decision 0028).
"""

from __future__ import annotations

import itertools
import threading
from collections import Counter, deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import structlog
from flask import Flask, Response, request

from nod.clock import steady_seconds
from nod.core.acts.refusals import Refusal, TooMany
from nod.services import features
from nod.services.acts import live
from nod.services.acts.bell import Door
from nod.services.acts.context import Context
from nod.services.acts.heartbeats import Beats
from nod.services.acts.live import Event, Hearing, News
from nod.services.people.sign_in import token_hash, who_is, who_is_until
from nod.services.sessions.guests import GuestHearing, guest_eyes
from nod.services.sessions.presence import Presence
from nod.web.errors import register_errors
from nod.web.guard import COOKIE, GUEST_HEADER
from nod.web.server import Larger

KEEP_ALIVE_SECONDS = 4.0
_LOOK_SECONDS = 0.5
_POLL_SECONDS, _ANYWAY_SECONDS = 0.1, 0.5
_BEAT_SECONDS = 2.0
_MOST_KEPT = 2000
_PATIENCE_SECONDS = 120.0
_GUEST_SECONDS = 15
MOST_PER_PERSON, MOST_PER_ADDRESS, MOST_LISTENERS = 20, 120, 184
_RETRY_SECONDS = 30
_TOO_MANY = "Nod is open in too many windows here, so this one does not hear of changes by itself. Close some of them."

log = structlog.get_logger()


class Bell:
    """Reads what is new once for all who listen, and rings. The last of it is kept for whoever is a little behind."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._condition = threading.Condition()
        self._beats = Beats(context.settings.data_dir)
        self._door = Door(context.settings.resolved_live_port, context.secret)
        self.presence = Presence()
        self._kept: deque[Event] = deque(maxlen=_MOST_KEPT)
        self._kept_after = self.last_seq = live.last_seq(context)
        self.epoch = 0
        threading.Thread(target=self._poll, daemon=True, name="live-poll").start()

    def _poll(self) -> None:
        pause, beaten_at, looked_at = threading.Event(), -_BEAT_SECONDS, -_ANYWAY_SECONDS
        while True:
            if steady_seconds() - beaten_at >= _BEAT_SECONDS:
                self._beats.beat("live", "poll", _PATIENCE_SECONDS)
                beaten_at = steady_seconds()
            knocked, now = self._knocked(pause), steady_seconds()
            for said in self._door.take_said():
                self.presence.hear(said, now)
            # A knock may be lost: a look comes all the same. What people say in passing is no reason for one.
            if not knocked and now - looked_at < _ANYWAY_SECONDS:
                continue
            try:
                looked_at = now
                self._look()
            except Exception:
                # Everybody who listens would hear nothing ever after.
                log.exception("the live channel could not ask what is new")
                pause.wait(1.0)

    def _knocked(self, pause: threading.Event) -> bool:
        """Waits for whatever comes. Where nobody can knock, one looks every moment."""
        if self._door.open:
            return self._door.wait(_ANYWAY_SECONDS)
        pause.wait(_POLL_SECONDS)
        return True

    def _look(self) -> None:
        while True:
            news = live.read_news(self._context, self.last_seq)
            if not news.events:
                self.epoch = news.epoch
                return
            with self._condition:
                for event in news.events:
                    if len(self._kept) == _MOST_KEPT:
                        self._kept_after = self._kept[0].seq
                    self._kept.append(event)
                self.last_seq, self.epoch = news.until, news.epoch
                self._condition.notify_all()

    def wait(self, after: int) -> None:
        """Until there is something after `after`, or it is time to look whether anybody still listens."""
        with self._condition:
            self._condition.wait_for(lambda: self.last_seq > after, _LOOK_SECONDS)

    def news(self, after: int) -> News:
        """What is new after a number; read again only for those who are far behind."""
        with self._condition:
            if after >= self._kept_after:
                newer = itertools.takewhile(lambda event: event.seq > after, reversed(self._kept))
                return News(tuple(newer)[::-1], self.last_seq, self.epoch)
        return live.read_news(self._context, after)


def create_live_app(context: Context) -> Flask:
    features.load()
    app = Flask("nod-live", static_folder=None)
    app.extensions["nod_context"] = context
    app.extensions["nod_largest_body"] = lambda *_: (0, Larger.NOBODY)
    register_errors(app)
    listeners = Listeners()
    bell = Bell(context)

    @app.route("/live", methods=["OPTIONS"])
    def ask_first() -> Response:
        # A browser asks before it sends the header by which a guest is known.
        return Response(status=204)

    @app.get("/live")
    def listen() -> Response:
        by = Listener(request.cookies.get(COOKIE, ""), request.headers.get(GUEST_HEADER, ""))
        seat = listeners.take(by.key(context), request.remote_addr or "")
        told = request.headers.get("Last-Event-ID") or request.args.get("after", "")
        known = live.seq_of(context, told) if told else bell.last_seq
        gone = request.environ.get("waitress.client_disconnected", lambda: False)
        response = Response(_stream(context, bell, by, known, gone), mimetype="text/event-stream")
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


@dataclass(frozen=True)
class Listener:
    """By what a listener is known: the cookie of a sign-in, or the secret of a visit to a session by a link."""

    token: str
    guest: str = ""

    def key(self, context: Context) -> str:
        """One for whom places are counted. Raises NotSignedIn, NotFound."""
        if self.guest:
            guest_eyes(context, self.guest)
            return f"guest {token_hash(self.guest)}"
        return who_is(context, self.token).own.person_id

    def hearing(self, context: Context) -> tuple[Hearing, datetime]:
        """What they may know, and until when, unless access changes. Raises as `key` does."""
        # Asked first: whatever changes before the rest is known makes this one old, and it is worked out again.
        epoch = live.present_epoch(context)
        if self.guest:
            project_id, eyes, _ = guest_eyes(context, self.guest)
            # A link is withdrawn, or a session closed, without a change of access: asked again now and then.
            until = context.clock.now() + timedelta(seconds=_GUEST_SECONDS)
            return GuestHearing({project_id: eyes}, epoch), until
        who, ends_at = who_is_until(context, self.token)
        return replace(live.hearing_of(context, who.actor), epoch=epoch), ends_at


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
        response.headers["Access-Control-Allow-Headers"] = GUEST_HEADER
        response.headers["Vary"] = "Origin"


def _stream(context: Context, bell: Bell, by: Listener, known: int | None, gone: Callable[[], bool]) -> Iterator[str]:
    """`change` events in order, each with its name; `start` says from where, `missed` that too much was missed.

    `gone` says whether the window was closed: its place is wanted for the next.
    """
    after = bell.last_seq if known is None else known
    key = live.key_of(context, after)
    try:
        hearing, ends_at = by.hearing(context)
    except Refusal:
        # It ended since the line was opened.
        return
    yield f"retry: 1000\nid: {key}\nevent: {'missed' if known is None else 'start'}\ndata: {key}\n\n"
    spoke_at, passing = steady_seconds(), _Passing(bell.presence)
    while True:
        bell.wait(after)
        if gone():
            return
        now = steady_seconds()
        news = bell.news(after) if bell.last_seq > after else News((), after, bell.epoch)
        if news.epoch > hearing.epoch or context.clock.now() >= ends_at:
            try:
                hearing, ends_at = by.hearing(context)
            except Refusal:
                return
        events, after = hearing.told(news.events), news.until
        words = passing.words(now, hearing) + "".join(_text(*each) for each in events)
        # Silence for what one may not know: a sign of life comes by the clock alone.
        if words or now - spoke_at >= KEEP_ALIVE_SECONDS:
            spoke_at = now
            yield words or ": still here\n\n"


class _Passing:
    """Who is where in sessions, as one listener has heard it so far: all that is new at once, and not too often."""

    def __init__(self, presence: Presence) -> None:
        self._presence, self._heard, self._at = presence, 0, 0.0

    def words(self, now: float, hearing: Hearing) -> str:
        """Empty for nothing new."""
        if now - self._at < _LOOK_SECONDS or self._presence.version <= self._heard:
            return ""
        here, self._heard = self._presence.since(self._heard, hearing.eyes)
        self._at = now
        return f"event: here\ndata: {here}\n\n" if here else ""


def _text(key: str, data: str) -> str:
    return f"id: {key}\nevent: change\ndata: {data}\n\n"
