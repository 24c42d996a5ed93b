"""What dies, hangs or falls silent is ended and started again, whole."""

import os
import threading
import time

import pytest

from nod.core.access.audiences import for_folders
from nod.services.acts.heartbeats import Beats
from nod.services.acts.live import Event, News
from nod.supervisor import Part, Supervisor
from nod.web import live
from nod.web.live import Bell


@pytest.fixture
def watched(world, monkeypatch):
    """A supervisor whose parts are those of the test."""
    data = world.context.settings.data_dir
    monkeypatch.setattr("nod.supervisor.parts_of", lambda _: [])
    monkeypatch.setattr("nod.supervisor._LOOK_SECONDS", 0.0)
    supervisor = Supervisor(world.context.settings)
    yield supervisor, Beats(data)
    supervisor._end()


def _until(told, seconds=20):
    until = time.monotonic() + seconds
    while not told():
        assert time.monotonic() < until
        time.sleep(0.02)


def test_a_part_that_hangs_in_c_with_the_interpreters_lock_is_ended(watched, tmp_path):
    """As a pattern that backtracks does: no thread of the process gets to run, so that only another can end it."""
    supervisor, beats = watched

    def hang():
        beats.beat("stuck", "main", 0.3)
        (tmp_path / f"{os.getpid()}").touch()
        # One call that is never interrupted.
        sum(range(10**12))

    part = Part("stuck", hang)
    supervisor._parts = [part]
    supervisor._start(part)
    process = supervisor._processes["stuck"]
    _until(lambda: list(tmp_path.iterdir()))

    def ended():
        supervisor._end_silent()
        return process.exitcode is not None

    _until(ended)
    # Its former life does not count against the next.
    assert beats.read("stuck") == []


def test_a_part_that_gives_signs_of_life_is_left_alone(watched):
    supervisor, beats = watched

    def live_on():
        while True:
            beats.beat("well", "main", 5)
            time.sleep(0.02)

    part = Part("well", live_on)
    supervisor._parts = [part]
    supervisor._start(part)
    _until(lambda: beats.read("well"))
    for _ in range(20):
        supervisor._end_silent()
        time.sleep(0.02)
    assert supervisor._processes["well"].is_alive()


def test_the_live_channel_goes_on_asking_after_any_trouble(world, monkeypatch):
    """A locked database ended its thread, and everybody heard nothing ever after."""
    asked, again = [], threading.Event()

    def read_news(_context, after):
        asked.append(1)
        if len(asked) in (2, 3):
            raise RuntimeError("database is locked")
        if len(asked) > 4:
            again.set()
        news = (Event(after + 1, "key", "marks", "r", "p", "x", for_folders()),) if len(asked) > 4 else ()
        return News(news if after < 9 else (), after + len(news), 1)

    monkeypatch.setattr(live.live, "read_news", read_news)
    bell = Bell(world.context)
    assert again.wait(20)
    _until(lambda: bell.last_seq > 4)
    assert [each.thread for each in Beats(world.context.settings.data_dir).read("live")] == ["poll"]
