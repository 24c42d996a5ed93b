"""The sheet: its pages as the view needs them, its tiles and thumbnails."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.marks.marks import CLOUD_ARC_MM, COUNT_MM, INKS, SYMBOL_MM, SYMBOLS, TICK_MM, VALUE_MM
from nod.core.register.in_force import Around, standing_of
from nod.core.sheet.geometry import PageBox
from nod.core.sheet.sheet_sizes import points_to_mm
from nod.formats.sheet.pdf_look import (
    FIRST_LEVEL,
    LARGE_LEVEL,
    TILE_PX,
    TOP_LEVEL,
    WHOLE_PAGE_LEVEL,
    CannotDraw,
)  # fmt: skip
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.people.sign_in import Me, SignedIn, read_me
from nod.services.press.press import Press, PressStopped
from nod.services.sheet.page_pictures import content_of
from nod.store.tables import BlobRow, DocumentRow, PageRow, RevisionRow


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


class RevisionStanding(Answered):
    """How a revision stands to the others of its document: see `core.register.in_force.Standing`."""

    kind: str
    words: str


def standing_shown(document: DocumentRow, code: str) -> RevisionStanding:
    around = Around(document.revision, document.in_force, document.withdrawn, document.release == "passed")
    standing = standing_of(code, around)
    return RevisionStanding(kind=standing.kind, words=standing.words)


class SheetRevision(Answered):
    id: str
    code: str
    standing: RevisionStanding


class Sheet(Answered):
    """A revision as the sheet view opens it. `revisions` from the oldest on; `copy_why` what made it a copy.

    `let_in`: the viewer does not see the document, and was let in to this revision alone.

    Up to `whole_level` a page is asked for whole, and above it by tiles; up to `large_level` it can be had whole.
    """

    document_id: str
    project_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    status: str
    verdict: str
    standing: RevisionStanding
    in_force: str
    in_force_id: str
    latest_revision: str
    copy_why: str
    copied_at: datetime | None
    tile_px: int
    first_level: int
    whole_level: int
    large_level: int
    top_level: int
    pages: list[SheetPage]
    revisions: list[SheetRevision]
    may_mark: bool
    let_in: bool
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
    revision, document, seat = see_revision(session, actor, revision_id, let_in=True)
    if seat.at(document.folder_id) is Level.NONE:
        return _alone(session, revision, document)
    revisions = session.scalars(
        select(RevisionRow).where(RevisionRow.document_id == document.id).order_by(RevisionRow.place)
    )
    return _shown(
        session, revision, document,
        verdict=document.verdict if document.revision_id == revision.id else "",
        standing=standing_shown(document, revision.code),
        in_force=document.in_force, in_force_id=document.in_force_id, latest_revision=document.revision,
        revisions=[
            SheetRevision(id=each.id, code=each.code, standing=standing_shown(document, each.code))
            for each in revisions
        ],
        may_mark=seat.at(document.folder_id) >= Level.MARK and actor.looker is None, let_in=False,
    )  # fmt: skip


def _alone(session: Session, revision: RevisionRow, document: DocumentRow) -> Sheet:
    """For who was let in to this one revision: nothing of others, nor of what was decided on it."""
    shown = RevisionStanding(kind="", words="You see this revision for the length of a session.")
    return _shown(
        session, revision, document, verdict="", standing=shown, in_force="", in_force_id="",
        latest_revision=revision.code, revisions=[SheetRevision(id=revision.id, code=revision.code, standing=shown)],
        may_mark=False, let_in=True,
    )  # fmt: skip


def _shown(session: Session, revision: RevisionRow, document: DocumentRow, **around: Any) -> Sheet:
    labels = session.get_one(BlobRow, revision.sha256).contents.get("labels", [])
    pages = session.scalars(select(PageRow).where(PageRow.sha256 == revision.sha256).order_by(PageRow.place))
    return Sheet(
        document_id=document.id, project_id=document.project_id, revision_id=revision.id, number=document.number,
        title=revision.title, revision=revision.code, status=revision.status, copy_why=revision.copy_why,
        copied_at=revision.copied_at, tile_px=TILE_PX, first_level=FIRST_LEVEL, whole_level=WHOLE_PAGE_LEVEL,
        large_level=LARGE_LEVEL, top_level=TOP_LEVEL, pages=[show_page(page, labels) for page in pages],
        drawn_with=DRAWN_WITH, **around,
    )  # fmt: skip


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
    sha256 = content_of(context, actor, revision_id)
    with context.database.read() as session:
        row = session.get(PageRow, (sha256, place))
        if row is None:
            raise NotFound(revision_id)
        return show_page(row)


def list_layers(context: Context, press: Press, actor: Actor, revision_id: str) -> Layers:
    """In the file's order; a file without layers is not opened for it."""
    with context.database.read() as session:
        sha256 = see_revision(session, actor, revision_id, let_in=True)[0].sha256
        known = session.get_one(BlobRow, sha256).contents.get("layers")
    try:
        with context.blobs.local_sheet(sha256) as path:
            found = press.layers(path) if known else []
    except PressStopped as error:
        raise RuleBroken("file_slow", "Reading the layers of this file takes too long.", revision_id) from error
    return Layers(layers=[LayerShown(name=each.name, on=each.on) for each in found])


def list_corners(
    context: Context, press: Press, actor: Actor, revision_id: str, page: int, box: tuple[float, float, float, float]
) -> Corners:
    """Within a box of user space (left, low, right, high). Raises NotFound for a page that is not there."""
    sha256 = content_of(context, actor, revision_id)
    try:
        with context.blobs.local_sheet(sha256) as path:
            points, more = press.corners(path, page, box, _MOST_CORNERS)
    except CannotDraw as error:
        raise NotFound(revision_id) from error
    except PressStopped as error:
        raise RuleBroken("page_too_slow", "The lines of this page take too long to read.", revision_id) from error
    return Corners(points=points, more=more)
