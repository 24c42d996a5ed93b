"""Ends and crossings of a drawing's lines: against shapely, and out of real pages however they are turned."""

import io
from itertools import combinations

import numpy as np
import pikepdf
import pytest
from reportlab.pdfgen.canvas import Canvas
from shapely import LineString

from nod.core.sheet.corners import corners_in
from nod.formats.sheet.pdf_corners import Corners
from nod.formats.sheet.pdf_look import CannotDraw, Looker


def _rounded(points):
    return {(round(float(x), 2), round(float(y), 2)) for x, y in points}


def test_ends_and_crossings_are_shapelys():
    rng = np.random.default_rng(3)
    segments = rng.uniform(0, 100, (40, 4))
    box = (20.0, 20.0, 80.0, 80.0)
    points, more = corners_in(segments, box, 5000)
    lines = [LineString([(x0, y0), (x1, y1)]) for x0, y0, x1, y1 in segments]
    expected = [point for line in lines for point in line.coords]
    expected += [a.intersection(b).coords[0] for a, b in combinations(lines, 2) if a.intersects(b)]
    inside = {each for each in expected if 20 <= each[0] <= 80 and 20 <= each[1] <= 80}
    assert not more
    assert len(points) == pytest.approx(len(inside), abs=2)
    for x, y in inside:
        assert np.hypot(*(points - (x, y)).T).min() < 0.06
    some, more = corners_in(segments, box, 5)
    assert (len(some), more) == (5, True)


def test_parallel_lines_and_an_empty_page_have_no_crossings():
    points, _ = corners_in(np.array([[0, 0, 10, 0], [0, 5, 10, 5.0]]), (-1, -1, 11, 11), 99)
    assert _rounded(points) == {(0, 0), (10, 0), (0, 5), (10, 5)}
    assert len(corners_in(np.empty((0, 4)), (0, 0, 9, 9), 9)[0]) == 0


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
def test_they_are_in_user_space_however_the_page_is_turned(tmp_path, turn):
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 300), invariant=1)
    canvas.translate(50, 20)
    canvas.line(0, 50, 200, 50)
    canvas.line(100, 0, 100, 100)
    canvas.rect(150, 150, 20, 10)
    canvas.save()
    with pikepdf.open(out) as made:
        made.pages[0].obj.Rotate = turn
        made.pages[0].cropbox = [10, 10, 390, 290]
        made.save(tmp_path / "a.pdf")
    points, _ = Corners(Looker()).find(tmp_path / "a.pdf", 0, (0, 0, 400, 300), 99)
    assert {(50, 70), (250, 70), (150, 70), (150, 20), (150, 120), (200, 170), (220, 180)} <= _rounded(points)
    near, _ = Corners(Looker()).find(tmp_path / "a.pdf", 0, (140, 60, 160, 80), 99)
    assert _rounded(near) == {(150, 70)}
    with pytest.raises(CannotDraw):
        Corners(Looker()).find(tmp_path / "a.pdf", 4, (0, 0, 9, 9), 9)
