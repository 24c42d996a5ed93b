"""The sheet: its pages as the view needs them, its tiles and thumbnails."""

from __future__ import annotations

import hashlib
import tempfile
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access import Level
from nod.core.geometry import PageBox
from nod.core.marks import CLOUD_ARC_MM, COUNT_MM, INKS, SYMBOL_MM, SYMBOLS, TICK_MM, VALUE_MM
from nod.core.refusals import NotFound, Refusal, RuleBroken
from nod.core.sheet_size import points_to_mm
from nod.formats.pdf_look import (
    FIRST_LEVEL,
    LARGE_LEVEL,
    TILE_PX,
    TOP_LEVEL,
    WHOLE_PAGE_LEVEL,
    CannotDraw,
    part_rows,
    size_at,
)  # fmt: skip
from nod.services.answers import Answered
from nod.services.context import Context
from nod.services.press import Press, PressStopped
from nod.services.seats import Actor
from nod.services.seeing import see_revision
from nod.services.sign_in import Me, SignedIn, read_me
from nod.store.tables import FILED_ORDER, BlobRow, PageRow, RevisionRow


class SheetPage(Answered):
    """One page as seen: size in points and millimetres, and the matrix from PDF points to the view (y down).

    `name` is what the file calls it where that is not its place.
    """

    name: str
    width_pt: float
    height_pt: float
    width_mm: float
    height_mm: float
    size_name: str
    to_view: tuple[float, float, float, float, float, float]


class DrawnWith(Answered):
    """What marks are drawn with: inks by name, symbols with their words, sizes on paper."""

    inks: dict[str, str]
    symbols: dict[str, str]
    cloud_arc_mm: float
    symbol_mm: float
    count_mm: float
    tick_mm: float
    value_mm: float


DRAWN_WITH = DrawnWith(
    inks=INKS, symbols=SYMBOLS, cloud_arc_mm=CLOUD_ARC_MM, symbol_mm=SYMBOL_MM, count_mm=COUNT_MM, tick_mm=TICK_MM,
    value_mm=VALUE_MM,
)  # fmt: skip


class LayerShown(Answered):
    """`on` when the file is opened."""

    name: str
    on: bool


class Layers(Answered):
    layers: list[LayerShown]


class Corners(Answered):
    """Ends and crossings of the drawing's lines, in points of user space; `more` where not all are told."""

    points: list[tuple[float, float]]
    more: bool


_MOST_CORNERS = 3000


class SheetRevision(Answered):
    id: str
    code: str
    superseded: bool


class Sheet(Answered):
    """A revision as the sheet view opens it. `revisions` from the oldest on.

    Up to `whole_level` a page is asked for whole, in one or two parts, and above it by tiles; up to `large_level` it
    can be had whole.
    """

    document_id: str
    project_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    status: str
    verdict: str
    superseded: bool
    current_revision: str
    tile_px: int
    first_level: int
    whole_level: int
    large_level: int
    top_level: int
    pages: list[SheetPage]
    revisions: list[SheetRevision]
    may_mark: bool
    drawn_with: DrawnWith


class SheetOpening(Answered):
    """What the page of a sheet asks for first: who looks, and the sheet."""

    me: Me
    sheet: Sheet


def open_sheet(context: Context, who: SignedIn, revision_id: str) -> SheetOpening:
    """Raises NotFound for one who may not see it."""
    return SheetOpening(me=read_me(context, who), sheet=read_sheet(context, who.actor, revision_id))


def read_sheet(context: Context, actor: Actor, revision_id: str) -> Sheet:
    with context.database.read() as session:
        return show_sheet(session, actor, revision_id)


def show_sheet(session: Session, actor: Actor, revision_id: str) -> Sheet:
    """Raises NotFound for one who may not see it."""
    revision, document, seat = see_revision(session, actor, revision_id)
    labels = session.get_one(BlobRow, revision.sha256).contents.get("labels", [])
    pages = session.scalars(select(PageRow).where(PageRow.sha256 == revision.sha256).order_by(PageRow.place))
    revisions = session.scalars(
        select(RevisionRow).where(RevisionRow.document_id == document.id).order_by(RevisionRow.filed_at, FILED_ORDER)
    )
    return Sheet(
        document_id=document.id,
        project_id=document.project_id,
        revision_id=revision.id,
        number=document.number,
        title=revision.title,
        revision=revision.code,
        status=revision.status,
        verdict=document.verdict if document.revision_id == revision.id else "",
        superseded=revision.superseded_at is not None,
        current_revision=document.revision,
        tile_px=TILE_PX,
        first_level=FIRST_LEVEL,
        whole_level=WHOLE_PAGE_LEVEL,
        large_level=LARGE_LEVEL,
        top_level=TOP_LEVEL,
        pages=[show_page(page, labels) for page in pages],
        revisions=[
            SheetRevision(id=each.id, code=each.code, superseded=each.superseded_at is not None) for each in revisions
        ],
        may_mark=seat.at(document.folder_id) >= Level.MARK and actor.looker is None,
        drawn_with=DRAWN_WITH,
    )


def show_page(row: PageRow, labels: Sequence[str] = ()) -> SheetPage:
    box = PageBox(row.left, row.bottom, row.right, row.top, row.rotation)
    width, height = box.view_size()
    label = labels[row.place] if row.place < len(labels) else ""
    return SheetPage(
        name="" if label == str(row.place + 1) else label,
        width_pt=width,
        height_pt=height,
        width_mm=points_to_mm(width, row.user_unit),
        height_mm=points_to_mm(height, row.user_unit),
        size_name=row.size_name,
        to_view=box.to_view().numbers(),
    )


def find_page(context: Context, actor: Actor, revision_id: str, place: int) -> SheetPage:
    """Raises NotFound for one who may not see it, or a page that is not there."""
    sha256 = _content_of(context, actor, revision_id)
    with context.database.read() as session:
        row = session.get(PageRow, (sha256, place))
        if row is None:
            raise NotFound(revision_id)
        return show_page(row)


def parts_of(page: SheetPage) -> list[tuple[float, float]]:
    """Where each part of the page at `WHOLE_PAGE_LEVEL` begins and how high it is, in hundredths of the page."""
    height_px = size_at(page.width_pt, page.height_pt, WHOLE_PAGE_LEVEL)[1]
    rows = part_rows(height_px, WHOLE_PAGE_LEVEL)
    return [(100 * upper / height_px, 100 * (lower - upper) / height_px) for upper, lower in rows]


def _content_of(context: Context, actor: Actor, revision_id: str) -> str:
    """The SHA-256 behind a revision, for one who may see it. Asked for every tile."""
    with context.database.read() as session:
        return context.database.remember(
            session, ("content", actor, revision_id), lambda: see_revision(session, actor, revision_id)[0].sha256
        )


def list_layers(context: Context, press: Press, actor: Actor, revision_id: str) -> Layers:
    """In the file's order; a file without layers is not opened for it."""
    with context.database.read() as session:
        sha256 = see_revision(session, actor, revision_id)[0].sha256
        known = session.get_one(BlobRow, sha256).contents.get("layers")
    try:
        found = press.layers(context.blobs.sheet_path(sha256)) if known else []
    except PressStopped as error:
        raise RuleBroken("file_slow", "Reading the layers of this file takes too long.", revision_id) from error
    return Layers(layers=[LayerShown(name=each.name, on=each.on) for each in found])


def list_corners(
    context: Context, press: Press, actor: Actor, revision_id: str, page: int, box: tuple[float, float, float, float]
) -> Corners:
    """Within a box of user space (left, low, right, high). Raises NotFound for a page that is not there."""
    sha256 = _content_of(context, actor, revision_id)
    try:
        points, more = press.corners(context.blobs.sheet_path(sha256), page, box, _MOST_CORNERS)
    except CannotDraw as error:
        raise NotFound(revision_id) from error
    except PressStopped as error:
        raise RuleBroken("page_too_slow", "The lines of this page take too long to read.", revision_id) from error
    return Corners(points=points, more=more)


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


def read_part(
    context: Context,
    press: Press,
    actor: Actor,
    revision_id: str,
    leaf: tuple[int, int, int],
    off: frozenset[int] | None = None,
) -> Path:
    """A part of the whole page; like a tile otherwise. `leaf` is page, level and part."""
    return draw_part(context, press, *_seen(context, press, actor, revision_id, off), leaf, revision_id)


def _seen(
    context: Context, press: Press, actor: Actor, revision_id: str, off: frozenset[int] | None
) -> tuple[str, Path]:
    """The file that is drawn, and the hash its pictures are kept under."""
    sha256 = _content_of(context, actor, revision_id)
    source = context.blobs.sheet_path(sha256)
    if off is None:
        return sha256, source
    digest = hashlib.sha256(f"{sha256} without {sorted(off)}".encode()).hexdigest()
    copy = context.tiles.layered_path(digest)
    if not copy.is_file():
        _switch(press, source, copy, off, revision_id)
    return digest, copy


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
    context: Context, press: Press, kept_as: str, source: Path, tile: tuple[int, int, int, int], about: str
) -> Path:
    """Of the file `source`, whose pictures are kept under the hash `kept_as`. `tile` is page, level, column and row.

    Raises NotFound outside the page, RuleBroken where drawing takes long.
    """
    path = context.tiles.tile_path(kept_as, *tile)
    if not path.is_file():
        with _told(about):
            context.tiles.keep(path, press.tile(source, *tile))
    return path


def draw_part(
    context: Context,
    press: Press,
    kept_as: str,
    source: Path,
    leaf: tuple[int, int, int],
    about: str,
    *,
    wait: bool = True,
) -> Path:
    """`leaf` is page, level and part. Drawn once for all who ask at the same time; raises as for a tile.

    Raises BlockingIOError where another draws it and one would not `wait`.
    """
    path = context.tiles.part_path(kept_as, *leaf)
    if not path.is_file():
        with context.tiles.drawing(path, wait=wait), _told(about):
            if not path.is_file():
                context.tiles.keep(path, press.part(source, *leaf))
    return path


def draw_ahead(context: Context, press: Press, actor: Actor, revision_id: str, leaf: tuple[int, int, int]) -> None:
    """Begins with a part that is about to be asked for, if it is not kept. Who asks for it is told what is wrong."""
    sha256 = _content_of(context, actor, revision_id)
    if context.tiles.part_path(sha256, *leaf).is_file():
        return

    def draw() -> None:
        with suppress(Refusal, BlockingIOError):
            draw_part(context, press, sha256, context.blobs.sheet_path(sha256), leaf, revision_id, wait=False)

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
    path = context.tiles.thumbnail_path(_content_of(context, actor, revision_id), 0)
    if not path.is_file():
        raise NotFound(revision_id)
    return path
