"""Whatever has come to be stored of a mark is read; what a hand may draw comes back as it was."""

from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.marks import POINTS, Look, MarkKind, Shape
from nod.core.marks.stored_marks import check_mark, read_shape

JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=5), inner, max_size=4),
    max_leaves=8,
)
LOOKS = st.dictionaries(
    st.sampled_from(["colour", "weight_mm", "fill", "opacity", "dashed", "type_mm", "symbol"]), JSON, max_size=7
)
KINDS = st.sampled_from([each.value for each in MarkKind])


@given(kind=JSON | KINDS, points=JSON, rings=JSON, look=JSON | LOOKS)
def test_nothing_stored_keeps_a_mark_from_being_read(kind, points, rings, look):
    found = read_shape(kind, points, rings, look)
    check_mark(Shape(found.kind, found.points, found.look), found.rings)


@given(kind=KINDS, data=st.data())
def test_what_a_hand_may_draw_comes_back_as_it_was(kind, data):
    kind = MarkKind(kind)
    fewest, _ = POINTS[kind]
    points = data.draw(
        st.lists(st.tuples(st.floats(-20_000, 20_000), st.floats(-20_000, 20_000)), min_size=fewest, max_size=fewest)
    )
    look = Look(symbol="tick" if kind is MarkKind.SYMBOL else "", dashed=True, colour="blue", opacity=0.3)
    try:
        check_mark(Shape(kind, tuple(points), look), ())
    except RuleBroken:
        return
    found = read_shape(kind.value, [list(point) for point in points], [], vars(look))
    assert (found.kind, found.points, found.look, found.sound) == (kind, tuple(points), look, True)


def test_a_pin_stands_where_what_cannot_be_drawn_begins():
    found = read_shape("area", [[10, 20], ["x", 1], [30, 40]], [0, 3], {"colour": "green", "dashed": "yes"})
    assert (found.kind, found.points, found.look.colour, found.sound) == (MarkKind.PIN, ((10.0, 20.0),), "green", False)
    assert read_shape("cloud", 5, None, None).points == ((0.0, 0.0),)
