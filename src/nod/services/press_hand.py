"""A process of the press: takes requests from its line until the line is closed."""

from __future__ import annotations

import resource
import signal
import sys
from collections.abc import Callable
from functools import partial
from multiprocessing.connection import Connection
from typing import Any

from nod.formats.marks_summary import write_summary
from nod.formats.pdf_compare import compare_pages, laid_tile, overlay
from nod.formats.pdf_corners import Corners
from nod.formats.pdf_facts import read_facts
from nod.formats.pdf_layers import read_layers, with_layers
from nod.formats.pdf_look import CannotDraw, Looker
from nod.formats.pdf_marks import CannotAnnotate, annotate
from nod.formats.pdf_marks_in import read_annotations
from nod.formats.pdf_page import look_at_page, picture_of_page
from nod.formats.pdf_print import write_print
from nod.formats.pdf_split import CannotSplit, split_pages

_MOST_MEMORY_BYTES = 4 * 1024**3
_GRACE_SECONDS = 5


def acts_of(looker: Looker) -> dict[str, Callable[..., Any]]:
    """What can be asked for, by name."""
    return {
        "facts": read_facts,
        "tile": looker.tile,
        "first_look": looker.first_look,
        "page": partial(look_at_page, looker),
        "picture": partial(picture_of_page, looker),
        "annotate": annotate,
        "print_sheet": write_print,
        "corners": Corners(looker).find,
        "summary": partial(write_summary, looker),
        "layers": read_layers,
        "with_layers": with_layers,
        "annotations": read_annotations,
        "split": split_pages,
        "compare": partial(compare_pages, looker),
        "overlay": partial(overlay, looker),
        "laid_tile": partial(laid_tile, looker),
    }


def main() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
    line: Connection[Any, Any] = Connection(int(sys.argv[1]))
    acts = acts_of(Looker())
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
        except (CannotDraw, CannotSplit, CannotAnnotate) as error:
            answer = error
        signal.alarm(0)
        line.send(answer)


if __name__ == "__main__":
    main()
