"""Free ports on the loopback."""

import os
import random
import socket
from contextlib import ExitStack, suppress


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def free_run(length: int = 4) -> int:
    """The first of `length` ports in a row that are all free.

    They lie below those that the system gives out by itself, and tests running beside these look elsewhere:
    whoever opens them does so a moment later.
    """
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw")) % 8
    first = 20_000 + worker * 1_500
    while True:
        first += random.randrange(1, 20)  # noqa: S311 - any will do
        assert first < 20_000 + (worker + 1) * 1_500, "no free ports"
        with ExitStack() as probes, suppress(OSError):
            for step in range(length):
                probes.enter_context(socket.create_server(("127.0.0.1", first + step)))
            return first
