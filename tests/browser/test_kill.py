"""Processes die at any moment; what was acknowledged is there, what was asked for happens, and the trail is sound."""

import os
import random
import signal
import sqlite3
import threading
import time
import urllib.error
from datetime import datetime, timedelta
from pathlib import Path

import pytest

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.world import pdf

pytestmark = pytest.mark.browser

KILLS = int(os.environ.get("NOD_KILLS", "14"))
"""`make kill` does hundreds."""


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
        self.nod, self.stopped = nod, threading.Event()
        self.batch, self.people, self.place = "", {}, 0
        self.files, self.pieces, self.marks, self.answers, self.sent = [], [], [], [], []
        self.registered, self.reviews, self.handed_in, self.trouble = [], [], [], 0
        self.met, self.closed, self.listed, self.asked = [], [], [], []
        self.error = None

    def run(self):
        try:
            while not self.stopped.is_set():
                self.place += 1
                act = ACTS[self.place % len(ACTS)]
                try:
                    act(self)
                except urllib.error.HTTPError:
                    # What a person is told and tries anew: a version that was seen before a death, say.
                    self.trouble += 1
                except OSError:
                    self.trouble += 1
                    time.sleep(0.2)
        except BaseException as error:
            self.error = error
            raise

    def who(self, name):
        if name not in self.people:
            self.people[name] = Person(self.nod.url, EMAILS[name])
        return self.people[name]

    def batch_of(self):
        if not self.batch:
            marit = self.who("marit")
            self.batch = marit("POST", "/api/intake/batches", {"project_id": marit.project_id})["id"]
        return self.batch

    def name(self):
        return f"BFT-TRA-Z1-00-D-A-{2000 + self.place}_P01_S3_Sheet {self.place}.pdf"

    def upload(self):
        file_name = self.name()
        self.files.append(self.who("marit").upload(self.batch_of(), file_name, pdf(file_name))["id"])

    def upload_in_pieces(self):
        """As tus clients do: where an answer does not come, HEAD is asked, and what it calls complete is taken so."""
        marit, file_name = self.who("marit"), self.name()
        content, batch = pdf(file_name), self.batch_of()
        address = marit.begin_upload(batch, file_name, len(content))
        offset = 0
        for _ in range(100):
            try:
                offset = marit.send_piece(address, offset, content[offset : max(offset + 700, len(content) // 2)])
            except OSError:
                self.trouble += 1
                time.sleep(0.2)
                try:
                    offset = marit.ask_offset(address)
                except OSError:
                    continue
            if offset == len(content):
                self.pieces.append(file_name)
                return

    def draw(self):
        marit = self.who("marit")
        lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=20")["lines"]
        self.revision = next(line["revision_id"] for line in lines if line["kind"] == "sheet")
        body = {"marks": [{"page": 0, "kind": "pin", "points": [[self.place, self.place]], "text": self.name()}]}
        (drawn,) = marit("POST", f"/api/sheets/{self.revision}/marks", body)
        self.marks.append(drawn["id"])
        marit("POST", f"/api/sheets/{self.revision}/ink", {"marks": {drawn["id"]: drawn["version"]}})
        text = f"answer {self.place}"
        self.who("leilani")("POST", f"/api/marks/{drawn['id']}/replies", {"text": text})
        self.answers.append(text)

    def register(self):
        marit = self.who("marit")
        found = marit("GET", f"/api/intake/batches/{self.batch_of()}", timeout=30)["arrivals"]
        seen = {each["id"]: each["version"] for each in found if each["state"] in ("waiting", "held")}
        outcomes = marit("POST", f"/api/intake/batches/{self.batch}/register", {"seen": seen}, timeout=60)["outcomes"]
        self.registered += [each["id"] for each in outcomes if each["result"] == "registered"]
        self.batch = ""

    def send(self):
        marit = self.who("marit")
        lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=5")["lines"]
        people = marit("GET", f"/api/addressees?project_id={marit.project_id}")["people"]
        body = {
            "project_id": marit.project_id, "revisions": [lines[0]["revision_id"]],
            "people": [people[0]["who"]["id"]], "purpose": "record", "note": f"number {self.place}",
        }  # fmt: skip
        self.sent.append(marit("POST", "/api/transmittals", body)["id"])

    def review(self):
        marit, leilani = self.who("marit"), self.who("leilani")
        routes = marit("GET", f"/api/routes?project_id={marit.project_id}")
        (route,) = [each["id"] for each in routes if each["name"] == "Check and decide"]
        lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=300")["lines"]
        # One that is in no review yet: every round takes another.
        free = [each for each in lines if each["kind"] == "sheet" and not each["standing"]["with_whom"]]
        line = free[self.place % len(free)]
        body = {
            "project_id": marit.project_id, "route_id": route, "name": f"Round {self.place}",
            "documents": {line["id"]: line["revision_id"]},
        }  # fmt: skip
        review = marit("POST", "/api/reviews", body)["id"]
        self.reviews.append(review)
        step = f"/api/reviews/{review}/steps/" + leilani("GET", f"/api/reviews/{review}")["slip"][0]["id"]
        leilani("POST", f"{step}/pick-up")
        answers = [{"document_id": line["id"], "comment": f"seen {self.place}"}]
        leilani("POST", f"{step}/hand-in", {"answers": answers})
        self.handed_in.append(f"seen {self.place}")

    def meet(self):
        marit, leilani = self.who("marit"), self.who("leilani")
        lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
        free = [each for each in lines if each["kind"] == "sheet" and not each["checked_out"]]
        revision = free[self.place % len(free)]["revision_id"]
        body = {
            "project_id": marit.project_id, "name": f"Meeting {self.place}", "revisions": [revision],
            "closes_at": (datetime.fromisoformat(marit("GET", "/api/me")["now"]) + timedelta(days=1)).isoformat(),
            "parties": [{"kind": "person", "id": leilani("GET", "/api/me")["person"]["id"], "may": "mark"}],
        }  # fmt: skip
        session = "/api/sessions/" + marit("POST", "/api/sessions", body)["id"]
        mark = {"page": 0, "kind": "pin", "points": [[self.place, self.place]], "text": f"met {self.place}"}
        (drawn,) = leilani("POST", f"{session}/sheets/{revision}/marks", {"marks": [mark]})
        self.marks.append(drawn["id"])
        marit("POST", f"/api/marks/{drawn['id']}/state", {"version": drawn["version"], "state": "done"})
        self.met.append(drawn["thread_id"])
        marit("POST", f"{session}/close", {"version": marit("GET", session)["version"]})
        self.closed.append(session.rpartition("/")[2])

    def want(self):
        """A list of submittals, all or none; then one of them is asked for."""
        marit = self.who("marit")
        rows = [f"K{self.place}-{row:02d},Thing {row},SD,GME,2027-08-02,30" for row in range(LISTED)]
        content = "\n".join(["Number,Title,Kind,Responsible,Required,Lead", *rows]).encode()
        address = f"/api/submittals/list?project_id={marit.project_id}&keep=true"
        marit("PUT", address, raw=content, timeout=30)
        self.listed.append(f"K{self.place}")
        asked = f"/api/submittals?project_id={marit.project_id}&words=K{self.place}-07"
        (line,) = marit("GET", asked)["lines"]
        person = self.who("ottilie")("GET", "/api/me")["person"]["id"]
        body = {"submittals": {line["id"]: line["version"]}, "person_id": person}
        marit("POST", "/api/submittals/ask", body)
        self.asked.append(line["id"])


LISTED = 20
ACTS = (
    Worker.upload, Worker.upload_in_pieces, Worker.draw, Worker.meet, Worker.upload_in_pieces, Worker.review,
    Worker.send, Worker.want, Worker.upload_in_pieces, Worker.draw, Worker.register,
)  # fmt: skip


def _kill_some(nod, kills):
    lots = random.Random(kills)  # noqa: S311 - the same deaths every time
    killed = 0
    while killed < kills:
        time.sleep(lots.uniform(0.5, 1.4))
        living = _children(nod.process.pid)
        if living:
            os.kill(lots.choice(living), signal.SIGKILL)
            killed += 1


def _wait_for_the_end_of(pids):
    """The kernel tells the parts that their supervisor is gone."""
    until = time.monotonic() + 20
    while any(Path(f"/proc/{pid}").exists() for pid in pids):
        assert time.monotonic() < until, "parts live on without their supervisor"
        time.sleep(0.1)


def _settled(person):
    """Waits until all that was asked for is done."""
    until, health = time.monotonic() + 120, None
    while time.monotonic() < until:
        try:
            health = person("GET", "/healthz")
            if health["work"]["open"] == 0:
                return health
        except OSError:
            pass
        time.sleep(0.3)
    raise TimeoutError(health)


def test_killing_any_process_at_any_moment_loses_nothing_acknowledged(own_nod):
    own_nod.environment["NOD_LEASE_SECONDS"] = "3"
    own_nod.start()
    worker = Worker(own_nod)
    worker.start()
    _kill_some(own_nod, KILLS)
    # Last, the supervisor itself: its parts go with it, and everything starts again on the same data.
    parts = _children(own_nod.process.pid)
    own_nod.process.kill()
    own_nod.process.wait()
    _wait_for_the_end_of(parts)
    own_nod.start()
    time.sleep(1)
    worker.stopped.set()
    worker.join()
    assert worker.error is None
    assert len(worker.files) + len(worker.pieces) > 6, "too little happened between the deaths"
    assert worker.trouble > 0

    _settled(Person(own_nod.url, EMAILS["marit"]))
    raw = sqlite3.connect(own_nod.data / "nod.db")
    given_up = raw.execute("SELECT kind, tries, lapses, trouble FROM outbox WHERE gave_up_at IS NOT NULL").fetchall()
    assert given_up == []

    def all_of(query):
        return {row[0] for row in raw.execute(query)}

    assert set(worker.files) <= all_of("SELECT id FROM arrival")
    # What HEAD called complete has arrived; what was said twice, as its answer did not come, may be there twice.
    assert set(worker.pieces) <= all_of("SELECT file_name FROM arrival")
    known = "SELECT arrival.id FROM arrival JOIN blob ON blob.sha256 = arrival.sha256 WHERE blob.state = 'known'"
    assert set(worker.files) <= all_of(f"{known} AND blob.page_count = 1")
    assert set(worker.marks) <= all_of("SELECT id FROM mark WHERE removed_at IS NULL")
    assert set(worker.met) <= all_of("SELECT id FROM thread WHERE state = 'done'")
    assert set(worker.closed) <= all_of("SELECT session_id FROM session_record WHERE sha256 != ''")
    assert set(worker.answers) <= all_of("SELECT text FROM reply")
    assert set(worker.registered) <= all_of("SELECT id FROM arrival WHERE revision_id IS NOT NULL")
    assert set(worker.reviews) <= all_of("SELECT id FROM review")
    assert set(worker.handed_in) <= all_of("SELECT comment FROM answer")
    assert set(worker.sent) <= all_of("SELECT id FROM transmittal WHERE pack_sha256 != ''")
    lists = raw.execute(
        "SELECT substr(number, 1, instr(number, '-') - 1) AS name, count(*) FROM submittal"
        " WHERE number GLOB 'K[0-9]*-*' GROUP BY name"
    ).fetchall()
    assert {count for _, count in lists} <= {LISTED}, "a list is half taken in"
    assert set(worker.listed) <= {name for name, _ in lists}
    assert set(worker.asked) <= all_of("SELECT id FROM submittal WHERE state = 'asked for'")
    raw.close()
    verified = own_nod.verify("--files", "--tables")
    assert verified.returncode == 0, verified.stdout
    done = {
        key: len(getattr(worker, key))
        for key in ("files", "pieces", "marks", "registered", "handed_in", "sent", "listed")
    }
    print(f"{KILLS} kills, {worker.trouble} answers that did not come, acknowledged and there: {done}")
