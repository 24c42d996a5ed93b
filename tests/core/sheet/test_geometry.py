import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.marks import marks
from nod.core.marks.marks import Look, MarkKind, Shape
from nod.core.sheet.geometry import Affine, PageBox
from nod.core.sheet.sheet_sizes import points_to_mm, size_name

coordinates = st.floats(-3000, 3000)
boxes = st.builds(
    lambda x, y, w, h, turn: PageBox(x, y, x + w, y + h, turn),
    coordinates, coordinates, st.floats(10, 3000), st.floats(10, 3000), st.sampled_from([0, 90, 180, 270]),
)  # fmt: skip


@given(boxes, coordinates, coordinates)
def test_to_the_view_and_back_is_where_one_started(box, x, y):
    there = box.to_view()
    back = there.inverse().apply(there.apply((x, y)))
    assert math.dist(back, (x, y)) < 1e-6


@given(boxes)
def test_the_corners_of_the_page_are_the_corners_of_the_view(box):
    corners = {(box.left, box.bottom), (box.right, box.bottom), (box.right, box.top), (box.left, box.top)}
    seen = {tuple(round(value, 3) for value in box.to_view().apply(corner)) for corner in corners}
    width, height = (round(side, 3) for side in box.view_size())
    assert seen == {(0, 0), (width, 0), (width, height), (0, height)} or _nearly(seen, width, height)


def _nearly(seen, width, height):
    """Rounding at the third place may fall either way."""
    expected = [(0, 0), (width, 0), (width, height), (0, height)]
    return all(min(math.dist(corner, each) for each in seen) < 0.01 for corner in expected)


@pytest.mark.parametrize(
    ("rotation", "top_left_of_view"), [(0, (10, 120)), (90, (10, 20)), (180, (210, 20)), (270, (210, 120))]
)
def test_rotation_is_clockwise_as_in_iso_32000(rotation, top_left_of_view):
    box = PageBox(10, 20, 210, 120, rotation)
    assert box.to_view().apply(top_left_of_view) == pytest.approx((0, 0))


def test_a_flat_matrix_has_no_inverse():
    with pytest.raises(ZeroDivisionError):
        Affine(1, 2, 2, 4, 0, 0).inverse()


@pytest.mark.parametrize(
    ("width", "height", "name"),
    [
        # ISO 216 and ASME Y14.1 sizes, from memory.
        (841, 1189, "A0"), (841, 594, "A1"), (297, 210, "A4"), (843.5, 592, "A1"), (431.8, 279.4, "ANSI B"),
        (863.6, 558.8, "ANSI D"), (914.4, 1219.2, "ARCH E"), (845, 594, "845 × 594 mm"), (620, 900, "620 × 900 mm"),
    ],
)  # fmt: skip
def test_sheets_are_called_by_their_size(width, height, name):
    assert size_name(width, height) == name


def test_user_unit_scales_the_sheet():
    assert points_to_mm(72) == pytest.approx(25.4)
    assert points_to_mm(72, 2.0) == pytest.approx(50.8)


@pytest.mark.parametrize(
    "shape",
    [
        Shape(MarkKind.PIN, ((1, 1), (2, 2)), Look()),
        Shape(MarkKind.CLOUD, ((1, 1), (2, 2)), Look()),
        Shape(MarkKind.CLOUD, tuple((1.0, 1.0) for _ in range(1001)), Look()),
        Shape(MarkKind.PIN, ((math.nan, 1),), Look()),
        Shape(MarkKind.PIN, ((1e9, 1),), Look()),
        Shape(MarkKind.PIN, ((1, 1),), Look("javascript:red")),
    ],
)
def test_a_shape_that_cannot_be_is_refused(shape):
    with pytest.raises(RuleBroken):
        marks.check_shape(shape)


def test_ones_own_mark_stays_ones_own_until_answered():
    marks.check_may_change("ann", "ann", answered=False)
    with pytest.raises(RuleBroken):
        marks.check_may_change("ann", "ann", answered=True)
    with pytest.raises(NotAllowed):
        marks.check_may_change("ann", "bo", answered=False)
