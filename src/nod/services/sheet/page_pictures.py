"""Pictures of pages: whole, in tiles, with layers off; drawn when they are asked for, and kept."""

from __future__ import annotations

import hashlib
import tempfile
import threading
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, nullcontext, suppress
from pathlib import Path

from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, Refusal, RuleBroken
from nod.formats.sheet.pdf_look import WHOLE_PAGE_LEVEL, CannotDraw
from nod.services.access.visibility import see_revision
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.press.press import Press, PressStopped
from nod.store.tables import BlobRow

Source = AbstractContextManager[Path]
"""A file that is borrowed only where something has to be drawn of it."""
_STRIPS = 2
"""Into so many a whole page is cut that takes long to draw; a web process has as many of the press."""


def content_of(context: Context, actor: Actor, revision_id: str) -> str:
    """The SHA-256 behind a revision, for one who may see it. Asked for every tile."""
    with context.database.read() as session:
        return context.database.remember(
            session,
            ("content", actor, revision_id),
            lambda: see_revision(session, actor, revision_id, let_in=True)[0].sha256,
        )


def read_tile(
    context: Context,
    press: Press,
    actor: Actor,
    revision_id: str,
    tile: tuple[int, int, int, int],
    off: frozenset[int] | None = None,
) -> Path:
    """The picture's file, drawn now if it has not been drawn before. `tile` is page, level, column and row.

    With `off` just these layers are off, by their places. Raises NotFound outside the page.
    """
    return draw_tile(context, press, *_seen(context, press, actor, revision_id, off), tile, revision_id)


def read_whole(
    context: Context,
    press: Press,
    actor: Actor,
    revision_id: str,
    leaf: tuple[int, int],
    off: frozenset[int] | None = None,
) -> Path:
    """The whole page; like a tile otherwise. `leaf` is page and level."""
    return draw_whole(context, press, *_seen(context, press, actor, revision_id, off), leaf, revision_id)


def _seen(
    context: Context, press: Press, actor: Actor, revision_id: str, off: frozenset[int] | None
) -> tuple[str, Source]:
    """The file that is drawn, to be borrowed, and the hash its pictures are kept under."""
    sha256 = content_of(context, actor, revision_id)
    if off is None:
        return sha256, context.blobs.local_sheet(sha256)
    layers = _layers_of(context, sha256)
    if not layers or any(place >= layers for place in off):
        raise NotFound(revision_id)
    digest = hashlib.sha256(f"{sha256} without {sorted(off)}".encode()).hexdigest()
    copy = context.tiles.layered_path(digest)
    if not copy.is_file():
        with context.blobs.local_sheet(sha256) as source:
            _switch(press, source, copy, off, revision_id)
        context.tiles.forget_copies(context.settings.layered_cache_bytes)
    return digest, nullcontext(copy)


def _layers_of(context: Context, sha256: str) -> int:
    """How many layers the file has, as was found out when it was looked into."""
    with context.database.read() as session:
        key = ("layers", sha256)
        return context.database.remember(session, key, lambda: len(_listed_layers(session, sha256)))


def _listed_layers(session: Session, sha256: str) -> list[str]:
    found: list[str] = session.get_one(BlobRow, sha256).contents.get("layers") or []
    return found


def _switch(press: Press, source: Path, copy: Path, off: frozenset[int], about: str) -> None:
    copy.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=copy.parent) as aside:
        made = Path(aside) / "layers.pdf"
        try:
            press.with_layers(source, made, off)
        except PressStopped as error:
            raise RuleBroken("page_too_slow", "Switching the layers of this file takes too long.", about) from error
        made.replace(copy)


def draw_tile(
    context: Context, press: Press, kept_as: str, source: Source, tile: tuple[int, int, int, int], about: str
) -> Path:
    """Of the file `source`, whose pictures are kept under the hash `kept_as`. `tile` is page, level, column and row.

    Raises NotFound outside the page, RuleBroken where drawing takes long.
    """
    path = context.tiles.tile_path(kept_as, *tile)
    if not path.is_file():
        with _told(about), source as file:
            context.tiles.keep(path, press.tile(file, *tile))
    return path


def draw_whole(
    context: Context,
    press: Press,
    kept_as: str,
    source: Source,
    leaf: tuple[int, int],
    about: str,
    *,
    wait: bool = True,
) -> Path:
    """`leaf` is page and level. Drawn once for all who ask at the same time; raises as for a tile.

    Raises BlockingIOError where another draws it and one would not `wait`.
    """
    page, level = leaf
    path = context.tiles.whole_path(kept_as, page, level)
    if not path.is_file():
        strips = _STRIPS if level >= WHOLE_PAGE_LEVEL else 1
        with context.tiles.drawing(path, wait=wait), _told(about):
            if not path.is_file():
                with source as file:
                    context.tiles.keep(path, press.whole_page(file, page, level, strips))
    return path


def draw_ahead(context: Context, press: Press, actor: Actor, revision_id: str, leaf: tuple[int, int]) -> None:
    """Begins with a page that is about to be asked for, if it is not kept. Who asks for it is told what is wrong."""
    sha256 = content_of(context, actor, revision_id)
    if context.tiles.whole_path(sha256, *leaf).is_file():
        return

    def draw() -> None:
        with suppress(Refusal, BlockingIOError):
            draw_whole(context, press, sha256, context.blobs.local_sheet(sha256), leaf, revision_id, wait=False)

    threading.Thread(target=draw, daemon=True).start()


@contextmanager
def _told(about: str) -> Iterator[None]:
    """What keeps a page from being drawn, as refusals."""
    try:
        yield
    except CannotDraw as error:
        raise NotFound(about) from error
    except PressStopped as error:
        raise RuleBroken("page_too_slow", "This part of the sheet takes too long to draw.", about) from error


def read_thumbnail(context: Context, actor: Actor, revision_id: str) -> Path:
    """Raises NotFound while there is none."""
    path = context.tiles.thumbnail_path(content_of(context, actor, revision_id), 0)
    if not path.is_file():
        raise NotFound(revision_id)
    return path
