"""The press: processes that read and draw PDFs, and can be stopped without harm to the one that asked."""

from __future__ import annotations

import queue
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, cast

from nod.core.compare.laid import FOUND, Box, ComparedPages, Laying, Rows, Shown
from nod.core.marks.annotation_shapes import Annotation
from nod.core.marks.mark_files import FiledMark, Paper, SummaryHead
from nod.core.sheet.papers import PrintStrip
from nod.formats.files.preview import MOST_ROWS, Preview
from nod.formats.files.unfit import Unfit
from nod.formats.intake.pdf_facts import FileFacts
from nod.formats.mail.arrived import ArrivedMail
from nod.formats.sheet.leaf import Leaf
from nod.formats.sheet.pdf_layers import Layer
from nod.formats.sheet.pdf_links import FileLink
from nod.formats.sheet.pdf_look import WholePage
from nod.formats.sheet.pdf_page import PageLook, PagePicture
from nod.formats.sheet.strips import Strip, joined

_START_SECONDS = 60.0
_MOST_CRASHES = 3
_TWO_PAGES, _SPLIT_PATIENCE = 3.0, 6.0


class PressStopped(Exception):
    """A request took too long or brought its process down; the process has been replaced."""


class PressCrashed(PressStopped):
    """The process died. Whether the request was to blame shows when it is asked again."""


class _Hand:
    """One process of the press and the line to it."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair()
        self._process = subprocess.Popen(
            [sys.executable, "-m", "nod.services.press.press_hand", str(theirs.fileno())], pass_fds=[theirs.fileno()]
        )
        theirs.close()
        self._line: Connection[Any, Any] = Connection(ours.detach())
        # Its start is not counted as part of the first request.
        try:
            ready = self._line.poll(_START_SECONDS) and self._line.recv()
        except (EOFError, OSError):
            ready = False
        if not ready:
            self.end()
            raise PressCrashed("a process of the press did not start")

    def ask(self, request: tuple[Any, ...], timeout_seconds: float) -> Any:
        try:
            self._line.send((timeout_seconds, request))
            if not self._line.poll(timeout_seconds):
                raise PressStopped(f"{request[0]} took longer than {timeout_seconds:.0f} s")
            return self._line.recv()
        except (EOFError, OSError) as error:
            raise PressCrashed(f"{request[0]} brought its process down") from error

    def end(self) -> None:
        self._line.close()
        self._process.send_signal(signal.SIGKILL)
        self._process.wait()


class Press:
    """A fixed number of processes; a caller waits for a free one. Processes start when first needed."""

    def __init__(self, hands: int, timeout_seconds: float) -> None:
        self._hands, self._timeout = hands, timeout_seconds
        self._free: queue.LifoQueue[_Hand | None] = queue.LifoQueue()
        for _ in range(hands):
            self._free.put(None)

    @contextmanager
    def _hand(self) -> Iterator[_Hand]:
        hand = self._free.get()
        try:
            hand = hand or _Hand()
            yield hand
        except PressStopped:
            if hand:
                hand.end()
            hand = None
            raise
        finally:
            self._free.put(hand)

    def begin(self) -> None:
        """Start the processes now, beside what else goes on, so that the first to ask does not wait for them."""
        threading.Thread(target=self._begin, args=(self._hands,), daemon=True).start()

    def _begin(self, more: int) -> None:
        # Who asks is told if one does not start then either.
        with suppress(PressStopped), self._hand():
            if more > 1:
                self._begin(more - 1)

    def _ask(self, *request: Any, patience: float = 1.0) -> Any:
        """`patience` is how many times longer than a page it may take.

        A process may die for reasons of its own, so a file is blamed only when it takes down several in a row.
        """
        for attempt in range(_MOST_CRASHES):
            try:
                with self._hand() as hand:
                    answer = hand.ask(request, self._timeout * patience)
            except PressCrashed:
                if attempt + 1 == _MOST_CRASHES:
                    raise
                continue
            if isinstance(answer, Unfit):
                raise answer
            return answer
        raise AssertionError("unreachable")

    def facts(self, path: Path) -> FileFacts:
        """Raises PressStopped."""
        return cast(FileFacts, self._ask("facts", path))

    def as_sheet(self, source: Path, target: Path, media: str) -> tuple[str, ...]:
        """Raises PressStopped and CannotDraw."""
        return cast("tuple[str, ...]", self._ask("as_sheet", source, target, media, patience=_SPLIT_PATIENCE))

    def preview(self, path: Path, file_name: str, most_rows: int = MOST_ROWS) -> Preview:
        """Raises PressStopped and NoPreview."""
        return cast(Preview, self._ask("preview", path, file_name, most_rows))

    def mail(self, path: Path, into: Path | None, mail_server: str) -> ArrivedMail:
        """Raises PressStopped."""
        return cast(ArrivedMail, self._ask("mail", path, into, mail_server, patience=_SPLIT_PATIENCE))

    def tile(self, path: Path, place: int, level: int, column: int, row: int) -> bytes:
        """Raises PressStopped and CannotDraw."""
        return cast(bytes, self._ask("tile", path, place, level, column, row))

    def first_look(self, path: Path, place: int) -> tuple[list[WholePage], bytes]:
        """Raises PressStopped and CannotDraw."""
        return cast("tuple[list[WholePage], bytes]", self._ask("first_look", path, place))

    def whole_page(self, path: Path, place: int, level: int, strips: int) -> bytes:
        """Drawn by as many processes at once as it has strips. Raises PressStopped and CannotDraw."""

        def strip(each: int) -> Strip | None:
            return cast("Strip | None", self._ask("strip", path, place, level, each, strips))

        with ThreadPoolExecutor(strips) as hands:
            return joined(each for each in hands.map(strip, range(strips)) if each)

    def links(self, path: Path, place: int) -> list[FileLink]:
        """Raises PressStopped and CannotDraw."""
        return cast("list[FileLink]", self._ask("links", path, place))

    def page(self, path: Path, place: int) -> PageLook:
        """Raises PressStopped and CannotDraw."""
        return cast(PageLook, self._ask("page", path, place))

    def picture(self, path: Path, place: int) -> PagePicture:
        """Raises PressStopped and CannotDraw."""
        return cast(PagePicture, self._ask("picture", path, place))

    def split(self, source: Path, target: Path) -> int:
        """Raises PressStopped and CannotSplit."""
        return cast(int, self._ask("split", source, target, patience=_SPLIT_PATIENCE))

    def corners(self, path: Path, place: int, box: Box, most: int) -> tuple[list[tuple[float, float]], bool]:
        """Raises PressStopped and CannotDraw."""
        return cast("tuple[list[tuple[float, float]], bool]", self._ask("corners", path, place, box, most))

    def layers(self, path: Path) -> list[Layer]:
        """Raises PressStopped."""
        return cast("list[Layer]", self._ask("layers", path))

    def with_layers(self, source: Path, target: Path, off: frozenset[int]) -> None:
        """Raises PressStopped."""
        self._ask("with_layers", source, target, off, patience=_SPLIT_PATIENCE)

    def annotations(self, path: Path) -> tuple[list[Annotation], list[Paper]]:
        """Raises PressStopped and CannotAnnotate."""
        return cast("tuple[list[Annotation], list[Paper]]", self._ask("annotations", path, patience=_SPLIT_PATIENCE))

    def print_sheet(
        self, source: Path, target: Path, aside: Path, marks: Sequence[FiledMark] | None, gone: frozenset[str],
        paper: str, strip: PrintStrip,
    ) -> None:  # fmt: skip
        """Raises PressStopped and CannotAnnotate."""
        self._ask("print_sheet", source, target, aside, marks, gone, paper, strip, patience=_SPLIT_PATIENCE)

    def summary(
        self, source: Path, target: Path, aside: Path, marks: Sequence[FiledMark], papers: Sequence[Paper],
        head: SummaryHead, gone: frozenset[str],
    ) -> None:  # fmt: skip
        """Raises PressStopped, CannotAnnotate and CannotDraw."""
        self._ask("summary", source, target, aside, marks, papers, head, gone, patience=_SPLIT_PATIENCE)

    def clips(
        self, source: Path, into: Path, aside: Path, marks: Sequence[FiledMark], papers: Sequence[Paper],
        gone: frozenset[str],
    ) -> None:  # fmt: skip
        """Raises PressStopped, CannotAnnotate and CannotDraw."""
        self._ask("clips", source, into, aside, marks, papers, gone, patience=_SPLIT_PATIENCE)

    def annotate(self, source: Path, target: Path, marks: Sequence[FiledMark], gone: frozenset[str]) -> None:
        """Raises PressStopped and CannotAnnotate."""
        self._ask("annotate", source, target, marks, gone, patience=_SPLIT_PATIENCE)

    def compare(
        self, before: Leaf, after: Leaf, left_out: tuple[Box, ...], *, strict: bool, laying: Laying = FOUND
    ) -> ComparedPages:
        """Raises PressStopped and CannotDraw."""
        return cast(ComparedPages, self._ask("compare", before, after, left_out, strict, laying, patience=_TWO_PAGES))

    def laid_tile(
        self, before: Leaf, after: Leaf, moved: Rows, shown: Shown, level: int, column: int, row: int
    ) -> bytes:
        """Raises PressStopped and CannotDraw."""
        return cast(bytes, self._ask("laid_tile", before, after, moved, shown, level, column, row))

    def overlay(self, before: Leaf, after: Leaf, box: Box, width_px: int, moved: Rows) -> bytes:
        """Raises PressStopped and CannotDraw."""
        return cast(bytes, self._ask("overlay", before, after, box, width_px, moved, patience=_TWO_PAGES))

    def close(self) -> None:
        while not self._free.empty():
            hand = self._free.get()
            if hand:
                hand.end()
