"""Two sheets laid over each other through the service: who may, title blocks, places, what is kept."""

import io

import pytest
from PIL import Image
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import NotFound
from nod.services.compare import laid_over
from nod.services.compare.laid_over import AskedLaying
from tests.world import NUMBER, OTHER_NUMBER, in_cloud, made_once, name


def _plan(door=None, cloud=None, stamp="P01"):
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(420 * mm, 297 * mm), invariant=1)
    for place in range(12):
        canvas.rect((30 + 28 * place) * mm, 120 * mm, 24 * mm, (20 + 5 * place) * mm)
    if door:
        canvas.circle(door[0] * mm, door[1] * mm, 5 * mm)
    if cloud:
        in_cloud(canvas, *cloud)
    canvas.drawString(300 * mm, 30 * mm, f"Revision {stamp}")
    canvas.save()
    return out.getvalue()


@made_once
def pair(world):
    first = world.file(name(revision="P01"), content=_plan())[0][1]
    changed = _plan((100, 60), (60, 225, 50, 40), "P02")
    return first, world.file(name(revision="P02"), content=changed)[0][1]


def _lay(world, *asked, who="anouk", **more):
    return laid_over.lay_over(world.context, world.press, world.actor(who), AskedLaying(*asked, **more))


def test_regions_are_told_in_points_of_the_second_largest_first(world, pair):
    laid = _lay(world, *pair, without_block=False)
    door, stamp = laid.regions
    assert (door.width_mm, door.height_mm) == (pytest.approx(10.4, abs=0.4), pytest.approx(10.4, abs=0.4))
    assert door.box[0] == pytest.approx(95 * mm, abs=2)
    assert door.box[1] == pytest.approx((297 - 65) * mm, abs=2)
    assert stamp.box[0] > 300 * mm
    assert (laid.is_moved, laid.bare, laid.unlike, laid.off_mm) == (False, 2, False, None)
    assert len(_lay(world, *pair).regions) == 1


def test_it_is_worked_out_once(world, pair):
    first = _lay(world, *pair)
    kept = list((world.context.settings.data_dir / "tiles" / "compared").rglob("*.json"))
    assert len(kept) == 1
    kept[0].write_text(kept[0].read_text().replace('"clouded": false', '"clouded": true'))
    assert [each.clouded for each in _lay(world, *pair).regions] == [True] != [each.clouded for each in first.regions]


def test_places_lay_it_and_their_disagreement_is_told(world, pair):
    places = (((50, 50), (60, 50)), ((300, 50), (310, 50)), ((200, 200), (210, 203)))
    laid = _lay(world, *pair, places=places)
    assert laid.off_mm > 0
    assert laid.moved[4] == pytest.approx(10, abs=3)
    assert laid.is_moved


def test_sheets_of_different_documents_and_a_page_that_is_not_there(world, pair):
    other = world.file(name(OTHER_NUMBER), content=_plan((150, 60)))[0][1]
    laid = _lay(world, other, pair[0])
    assert (laid.before.number, laid.after.number) == (OTHER_NUMBER, NUMBER)
    assert len(laid.regions) == 1
    with pytest.raises(NotFound):
        _lay(world, *pair, after_page=1)
    with pytest.raises(NotFound):
        _lay(world, *pair, who="yusuf")


def test_tiles_are_drawn_for_those_who_see_both(world, pair):
    def tile(who, place=(8, 0, 0)):
        rows = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
        asked = AskedLaying(*pair)
        return laid_over.draw_laid_tile(world.context, world.press, world.actor(who), asked, rows, "both", place)

    assert Image.open(io.BytesIO(tile("anouk"))).size == (256, 182)
    for who, place in (("yusuf", (8, 0, 0)), ("anouk", (8, 5, 0))):
        with pytest.raises(NotFound):
            tile(who, place)
