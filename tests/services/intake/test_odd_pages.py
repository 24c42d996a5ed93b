"""Pages of which nothing is seen: their boxes touch, or lie apart (ISO 32000-1, 14.11.2). The others are read."""

import io

import pikepdf
import pytest

from nod.core.acts.refusals import RuleBroken
from nod.services.marks import prints
from tests.world import name, pdf

WIDTH, HEIGHT = 420 / 25.4 * 72, 297 / 25.4 * 72
TOUCHES = {"CropBox": [WIDTH, 0, WIDTH + 90, HEIGHT]}
APART = {"MediaBox": [0, 0, WIDTH, HEIGHT], "CropBox": [2000, 2000, 3000, 3000]}
THIN = {"MediaBox": [0, 0, 0.0001, HEIGHT]}


def boxed(boxes, *pages, count=2):
    with pikepdf.open(io.BytesIO(pdf("Some words", pages=count))) as file:
        for page in pages:
            for key, box in boxes.items():
                file.pages[page].obj[f"/{key}"] = pikepdf.Array(box)
        out = io.BytesIO()
        file.save(out)
        return out.getvalue()


@pytest.mark.parametrize("boxes", [APART, TOUCHES, THIN])
@pytest.mark.parametrize("page", [0, 1])
def test_the_other_pages_are_read(world, boxes, page):
    batch = world.arrive({name(): boxed(boxes, page)})
    ((state, fault, count, has_text),) = world.sql("SELECT state, fault, page_count, has_text FROM blob")
    assert (state, fault, count, has_text) == ("known", "", 2, 1)
    assert world.arrivals(batch)[name()].weight != "stop"


def test_the_page_is_told_by_its_number(world):
    batch = world.arrive({name(): boxed(APART, 1)})
    said = [each.words for each in world.arrivals(batch)[name()].findings]
    assert any("Page 2 has no size." in each for each in said), said


def test_a_file_of_nothing_else_is_told(world):
    batch = world.arrive({name(): boxed(APART, 0, 1)})
    said = [each.words for each in world.arrivals(batch)[name()].findings]
    assert any("No page of the file can be drawn." in each for each in said), said


@pytest.mark.parametrize("boxes", [APART, TOUCHES, THIN])
def test_it_is_printed_or_told_and_brings_nothing_down(world, boxes):
    world.register(world.arrive({name(): boxed(boxes, 1)}))
    revision = world.document(name().split("_")[0])[1]
    ask = (world.context, world.press, world.actor("marit"), revision)
    for paper in ("own", "A3"):
        if paper == "own" and boxes is THIN:
            with pytest.raises(RuleBroken, match="Page 2 is too large or too small"):
                prints.print_sheet(*ask, paper, with_marks=False)
            continue
        made = prints.print_sheet(*ask, paper, with_marks=False)
        with pikepdf.open(io.BytesIO(made.content)) as printed:
            assert len(printed.pages) == 2
