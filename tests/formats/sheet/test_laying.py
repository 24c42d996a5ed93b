"""One drawing laid over another that was plotted elsewhere on the paper, turned, scaled, or on other paper."""

import io
import math
import random

import numpy as np
import pikepdf
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from nod.core.acts.refusals import RuleBroken
from nod.core.compare import alignment
from nod.core.compare.laid import Laying
from nod.formats.sheet.leaf import Leaf
from nod.formats.sheet.pdf_compare import compare_pages, laid_tile
from nod.formats.sheet.pdf_look import FIRST_LEVEL, CannotDraw, Looker
from tests.formats.sheet.test_compare import SIZE, Drawing, mm

PAIRS = 14


def plotted(content, shift=(0.0, 0.0), turn=0.0, scale=1.0, size=SIZE):
    """The same drawing turned (degrees) and scaled about its middle and shifted (mm), and where a place of it lies."""
    a, b = math.cos(math.radians(turn)) * scale, math.sin(math.radians(turn)) * scale
    x, y = SIZE[0] / 2, SIZE[1] / 2
    e, f = size[0] / 2 - a * x + b * y + shift[0], size[1] / 2 - b * x - a * y + shift[1]
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(content)) as made:
        page = made.pages[0]
        page.contents_add(f"q {a:.8f} {b:.8f} {-b:.8f} {a:.8f} {e * mm:.6f} {f * mm:.6f} cm\n".encode(), prepend=True)
        page.contents_add(b"\nQ")
        page.MediaBox = [0, 0, size[0] * mm, size[1] * mm]
        made.save(out)
    return out.getvalue(), lambda px, py: (a * px - b * py + e, b * px + a * py + f)


def _compared(tmp_path, before, after, laying=None):
    for name, content in (("a.pdf", before), ("b.pdf", after)):
        (tmp_path / name).write_bytes(content)
    leaves = Leaf(tmp_path / "a.pdf", 0), Leaf(tmp_path / "b.pdf", 0)
    return compare_pages(Looker(), *leaves, (), True, laying or Laying()).compared


def _seen(box, place, high):
    """A box of the drawing (mm, y up) as it lies on the other paper, seen from above."""
    corners = [place(x, y) for x in (box[0], box[2]) for y in (box[1], box[3])]
    xs, ys = [x for x, _ in corners], [high - y for _, y in corners]
    return min(xs), min(ys), max(xs), max(ys)


def _meets(change, box):
    left, upper, right, lower = change.box
    return left < box[2] and right > box[0] and upper < box[3] and lower > box[1]


def _cut_off(change):
    """At the edge of the paper, where a shift has moved something off it."""
    left, upper, right, lower = change.box
    return left < 1 or upper < 1 or right > SIZE[0] - 1 or lower > SIZE[1] - 1


def test_changes_are_found_and_none_told_where_nothing_changed(tmp_path):
    """Shifts to 20 mm, turns to 2 degrees, scales 2 % off: every change is found, and nothing is told elsewhere."""
    lots = random.Random(11)  # noqa: S311 - variety, not secrets
    missed, astray = [], []
    for seed in range(PAIRS):
        drawing = Drawing(seed)
        before = drawing.pdf()
        box = drawing.edit(lots)[1] if seed % 2 else None
        way = lots.uniform(0, 2 * math.pi)
        shift = (lots.uniform(0, 20) * math.cos(way), lots.uniform(0, 20) * math.sin(way))
        after, place = plotted(drawing.pdf(), shift, lots.uniform(-2, 2), lots.uniform(0.98, 1.02))
        changes = [each for each in _compared(tmp_path, before, after).changes if not _cut_off(each)]
        there = [_meets(each, _seen(box, place, SIZE[1])) for each in changes] if box else []
        if box and not any(there):
            missed.append(seed)
        if len(changes) - sum(there):
            astray.append((seed, changes))
    assert (missed, astray) == ([], [])


def test_the_same_plan_on_larger_paper_at_another_scale(tmp_path):
    """An A3 at 1:100 over the A1 that shows it at 1:50: found from the scales that the title blocks say."""
    drawing = Drawing(3)
    before = drawing.pdf()
    _, box = drawing.edit(random.Random(3))  # noqa: S311
    size = (841.0, 594.0)
    after, place = plotted(drawing.pdf(), (40, -25), 0, 2.0, size)
    found = _compared(tmp_path, before, after, Laying(enlarged=2.0))
    assert np.hypot(found.moved[0][0], found.moved[1][0]) == pytest.approx(2.0, abs=1e-3)
    target = _seen(box, place, size[1])
    assert found.changes
    assert all(_meets(each, target) for each in found.changes)


def test_places_picked_by_hand_lay_it_and_stay(tmp_path):
    drawing = Drawing(5)
    after, place = plotted(drawing.pdf(), (60, 30), 25.0, 0.7)
    picked = [(60, 60), (350, 70), (200, 240)]
    first = [(x, SIZE[1] - y) for x, y in picked]
    second = [(x, SIZE[1] - y) for x, y in (place(*each) for each in picked)]
    laid = alignment.from_pairs(first, second)
    assert laid.off < 1e-6
    found = _compared(tmp_path, drawing.pdf(), after, Laying(laid.rows))
    assert np.allclose(found.moved, laid.rows)
    assert [each for each in found.changes if not _cut_off(each)] == []


@given(st.floats(-180, 180), st.floats(0.05, 20), st.floats(-500, 500), st.floats(-500, 500))
def test_pairs_of_places_give_back_the_way_they_were_made(turn, scale, x, y):
    a, b = scale * math.cos(math.radians(turn)), scale * math.sin(math.radians(turn))
    first = [(10.0, 20.0), (300.0, 40.0), (150.0, 250.0)]
    second = [(a * px - b * py + x, b * px + a * py + y) for px, py in first]
    laid = alignment.from_pairs(first, second)
    assert np.allclose(laid.rows, ((a, -b, x), (b, a, y)), atol=1e-6)
    assert laid.off < 1e-6
    back = alignment.backwards(laid.rows)
    assert np.allclose(alignment.after(back, laid.rows), [[1, 0, 0], [0, 1, 0]], atol=1e-6)


@pytest.mark.parametrize(("first", "second"), [
    ([(0, 0)], [(1, 1)]), ([(0, 0), (0, 0)], [(1, 1), (2, 2)]), ([(0, 0), (1, 0)], [(5, 5), (5, 5)]),
    ([(0, 0), (9, 9)], [(1, 1)]),
])  # fmt: skip
def test_places_that_cannot_be_laid_are_refused(first, second):
    with pytest.raises(RuleBroken) as refused:
        alignment.from_pairs(first, second)
    assert refused.value.code == "places_unfit"


def test_how_badly_picked_places_agree_is_told():
    # One of three is 3 mm off: what is left after the best fit is more than nothing and less than that.
    laid = alignment.from_pairs([(0, 0), (100, 0), (0, 100)], [(0, 0), (100, 0), (0, 103)])
    assert 0.3 < laid.off < 3


def test_tiles_show_both_or_one_on_the_seconds_paper(tmp_path):
    drawing = Drawing(8)
    after, _ = plotted(drawing.pdf(), (15, 0))
    for name, content in (("a.pdf", drawing.pdf()), ("b.pdf", after)):
        (tmp_path / name).write_bytes(content)
    leaves = Leaf(tmp_path / "a.pdf", 0), Leaf(tmp_path / "b.pdf", 0)
    moved = ((1.0, 0.0, 15.0), (0.0, 1.0, 0.0))

    def tile(shown, rows=moved):
        picture = Image.open(io.BytesIO(laid_tile(Looker(), *leaves, rows, shown, FIRST_LEVEL, 0, 0)))
        return np.asarray(picture.convert("RGB"), np.int16)

    first, second, both = tile("first"), tile("second"), tile("both")
    assert np.abs(first - second).mean() < 4
    # Laid rightly all is grey; wrongly there is rust and sea.
    assert np.ptp(both, axis=2).mean() < 4 < np.ptp(tile("both", ((1, 0, 0), (0, 1, 0))), axis=2).mean()
    with pytest.raises(CannotDraw):
        laid_tile(Looker(), *leaves, moved, "both", FIRST_LEVEL, 7, 0)
