"""Open marks carried to a new revision: where they come to lie, what was touched, what they keep."""

import io

import pytest
from hypothesis import given
from hypothesis import strategies as st
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.core.marks import carried_marks as rules
from nod.core.marks.marks import MarkKind
from nod.core.sheet.geometry import Affine, PageBox
from nod.services.marks import carried_marks, mark_files, mark_links, mark_threads, marks_in
from tests.world import name


def _plan(shift=(0.0, 0.0), door=True, pages=1):
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(420 * mm, 297 * mm), invariant=1)
    for _ in range(pages):
        canvas.translate(shift[0] * mm, shift[1] * mm)
        for place in range(10):
            canvas.rect((30 + 30 * place) * mm, 120 * mm, 25 * mm, (20 + 5 * place) * mm)
            canvas.circle((40 + 23 * place) * mm, 60 * mm, (3 + place / 3) * mm)
        if door:
            canvas.circle(100 * mm, 230 * mm, 6 * mm)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


CLOUD = [(90 * mm, 220 * mm), (110 * mm, 220 * mm), (110 * mm, 240 * mm), (90 * mm, 240 * mm)]


@pytest.fixture
def old(world):
    return world.file(name(revision="P01"), content=_plan(pages=2))[0][1]


def _new(world, content):
    return world.file(name(revision="P02"), content=content)[0][1]


def _list(world, sheet, who="anouk"):
    return carried_marks.list_carriable(world.context, world.press, world.actor(who), sheet)


def _carry(world, sheet, *marks, who="anouk"):
    command = carried_marks.CarryMarks(marks=[mark.id for mark in marks])
    return carried_marks.carry_marks(world.context, world.press, world.actor(who), sheet, command)


def test_marks_come_along_aligned_and_say_whether_they_were_touched(world, old):
    pin, cloud = world.draw_all(
        old, {"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": "stays"},
        {"kind": "cloud", "points": CLOUD, "text": "this door"},
    )  # fmt: skip
    world.ink(old, pin, cloud)
    world.reply(pin, "Answered on P01")
    new = _new(world, _plan((6.0, -4.0), door=False))
    found = _list(world, new)
    assert (found.from_revision, found.pages_gone) == ("P01", 0)
    assert {each.mark.text: each.touched for each in found.marks} == {"stays": False, "this door": True}
    carried = {mark.text: mark for mark in _carry(world, new, pin, cloud)}
    stays = carried["stays"]
    assert stays.points[0] == pytest.approx((76 * mm, 56 * mm), abs=0.3)
    assert (stays.author.name, stays.pin_number, stays.touched) == ("Leilani Brandt", 1, False)
    assert [reply.text for reply in stays.replies] == ["Answered on P01"]
    assert (stays.first_place.revision, stays.first_place.mark) == ("P01", pin.id)
    assert carried["this door"].touched
    assert _list(world, new).marks == []
    assert world.kinds()[-2:] == ["mark_carried"] * 2
    with pytest.raises(NotFound):
        _carry(world, new, pin)


def test_a_thread_goes_on_wherever_it_was_carried(world, old):
    pin = world.draw_all(old, {"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": "which?"})[0]
    world.ink(old, pin)
    second = _new(world, _plan())
    (carried,) = _carry(world, second, pin)
    world.reply(carried, "On P02")
    third = world.file(name(revision="P03"), content=_plan((0, 5)))[0][1]
    (again,) = _carry(world, third, carried)
    assert [reply.text for reply in again.replies] == ["On P02"]
    assert again.first_place.revision == "P01"
    world.reply(again, "On P03")
    for sheet in (old, second, third):
        (mark,) = world.marks(sheet, "anouk")
        assert [reply.text for reply in mark.replies] == ["On P02", "On P03"]
        assert not mark.may_change


def _state(world, mark, state, who="anouk"):
    command = mark_threads.SetMarkState(version=mark.version, state=state)
    return mark_threads.set_mark_state(world.context, world.actor(who), mark.id, command)


def test_one_thread_has_one_state_wherever_it_stands(world, old):
    pin, alone = world.draw_all(
        old, *({"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": text} for text in ("which?", "alone"))
    )
    world.ink(old, pin, alone)
    second = _new(world, _plan())
    (carried,) = _carry(world, second, pin)
    _state(world, carried, "done")
    states = {mark.text: mark.state for mark in world.marks(old, "leilani")}
    assert states == {"which?": "done", "alone": "open"}
    assert world.kinds()[-1] == "mark_state_set"
    third = world.file(name(revision="P03"), content=_plan())[0][1]
    assert _list(world, third).marks == []

    first = next(mark for mark in world.marks(old, "leilani") if mark.text == "which?")
    reopened = _state(world, first, "open", "leilani")
    assert reopened.state == "open"
    assert [each.mark.id for each in _list(world, third).marks] == [carried.id]
    with pytest.raises(Stale):
        _state(world, carried, "agreed")


def test_a_file_written_from_the_revision_before_brings_only_what_was_said(world, old):
    """Its marks stand here already, carried; where they lie there is no place on this sheet."""
    pin = world.draw_all(old, {"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": "which?"})[0]
    world.ink(old, pin)
    second = _new(world, _plan((6.0, -4.0)))
    (carried,) = _carry(world, second, pin)
    world.reply(pin, "This one")
    content = mark_files.export_marks(world.context, world.press, world.actor("anouk"), old, "xfdf").content
    said = content.replace(b"This one", b"That one").replace(b"which?", b"what?")
    said = said.replace(world.marks(old, "anouk")[0].replies[0].id.encode(), b"their-reply")
    ((last,),) = world.sql("SELECT max(seq) FROM live_event")
    taken = marks_in.take_in_marks(world.context, world.press, world.actor("leilani"), second, "p01.xfdf", [said])
    told = world.sql("SELECT subject_id FROM live_event WHERE topic = 'marks' AND seq > ?", last)
    assert {subject for (subject,) in told} == {old, second}
    assert (taken.added, taken.renewed, taken.same, taken.answers) == (0, 0, 1, 1)
    (here,) = world.marks(second, "anouk")
    assert (here.id, here.text, here.points) == (carried.id, "which?", carried.points)
    assert [reply.text for reply in here.replies] == ["This one", "That one"]


def test_who_looks_at_another_revision_hears_of_the_thread_at_once(world, old):
    pin = world.draw_all(old, {"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": "which?"})[0]
    world.ink(old, pin)
    second = _new(world, _plan())
    (carried,) = _carry(world, second, pin)

    def heard(act):
        ((last,),) = world.sql("SELECT max(seq) FROM live_event")
        act()
        rows = world.sql("SELECT topic, subject_id FROM live_event WHERE seq > ?", last)
        return {subject for topic, subject in rows if topic == "marks"}

    to_web = mark_links.LinkMark(kind="web", target="https://tides.example/")
    acts = (
        lambda: world.reply(carried, "On P02"),
        lambda: _state(world, world.marks(second, "anouk")[0], "done"),
        lambda: mark_links.link_mark(world.context, world.actor("anouk"), carried.id, to_web),
    )
    for act in acts:
        assert heard(act) == {old, second}


def test_what_came_from_a_file_keeps_its_author_and_its_identifier(world, old):
    pin = world.draw_all(old, {"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": "which?"})[0]
    world.ink(old, pin)
    content = mark_files.export_marks(world.context, world.press, world.actor("anouk"), old, "xfdf").content
    world.sql("UPDATE thread SET way = 'file', author_name = 'Ann of Elsewhere', file_id = 'their-1'")
    second = _new(world, _plan())
    (carried,) = _carry(world, second, pin)
    assert (carried.author.way, carried.author.name) == ("file", "Ann of Elsewhere")
    theirs = content.replace(pin.id.encode(), b"their-1")
    marit = world.actor("marit")
    taken = marks_in.take_in_marks(world.context, world.press, marit, second, "their.xfdf", [theirs])
    assert (taken.added, taken.same) == (0, 1)


def test_only_open_ink_comes_along_and_what_has_no_page_is_told(world, old):
    ink = [{"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": text} for text in ("open", "done")]
    lost = {"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": "page two", "page": 1}
    drawn = world.draw_all(old, *ink, lost)
    world.ink(old, *drawn)
    world.draw_all(old, {"kind": "pin", "points": [(9, 9)], "text": "pencil"})
    done = world.marks(old, "leilani")[1]
    state = mark_threads.SetMarkState(version=done.version, state="done")
    mark_threads.set_mark_state(world.context, world.actor("anouk"), done.id, state)
    new = _new(world, _plan())
    found = _list(world, new)
    assert ([each.mark.text for each in found.marks], found.pages_gone) == (["open"], 1)
    with pytest.raises(NotFound):
        _carry(world, new, drawn[2])
    assert world.marks(new, "anouk") == []


def test_pins_keep_their_numbers_unless_these_are_taken(world, old):
    pin = world.draw_all(old, {"kind": "pin", "points": [(70 * mm, 60 * mm)], "text": "old one"})[0]
    world.ink(old, pin)
    new = _new(world, _plan())
    world.ink(new, world.draw_all(new, {"kind": "pin", "points": [(9, 9)], "text": "new one"})[0])
    (carried,) = _carry(world, new, pin)
    assert carried.pin_number == 2


def test_a_first_revision_has_nothing_before_it_and_readers_carry_nothing(world, old):
    assert _list(world, old).from_revision == ""
    with pytest.raises(NotFound):
        _list(world, old, "yusuf")
    with pytest.raises(NotAllowed):
        _carry(world, old, who="junpei")
    with pytest.raises(RuleBroken):
        _carry(world, old)


@given(
    st.sampled_from([0, 90, 180, 270]), st.sampled_from([0, 90, 180, 270]), st.floats(0.5, 2), st.floats(-40, 40),
    st.floats(0, 400), st.floats(0, 300),
)  # fmt: skip
def test_the_way_leads_over_what_is_seen_however_pages_are_turned(turn, other, unit, shift, x, y):
    """The same millimetre of the sheet as seen, shifted, whatever rotation, crop box and unit either page has."""
    before, after = PageBox(10, 20, 850, 615, turn).to_view(), PageBox(-5, 0, 900, 700, other).to_view()
    old_mm, new_mm = 72 / 25.4, 72 / 25.4 / unit
    way = rules.way(before, after, ((1, 0, shift), (0, 1, 0)), old_mm, new_mm)
    seen = before.apply((x, y))
    there = after.apply(way.apply((x, y)))
    assert there[0] / new_mm == pytest.approx(seen[0] / old_mm + shift, abs=1e-6)
    assert there[1] / new_mm == pytest.approx(seen[1] / old_mm, abs=1e-6)


def test_then_is_one_after_the_other():
    one, other = Affine(1, 2, 3, 4, 5, 6), Affine(0.5, -1, 2, 1, 7, -8)
    assert one.then(other).apply((3, -2)) == pytest.approx(other.apply(one.apply((3, -2))))


def test_a_callout_speaks_of_what_its_leader_points_at():
    assert rules.under(MarkKind.CALLOUT, [(100, 100), (150, 120), (20, 20)]) == (12, 12, 28, 28)
    assert rules.is_touched((12, 12, 28, 28), [(27, 27, 40, 40)])
    assert not rules.is_touched((12, 12, 28, 28), [(29, 12, 40, 28)])
