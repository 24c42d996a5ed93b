"""Any two sheets laid over each other, as somebody asks for it: where they differ, and both as one picture (§6)."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.compare import alignment
from nod.core.compare.laid import Box, ComparedPages, Laying, Rows, Shown
from nod.core.intake.block_readers import NOT_COMPARED, Zone, choose_reader
from nod.core.marks import lengths
from nod.core.sheet.geometry import Point
from nod.core.sheet.sheet_sizes import MM_PER_INCH, POINTS_PER_INCH
from nod.formats.sheet.pdf_look import CannotDraw
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor
from nod.services.compare.kept_leaves import KeptLeaf, borrowed
from nod.services.press.press import Press, PressStopped
from nod.services.sheet.sheets import Sheet, show_sheet
from nod.services.sheet.title_blocks import page_seen, readers_of
from nod.store.tables import DocumentRow, PageRow, PageWordsRow, ProjectRow, RevisionRow

_AROUND_MM = 2.0
_USUAL_BLOCK_MM = (200.0, 80.0)
"""Where no block reader knows better: the title block of ISO 7200 is 180 mm wide and stands at the lower right."""
_VERSION = 2


@dataclass(frozen=True)
class AskedLaying:
    """Which pages, and how. `places` are pairs of places in millimetres of either page as seen, empty to let Nod find.

    `without_block` leaves the title block out.
    """

    before: str
    after: str
    before_page: int = 0
    after_page: int = 0
    places: tuple[tuple[Point, Point], ...] = ()
    without_block: bool = True


class Region(Answered):
    """A changed place: left, upper, right, lower in points of the second page as seen; its size in millimetres."""

    box: tuple[float, float, float, float]
    width_mm: float
    height_mm: float
    clouded: bool


class LaidOver(Answered):
    """`regions` from the largest to the smallest. `moved` lays the first over the second, in millimetres as seen.

    `off_mm`: how far picked places are from agreeing, None where Nod found the way itself. `unlike`: nearly all
    differs, so either it is another drawing or the way was not found. `block_left_out` as it was asked for.
    """

    before: Sheet
    after: Sheet
    before_page: int
    after_page: int
    moved: tuple[float, float, float, float, float, float]
    is_moved: bool
    off_mm: float | None
    regions: list[Region]
    too_many: bool
    unlike: bool
    bare: int
    block_left_out: bool


_UNLIKE = 0.6
_MOST_ENLARGED = 20.0


def lay_over(context: Context, press: Press, actor: Actor, asked: AskedLaying) -> LaidOver:
    """Raises NotFound for a page that is not there, RuleBroken for one that cannot be drawn in time."""
    with context.database.read() as session:
        first, second = (side_of(session, actor, *each) for each in _asked_pages(asked))
        before, after = (show_sheet(session, actor, each) for each in (asked.before, asked.after))
        left_out = title_block(session, second) if asked.without_block else ()
    laid = alignment.from_pairs(*zip(*asked.places, strict=True)) if asked.places else None
    laying = Laying(laid.rows if laid else None, _enlarged(first.document, second.document))
    leaves = first.leaf, second.leaf
    found_by = compared(context, press, leaves, left_out, laying, asked.after)
    to_pt = POINTS_PER_INCH / MM_PER_INCH / second.page.user_unit
    found = found_by["compared"]
    regions = [_region(each, to_pt) for each in found["changes"]]
    regions.sort(key=lambda each: -each.width_mm * each.height_mm)
    (a, c, e), (b, d, f) = found["moved"]
    return LaidOver(
        before=before, after=after, before_page=asked.before_page, after_page=asked.after_page,
        moved=(a, b, c, d, e, f), is_moved=abs(a - 1) + abs(b) + abs(e) + abs(f) > 1e-6,
        off_mm=round(laid.off, 2) if laid else None, regions=regions, too_many=found["too_many"],
        unlike=found["too_many"] or found["share"] > _UNLIKE, bare=sum(not each.clouded for each in regions),
        block_left_out=asked.without_block,
    )  # fmt: skip


@dataclass(frozen=True)
class SheetSide:
    document: DocumentRow
    revision: RevisionRow
    page: PageRow

    @property
    def leaf(self) -> KeptLeaf:
        return KeptLeaf(self.revision.sha256, self.page.place, self.page.user_unit)


def _asked_pages(asked: AskedLaying) -> tuple[tuple[str, int], tuple[str, int]]:
    return (asked.before, asked.before_page), (asked.after, asked.after_page)


def side_of(session: Session, actor: Actor, revision_id: str, place: int) -> SheetSide:
    revision, document, _ = see_revision(session, actor, revision_id)
    page = session.get(PageRow, (revision.sha256, place))
    if page is None:
        raise NotFound(revision_id)
    return SheetSide(document, revision, page)


def _enlarged(first: DocumentRow, second: DocumentRow) -> float:
    """How much larger the second draws things, where both title blocks say their scale."""
    old, new = lengths.read_ratio(first.scale), lengths.read_ratio(second.scale)
    enlarged = old / new if old and new else 1.0
    return enlarged if _MOST_ENLARGED >= enlarged >= 1 / _MOST_ENLARGED else 1.0


def title_block(session: Session, second: SheetSide) -> tuple[Box, ...]:
    """The block reader that reads this sheet best: all that lies between its zones; without one the usual place."""
    packed = session.get(PageWordsRow, (second.revision.sha256, second.page.place))
    words, size = page_seen(second.page, packed.words if packed else None)
    project = session.get_one(ProjectRow, second.document.project_id)
    readers = readers_of(session, project.id)
    chosen = choose_reader(readers, words, size, rules_of(project), second.document.originator)
    if chosen is None:
        return (Zone("", "lower right", 0.0, 0.0, *_USUAL_BLOCK_MM).on(size),)
    zones = chosen[0].zones
    apart = tuple(_around([zone.on(size)]) for zone in zones if zone.field == NOT_COMPARED)
    return (_around([zone.on(size) for zone in zones if zone.field != NOT_COMPARED]), *apart)


def _around(boxes: list[Box]) -> Box:
    left, upper, right, lower = zip(*boxes, strict=True)
    return min(left) - _AROUND_MM, min(upper) - _AROUND_MM, max(right) + _AROUND_MM, max(lower) + _AROUND_MM


def _region(change: dict[str, Any], to_pt: float) -> Region:
    left, upper, right, lower = change["box"]
    return Region(
        box=(left * to_pt, upper * to_pt, right * to_pt, lower * to_pt), width_mm=round(right - left, 1),
        height_mm=round(lower - upper, 1), clouded=change["clouded"],
    )  # fmt: skip


def compared(
    context: Context,
    press: Press,
    leaves: tuple[KeptLeaf, KeptLeaf],
    left_out: tuple[Box, ...],
    laying: Laying,
    about: str,
) -> dict[str, Any]:
    """Worked out once for the same files and the same question."""
    path = _kept_at(context, leaves, left_out, laying)
    if not path.is_file():
        try:
            with borrowed(context, *leaves) as pages:
                found = press.compare(*pages, left_out, strict=False, laying=laying)
        except CannotDraw as error:
            raise NotFound(about) from error
        except PressStopped as error:
            raise RuleBroken("page_too_slow", "Laying these sheets over each other takes too long.", about) from error
        context.tiles.keep(path, json.dumps(_plain(found)).encode())
    kept: dict[str, Any] = json.loads(path.read_bytes())
    return kept


def _plain(found: ComparedPages) -> dict[str, Any]:
    return {"compared": asdict(found.compared), "size_mm": found.size_mm}


def _kept_at(context: Context, leaves: tuple[KeptLeaf, KeptLeaf], left_out: tuple[Box, ...], laying: Laying) -> Path:
    files = [[leaf.sha256, leaf.place, leaf.user_unit] for leaf in leaves]
    question = json.dumps([_VERSION, files, left_out, asdict(laying)], sort_keys=True)
    return context.tiles.compared_path(hashlib.sha256(question.encode()).hexdigest())


def draw_laid_tile(
    context: Context,
    press: Press,
    actor: Actor,
    asked: AskedLaying,
    moved: Rows,
    shown: Shown,
    tile: tuple[int, int, int],
) -> bytes:
    """`tile` is level, column and row of the second page. Raises NotFound outside of it."""
    with context.database.read() as session:
        first, second = (side_of(session, actor, *each) for each in _asked_pages(asked))
    try:
        with borrowed(context, first.leaf, second.leaf) as leaves:
            return press.laid_tile(*leaves, moved, shown, *tile)
    except CannotDraw as error:
        raise NotFound(asked.after) from error
    except PressStopped as error:
        raise RuleBroken("page_too_slow", "This part of the sheets takes too long to draw.", asked.after) from error
