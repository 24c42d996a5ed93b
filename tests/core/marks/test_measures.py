"""Measures against shapely, uncertainties against drawing lots, words against a table shared with the front end."""

import json
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely import Polygon
from shapely.validation import explain_validity

from nod.core.acts.refusals import RuleBroken
from nod.core.marks import lengths, measures, scales
from nod.core.marks.marks import MarkKind
from nod.core.marks.measures import Calibration, Measured
from nod.core.marks.scales import Scale

CASES = json.loads((Path(__file__).parents[3] / "frontend/src/domain/measures.cases.json").read_text())
SHARED = [
    Scale(str(place), tuple(each["box"]) if each["box"] else None, Calibration(each["mm_per_pt"]))
    for place, each in enumerate(CASES["scales"])
]
SQUARE = ((0, 0), (100, 0), (100, 100), (0, 100))
HOLE = ((20, 20), (20, 40), (40, 40), (40, 20))


def _in_words(case, units):
    kind, points = MarkKind(case["kind"]), [tuple(point) for point in case["points"]]
    try:
        scale = scales.scale_of(points, SHARED)
    except RuleBroken:
        return "scales differ"
    return lengths.in_words(measures.measure(kind, points, (), scale.calibration, 0.0), units)


@pytest.mark.parametrize("case", CASES["values"], ids=lambda case: f"{case['kind']} {case['metric']}")
def test_the_words_are_those_under_the_hand(case):
    assert (_in_words(case, "metric"), _in_words(case, "imperial")) == (case["metric"], case["imperial"])


@pytest.mark.parametrize(("value_mm", "words"), CASES["feet"])
def test_feet_and_inches_are_carried_and_reduced(value_mm, words):
    assert lengths.feet_and_inches(value_mm) == words


def _star(rng, count, radius, centre=(0.0, 0.0)):
    """An outline that crosses itself nowhere: corners by rising angle around a centre; four or more."""
    angles = (np.arange(count) + rng.uniform(0.1, 0.9, count)) / count * 2 * math.pi
    reach = radius * rng.uniform(0.5, 1, count)
    xs, ys = centre[0] + reach * np.cos(angles), centre[1] + reach * np.sin(angles)
    return list(zip(xs.tolist(), ys.tolist(), strict=True))


def _with_holes(rng):
    outer = _star(rng, rng.integers(5, 14), 500.0, (1000.0, 700.0))
    around = Polygon(outer)
    holes = []
    for _ in range(rng.integers(0, 3)):
        centre = (1000 + rng.uniform(-150, 150), 700 + rng.uniform(-150, 150))
        hole = Polygon(_star(rng, rng.integers(4, 8), 60.0, centre))
        if around.contains(hole) and not any(hole.intersects(other) for other in holes):
            holes.append(hole)
    return outer, [list(hole.exterior.coords)[:-1] for hole in holes]


def test_areas_and_lengths_are_shapelys_for_ten_thousand_polygons_with_holes():
    rng = np.random.default_rng(20270309)
    calibration = Calibration(35.277)
    holed = 0
    for _ in range(10_000):
        outer, holes = _with_holes(rng)
        holed += bool(holes)
        points = [point for ring in (outer, *holes) for point in ring]
        rings = [len(ring) for ring in (outer, *holes)] if holes else []
        shape = Polygon(outer, holes)
        area = measures.measure(MarkKind.AREA, points, rings, calibration, 0.1)
        around = measures.perimeter(points, rings, calibration, 0.1)
        assert area.value == pytest.approx(shape.area * calibration.mm_per_pt**2, rel=1e-9)
        assert around.value == pytest.approx(shape.length * calibration.mm_per_pt, rel=1e-9)
    assert holed > 2500


def test_an_outline_is_refused_exactly_where_shapely_finds_it_invalid():
    rng = np.random.default_rng(7)
    verdicts = set()
    for _ in range(600):
        points = [tuple(point) for point in rng.uniform(0, 100, (rng.integers(4, 7), 2))]
        valid = explain_validity(Polygon(points)) == "Valid Geometry"
        verdicts.add(valid)
        if valid:
            measures.check_measurable(MarkKind.AREA, points, ())
        else:
            with pytest.raises(RuleBroken, match="crosses itself"):
                measures.check_measurable(MarkKind.AREA, points, ())
    assert verdicts == {True, False}


def test_a_hole_lies_inside_and_not_in_another():
    measures.check_measurable(MarkKind.AREA, [*SQUARE, *HOLE], (4, 4))
    outside = tuple((x + 200, y) for x, y in HOLE)
    within = ((25, 25), (25, 35), (35, 35))
    for more, rings in ((outside, (4, 4)), ((*HOLE, *within), (4, 4, 3))):
        with pytest.raises(RuleBroken) as refused:
            measures.check_measurable(MarkKind.AREA, [*SQUARE, *more], rings)
        assert refused.value.code == "hole_outside"
    across = tuple((x + 70, y) for x, y in HOLE)
    with pytest.raises(RuleBroken, match="crosses"):
        measures.check_measurable(MarkKind.AREA, [*SQUARE, *across], (4, 4))


@pytest.mark.parametrize("rings", [(4, 3), (2, 6), (4,), (8, 0)])
def test_outlines_take_all_corners_three_or_more_each(rings):
    with pytest.raises(RuleBroken):
        measures.check_rings(MarkKind.AREA, 8, rings)


SHAPES = [
    (MarkKind.DISTANCE, ((0, 0), (300, 40)), ()),
    (MarkKind.PATH, ((0, 0), (120, 10), (90, 200), (300, 220)), ()),
    (MarkKind.PERIMETER, ((0, 0), (120, 10), (90, 200)), ()),
    (MarkKind.AREA, (*SQUARE, *HOLE), (4, 4)),
    (MarkKind.ANGLE, ((200, 0), (0, 0), (120, 160)), ()),
]


@pytest.mark.parametrize(("kind", "points", "rings"), SHAPES, ids=[each[0].value for each in SHAPES])
def test_uncertainty_is_that_of_many_hands(kind, points, rings):
    """JCGM 101:2008: propagation by drawing lots, against first derivatives."""
    rng = np.random.default_rng(5)
    aim, share = 0.6, 0.0 if kind is MarkKind.ANGLE else 0.004
    plain = measures.measure(kind, points, rings, Calibration(35.0, share), aim)
    values = []
    for _ in range(6000):
        moved = [tuple(point) for point in np.array(points) + rng.normal(0, aim, (len(points), 2))]
        factor = 35.0 * (1 + rng.normal(0, share))
        values.append(measures.measure(kind, moved, rings, Calibration(factor), 0.0).value)
    assert plain.spread == pytest.approx(np.std(values), rel=0.05)
    assert plain.value == pytest.approx(np.mean(values), abs=3 * plain.spread)


def test_two_places_tell_the_scale_and_how_sure_it_is():
    found = measures.by_two_points((0, 0), (200, 0), 7000.0, 0.5)
    assert found.mm_per_pt == 35.0
    assert found.share == pytest.approx(0.5 * math.sqrt(2) / 200)
    for far, real in (((0.5, 0), 1.0), ((200, 0), 0.0), ((200, 0), math.inf)):
        with pytest.raises(RuleBroken):
            measures.by_two_points((0, 0), far, real, 0.5)


def test_a_stated_scale_is_of_the_true_paper():
    # ISO 5455: 1 mm on a sheet of 1 : 100 is 100 mm. A point is 25.4/72 mm.
    assert measures.by_ratio(100, 72 / 25.4).mm_per_pt == pytest.approx(100 * 25.4 / 72)
    for ratio in (0, -1, math.nan, 2e6):
        with pytest.raises(RuleBroken):
            measures.by_ratio(ratio, 72 / 25.4)


@pytest.mark.parametrize(("value", "spread", "words"), [
    (12345.678, 0, "12.346 m"), (12345.678, 9.0, "12.35 m ± 0.02 m"), (12345.678, 60.0, "12.3 m ± 0.2 m"),
    (12345.678, 600.0, "12 m ± 2 m"), (345.6, 0.1, "0.346 m ± 0.001 m"),
])  # fmt: skip
def test_no_more_digits_than_are_known(value, spread, words):
    assert lengths.in_words(Measured(value, spread, 1), "metric") == words


def test_imperial_tells_no_finer_part_of_an_inch_than_is_known():
    assert lengths.in_words(Measured(3817.9, 3.0, 1), "imperial") == '12\'-6 1/4" ± 1/4"'
    assert lengths.in_words(Measured(3817.9, 0, 1), "imperial") == "12'-6 5/16\""
    assert lengths.in_words(Measured(304.8**2 * 9, 0, 2), "imperial") == "9.000 sq ft"


@pytest.mark.parametrize(("text", "units", "value_mm"), [
    ("12.5 m", "metric", 12500), ("12,5 m", "metric", 12500), ("12500", "metric", 12500), ("80 cm", "metric", 800),
    ("12'-6 1/2\"", "metric", 3822.7), ("12' 6\"", "imperial", 3810), ("6 1/2", "imperial", 165.1),
    ("3/8\"", "imperial", 9.525), ("12 ft", "imperial", 3657.6), ("2.5 m", "imperial", 2500),
    ("12′-6″", "metric", 3810),
])  # fmt: skip
def test_lengths_are_read_as_people_write_them(text, units, value_mm):
    assert lengths.read_length(text, units) == pytest.approx(value_mm)


@pytest.mark.parametrize("text", ["", "long", "12 furlongs", '1/0"', "-5 m", "'", "1 2 3", "1e5"])
def test_what_is_no_length_is_said(text):
    with pytest.raises(RuleBroken) as refused:
        lengths.read_length(text, "metric")
    assert refused.value.code == "length_unreadable"


@given(st.integers(0, 64 * 12 * 5000))
def test_feet_and_inches_are_read_back_as_they_were_written(count):
    value_mm = count * 25.4 / 64
    assert lengths.read_length(lengths.feet_and_inches(value_mm), "imperial") == pytest.approx(value_mm, abs=1e-6)


@pytest.mark.parametrize(("text", "ratio"), [
    ("1:100", 100), ("1 : 1 000", 1000), ("1:100 @ A1", 100), ("2:1", 0.5), ("1/50", 50), ("1:2.5", 2.5), ("NTS", None),
    ("as shown", None), ("1:50, 1:100", None), ("1:0", None), ("1:50 and 1:50", 50),
])  # fmt: skip
def test_scales_are_read_as_title_blocks_write_them(text, ratio):
    assert lengths.read_ratio(text) == ratio


def test_the_smallest_region_holds_and_of_two_the_later():
    page, region = Scale("page", None, Calibration(35)), Scale("region", (0, 0, 100, 100), Calibration(7))
    inner, again = Scale("inner", (10, 10, 20, 20), Calibration(1)), Scale("again", (0, 0, 100, 100), Calibration(8))
    known = [inner, region, page, again]
    assert [scales.scale_at(at, known).id for at in ((15, 15), (50, 50), (500, 5))] == ["inner", "again", "page"]
    assert scales.scale_of([(15, 15), (12, 12)], known).id == "inner"
    for points in ([(15, 15), (50, 50)], [(50, 50), (500, 5)]):
        with pytest.raises(RuleBroken) as refused:
            scales.scale_of(points, known)
        assert refused.value.code == "across_scales"
    assert scales.scale_of([(500, 5)], [region]) is None
    with pytest.raises(RuleBroken):
        scales.scale_of([(500, 5), (50, 50)], [region])


def test_over_two_percent_from_the_title_block_is_told():
    # Common practice, as the handbook has it.
    assert scales.apart(101.9, 100) is None
    assert scales.apart(102.1, 100) == pytest.approx(0.021)
    assert scales.apart(97.9, 100) == pytest.approx(-0.021)
    assert scales.apart(500, None) is None
