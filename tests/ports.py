"""Free ports on the loopback."""

import socket


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def free_run(length: int = 3) -> int:
    """The first of `length` ports in a row that are all free."""
    while True:
        first = free_port()
        try:
            probes = [socket.create_server(("127.0.0.1", first + step)) for step in range(length)]
        except (OSError, OverflowError):
            continue
        for probe in probes:
            probe.close()
        return first
