import io
import json

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.core.marks.marks import MANNERS, POINTS, MarkKind
from nod.formats.files.spreadsheet import read_table
from nod.services.acts import live
from nod.services.marks import mark_files, mark_threads, marks
from tests.world import NUMBER, name


@pytest.fixture
def sheet(world):
    ((_, revision_id),) = world.file(name())
    return revision_id


def _texts(world, sheet, who):
    return [mark.text for mark in world.marks(sheet, who)]


def test_pencil_is_for_its_author_alone_and_ink_for_all(world, sheet):
    drawn = world.draw(sheet, text="mine alone")
    assert _texts(world, sheet, "leilani") == ["mine alone"]
    assert _texts(world, sheet, "anouk") == []
    world.ink(sheet, drawn)
    assert _texts(world, sheet, "anouk") == ["mine alone"]
    with pytest.raises(NotFound):
        world.marks(sheet, "yusuf")


def test_pencil_tells_nobody_else_live_nor_in_the_trail(world, sheet):
    before = live.last_seq(world.context)
    drawn = world.draw(sheet)
    anouk, leilani = world.actor("anouk"), world.actor("leilani")
    assert live.events_after(world.context, anouk, before)[0] == []
    assert [event.topic for event in live.events_after(world.context, leilani, before)[0]] == ["marks"]
    assert live.events_after(world.context, world.actor("yusuf"), 0)[0] == []
    private = world.sql("SELECT private_to FROM audit_entry WHERE kind = 'mark_drawn'")
    assert private == [(leilani.person_id,)]
    world.ink(sheet, drawn)
    assert [event.topic for event in live.events_after(world.context, anouk, before)[0]] == ["marks"]


def test_pins_are_numbered_in_the_order_they_were_drawn(world, sheet):
    first, second = world.draw(sheet), world.draw(sheet)
    cloud = world.draw(sheet, kind="cloud")
    inked = {mark.id: mark.pin_number for mark in world.ink(sheet, second, cloud, first)}
    assert {inked[first.id], inked[second.id]} == {1, 2}
    assert inked[cloud.id] is None
    (third,) = world.ink(sheet, world.draw(sheet, "anouk"), who="anouk")
    assert third.pin_number == 3


def test_an_answered_mark_stays_as_it_is(world, sheet):
    (mark,) = world.ink(sheet, world.draw(sheet))
    changed = world.change_mark(mark, text="Better words")
    answered = world.reply(mark, "Seen.")
    assert [reply.author.name for reply in answered.replies] == ["Anouk Ferreira"]
    assert not world.marks(sheet, "leilani")[0].may_change
    for act in (lambda: world.change_mark(changed, text="x"), lambda: world.remove_mark(sheet, changed)):
        with pytest.raises(RuleBroken) as refused:
            act()
        assert refused.value.code == "mark_answered"


def test_others_do_not_change_my_mark_and_do_not_know_my_pencil(world, sheet):
    drawn = world.draw(sheet)
    with pytest.raises(NotFound):
        world.change_mark(drawn, who="anouk", text="changed by another")
    with pytest.raises(NotFound):
        world.reply(drawn, "guess")
    with pytest.raises(NotFound):
        world.ink(sheet, drawn, who="anouk")
    (inked,) = world.ink(sheet, drawn)
    with pytest.raises(NotAllowed):
        world.change_mark(inked, who="anouk", text="x")


def _bring_back(world, sheet, mark, who="leilani"):
    marks.bring_back_marks(world.context, world.actor(who), sheet, marks.BringBackMarks(marks=[mark.id]))


def test_taking_away_can_be_undone(world, sheet):
    drawn = world.draw(sheet)
    world.remove_mark(sheet, drawn)
    assert world.marks(sheet, "leilani") == []
    with pytest.raises(NotFound):
        _bring_back(world, sheet, drawn, "anouk")
    with pytest.raises(NotFound):
        world.ink(sheet, drawn)
    _bring_back(world, sheet, drawn)
    assert _texts(world, sheet, "leilani") == [drawn.text]
    with pytest.raises(RuleBroken) as refused:
        _bring_back(world, sheet, drawn)
    assert refused.value.code == "mark_still_there"


def test_a_change_of_what_was_not_seen_is_refused(world, sheet):
    drawn = world.draw(sheet)
    world.change_mark(drawn, points=[(5, 5)])
    with pytest.raises(Stale):
        world.change_mark(drawn, points=[(5, 5)])
    with pytest.raises(Stale):
        world.ink(sheet, drawn)


def test_a_thread_and_a_state_are_for_ink(world, sheet):
    drawn = world.draw(sheet)
    with pytest.raises(RuleBroken) as refused:
        world.reply(drawn, "to myself", who="leilani")
    assert refused.value.code == "still_pencil"
    (inked,) = world.ink(sheet, drawn)
    state = mark_threads.SetMarkState(version=inked.version, state="dropped")
    assert mark_threads.set_mark_state(world.context, world.actor("anouk"), drawn.id, state).state == "dropped"
    with pytest.raises(RuleBroken):
        world.ink(sheet, inked)


def test_a_mark_on_a_page_that_is_not_there_is_refused(world, sheet):
    with pytest.raises(RuleBroken) as refused:
        world.draw_all(sheet, {"page": 3, "kind": "pin", "points": [(1, 1)]})
    assert refused.value.code == "page_missing"


def _points(kind, count):
    return [(10.0 + place, 20.0 + 7 * place % 5) for place in range(count)]


def _new(kind, count):
    look = {"symbol": "tick"} if kind == "symbol" else {}
    return {"kind": kind.value, "points": _points(kind, count), "look": look, "text": "as said"}


@pytest.mark.parametrize("kind", MarkKind)
def test_every_kind_is_drawn_with_the_points_it_has_and_no_others(world, sheet, kind):
    fewest, most = POINTS[kind]
    (drawn,) = world.draw_all(sheet, _new(kind, fewest))
    assert (drawn.kind, drawn.points) == (kind, _points(kind, fewest))
    for wrong in (fewest - 1, most + 1):
        with pytest.raises(RuleBroken) as refused:
            world.draw_all(sheet, _new(kind, wrong))
        assert refused.value.code == "shape_unfit"


LOOKS = [
    {"colour": "mauve"}, {"fill": "mauve"}, {"weight_mm": 0}, {"weight_mm": 11.0}, {"opacity": 0.0}, {"opacity": 1.1},
    {"type_mm": 0.5}, {"symbol": "tick"}, {"weight_mm": -1.0},
]  # fmt: skip


@pytest.mark.parametrize("look", LOOKS, ids=str)
def test_an_impossible_look_is_refused(world, sheet, look):
    with pytest.raises(RuleBroken) as refused:
        world.draw_all(sheet, {"kind": "line", "points": [(0, 0), (5, 5)], "look": look})
    assert refused.value.code == "shape_unfit"


def test_several_are_changed_together_or_not_at_all(world, sheet):
    one, two = world.draw(sheet), world.draw(sheet, kind="cloud")
    changes = [
        {"id": one.id, "version": one.version, "points": [(7, 7)]},
        {"id": two.id, "version": two.version + 1, "text": "never seen"},
    ]
    command = marks.ChangeMarks.model_validate({"changes": changes})
    with pytest.raises(Stale):
        marks.change_marks(world.context, world.actor("leilani"), sheet, command)
    assert world.marks(sheet, "leilani")[0].points == one.points
    changes[1]["version"] = two.version
    command = marks.ChangeMarks.model_validate({"changes": changes})
    after = marks.change_marks(world.context, world.actor("leilani"), sheet, command)
    assert [(each.text, each.points[0]) for each in after] == [(one.text, (7, 7)), ("never seen", (10, 10))]


def test_a_mark_of_another_sheet_is_not_changed_through_this_one(world, sheet):
    ((_, other),) = world.file(name(number="BFT-TRA-Z1-01-D-A-0102"))
    drawn = world.draw(sheet)
    change = marks.ChangeMarks(changes=[marks.MarkChange(id=drawn.id, version=drawn.version, text="x")])
    with pytest.raises(NotFound):
        marks.change_marks(world.context, world.actor("leilani"), other, change)


def test_what_is_locked_stays_until_it_is_unlocked(world, sheet):
    locked = world.change_mark(world.draw(sheet), locked=True)
    for act in (lambda: world.change_mark(locked, points=[(5, 5)]), lambda: world.remove_mark(sheet, locked)):
        with pytest.raises(RuleBroken) as refused:
            act()
        assert refused.value.code == "mark_locked"
    moved = world.change_mark(locked, locked=False, points=[(5, 5)])
    assert (moved.locked, moved.points) == (False, [(5, 5)])


def test_marks_lie_over_each_other_in_their_order(world, sheet):
    low, _middle, high = (world.draw(sheet, text=text) for text in ("low", "middle", "high"))
    world.change_mark(low, rank=1)
    world.change_mark(high, rank=-1)
    assert _texts(world, sheet, "leilani") == ["high", "middle", "low"]


def test_those_who_are_named_and_for_whom_it_is_are_told_once_it_is_ink(world, sheet):
    drawn = world.draw(sheet, text="@Anouk Ferreira and @yusuf rahman: is this door wide enough?")
    drawn = world.change_mark(drawn, meant_for=world.cast.people["marit"])
    assert [payload for _, payload in world.send() if "mark" in payload["subject"]] == []
    world.ink(sheet, drawn)
    told = {(payload["to_name"], payload["subject"].partition(": ")[2]) for _, payload in world.send()}
    assert told == {
        ("Anouk Ferreira", f"Leilani Brandt named you in a mark on {NUMBER}"),
        ("Marit Osei", f"Leilani Brandt has a mark for you on {NUMBER}"),
    }


def test_who_is_named_after_the_ink_is_told_too_and_once(world, sheet):
    (inked,) = world.ink(sheet, world.draw(sheet))
    world.send()
    marit = world.cast.people["marit"]
    changed = world.change_mark(inked, text="@Anouk Ferreira?", meant_for=marit)
    told = [(payload["to_name"], payload["text"]) for _, payload in world.send()]
    assert sorted(name for name, _ in told) == ["Anouk Ferreira", "Marit Osei"]
    assert all(f"/sheet/{sheet}?page=0&mark={inked.id}" in text for _, text in told)
    world.change_mark(changed, text="@Anouk Ferreira, which door?")
    assert world.send() == []
    (body,) = world.sql("SELECT body FROM audit_entry WHERE kind = 'mark_changed' ORDER BY seq LIMIT 1")[0]
    assert json.loads(body)["after"]["meant for"] == "Marit Osei"


def test_a_mark_is_for_those_only_who_see_the_sheet(world, sheet):
    with pytest.raises(RuleBroken) as refused:
        world.change_mark(world.draw(sheet), meant_for=world.cast.people["yusuf"])
    assert refused.value.code == "person_sees_not"
    people = mark_threads.list_sheet_people(world.context, world.actor("leilani"), sheet).people
    assert world.cast.people["yusuf"] not in {each.id for each in people}
    assert world.cast.people["anouk"] in {each.id for each in people}


def _export(world, sheet, form, who="anouk"):
    return mark_files.export_marks(world.context, world.press, world.actor(who), sheet, form)


def test_ink_is_taken_away_in_the_pdf_with_its_thread_and_pencil_is_not(world, sheet):
    (pin,) = world.ink(sheet, world.draw(sheet, text="Which door?"))
    world.draw(sheet, text="mine alone")
    world.reply(pin, "The left one.")
    state = mark_threads.SetMarkState(version=pin.version, state="done")
    mark_threads.set_mark_state(world.context, world.actor("anouk"), pin.id, state)
    made = _export(world, sheet, "pdf", "leilani")
    assert made.name == f"{NUMBER}_P01_S3_marks.pdf"
    with pikepdf.open(io.BytesIO(made.content)) as pdf:
        kept = {str(each.get("/State", each.Contents)): str(each.T) for each in pdf.pages[0].Annots}
    assert kept == {
        "Which door?": "Leilani Brandt (PLS)", "The left one.": "Anouk Ferreira (BHT)",
        "Completed": "Anouk Ferreira (BHT)",
    }  # fmt: skip
    assert world.kinds()[-1] == "marks_exported"


@pytest.mark.parametrize("form", ["xlsx", "csv"])
def test_marks_are_taken_away_as_a_table_with_their_places_on_paper(world, sheet, form, tmp_path):
    drawn = world.draw_all(sheet, {"kind": "pin", "points": [(72, 72)], "text": "=Which door?", "label": "doors"})
    (pin,) = world.ink(sheet, *drawn)
    world.reply(pin, "The left one.")
    path = tmp_path / f"marks.{form}"
    path.write_bytes(_export(world, sheet, form).content)
    rows = read_table(path).rows
    line = dict(zip(rows[0], rows[1], strict=True))
    assert [line[each] for each in ("Mark", "Label", "State")] == ["Pin 1, doors", "doors", "open"]
    assert line["Text"].lstrip("'") == "=Which door?"
    assert line["Answers"] == "Anouk Ferreira (BHT): The left one."
    # An A3 sheet on its side is 297 mm high; 72 points are an inch.
    assert (float(line["Left mm"]), float(line["Upper mm"])) == (25.4, pytest.approx(297 - 25.4, abs=0.1))


def test_what_may_not_be_seen_is_not_taken_away(world, sheet):
    with pytest.raises(NotFound):
        _export(world, sheet, "csv", "yusuf")
    assert "marks_exported" not in world.kinds()


def test_a_summary_shows_each_place_with_what_was_said(world, sheet):
    drawn = world.draw_all(
        sheet, {"kind": "rectangle", "points": [(100, 100), (300, 300)], "text": "Headroom < 2,10 m & dark"},
        {"kind": "pin", "points": [(1, 1)], "text": "At the very edge", "discipline": "S"},
    )  # fmt: skip
    world.ink(sheet, *drawn)
    world.reply(drawn[0], "Raised to 2,20 m")
    world.draw(sheet, text="pencil stays")
    made = mark_files.export_marks(world.context, world.press, world.actor("anouk"), sheet, "summary")
    page = pdfium.PdfDocument(made.content)[0]
    words = page.get_textpage().get_text_bounded()
    for said in (
        "Headroom < 2,10 m & dark",
        "At the very edge",
        "Raised to 2,20 m",
        "Leilani Brandt (PLS)",
        "2 marks in ink",
        "open · Structure",
    ):
        assert said in words
    assert words.count("open ·") == 1
    assert "pencil stays" not in words
    pictures = [each for each in page.get_objects() if each.type == pdfium.raw.FPDF_PAGEOBJ_IMAGE]
    assert len(pictures) == 2
    # The ink of the rectangle is in its clip.
    clip = np.asarray(pictures[0].get_bitmap().to_pil().convert("RGB"), np.int16)
    assert (clip[..., 0] - clip[..., 2] > 80).sum() > 300
    assert made.name.endswith("_marks_summary.pdf")


def test_a_summary_of_nothing_says_so(world, sheet):
    made = mark_files.export_marks(world.context, world.press, world.actor("anouk"), sheet, "summary")
    assert "No marks are in ink" in pdfium.PdfDocument(made.content)[0].get_textpage().get_text_bounded()


@pytest.mark.parametrize(("kind", "manner"), [(kind, each) for kind, those in MANNERS.items() for each in those])
def test_a_manner_is_kept_with_its_mark_and_is_of_its_kind_alone(world, kind, manner):
    ((_, revision),) = world.file(name())
    points = [(100, 100)] if kind is MarkKind.PIN else [(100, 100), (200, 120)]
    drawn = world.draw_all(revision, {"kind": kind, "points": points, "text": "So", "look": {"symbol": manner}})[0]
    assert (drawn.look.symbol, drawn.sound) == (manner, True)
    assert [each.look.symbol for each in world.marks(revision, "leilani")] == [manner]
    with pytest.raises(RuleBroken):
        world.draw_all(revision, {"kind": "line", "points": [(1, 1), (9, 9)], "text": "", "look": {"symbol": manner}})
