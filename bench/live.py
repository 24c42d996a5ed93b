"""Fifty who listen, fifty acts on ink a second: how long after the answer the last of them has what was done.

Each act goes over HTTP, and its event brings the mark along. Against a bare stream of server-sent events by the same
server, which is handed the same messages by a datagram: without database, access or cookies. The same clients and the
same acts for both, turn by turn.
"""

import http.client
import json
import multiprocessing
import os
import selectors
import shutil
import socket
import statistics
import tempfile
import threading
import time
from contextlib import nullcontext
from dataclasses import dataclass
from pathlib import Path
from types import SimpleNamespace

from flask import Flask, Response
from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.ports import free_port
from tests.world import World, name

from bench.serving import serving
from nod.clock import Clock
from nod.demo.people import set_up
from nod.services.acts.context import open_context
from nod.services.press.press import Press
from nod.settings import Settings
from nod.web.server import Size, serve_app

LISTENERS, ACTS_A_SECOND, SECONDS, ROUNDS, MARKS = 50, 50, 8, 2, 20
NAMES = ("marit", "tomasz", "leilani", "saoirse", "anouk")


def percentile(values, share):
    return sorted(values)[min(len(values) - 1, int(len(values) * share))]


class Clients(threading.Thread):
    """Reads all lines in one thread; notes when each message came to each of them."""

    def __init__(self, lines):
        super().__init__(daemon=True)
        self.came, self.stop = {}, threading.Event()
        self.chooser = selectors.DefaultSelector()
        for line in lines:
            self.chooser.register(line, selectors.EVENT_READ, [b""])

    def run(self):
        while not self.stop.is_set():
            for key, _ in self.chooser.select(0.1):
                text = key.data[0] + key.fileobj.recv(65536)
                now = time.monotonic()
                whole, _, key.data[0] = text.rpartition(b"\n\n")
                for message in whole.split(b"\n\n"):
                    at = message.find(b'"label": "bench-')
                    if at >= 0:
                        number = int(message[at + 16 : message.index(b'"', at + 16)])
                        self.came.setdefault(number, []).append(now)


def open_line(port, cookie, after=""):
    """A line, and what it has said until the first event was whole; `after` is the key of the last event one had."""
    line = socket.create_connection(("127.0.0.1", port), timeout=20)
    asked = f"/live?after={after}" if after else "/live"
    line.sendall(f"GET {asked} HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {cookie}\r\n\r\n".encode())
    head = b""
    while b"\n\n" not in head.partition(b"event: start")[2]:
        head += line.recv(4096)
    assert head.startswith(b"HTTP/1.1 200"), head
    return line, head


def listen(port, cookies):
    """Open lines, past their heads."""
    lines = [open_line(port, cookie)[0] for cookie in cookies]
    for line in lines:
        line.setblocking(False)
    return lines


def measure(act, lines, send):
    """Seconds from each commit to each arrival, of each act itself, and of all acts."""
    clients = Clients(lines)
    clients.start()
    begun, spans, committed = time.monotonic(), [], {}
    for number in range(ACTS_A_SECOND * SECONDS):
        time.sleep(max(0.0, begun + number / ACTS_A_SECOND - time.monotonic()))
        began = time.monotonic()
        answer = act(number)
        committed[number] = time.monotonic()
        spans.append(committed[number] - began)
        send(number, answer)
    took = time.monotonic() - begun
    until = time.monotonic() + 10
    while time.monotonic() < until and sum(map(len, clients.came.values())) < len(lines) * len(committed):
        time.sleep(0.05)
    clients.stop.set()
    clients.join()
    came = [at - committed[number] for number, each in clients.came.items() for at in each]
    assert len(came) == len(lines) * len(committed), f"{len(came)} of {len(lines) * len(committed)} came"
    return came, spans, took


def bare_app(port, data):
    """A stream of what comes by datagram, and nothing else."""
    app, told, condition = Flask("bare"), [], threading.Condition()
    app.extensions["nod_context"] = SimpleNamespace(settings=SimpleNamespace(data_dir=data))
    app.extensions["nod_largest_body"] = lambda *_: (0, True)
    line = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    line.bind(("127.0.0.1", port))

    def hear():
        while True:
            text = line.recv(65536).decode()
            with condition:
                told.append(text)
                condition.notify_all()

    threading.Thread(target=hear, daemon=True).start()

    def stream():
        after = len(told)
        yield "event: start\ndata: x\n\n"
        while True:
            with condition:
                condition.wait_for(lambda: len(told) > after, 0.5)
                new, after = told[after:], len(told)
            if new:
                yield "".join(new)

    @app.get("/live")
    def listen_in():
        return Response(stream(), mimetype="text/event-stream")

    return app


def _processor_seconds(pid):
    parts = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(parts[11]) + int(parts[12])) / os.sysconf("SC_CLK_TCK")


def live_process(server_pid, port):
    """The process that listens on the live port is the one with most threads."""
    children = Path(f"/proc/{server_pid}/task/{server_pid}/children").read_text().split()
    return max(children, key=lambda each: len(os.listdir(f"/proc/{each}/task")))


class Hand:
    """Somebody who renames marks of their own in ink, one after the other, over HTTP."""

    def __init__(self, url, person, revision_id):
        self.person, self.revision_id = person, revision_id
        self.line = http.client.HTTPConnection("127.0.0.1", int(url.rpartition(":")[2]), timeout=30)
        new = {"page": 0, "kind": "cloud", "points": [[100, 100], [200, 100], [200, 160], [100, 160]], "text": "Look"}
        drawn = self.ask("marks", {"marks": [{**new, "points": new["points"]} for _ in range(MARKS)]})
        self.marks = self.ask("ink", {"marks": {each["id"]: each["version"] for each in drawn}})

    def ask(self, what, body):
        headers = {"Cookie": self.person.cookie(), "X-Nod-Csrf": self.person.csrf, "Content-Type": "application/json"}
        self.line.request("POST", f"/api/sheets/{self.revision_id}/{what}", json.dumps(body), headers)
        answer = self.line.getresponse()
        text = answer.read()
        assert answer.status == 200, text
        return json.loads(text)

    def __call__(self, number):
        mark = self.marks[number % MARKS]
        change = {"id": mark["id"], "version": mark["version"], "label": f"bench-{number}"}
        self.marks[number % MARKS] = self.ask("marks/change", {"changes": [change]})[0]
        return self.marks[number % MARKS]


def file_sheet(context, cast):
    """A sheet to mark, filed through services before Nod runs; its revision's id."""
    press = Press(1, 60)
    try:
        ((_, revision_id),) = World(context, context.clock, press, cast).file(name())
    finally:
        press.close()
    return revision_id


@dataclass
class Beside:
    """Seconds from answer to last message, ours and of the bare stream; of the acts; the live process's processor;
    and how long all acts took."""

    ours: list
    plain: list
    acts: list
    used: float = 0.0
    seconds: float = 0.0


def beside_bare(url, server_pid, cookies, act, about, *, around=nullcontext):
    """The same acts told by Nod and by the bare stream, turn by turn; `around` is gone into for each turn of both."""
    port = int(url.rpartition(":")[2]) + 1
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

    live_pid = live_process(server_pid, port)
    found = Beside([], [], [])
    try:
        time.sleep(1.0)
        for _ in range(ROUNDS):
            with around():
                lines = listen(port, cookies)
                before = _processor_seconds(live_pid)
                came, acts, took = measure(act, lines, lambda *_: None)
                found.used += _processor_seconds(live_pid) - before
                found.ours += came
                found.acts += acts
                found.seconds += took
                _close(lines)
                lines = listen(bare_port, cookies)
                came, _, _ = measure(act, lines, hand_over)
                found.plain += came
                _close(lines)
    finally:
        bare.terminate()
        bare.join()
        out.close()
        shutil.rmtree(aside)
    return found


def tell(what, found, more=""):
    """Prints both and their ratio, at most 3; apart from it the act's own time and the processor's per event."""
    nod, other = percentile(found.ours, 0.95), percentile(found.plain, 0.95)
    print(
        f"{what}, {len(found.acts) / found.seconds:.0f} acts a second of {ACTS_A_SECOND} asked, "
        f"p95 {1000 * nod:9.1f} ms bare {1000 * other:9.1f} ms   {nod / other:5.2f} x   limit 3\n"
        f"  median {1000 * statistics.median(found.ours):.1f} ms, bare {1000 * statistics.median(found.plain):.1f} ms; "
        f"the act over HTTP p95 {1000 * percentile(found.acts, 0.95):.1f} ms; {more}"
        f"the live process {1e6 * found.used / len(found.ours):.0f} µs of a processor for each event told to one",
        flush=True,
    )


def bench_live(url, server_pid, cast, revision_id):
    people = {who: Person(url, EMAILS[who]) for who in NAMES}
    cookies = [people[NAMES[place % len(NAMES)]].cookie() for place in range(LISTENERS)]
    act = Hand(url, people["leilani"], revision_id)
    about = {"topic": "marks", "subject": revision_id, "project": cast.project_id, "by": cast.people["leilani"]}
    tell(f"live, {LISTENERS} listeners", beside_bare(url, server_pid, cookies, act, about))


def _close(lines):
    for line in lines:
        line.close()


def served(bench):
    """Runs `bench(url, pid, cast, revision_id)` beside a Nod with a sheet to mark."""
    with tempfile.TemporaryDirectory() as where:
        context = open_context(Settings(data_dir=Path(where), password_cost=1, demo=True), Clock())
        context.database.migrate()
        cast = set_up(context, ())
        sheet = file_sheet(context, cast)
        with serving(Path(where)) as (url, pid):
            bench(url, pid, cast, sheet)
        context.database.close()


if __name__ == "__main__":
    served(bench_live)
