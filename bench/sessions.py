"""Fifty people in a session, fifty acts a second, each saying where they look up to twice a second.

As `bench.live`, on marks that were made in a session: its events are for its people, and where people look passes by
the same lines meanwhile. Against the same bare stream with the same messages, clients and generator.
"""

import http.client
import json
import multiprocessing
import time
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path

from tests.browser.client import Person
from tests.browser.conftest import EMAILS

from bench.live import LISTENERS, MARKS, NAMES, Hand, beside_bare, live_process, open_line, percentile, served, tell
from nod.clock import Clock

LOOKS_A_SECOND = 2
"""Of each person."""
ACTS_MEANWHILE = 20


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


def look_around(url, people, session_id, revision_id, stop, spans):
    """All of them say where they look, one after the other, so often; `people` are (cookie, csrf). A process's work."""
    line = http.client.HTTPConnection("127.0.0.1", int(url.rpartition(":")[2]), timeout=30)
    begun, took = time.monotonic(), []
    while not stop.is_set():
        said = len(took)
        time.sleep(max(0.0, begun + said / (LISTENERS * LOOKS_A_SECOND) - time.monotonic()))
        cookie, csrf = people[said % len(people)]
        left = said % 500
        body = {"revision_id": revision_id, "page": 0, "box": [left, 0, left + 200, 150]}
        headers = {"Cookie": cookie, "X-Nod-Csrf": csrf, "Content-Type": "application/json"}
        began = time.monotonic()
        line.request("POST", f"/api/sessions/{session_id}/here", json.dumps(body), headers)
        answer = line.getresponse()
        answer.read()
        assert answer.status == 204, answer.status
        took.append(time.monotonic() - began)
    spans.send(took)


@contextmanager
def looked_at(*where):
    """While they look. Gives what each saying took, in seconds, when it is over."""
    spawn, took = multiprocessing.get_context("spawn"), []
    stop, (mine, theirs) = spawn.Event(), spawn.Pipe(duplex=False)
    looking = spawn.Process(target=look_around, args=(*where, stop, theirs))
    looking.start()
    try:
        yield took
    finally:
        stop.set()
        took += mine.recv()
        looking.join()


def missed_over_a_reconnect(port, cookies, act, first):
    """Each loses its line, and takes it up where it was. How many events of meanwhile did not come, or came twice."""
    heads = [open_line(port, cookie) for cookie in cookies]
    for line, _ in heads:
        line.close()
    for number in range(first, first + ACTS_MEANWHILE):
        act(number)
    missed = 0
    for cookie, (_, head) in zip(cookies, heads, strict=True):
        key = head.partition(b"event: start\ndata: ")[2].partition(b"\n")[0].decode()
        line, text = open_line(port, cookie, key)
        wanted = {f'"label": "bench-{number}"'.encode() for number in range(first, first + ACTS_MEANWHILE)}
        until = time.monotonic() + 5
        while time.monotonic() < until and any(each not in text for each in wanted):
            text += line.recv(65536)
        missed += sum(text.count(each) != 1 for each in wanted)
        line.close()
    return missed


def _megabytes(pid):
    status = Path(f"/proc/{pid}/status").read_text()
    return int(status.partition("VmRSS:")[2].split()[0]) / 1024


def bench_session(url, server_pid, cast, revision_id):
    people = {who: Person(url, EMAILS[who]) for who in NAMES}
    cookies = [people[NAMES[place % len(NAMES)]].cookie() for place in range(LISTENERS)]
    session_id = make_session(people["marit"], [cast.people[who] for who in NAMES[1:]], revision_id)
    act = MeetingHand(url, people["leilani"], revision_id, session_id)
    about = {"topic": "marks", "subject": revision_id, "project": cast.project_id, "by": cast.people["leilani"]}
    known = [(each.cookie(), each.csrf) for each in people.values()]
    looks = []

    @contextmanager
    def around():
        # In the bare stream's turn too, so that both have the same machine left.
        with looked_at(url, known, session_id, revision_id) as took:
            yield
        looks.extend(took)

    found = beside_bare(url, server_pid, cookies, act, about, around=around)
    port = int(url.rpartition(":")[2]) + 1
    size = _megabytes(live_process(server_pid, port))
    missed = missed_over_a_reconnect(port, cookies, act, 100_000)
    lost = f"missed or told twice over a reconnect of each {missed}; "
    more = f"{lost}where one looks, said {len(looks)} times, p95 {1000 * percentile(looks, 0.95):.1f} ms; "
    tell(f"session, {LISTENERS} people", found, f"{more}the live process's memory {size:.0f} MB; ")


if __name__ == "__main__":
    served(bench_session)
