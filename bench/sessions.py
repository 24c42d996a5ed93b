"""Fifty people in a session, fifty acts a second, each saying where they look up to twice a second.

As `bench.live`, on marks that were made in a session: its events are for its people, and where people look passes by
the same lines meanwhile. Against the same bare stream with the same messages, clients and generator.
"""

import http.client
import json
import multiprocessing
import shutil
import socket
import statistics
import tempfile
import threading
import time
from datetime import timedelta
from pathlib import Path

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.ports import free_port

from bench.live import (
    ACTS_A_SECOND,
    LISTENERS,
    MARKS,
    NAMES,
    ROUNDS,
    Hand,
    _close,
    _part,
    _processor_seconds,
    bare_app,
    file_sheet,
    listen,
    measure,
    percentile,
)
from bench.serving import serving
from nod.clock import Clock
from nod.demo.people import set_up
from nod.services.acts.context import open_context
from nod.settings import Settings
from nod.web.server import Size, serve_app

LOOKS_A_SECOND = 2
"""Of each person."""


def make_session(marit, people, revision_id):
    ends = (Clock().now() + timedelta(hours=2)).isoformat()
    parties = [{"kind": "person", "id": person, "may": "mark"} for person in people]
    body = {
        "project_id": marit.project_id, "name": "Fifty at once", "closes_at": ends, "revisions": [revision_id],
        "parties": parties,
    }  # fmt: skip
    return marit("POST", "/api/sessions", body)["id"]


class MeetingHand(Hand):
    """Renames marks that were made in a session."""

    def __init__(self, url, person, revision_id, session_id):
        self.person, self.revision_id = person, revision_id
        self.line = http.client.HTTPConnection("127.0.0.1", int(url.rpartition(":")[2]), timeout=30)
        new = {"page": 0, "kind": "cloud", "points": [[100, 100], [200, 100], [200, 160], [100, 160]], "text": "Look"}
        where = f"/api/sessions/{session_id}/sheets/{revision_id}/marks"
        self.marks = person("POST", where, {"marks": [new for _ in range(MARKS)]})


class Looking(threading.Thread):
    """All of them say where they look, one after the other, so often; counts what was refused."""

    def __init__(self, url, people, session_id, revision_id):
        super().__init__(daemon=True)
        self.people, self.stop, self.said, self.spans = people, threading.Event(), 0, []
        self.path, self.revision_id = f"/api/sessions/{session_id}/here", revision_id
        self.line = http.client.HTTPConnection("127.0.0.1", int(url.rpartition(":")[2]), timeout=30)

    def run(self):
        begun = time.monotonic()
        while not self.stop.is_set():
            time.sleep(max(0.0, begun + self.said / (LISTENERS * LOOKS_A_SECOND) - time.monotonic()))
            person = self.people[self.said % len(self.people)]
            left = self.said % 500
            body = {"revision_id": self.revision_id, "page": 0, "box": [left, 0, left + 200, 150]}
            headers = {"Cookie": person.cookie(), "X-Nod-Csrf": person.csrf, "Content-Type": "application/json"}
            began = time.monotonic()
            self.line.request("POST", self.path, json.dumps(body), headers)
            answer = self.line.getresponse()
            answer.read()
            assert answer.status == 204, answer.status
            self.spans.append(time.monotonic() - began)
            self.said += 1


def _megabytes(pid):
    status = Path(f"/proc/{pid}/status").read_text()
    return int(status.partition("VmRSS:")[2].split()[0]) / 1024


def bench_session(url, server_pid, cast, revision_id):
    """Prints both and their ratio, at most 3; apart from it the act's own time, and what the live process used."""
    people = {who: Person(url, EMAILS[who]) for who in NAMES}
    cookies = [people[NAMES[place % len(NAMES)]].cookie() for place in range(LISTENERS)]
    port = int(url.rpartition(":")[2]) + 1
    session_id = make_session(people["marit"], [cast.people[who] for who in NAMES[1:]], revision_id)
    act = MeetingHand(url, people["leilani"], revision_id, session_id)
    about = {"topic": "marks", "subject": revision_id, "project": cast.project_id, "by": cast.people["leilani"]}
    bare_port = free_port()
    aside = Path(tempfile.mkdtemp())
    listening = socket.create_server(("127.0.0.1", bare_port), backlog=128)
    bare = multiprocessing.get_context("fork").Process(
        target=serve_app, args=(lambda: bare_app(bare_port, aside), listening, Size("bare", 190, grace_seconds=1))
    )
    bare.start()
    listening.close()
    out = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)

    def hand_over(number, mark):
        data = json.dumps({**about, "marks": [mark], "gone": []})
        out.sendto(f"id: {number:016d}\nevent: change\ndata: {data}\n\n".encode(), ("127.0.0.1", bare_port))

    live_pid = _part(server_pid, port)
    ours, plain, spans, used, looks = [], [], [], 0.0, []
    try:
        time.sleep(1.0)
        for _ in range(ROUNDS):
            # The generator says where people look in both, so that both have the same machine left.
            looking = Looking(url, list(people.values()), session_id, revision_id)
            looking.start()
            lines = listen(port, cookies)
            before = _processor_seconds(live_pid)
            came, took = measure(act, lines, lambda *_: None)
            used += _processor_seconds(live_pid) - before
            ours += came
            spans += took
            _close(lines)
            lines = listen(bare_port, cookies)
            came, _ = measure(act, lines, hand_over)
            plain += came
            _close(lines)
            looking.stop.set()
            looking.join()
            looks += looking.spans
    finally:
        bare.terminate()
        bare.join()
        out.close()
        shutil.rmtree(aside)
    nod, other = percentile(ours, 0.95), percentile(plain, 0.95)
    print(
        f"session, {LISTENERS} people, {ACTS_A_SECOND} acts a second, p95   {1000 * nod:9.1f} ms "
        f"bare {1000 * other:9.1f} ms   {nod / other:5.2f} x   limit 3\n"
        f"  median {1000 * statistics.median(ours):.1f} ms, bare {1000 * statistics.median(plain):.1f} ms; "
        f"the act over HTTP p95 {1000 * percentile(spans, 0.95):.1f} ms; where one looks, said {len(looks)} times, "
        f"p95 {1000 * percentile(looks, 0.95):.1f} ms; the live process {1e6 * used / len(ours):.0f} µs of a processor "
        f"for each event told to one, {_megabytes(live_pid):.0f} MB",
        flush=True,
    )


def main():
    with tempfile.TemporaryDirectory() as where:
        context = open_context(Settings(data_dir=Path(where), password_cost=1, demo=True), Clock())
        context.database.migrate()
        cast = set_up(context, ())
        sheet = file_sheet(context, cast)
        with serving(Path(where)) as (url, pid):
            bench_session(url, pid, cast, sheet)
        context.database.close()


if __name__ == "__main__":
    main()
