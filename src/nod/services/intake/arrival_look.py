"""Looking at a file that is still in Intake: its pages, and what changed against the register."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import select

from nod.core.acts.refusals import NotFound
from nod.formats.sheet.pdf_look import FIRST_LEVEL, TILE_PX, TOP_LEVEL, WHOLE_PAGE_LEVEL
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.compare.arrival_comparisons import Pair
from nod.services.compare.changed_places import ChangeShown, changes_of, picture_of, result_of
from nod.services.intake.intake_check import check_batch, see_arrival
from nod.services.press.press import Press
from nod.services.sheet.page_pictures import draw_tile, draw_whole
from nod.services.sheet.sheets import SheetPage, show_page
from nod.store.tables import PageRow


class ArrivalLook(Answered):
    """A file as the viewer opens it. `against` is the revision it was compared with, empty for none."""

    id: str
    file_name: str
    tile_px: int
    first_level: int
    whole_level: int
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
        result = result_of(session, _key(pair))
        return ArrivalLook(
            id=row.id, file_name=row.file_name, tile_px=TILE_PX, first_level=FIRST_LEVEL,
            whole_level=WHOLE_PAGE_LEVEL, top_level=TOP_LEVEL, pages=[show_page(page) for page in pages],
            against=pair.revision if pair else "", known=bool(result), fault=result.get("fault", ""),
            changes=changes_of(result), too_many=any(page["too_many"] for page in result.get("compared", [])),
        )  # fmt: skip


def _key(pair: Pair | None) -> tuple[str, str, bool] | None:
    return (pair.before, pair.after, pair.strict) if pair else None


def read_arrival_tile(
    context: Context, press: Press, actor: Actor, arrival_id: str, page: int, level: int, column: int, row: int
) -> Path:
    """Raises NotFound outside the page."""
    sha256 = _content_of(context, actor, arrival_id)
    return draw_tile(context, press, sha256, context.blobs.local_sheet(sha256), (page, level, column, row), arrival_id)


def read_arrival_page(context: Context, press: Press, actor: Actor, arrival_id: str, leaf: tuple[int, int]) -> Path:
    """The whole page: page and level. Raises NotFound for one that is not there."""
    sha256 = _content_of(context, actor, arrival_id)
    return draw_whole(context, press, sha256, context.blobs.local_sheet(sha256), leaf, arrival_id)


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
    """The `place`-th change as a picture of both revisions, as `look_at_arrival` counts them."""
    with context.database.read() as session:
        row, _, seat = see_arrival(session, actor, arrival_id)
        key = _key(check_batch(session, seat, [row])[0].pair)
        if key is None:
            raise NotFound(arrival_id)
        return picture_of(context, session, press, key, place, arrival_id)
