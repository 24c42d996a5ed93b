"""Looking at a file that is still in Intake: its pages, and what changed against the register."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.comparison import Box
from nod.core.refusals import NotFound, RuleBroken
from nod.formats.pdf_compare import Leaf
from nod.formats.pdf_look import FIRST_LEVEL, TILE_PX, TOP_LEVEL, CannotDraw
from nod.services.answers import Answered
from nod.services.comparing import Pair
from nod.services.context import Context
from nod.services.intake_check import check_batch, see_arrival
from nod.services.press import Press, PressStopped
from nod.services.seats import Actor
from nod.services.sheets import SheetPage, draw_tile, show_page
from nod.store.tables import ComparisonRow, PageRow

_SHOWN_PX = 900
_MARGIN_MM = 12.0
_LEAST_MM = 60.0


class ChangeShown(Answered):
    """A changed place: left, upper, right, lower in millimetres of the page as seen; `shown` is the part to draw."""

    page: int
    box: tuple[float, float, float, float]
    shown: tuple[float, float, float, float]
    clouded: bool


class ArrivalLook(Answered):
    """A file as the viewer opens it. `against` is the revision it was compared with, empty for none."""

    id: str
    file_name: str
    tile_px: int
    first_level: int
    top_level: int
    pages: list[SheetPage]
    against: str
    known: bool
    fault: str
    changes: list[ChangeShown]
    too_many: bool


def look_at_arrival(context: Context, actor: Actor, arrival_id: str) -> ArrivalLook:
    with context.database.read() as session:
        row, _, seat = see_arrival(session, actor, arrival_id)
        pages = list(session.scalars(select(PageRow).where(PageRow.sha256 == row.sha256).order_by(PageRow.place)))
        pair = check_batch(session, seat, [row])[0].pair
        result = _result(session, pair)
        return ArrivalLook(
            id=row.id, file_name=row.file_name, tile_px=TILE_PX, first_level=FIRST_LEVEL, top_level=TOP_LEVEL,
            pages=[show_page(page) for page in pages], against=pair.revision if pair else "", known=bool(result),
            fault=result.get("fault", ""), changes=_changes(result),
            too_many=any(page["too_many"] for page in result.get("compared", [])),
        )  # fmt: skip


def _result(session: Session, pair: Pair | None) -> dict[str, Any]:
    found = session.get(ComparisonRow, (pair.before, pair.after, pair.strict)) if pair else None
    return found.result if found and found.state == "known" else {}


def _changes(result: dict[str, Any]) -> list[ChangeShown]:
    return [
        ChangeShown(
            page=place,
            box=tuple(change["box"]),
            shown=_shown(change["box"], page["size_mm"]),
            clouded=change["clouded"],
        )
        for place, page in enumerate(result.get("compared", []))
        for change in page["changes"]
    ]


def _shown(box: list[float], size: list[float]) -> Box:
    """The place with some paper around it, never less than 60 mm, in the shape 3 : 2."""
    width = max(box[2] - box[0] + 2 * _MARGIN_MM, (box[3] - box[1] + 2 * _MARGIN_MM) * 1.5, _LEAST_MM)
    width = min(width, size[0], size[1] * 1.5)
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    left = min(max(0.0, x - width / 2), size[0] - width)
    upper = min(max(0.0, y - width / 3), size[1] - width / 1.5)
    return round(left, 2), round(upper, 2), round(left + width, 2), round(upper + width / 1.5, 2)


def read_arrival_tile(
    context: Context, press: Press, actor: Actor, arrival_id: str, page: int, level: int, column: int, row: int
) -> Path:
    """Raises NotFound outside the page."""
    return draw_tile(context, press, _content_of(context, actor, arrival_id), (page, level, column, row), arrival_id)


def read_arrival_thumbnail(context: Context, actor: Actor, arrival_id: str, page: int) -> Path:
    """Raises NotFound while there is none."""
    path = context.tiles.thumbnail_path(_content_of(context, actor, arrival_id), page)
    if not path.is_file():
        raise NotFound(arrival_id)
    return path


def _content_of(context: Context, actor: Actor, arrival_id: str) -> str:
    with context.database.read() as session:
        return see_arrival(session, actor, arrival_id)[0].sha256


def draw_change(context: Context, press: Press, actor: Actor, arrival_id: str, place: int) -> bytes:
    """The `place`-th change as a picture (WebP) of both revisions, as `look_at_arrival` counts them."""
    with context.database.read() as session:
        row, _, seat = see_arrival(session, actor, arrival_id)
        pair = check_batch(session, seat, [row])[0].pair
        result = _result(session, pair)
        changes = _changes(result)
        if pair is None or not 0 <= place < len(changes):
            raise NotFound(arrival_id)
        change = changes[place]
        before, after = (_leaf(context, session, sha256, change.page) for sha256 in (pair.before, pair.after))
        moved = result["compared"][change.page]["moved"]
    try:
        return press.overlay(before, after, change.shown, _SHOWN_PX, (tuple(moved[0]), tuple(moved[1])))
    except CannotDraw as error:
        raise NotFound(arrival_id) from error
    except PressStopped as error:
        raise RuleBroken("page_too_slow", "This part of the sheet takes too long to draw.", arrival_id) from error


def _leaf(context: Context, session: Session, sha256: str, place: int) -> Leaf:
    page = session.get_one(PageRow, (sha256, place))
    return Leaf(context.blobs.path(sha256), place, page.user_unit)
