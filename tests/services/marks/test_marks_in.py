"""Marks taken in from files: who is named, what is newer, what is told, and nothing twice."""

import hashlib
import io
import json
from datetime import timedelta

import pikepdf
import pytest
from pikepdf import Array, String

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.formats.marks.pdf_papers import PRIVATE
from nod.services.marks import mark_files, mark_files_in, mark_threads, marks_in
from tests.outside import shared_data
from tests.world import bytes_of, name, pdf


@pytest.fixture
def sheet(world):
    return world.file(name())[0][1]


def _take_in(world, sheet, content, who="marit"):
    return marks_in.take_in_marks(world.context, world.press, world.actor(who), sheet, "marks.pdf", [content])


def _export(world, sheet, form="pdf"):
    return mark_files.export_marks(world.context, world.press, world.actor("anouk"), sheet, form).content


def _inked(world, sheet, **more):
    new = {"kind": "rectangle", "points": [(100, 100), (200, 160)], "text": "Here", "label": "fire", **more}
    drawn = world.draw_all(sheet, new)
    return world.ink(sheet, *drawn)[0]


def _counts(taken):
    return taken.added, taken.renewed, taken.same, taken.answers, taken.states


@pytest.mark.parametrize("form", ["pdf", "xfdf"])
def test_ones_own_file_brings_nothing_twice(world, sheet, form):
    mark = _inked(world, sheet)
    world.reply(mark, "Seen")
    before = world.marks(sheet, "anouk")
    taken = _take_in(world, sheet, _export(world, sheet, form))
    assert (_counts(taken), taken.told) == ((0, 0, 1, 0, 0), [])
    assert world.marks(sheet, "anouk") == before
    assert world.kinds()[-1] == "marks_taken_in"


@pytest.mark.parametrize("form", ["pdf", "xfdf"])
def test_marks_come_to_another_sheet_with_author_time_thread_and_state(world, sheet, form):
    mark = _inked(world, sheet)
    world.reply(mark, "Seen")
    (now,) = world.marks(sheet, "anouk")
    state = mark_threads.SetMarkState(version=now.version, state="agreed")
    mark_threads.set_mark_state(world.context, world.actor("anouk"), mark.id, state)
    content = _export(world, sheet, form)
    other = world.file(name(revision="P02"), content=pdf("other"))[0][1]
    world.clock.advance(timedelta(days=2))
    taken = _take_in(world, other, content)
    assert _counts(taken) == (1, 0, 0, 1, 1)
    (read,) = world.marks(other, "anouk")
    assert (read.author.name, read.author.taken_in_by) == ("Leilani Brandt (PLS)", "Marit Osei")
    assert (read.kind, read.points, read.label, read.state) == (mark.kind, mark.points, "fire", "agreed")
    assert read.drawn_at == mark.drawn_at.replace(microsecond=0)
    assert [(each.author.name, each.text) for each in read.replies] == [("Anouk Ferreira (BHT)", "Seen")]
    assert _counts(_take_in(world, other, content)) == (0, 0, 1, 0, 0)
    assert _counts(_take_in(world, other, _export(world, other, form))) == (0, 0, 1, 0, 0)


def _moved(content, when="D:20270401120000Z"):
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(content)) as marked:
        box = marked.pages[0].Annots[0]
        left, low, right, high = (float(each) for each in box.Rect)
        box.Rect, box.M = Array([left + 50, low, right + 50, high]), String(when)
        marked.save(out)
    return out.getvalue()


def test_the_newer_wins_of_ones_own_and_of_what_came_from_files(world, sheet):
    _inked(world, sheet)
    content = _export(world, sheet)
    assert _counts(_take_in(world, sheet, _moved(content, "D:20200101Z"), "leilani")) == (0, 0, 1, 0, 0)
    assert _counts(_take_in(world, sheet, _moved(content), "leilani")) == (0, 1, 0, 0, 0)
    (mark,) = world.marks(sheet, "anouk")
    assert mark.points[0] == pytest.approx((150, 100))
    assert mark.label == "fire"


def test_what_another_drew_here_is_not_changed_by_a_file(world, sheet):
    before = _inked(world, sheet)
    taken = _take_in(world, sheet, _moved(_export(world, sheet)))
    assert _counts(taken) == (0, 0, 0, 0, 0)
    assert [each.words for each in taken.told] == ["changed in the file, but only their authors change them here"]
    assert world.marks(sheet, "anouk")[0].points == before.points


def test_what_was_answered_or_locked_here_stays_as_it_is(world, sheet):
    answered, locked = _inked(world, sheet), _inked(world, sheet, points=[(300, 100), (400, 160)])
    content = _export(world, sheet)
    world.reply(answered, "Seen")
    world.change_mark(locked, locked=True)
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(content)) as marked:
        for box in marked.pages[0].Annots:
            left, low, right, high = (float(each) for each in box.Rect)
            box.Rect, box.M = Array([left + 50, low, right + 50, high]), String("D:20270401120000Z")
        marked.save(out)
    taken = _take_in(world, sheet, out.getvalue(), "leilani")
    assert sorted(each.words.split("but ")[1] for each in taken.told) == [
        "answered here, so they stay as they are", "locked here",
    ]  # fmt: skip
    assert [mark.points[0] for mark in world.marks(sheet, "anouk")] == [(100, 100), (300, 100)]


def test_what_was_taken_away_stays_away(world, sheet):
    mark = _inked(world, sheet)
    content = _export(world, sheet)
    world.remove_mark(sheet, mark)
    taken = _take_in(world, sheet, content)
    assert [each.words for each in taken.told] == ["taken away here before, and left so"]
    assert world.marks(sheet, "anouk") == []


def test_anothers_pencil_is_not_met_by_a_file_that_guesses_its_name(world, sheet):
    pencil = world.draw(sheet, text="mine alone")
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(_moved_free(pencil.id))) as made:
        made.save(out)
    assert _take_in(world, sheet, out.getvalue()).added == 1
    assert world.marks(sheet, "leilani")[0].text == "mine alone"


def _moved_free(identifier):
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf())) as made:
        note = pikepdf.Dictionary(
            Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Text, Rect=Array([9, 9, 30, 30]), NM=String(identifier)
        )
        made.pages[0].Annots = Array([made.make_indirect(note)])
        made.save(out)
    return out.getvalue()


def test_files_of_other_programs_come_in_whole_and_only_once(world, sheet):
    for path in sorted(shared_data("pdf/annotations").glob("*.pdf")):
        before = len(world.marks(sheet, "anouk"))
        first = _take_in(world, sheet, path.read_bytes())
        assert len(world.marks(sheet, "anouk")) == before + first.added, path.name
        assert _take_in(world, sheet, path.read_bytes()).added == 0, path.name
        left = sum(each.count for each in first.told if each.words.startswith("left out"))
        assert left == 0, (path.name, first.told)
    with pikepdf.open(io.BytesIO(_export(world, sheet))) as made:
        assert len(made.pages[0].Annots) >= len(world.marks(sheet, "anouk"))


EMPTY_XFDF = b'<?xml version="1.0"?><xfdf xmlns="http://ns.adobe.com/xfdf/"><annots/></xfdf>'


@pytest.mark.parametrize("content", [EMPTY_XFDF, pdf("A sheet without a mark")])
def test_a_file_without_a_mark_says_so(world, sheet, content):
    before = world.kinds()
    with pytest.raises(RuleBroken) as refused:
        _take_in(world, sheet, content)
    assert (refused.value.code, str(refused.value)) == ("marks_none", "There are no marks in this file.")
    assert world.kinds() == before


@pytest.mark.parametrize("content", [b"", b"hello", b"<x/>", b"%PDF-1.7 and nothing more"])
def test_what_holds_no_marks_is_said_and_leaves_nothing(world, sheet, content):
    before = world.kinds()
    with pytest.raises(RuleBroken) as refused:
        _take_in(world, sheet, content)
    assert refused.value.code == "marks_unreadable"
    assert world.kinds() == before


def test_readers_and_strangers_take_nothing_in(world, sheet):
    with pytest.raises(NotFound):
        _take_in(world, sheet, b"", "yusuf")
    with pytest.raises(NotAllowed):
        _take_in(world, sheet, b"", "junpei")


def _files(world, sheet, who="anouk"):
    return mark_files_in.list_mark_files(world.context, world.actor(who), sheet).files


def _with_a_sound(content):
    """Beside the marks, an annotation that no mark of Nod can be."""
    with pikepdf.open(io.BytesIO(content)) as made:
        sound = pikepdf.Dictionary(
            Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Sound, Rect=pikepdf.Array([10, 10, 30, 30]),
            NM=pikepdf.String("said"), T=pikepdf.String("Ira Vance"),
        )  # fmt: skip
        made.pages[0].Annots.append(made.make_indirect(sound))
        out = io.BytesIO()
        made.save(out)
        return out.getvalue()


def test_the_file_is_kept_as_it_came_with_what_could_not_be_a_mark(world, sheet):
    """Once, whoever takes it in again; for those who see the sheet, and every download is in the trail."""
    _inked(world, sheet)
    content = _with_a_sound(_export(world, sheet))
    taken = _take_in(world, sheet, content)
    assert [each.count for each in taken.told] == [1]
    _take_in(world, sheet, content, "leilani")
    (kept,) = _files(world, sheet)
    assert (kept.name, kept.size_bytes, kept.taken_by.name) == ("marks.pdf", len(content), "Leilani Brandt")
    assert kept.sha256 == hashlib.sha256(content).hexdigest()
    assert kept.told == [f"1 {taken.told[0].words}"]
    sent = mark_files_in.download_mark_file(world.context, world.actor("anouk"), sheet, kept.id)
    assert (bytes_of(sent), sent.name) == (content, "marks.pdf")
    assert world.kinds()[-1] == "mark_file_downloaded"
    with pytest.raises(NotFound):
        _files(world, sheet, "yusuf")
    with pytest.raises(NotFound):
        mark_files_in.download_mark_file(world.context, world.actor("anouk"), sheet, "aaaaaaaaaaaaaaaa")


def test_a_file_that_is_refused_is_not_kept(world, sheet):
    with pytest.raises(RuleBroken):
        _take_in(world, sheet, b"no marks at all")
    assert _files(world, sheet) == []


def test_a_discipline_comes_along_unless_the_project_does_not_have_it(world, sheet):
    """And a file that knows of none takes none away."""
    mark = _inked(world, sheet, discipline="S")
    with pikepdf.open(io.BytesIO(_export(world, sheet))) as made:
        (annotation,) = (each for each in made.pages[0].Annots if PRIVATE in each)
        entries = []
        for identifier, discipline in (("first", "A"), ("second", "ZZ")):
            copy = pikepdf.Dictionary(annotation)
            own = json.loads(str(annotation[PRIVATE])) | {"discipline": discipline}
            copy[PRIVATE], copy.NM = String(json.dumps(own)), String(identifier)
            entries.append(made.make_indirect(copy))
        made.pages[0].Annots = Array(entries)
        out = io.BytesIO()
        made.save(out)
    assert _counts(_take_in(world, sheet, out.getvalue()))[0] == 2
    found = {each.id: each.discipline for each in world.marks(sheet, "anouk")}
    assert found.pop(mark.id) == "S"
    assert sorted(found.values()) == ["", "A"]
