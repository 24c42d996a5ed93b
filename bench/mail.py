"""A thousand mails of 100 KB taken in by the door, against a bare aiosmtpd with one INSERT and commit for each.

Both servers are processes of their own, with the same clients in turns. Reading and judging them comes after, apart.
"""

import multiprocessing
import smtplib
import sqlite3
import tempfile
import threading
import time
from pathlib import Path

from aiosmtpd.controller import Controller
from tests.ports import free_port
from tests.services.mail_in.letters import address
from tests.world import World

from bench.measure import tell
from nod.clock import Clock
from nod.demo.people import set_up
from nod.mail_door import open_door
from nod.services.acts.context import open_context
from nod.services.press.press import Press
from nod.settings import Settings

MAILS, BYTES, CLIENTS, ROUNDS = 1000, 100_000, 4, 4


class Bare:
    """Keeps each mail by one INSERT, committed before the answer, as safely as Nod does."""

    def __init__(self, path):
        self.path, self.lines = path, threading.local()

    async def handle_DATA(self, _server, _session, envelope):
        line = getattr(self.lines, "line", None)
        if line is None:
            line = self.lines.line = sqlite3.connect(self.path)
            line.execute("PRAGMA journal_mode = wal")
            line.execute("PRAGMA synchronous = full")
            line.execute("CREATE TABLE IF NOT EXISTS mail (id INTEGER PRIMARY KEY, raw BLOB)")
        line.execute("INSERT INTO mail (raw) VALUES (?)", (envelope.original_content,))
        line.commit()
        return "250 kept"


def serve_bare(path, port, ready):
    Controller(Bare(path), hostname="127.0.0.1", port=port, data_size_limit=2**26).start()
    ready.set()
    threading.Event().wait()


def serve_ours(settings, port, ready):
    open_door(open_context(settings), "127.0.0.1", port)
    ready.set()
    threading.Event().wait()


def started(serve, *arguments):
    ready = multiprocessing.Event()
    process = multiprocessing.get_context("fork").Process(target=serve, args=(*arguments, ready), daemon=True)
    process.start()
    ready.wait(30)
    return process


def deliver(port, to, first, count):
    """Seconds for so many mails over so many lines at once."""
    share = count // CLIENTS

    def send(mine):
        with smtplib.SMTP("127.0.0.1", port) as server:
            for place in range(share):
                key = f"<{first}-{mine}-{place}@x.example>"
                head = f"From: Yusuf <yusuf@x.example>\r\nSubject: note\r\nMessage-ID: {key}\r\n\r\n"
                server.sendmail("yusuf@x.example", [to], head + ("x" * 76 + "\r\n") * (BYTES // 78))

    threads = [threading.Thread(target=send, args=(mine,)) for mine in range(CLIENTS)]
    began = time.perf_counter()
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    return time.perf_counter() - began


def main():
    with tempfile.TemporaryDirectory() as name:
        settings = Settings(data_dir=Path(name) / "data", demo=True, password_cost=1)
        context = open_context(settings, Clock())
        context.database.migrate()
        world = World(context, context.clock, Press(1, 20), set_up(context, ()))
        ports = free_port(), free_port()
        processes = [
            started(serve_ours, settings, ports[0]),
            started(serve_bare, str(Path(name) / "bare.db"), ports[1]),
        ]
        to, ours, bare = address(world), 0.0, 0.0
        for turn in range(ROUNDS):
            ours += deliver(ports[0], to, f"o{turn}", MAILS // ROUNDS)
            bare += deliver(ports[1], to, f"b{turn}", MAILS // ROUNDS)
        for each in processes:
            each.kill()
        tell(f"{MAILS} mails of 100 KB taken (limit 3), each", ours / MAILS, bare / MAILS)
        began = time.perf_counter()
        count = world.look()
        each = (time.perf_counter() - began) / count
        print(f"{'the same read and judged afterwards, each':44} {each * 1000:9.2f} ms", flush=True)
        world.press.close()
        context.database.close()


if __name__ == "__main__":
    main()
