"""What a sheet's page brings along of the sheet: the whole page as tiles laid out, those with it that are kept."""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.refusals import NotFound
from nod.formats.pdf_look import TILE_PX, WHOLE_PAGE_LEVEL, size_at
from nod.services.context import Context
from nod.services.seats import Actor
from nod.services.seeing import see_revision
from nod.services.sheets import SheetPage, show_page
from nod.store.tables import PageRow


@dataclass(frozen=True, slots=True)
class PlacedTile:
    """A tile, and its box in the page: left, upper, width, height, in parts of one. `picture` is WebP, if kept."""

    level: int
    column: int
    row: int
    box: tuple[float, float, float, float]
    picture: bytes = b""


@dataclass(frozen=True, slots=True)
class FirstLook:
    """`tiles` have up to 1024 pixels along the longer side, `fine` twice as many."""

    page: SheetPage
    tiles: list[PlacedTile]
    fine: list[PlacedTile]


def read_first_look(context: Context, actor: Actor, revision_id: str, place: int) -> FirstLook:
    """Raises NotFound for one who may not see it, or a page that is not there. Draws nothing."""
    with context.database.read() as session:
        sha256 = see_revision(session, actor, revision_id)[0].sha256
        row = session.get(PageRow, (sha256, place))
        if row is None:
            raise NotFound(revision_id)
        page = show_page(row)
    return FirstLook(
        page=page,
        tiles=[_kept(context, sha256, place, tile) for tile in _lay(page, WHOLE_PAGE_LEVEL)],
        fine=_lay(page, WHOLE_PAGE_LEVEL + 1),
    )


def _lay(page: SheetPage, level: int) -> list[PlacedTile]:
    across, down = size_at(page.width_pt, page.height_pt, level)
    return [
        PlacedTile(level, left // TILE_PX, upper // TILE_PX, _part(left, upper, across, down))
        for upper in range(0, down, TILE_PX)
        for left in range(0, across, TILE_PX)
    ]


def _part(left: int, upper: int, across: int, down: int) -> tuple[float, float, float, float]:
    width, height = min(TILE_PX, across - left), min(TILE_PX, down - upper)
    return left / across, upper / down, width / across, height / down


def _kept(context: Context, sha256: str, place: int, tile: PlacedTile) -> PlacedTile:
    path = context.tiles.tile_path(sha256, place, tile.level, tile.column, tile.row)
    try:
        return PlacedTile(tile.level, tile.column, tile.row, tile.box, path.read_bytes())
    except FileNotFoundError:
        return tile
