"""A process of the press: takes requests from its line until the line is closed."""

from __future__ import annotations

import resource
import signal
import sys
from multiprocessing.connection import Connection
from typing import Any

from nod.formats.pdf_facts import read_facts
from nod.formats.pdf_look import CannotDraw, Looker

_MOST_MEMORY_BYTES = 4 * 1024**3
_GRACE_SECONDS = 5


def main() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
    line: Connection[Any, Any] = Connection(int(sys.argv[1]))
    looker = Looker()
    acts: dict[str, Any] = {"facts": read_facts, "tile": looker.tile, "first_look": looker.first_look}
    line.send("ready")
    while True:
        try:
            timeout_seconds, (name, *arguments) = line.recv()
        except EOFError:
            return
        # The kernel ends this process even inside a C loop, should the one that asked be gone by then.
        signal.alarm(int(timeout_seconds) + _GRACE_SECONDS)
        try:
            answer = acts[name](*arguments)
        except CannotDraw as error:
            answer = error
        signal.alarm(0)
        line.send(answer)


if __name__ == "__main__":
    main()
