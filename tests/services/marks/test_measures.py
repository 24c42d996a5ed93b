"""Scales set and taken away, measures by them, totals, and what is refused."""

import csv
import io

import pikepdf
import pytest
from pikepdf import Array, Dictionary, Name

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.marks import mark_files, measures, scales
from nod.services.marks.scales import SetScale
from tests.world import name, pdf

MM = 72 / 25.4
"""Points to a millimetre of paper."""


@pytest.fixture
def sheet(world):
    return world.file(name())[0][1]


def _set(world, sheet, who="leilani", **values):
    command = SetScale.model_validate({"page": 0, **values})
    scales.set_scale(world.context, world.actor(who), sheet, command)


def _scales(world, sheet, who="leilani"):
    return scales.list_scales(world.context, world.actor(who), sheet)


def _line(length_mm, at_mm=(20, 20), **more):
    x, y = at_mm[0] * MM, at_mm[1] * MM
    return {"kind": "distance", "points": [(x, y), (x + length_mm * MM, y)], **more}


def _words(world, sheet, who="leilani"):
    return [mark.measured.words for mark in world.marks(sheet, who)]


def test_without_a_scale_it_is_paper_and_with_one_the_thing(world, sheet):
    (mark,) = world.draw_all(sheet, _line(50))
    assert (mark.measured.words, mark.measured.on_paper) == ("50.0 mm", True)
    _set(world, sheet, ratio="1:100")
    assert _words(world, sheet) == ["5.000 m"]
    assert world.kinds()[-1] == "scale_set"
    _set(world, sheet, ratio="1:50")
    (only,) = _scales(world, sheet).scales
    assert (only.ratio, only.how, only.set_by.name) == ("1:50", "stated", "Leilani Brandt")
    assert _words(world, sheet) == ["2.500 m"]
    scales.remove_scale(world.context, world.actor("anouk"), sheet, only.id)
    assert _words(world, sheet) == ["50.0 mm"]
    with pytest.raises(NotFound):
        scales.remove_scale(world.context, world.actor("anouk"), sheet, only.id)


def test_two_places_give_a_scale_that_is_not_quite_sure(world, sheet):
    points = [(100, 100), (100 + 100 * MM, 100)]
    _set(world, sheet, points=points, distance="10 m", aim_pt=0.5)
    (found,) = _scales(world, sheet).scales
    assert (found.how, found.said, found.ratio) == ("points", "10 m", "1:100")
    (mark,) = world.draw_all(sheet, _line(50, aim_pt=0.5))
    # Half a point off at 100 mm, and at both ends of the measure, twice for 95 %.
    share = 0.5 * 2**0.5 / (100 * MM)
    expected = ((share * 5000) ** 2 + (0.5 * 2**0.5 * 100 / MM) ** 2) ** 0.5
    assert mark.measured.spread == pytest.approx(expected)
    assert mark.measured.words == "5.00 m ± 0.06 m"


@pytest.mark.parametrize(("values", "code"), [
    ({"ratio": "as shown"}, "scale_unfit"), ({"ratio": "1:9999999"}, "scale_unfit"), ({}, "scale_unfit"),
    ({"points": [(0, 0), (0, 0)], "distance": "1 m"}, "scale_unfit"), ({"page": 7, "ratio": "1:5"}, "page_missing"),
    ({"points": [(0, 0), (90, 0)], "distance": "far"}, "length_unreadable"),
    ({"ratio": "1:50", "box": (0, 0, 3, 3)}, "scale_unfit"),
])  # fmt: skip
def test_what_is_no_scale_is_said_and_nothing_is_kept(world, sheet, values, code):
    before = world.kinds()
    with pytest.raises(RuleBroken) as refused:
        _set(world, sheet, **values)
    assert refused.value.code == code
    assert (_scales(world, sheet).scales, world.kinds()) == ([], before)


def test_readers_see_scales_and_set_none(world, sheet):
    with pytest.raises(NotFound):
        _set(world, sheet, who="yusuf", ratio="1:100")
    found = _scales(world, sheet, "ines")
    assert (found.may_set, found.units) == (True, "metric")


def test_a_region_has_its_own_scale_and_nothing_is_measured_across(world, sheet):
    _set(world, sheet, ratio="1:100")
    _set(world, sheet, ratio="1:20", box=[200 * MM, 100 * MM, 300 * MM, 200 * MM])
    inside, outside = world.draw_all(sheet, _line(40, (210, 110)), _line(40))
    assert (inside.measured.words, outside.measured.words) == ("0.800 m", "4.000 m")
    with pytest.raises(RuleBroken) as refused:
        world.draw_all(sheet, _line(60, (170, 110)))
    assert refused.value.code == "across_scales"
    with pytest.raises(RuleBroken):
        world.change_mark(outside, points=[(100 * MM, 110 * MM), (210 * MM, 110 * MM)])
    assert _words(world, sheet) == ["0.800 m", "4.000 m"]
    _set(world, sheet, ratio="1:5", box=[30 * MM, 10 * MM, 100 * MM, 50 * MM])
    assert _words(world, sheet) == ["0.800 m", "scales differ"]


def test_a_scale_apart_from_the_title_blocks_is_told(world, sheet):
    with world.context.database.write() as session:
        session.connection().exec_driver_sql("UPDATE document SET scale = '1:100'")
    _set(world, sheet, ratio="1:103")
    (found,) = _scales(world, sheet).scales
    assert found.warning == "3.0 % more than the title block says (1:100)."
    _set(world, sheet, ratio="1:101")
    assert _scales(world, sheet).scales[0].warning == ""


def _with_measures(*viewports):
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf("measured"))) as made:
        made.pages[0].VP = Array([Dictionary(Type=Name.Viewport, **each) for each in viewports])
        made.save(out)
    return out.getvalue()


def test_the_files_own_scales_hold_where_they_say(world):
    rectilinear = Dictionary(Type=Name.Measure, Subtype=Name.RL, X=Array([Dictionary(U="m", C=0.0352777778)]))
    geographic = Dictionary(Type=Name.Measure, Subtype=Name.GEO)
    uneven = Dictionary(
        Type=Name.Measure, Subtype=Name.RL, X=Array([Dictionary(U="m", C=1)]), Y=Array([Dictionary(U="m", C=2)])
    )
    content = _with_measures(
        {"BBox": Array([0, 0, 500, 800]), "Measure": rectilinear},
        {"BBox": Array([600, 0, 700, 90]), "Measure": geographic},
        {"BBox": Array([700, 0, 800, 90]), "Measure": uneven},
    )  # fmt: skip
    ((_, sheet),) = world.file(name(), content=content)
    found = _scales(world, sheet).scales
    assert [(each.how, each.ratio) for each in found] == [("file", "1:100"), ("file", ""), ("file", "")]
    assert "geographic" in found[1].warning
    assert "another scale across" in found[2].warning
    inside, outside = world.draw_all(sheet, _line(50), _line(10, (230, 10)))
    assert (inside.measured.words, outside.measured.words) == ("5.000 m", "10.0 mm")
    _set(world, sheet, ratio="1:200")
    assert _words(world, sheet) == ["5.000 m", "2.000 m"]


AREA = [(100, 100), (300, 100), (300, 300), (100, 300)]
HOLE = [(150, 150), (150, 200), (200, 200), (200, 150)]


def test_a_hole_is_cut_out_and_a_crossing_outline_refused(world, sheet):
    _set(world, sheet, ratio="1:100")
    (whole,) = world.draw_all(sheet, {"kind": "area", "points": AREA})
    holed = world.change_mark(whole, points=AREA + HOLE, rings=[4, 4])
    assert holed.measured.value == pytest.approx(whole.measured.value * 15 / 16)
    assert holed.measured.more.startswith("around it")
    for points, rings, code in (
        (AREA + HOLE, [4, 3], "shape_unfit"), ([AREA[0], AREA[2], AREA[1], AREA[3]], [], "outline_crosses"),
    ):  # fmt: skip
        with pytest.raises(RuleBroken) as refused:
            world.change_mark(holed, points=points, rings=rings)
        assert refused.value.code == code
    with pytest.raises(RuleBroken):
        world.draw_all(sheet, {"kind": "polygon", "points": AREA, "rings": [4]})
    assert world.marks(sheet, "leilani")[0].rings == [4, 4]


def test_totals_are_by_label_and_the_table_says_the_same(world, sheet):
    _set(world, sheet, ratio="1:100")
    drawn = world.draw_all(
        sheet, _line(50, label="kerb"), _line(25, label="kerb"), {"kind": "count", "points": HOLE, "label": "bollard"},
        {"kind": "angle", "points": HOLE[:3]}, {"kind": "area", "points": AREA, "label": "slab"},
    )  # fmt: skip
    totals = measures.list_measures(world.context, world.actor("leilani"), sheet).totals
    assert [(each.label, each.count, each.words) for each in totals] == [
        ("", 1, ""), ("bollard", 1, "4"), ("kerb", 2, "7.500 m"), ("slab", 1, "49.781 m²"),
    ]  # fmt: skip
    assert measures.list_measures(world.context, world.actor("anouk"), sheet).totals == []
    world.ink(sheet, *drawn)
    made = measures.export_measures(world.context, world.actor("anouk"), sheet, "csv")
    rows = list(csv.DictReader(io.StringIO(made.content.decode("utf-8-sig"))))
    kerb = [float(row["Value"]) for row in rows if row["Label"] == "kerb" and row["Unit"] == "m"]
    assert kerb == [5.0, 2.5]
    assert [row["In words"] for row in rows if row["Kind"] == "Total distance"] == ["7.500 m"]
    assert made.name.endswith("_measures.csv")
    assert world.kinds()[-1] == "marks_exported"
    xlsx = measures.export_measures(world.context, world.actor("anouk"), sheet, "xlsx")
    assert xlsx.content[:2] == b"PK"


def test_measures_go_into_the_pdf_as_dimensions_with_their_scale(world, sheet):
    _set(world, sheet, ratio="1:100")
    drawn = world.draw_all(sheet, _line(50), {"kind": "area", "points": AREA + HOLE, "rings": [4, 4]})
    world.ink(sheet, *drawn)
    made = mark_files.export_marks(world.context, world.press, world.actor("anouk"), sheet, "pdf")
    with pikepdf.open(io.BytesIO(made.content)) as marked:
        line, area = marked.pages[0].Annots
        assert (str(line.IT), str(line.Contents)) == ("/LineDimension", "5.000 m")
        # ISO 32000-1, 12.9: a length in points times /X's factor is the length in /X's unit.
        (x0, _, x1, _) = (float(each) for each in line.L)
        assert (x1 - x0) * float(line.Measure.X[0].C) == pytest.approx(5.0, abs=1e-4)
        assert (str(area.IT), len(area.Vertices)) == ("/PolygonDimension", 8)


def test_who_may_not_mark_may_not_measure(world, sheet):
    with pytest.raises(NotAllowed):
        world.draw_all(sheet, _line(10), who="junpei")
