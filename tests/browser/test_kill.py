"""Processes die at any moment; what was acknowledged is there, what was asked for happens, and the trail is sound."""

import os
import random
import signal
import threading
import time
from pathlib import Path

import pytest

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.world import pdf

pytestmark = pytest.mark.browser

SECONDS = 16


def _children(pid):
    """All processes below `pid`, by way of /proc."""
    found = []
    for entry in Path("/proc").iterdir():
        try:
            parent = int((entry / "stat").read_text().rpartition(")")[2].split()[1]) if entry.name.isdigit() else 0
        except (OSError, IndexError):
            continue
        if parent == pid:
            found += [int(entry.name), *_children(int(entry.name))]
    return found


class Worker(threading.Thread):
    """Works without pause, and notes what was acknowledged. A broken line is tried again, as a person would."""

    def __init__(self, nod):
        super().__init__()
        self.nod, self.stopped, self.batch = nod, threading.Event(), ""
        self.files, self.marks, self.trouble = [], [], 0

    def run(self):
        place = 0
        while not self.stopped.is_set():
            place += 1
            try:
                self._one(place)
            except OSError:
                self.trouble += 1
                time.sleep(0.2)

    def _one(self, place):
        marit = Person(self.nod.url, EMAILS["marit"])
        if not self.batch:
            self.batch = marit("POST", "/api/intake/batches", {"project_id": marit.project_id})["id"]
        name = f"BFT-TRA-Z1-00-D-A-{2000 + place}_P01_S3_Sheet {place}.pdf"
        self.files.append(marit.upload(self.batch, name, pdf(name))["id"])
        line = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=1")["lines"][0]
        body = {"marks": [{"page": 0, "kind": "pin", "points": [[place, place]], "text": name}]}
        self.marks.append(marit("POST", f"/api/sheets/{line['revision_id']}/marks", body)[0]["id"])
        self.revision = line["revision_id"]


def _kill_some(nod, seconds):
    lots = random.Random(7)  # noqa: S311 - the same deaths every time
    until, killed = time.monotonic() + seconds, 0
    while time.monotonic() < until:
        time.sleep(lots.uniform(0.7, 1.6))
        living = _children(nod.process.pid)
        if living:
            os.kill(lots.choice(living), signal.SIGKILL)
            killed += 1
    return killed


def _wait_for_the_end_of(pids):
    """The kernel tells the parts that their supervisor is gone."""
    until = time.monotonic() + 20
    while any(Path(f"/proc/{pid}").exists() for pid in pids):
        assert time.monotonic() < until, "parts live on without their supervisor"
        time.sleep(0.1)


def _settled(person, batch):
    """The batch, once every file of it has been looked into."""
    until = time.monotonic() + 90
    while time.monotonic() < until:
        try:
            found = person("GET", f"/api/intake/batches/{batch}")
            health = person("GET", "/healthz")
        except OSError:
            time.sleep(0.3)
            continue
        if health["work"]["open"] == 0 and not any(each["looking"] for each in found["arrivals"]):
            return found, health
        time.sleep(0.3)
    raise TimeoutError(health)


def test_killing_any_process_at_any_moment_loses_nothing_acknowledged(own_nod):
    own_nod.environment["NOD_LEASE_SECONDS"] = "3"
    own_nod.start()
    worker = Worker(own_nod)
    worker.start()
    killed = _kill_some(own_nod, SECONDS)
    # Last, the supervisor itself: its parts go with it, and everything starts again on the same data.
    parts = _children(own_nod.process.pid)
    own_nod.process.kill()
    own_nod.process.wait()
    _wait_for_the_end_of(parts)
    own_nod.start()
    time.sleep(1)
    worker.stopped.set()
    worker.join()
    assert killed > 6
    assert len(worker.files) > 6, f"only {len(worker.files)} acts between {killed} deaths"

    marit = Person(own_nod.url, EMAILS["marit"])
    found, health = _settled(marit, worker.batch)
    arrivals = {each["id"]: each for each in found["arrivals"]}
    assert set(worker.files) <= set(arrivals)
    assert all(arrivals[each]["page_count"] == 1 for each in worker.files)
    drawn = {each["id"] for each in marit("GET", f"/api/sheets/{worker.revision}/marks")}
    assert set(worker.marks) <= drawn
    assert health["work"]["given_up"] == 0

    seen = {each["id"]: each["version"] for each in found["arrivals"]}
    outcomes = marit("POST", f"/api/intake/batches/{worker.batch}/register", {"seen": seen}, timeout=60)["outcomes"]
    results = {each["id"]: each["result"] for each in outcomes}
    assert all(results[each] in ("registered", "held") for each in worker.files)
    verified = own_nod.verify()
    assert verified.returncode == 0, verified.stdout
