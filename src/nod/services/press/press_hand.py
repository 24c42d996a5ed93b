"""A process of the press: takes requests from its line until the line is closed."""

from __future__ import annotations

import resource
import signal
import sys
from collections.abc import Callable
from functools import partial
from importlib import import_module
from multiprocessing.connection import Connection
from typing import Any

from nod.formats.files.unfit import Unfit
from nod.formats.intake.pdf_facts import read_facts
from nod.formats.sheet.pdf_corners import Corners
from nod.formats.sheet.pdf_look import Looker, warm
from nod.formats.sheet.pdf_page import look_at_page, picture_of_page

_MOST_MEMORY_BYTES = 4 * 1024**3
_GRACE_SECONDS = 5


def _later(module: str, name: str) -> Callable[..., Any]:
    """What is seldom asked for is loaded when it is: a process of the press has to start quickly."""
    return lambda *arguments: getattr(import_module(module), name)(*arguments)


def acts_of(looker: Looker) -> dict[str, Callable[..., Any]]:
    """What can be asked for, by name."""
    return {
        "facts": read_facts,
        "as_sheet": _later("nod.formats.sheet.as_sheet", "as_sheet"),
        "mail": _later("nod.formats.mail.arrived", "read_arrived"),
        "preview": _later("nod.formats.files.preview", "read_preview"),
        "tile": looker.tile,
        "first_look": looker.first_look,
        "strip": looker.strip,
        "page": partial(look_at_page, looker),
        "picture": partial(picture_of_page, looker),
        "annotate": _later("nod.formats.marks.pdf_marks", "annotate"),
        "print_sheet": _later("nod.formats.marks.pdf_print", "write_print"),
        "links": partial(_later("nod.formats.sheet.pdf_links", "links_of"), looker),
        "corners": Corners(looker).find,
        "summary": partial(_later("nod.formats.marks.marks_summary", "write_summary"), looker),
        "clips": partial(_later("nod.formats.marks.marks_summary", "write_clips"), looker),
        "layers": _later("nod.formats.sheet.pdf_layers", "read_layers"),
        "with_layers": _later("nod.formats.sheet.pdf_layers", "with_layers"),
        "annotations": _later("nod.formats.marks.pdf_marks_in", "read_annotations"),
        "split": _later("nod.formats.intake.pdf_split", "split_pages"),
        "compare": partial(_later("nod.formats.sheet.pdf_compare", "compare_pages"), looker),
        "overlay": partial(_later("nod.formats.sheet.pdf_compare", "overlay"), looker),
        "laid_tile": partial(_later("nod.formats.sheet.pdf_compare", "laid_tile"), looker),
    }


def main() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
    line: Connection[Any, Any] = Connection(int(sys.argv[1]))
    acts = acts_of(Looker())
    warm()
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
        except Unfit as error:
            answer = error
        signal.alarm(0)
        line.send(answer)


if __name__ == "__main__":
    main()
