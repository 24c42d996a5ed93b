"""Who sends slowly holds a socket and nothing else; what is too large is refused before it is taken in."""

import http.client
import json
import multiprocessing
import socket
import time
import urllib.request
from contextlib import closing

import pytest

from nod.demo import scenario
from nod.services.people.sign_in import DEMO_PASSWORD
from nod.web import server
from nod.web.app import create_app
from nod.web.server import Size, listen, serve_app
from tests.ports import free_port

EMAIL = {each.key: each.email for each in scenario.PEOPLE}
SLOW = 300


@pytest.fixture
def served(world):
    """One process with the four threads of a real one."""
    port = free_port()
    listening = listen("127.0.0.1", port)

    def run():
        serve_app(lambda: create_app(world.context, world.press), listening, Size("web-1", 4, 1))

    process = multiprocessing.get_context("fork").Process(target=run)
    process.start()
    listening.close()
    _answer(port, 60)
    yield port
    process.terminate()
    process.join(10)
    assert process.exitcode == 0


def _answer(port, seconds):
    until = time.monotonic() + seconds
    while True:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/healthz", timeout=5) as answer:
                return json.loads(answer.read())
        except OSError:
            if time.monotonic() > until:
                raise
            time.sleep(0.05)


def _slow(port, head):
    line = socket.create_connection(("127.0.0.1", port), 5)
    line.sendall(head)
    return line


def test_three_hundred_who_send_one_byte_leave_others_served(served):
    heads = (
        b"POST /api/sign-in HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\nContent-Type: application/json\r\n\r\n{",
        b"GET /healthz HTTP/1.1\r\nHost: x\r\nX-Sl",
        b"PUT /api/intake/batches/x/files?name=a HTTP/1.1\r\nHost: x\r\nContent-Length: 1000000\r\n\r\n%",
    )
    lines = [_slow(served, heads[place % len(heads)]) for place in range(SLOW)]
    try:
        for _ in range(20):
            began = time.monotonic()
            assert _answer(served, 10)["version"]
            # Where every thread was held, this took for ever.
            assert time.monotonic() - began < 5
    finally:
        for line in lines:
            line.close()


def test_a_request_that_is_too_slow_is_ended(world, monkeypatch):
    monkeypatch.setattr(server, "_HEAD_SECONDS", 0.2)
    monkeypatch.setattr(server, "_BODY_SECONDS", 0.2)
    monkeypatch.setattr(server, "_CLEANUP_SECONDS", 0)
    port = free_port()
    listening = listen("127.0.0.1", port)
    process = multiprocessing.get_context("fork").Process(
        target=lambda: serve_app(lambda: create_app(world.context, world.press), listening, Size("web-1", 2, 1))
    )
    process.start()
    listening.close()
    try:
        _answer(port, 20)
        for head in (b"GET / HTTP/1.1\r\nX", b"POST /api/sign-in HTTP/1.1\r\nContent-Length: 9\r\n\r\n{"):
            with _slow(port, head) as line:
                line.settimeout(10)
                assert line.recv(100) == b""
    finally:
        process.terminate()
        process.join(10)


@pytest.mark.parametrize(
    ("who", "path", "size", "status"),
    [
        ("", "/api/intake/batches/x/files?name=a", 3_000_000, 401),
        ("marit", "/api/intake/batches/x/files?name=a", 3_000_000, 404),
        ("", "/api/guest/submittal/files?name=a", 30_000_000, 404),
        ("marit", "/api/guest/submittal/files?name=a", 30_000_000, 404),
        ("", "/api/guest/letter/files?name=a", 30_000_000, 404),
        ("marit", "/api/me", 3_000_000, 413),
        ("marit", "/api/planned", 30_000_000, 413),
        ("marit", "/api/intake/batches/x/files?name=a", 10**15, 413),
    ],
)
def test_large_bodies_are_taken_from_who_is_signed_in_or_a_guest_and_where_a_file_belongs(
    served, who, path, size, status
):
    with closing(http.client.HTTPConnection("127.0.0.1", served, timeout=20)) as line:
        answered, kind = _put(line, who, path, size, whole=status == 404 and "guest" not in path)
        assert (answered, kind) == (status, "application/problem+json")


def _put(line, who, path, size, whole):
    headers = {}
    if who:
        body = json.dumps({"email": EMAIL[who], "password": DEMO_PASSWORD})
        line.request("POST", "/api/sign-in", body, {"Content-Type": "application/json"})
        answer = line.getresponse()
        answer.read()
        headers["Cookie"] = "; ".join(each.split(";")[0] for each in answer.headers.get_all("Set-Cookie"))
        line.request("GET", "/api/me", headers=headers)
        headers["X-Nod-Csrf"] = json.loads(line.getresponse().read())["csrf_token"]
    line.putrequest("PUT", path)
    for name, value in {**headers, "Content-Length": str(size)}.items():
        line.putheader(name, value)
    line.endheaders()
    if whole:
        line.send(b"x" * size)
    with line.getresponse() as answer:
        answer.read()
        return answer.status, answer.headers["Content-Type"]
