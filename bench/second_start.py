"""The second start of the demo, until it answers: against importing its code and starting a bare server.

The bare server is the same one, in as many processes, forked from a process that has loaded the same code; it answers
every address with a few bytes and has neither database nor files.
"""

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from pathlib import Path

from tests.ports import free_run

BIN = Path(sys.executable).parent
ROUNDS = 5

BARE = """
import multiprocessing, sys
from types import SimpleNamespace
from pathlib import Path
from flask import Flask
from nod import supervisor
from nod.web.server import Size, listen, serve_app

def bare():
    app = Flask("bare")
    app.extensions["nod_context"] = SimpleNamespace(settings=SimpleNamespace(data_dir=Path(sys.argv[3])))
    app.extensions["nod_largest_body"] = lambda *_: (0, True)
    app.add_url_rule("/healthz", "healthz", lambda: "fine")
    return app

port, count = int(sys.argv[1]), int(sys.argv[2])
sockets = [listen("127.0.0.1", port + place) for place in range(count)]
fork = multiprocessing.get_context("fork")
parts = [fork.Process(target=serve_app, args=(bare, each, Size("bare", 8, grace_seconds=1))) for each in sockets]
for part in parts:
    part.start()
for part in parts:
    part.join()
"""


def until_it_answers(command, port, environment):
    """Seconds from the start of a process until it answers; then it is ended."""
    began = time.perf_counter()
    process = subprocess.Popen(
        command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
    )
    try:
        while True:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/healthz", timeout=5).close()
                return time.perf_counter() - began
            except urllib.error.HTTPError:
                return time.perf_counter() - began
            except OSError:
                assert process.poll() is None, "it ended"
                time.sleep(0.01)
    finally:
        # With all that it has forked.
        os.killpg(process.pid, signal.SIGTERM)
        process.wait()
        while _is_taken(port):
            time.sleep(0.05)


def _is_taken(port):
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


def processes(environment):
    """How many the demo starts."""
    count = "from nod.settings import Settings; print(Settings(demo=True).web_workers + 3)"
    return int(subprocess.check_output([sys.executable, "-c", count], env=environment))


def bench_second_start():
    """Prints both and their ratio, at most 2."""
    with tempfile.TemporaryDirectory() as name:
        port = free_run(16)
        bare_port = port + 4
        environment = os.environ | {"NOD_DATA_DIR": str(Path(name) / "data"), "NOD_PORT": str(port)}
        demo = [BIN / "nod", "demo"]
        (Path(name) / "bare").mkdir()
        count = processes(environment)
        bare = [sys.executable, "-c", BARE, str(bare_port), str(count), str(Path(name) / "bare")]
        until_it_answers(demo, port, environment)
        ours, plain = [], []
        for _ in range(ROUNDS):
            plain.append(until_it_answers(bare, bare_port, os.environ))
            ours.append(until_it_answers(demo, port, environment))
    nod, other = sorted(ours)[ROUNDS // 2], sorted(plain)[ROUNDS // 2]
    print(
        f"{'second start of the demo, until it answers':44} {nod * 1000:9.0f} ms bare {other * 1000:9.0f} ms "
        f"  {nod / other:5.2f} x   limit 2",
        flush=True,
    )


if __name__ == "__main__":
    bench_second_start()
