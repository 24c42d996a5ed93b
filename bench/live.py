"""Fifty who listen, fifty acts a second: how long after the commit the last of them has heard of it.

Against a bare stream of server-sent events by the same server, which is handed the same messages by a datagram: without
database, access or cookies. The same clients and the same acts for both, turn by turn.
"""

import multiprocessing
import os
import selectors
import shutil
import socket
import statistics
import tempfile
import threading
import time
from pathlib import Path
from types import SimpleNamespace

from flask import Flask, Response
from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.ports import free_port

from bench.serving import serving
from nod.clock import Clock
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.demo.people import set_up
from nod.services.acts.context import acting, open_context
from nod.services.acts.seats import actor_of
from nod.settings import Settings
from nod.web.server import Size, serve_app

LISTENERS, ACTS_A_SECOND, SECONDS, ROUNDS = 50, 50, 8, 2
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
                    at = message.find(b'"subject": "bench-')
                    if at >= 0:
                        number = int(message[at + 18 : message.index(b'"', at + 18)])
                        self.came.setdefault(number, []).append(now)


def listen(port, cookies):
    """Open lines, past their heads."""
    lines = []
    for cookie in cookies:
        line = socket.create_connection(("127.0.0.1", port), timeout=20)
        line.sendall(f"GET /live HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {cookie}\r\n\r\n".encode())
        head = b""
        while b"event: start" not in head:
            head += line.recv(4096)
        assert head.startswith(b"HTTP/1.1 200"), head
        line.setblocking(False)
        lines.append(line)
    return lines


def measure(act, lines, send):
    """Seconds from each commit to each arrival, and of each act itself."""
    clients = Clients(lines)
    clients.start()
    begun, spans, committed = time.monotonic(), [], {}
    for number in range(ACTS_A_SECOND * SECONDS):
        time.sleep(max(0.0, begun + number / ACTS_A_SECOND - time.monotonic()))
        began = time.monotonic()
        act(number)
        committed[number] = time.monotonic()
        spans.append(committed[number] - began)
        send(number)
    until = time.monotonic() + 10
    while time.monotonic() < until and sum(map(len, clients.came.values())) < len(lines) * len(committed):
        time.sleep(0.05)
    clients.stop.set()
    clients.join()
    came = [at - committed[number] for number, each in clients.came.items() for at in each]
    assert len(came) == len(lines) * len(committed), f"{len(came)} of {len(lines) * len(committed)} came"
    return came, spans


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


def _part(server_pid, port):
    """The process that listens on the live port is the one with most threads."""
    children = Path(f"/proc/{server_pid}/task/{server_pid}/children").read_text().split()
    return max(children, key=lambda each: len(os.listdir(f"/proc/{each}/task")))


def bench_live(url, server_pid, data):
    """Prints both and their ratio, at most 3; apart from it the act's own time and the processor's per event."""
    people = {who: Person(url, EMAILS[who]) for who in NAMES}
    cookies = [people[NAMES[place % len(NAMES)]].cookie() for place in range(LISTENERS)]
    port = int(url.rpartition(":")[2]) + 1
    context = open_context(Settings(data_dir=Path(data), port=port - 1))
    with context.database.read() as session:
        project_id = people["marit"].project_id
        person = people["marit"]("GET", "/api/me")["person"]["id"]
        actor = actor_of(session, person)

    def act(number):
        with acting(context, actor) as each:
            each.record(project_id, Fact(FactKind.SIGNED_IN, Subject("person", person), "bench"))
            each.tell(project_id, "marks", f"bench-{number}")

    bare_port = free_port()
    aside = Path(tempfile.mkdtemp())
    listening = socket.create_server(("127.0.0.1", bare_port), backlog=128)
    bare = multiprocessing.get_context("fork").Process(
        target=serve_app, args=(lambda: bare_app(bare_port, aside), listening, Size("bare", 190, grace_seconds=1))
    )
    bare.start()
    listening.close()
    out = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)

    def hand_over(number):
        data = f'{{"topic": "marks", "subject": "bench-{number}", "project": "{project_id}", "by": "{person}"}}'
        out.sendto(f"id: {number:016d}\nevent: change\ndata: {data}\n\n".encode(), ("127.0.0.1", bare_port))

    live_pid = _part(server_pid, port)
    ours, plain, spans, used = [], [], [], 0.0
    try:
        time.sleep(1.0)
        for _ in range(ROUNDS):
            lines = listen(port, cookies)
            before = _processor_seconds(live_pid)
            came, took = measure(act, lines, lambda _: None)
            used += _processor_seconds(live_pid) - before
            ours += came
            spans += took
            _close(lines)
            lines = listen(bare_port, cookies)
            came, _ = measure(act, lines, hand_over)
            plain += came
            _close(lines)
    finally:
        bare.terminate()
        bare.join()
        out.close()
        shutil.rmtree(aside)
        context.database.close()
    nod, other = percentile(ours, 0.95), percentile(plain, 0.95)
    print(
        f"live, {LISTENERS} listeners, {ACTS_A_SECOND} acts a second, p95    {1000 * nod:9.1f} ms "
        f"bare {1000 * other:9.1f} ms   {nod / other:5.2f} x   limit 3\n"
        f"  median {1000 * statistics.median(ours):.1f} ms, bare {1000 * statistics.median(plain):.1f} ms; "
        f"the act itself p95 {1000 * percentile(spans, 0.95):.1f} ms; "
        f"the live process {1e6 * used / len(ours):.0f} µs of a processor for each event told to one",
        flush=True,
    )


def _close(lines):
    for line in lines:
        line.close()


def main():
    with tempfile.TemporaryDirectory() as name:
        context = open_context(Settings(data_dir=Path(name), password_cost=1, demo=True), Clock())
        context.database.migrate()
        set_up(context, ())
        context.database.close()
        with serving(Path(name)) as (url, pid):
            bench_live(url, pid, name)


if __name__ == "__main__":
    main()
