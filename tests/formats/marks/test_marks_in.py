"""Marks read in again: Nod's own as they were, those of other programs by what they are."""

import io
import json
import re
from collections import Counter
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pikepdf
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pikepdf import Array, Dictionary, Name, String

from nod.core.marks.annotation_shapes import nearest_ink
from nod.core.marks.annotations import to_marks
from nod.core.marks.mark_files import FiledLink, FiledReply, Paper
from nod.core.marks.marks import INKS, SYMBOLS, Look, MarkKind, MarkState
from nod.core.sheet.geometry import PageBox
from nod.formats.files.unfit import CannotAnnotate
from nod.formats.marks.pdf_annotations import read_date
from nod.formats.marks.pdf_marks import annotate
from nod.formats.marks.pdf_marks_in import read_annotations
from nod.formats.marks.pdf_papers import PRIVATE, PRIVATE_LINK
from nod.formats.marks.xfdf import NotXfdf, read_xfdf, write_xfdf
from tests.formats.marks.test_pdf_marks import AT, SHAPES, mark
from tests.outside import shared_data
from tests.world import pdf

NOW = datetime(2027, 4, 1, tzinfo=UTC)
NUMBER = st.floats(60, 1000).map(lambda value: round(value, 2))


def _back(path):
    return to_marks(*read_annotations(path), NOW)


@st.composite
def any_mark(draw):
    kind = draw(st.sampled_from(list(MarkKind)))
    shift = draw(st.tuples(NUMBER, NUMBER))
    points = tuple((round(x + shift[0], 2), round(y + shift[1], 2)) for x, y in SHAPES[kind])
    symbol = draw(st.sampled_from(sorted(SYMBOLS))) if kind is MarkKind.SYMBOL else ""
    look = Look(
        draw(st.sampled_from(sorted(INKS))), draw(st.floats(0.05, 10)), draw(st.sampled_from(["", *INKS])),
        draw(st.floats(0.05, 1)), draw(st.booleans()), draw(st.floats(1, 40)), symbol,
    )  # fmt: skip
    text = draw(st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Cn")), max_size=40)).strip()
    state = draw(st.sampled_from(list(MarkState)))
    told = {"state": state, "state_by": "Anouk Ferreira (BHT)", "state_at": AT} if state is not MarkState.OPEN else {}
    reply = FiledReply("r1", "Anouk Ferreira (BHT)", "Seen, ≥ 2 m", AT + timedelta(hours=1))
    target, words = draw(st.sampled_from([("n0d1d", "TRN-0012"), ("https://a.example/?b=ü&c", "https://a.example")]))
    link = FiledLink("l1", "web" if ":" in target else "transmittal", target, words, "Marit Osei (HBC)", AT)
    pin = draw(st.integers(1, 900)) if kind is MarkKind.PIN else None
    return mark(
        kind, points, look=look, text=text, label=draw(st.sampled_from(["", "fire", "stair, north"])), pin_number=pin,
        discipline=draw(st.sampled_from(["", "A", "M1"])),
        replies=(reply,) if draw(st.booleans()) else (), links=(link,) if draw(st.booleans()) else (), **told,
    )  # fmt: skip


@settings(max_examples=40)
@given(st.lists(any_mark(), max_size=4), st.sampled_from([0, 90, 180, 270]), st.sampled_from([None, 2.0]))
def test_from_nod_into_a_pdf_and_back_nothing_changes(tmp_path_factory, marks, turn, unit):
    path = tmp_path_factory.mktemp("back")
    marks = [replace(each, id=f"mark-{place}") for place, each in enumerate(marks)]
    with pikepdf.open(io.BytesIO(pdf())) as source:
        source.pages[0].obj.Rotate = turn
        if unit:
            source.pages[0].obj.UserUnit = unit
        source.save(path / "a.pdf")
    annotate(path / "a.pdf", path / "b.pdf", marks)
    found = _back(path / "b.pdf")
    assert list(found.marks) == marks
    assert not found.told


@settings(max_examples=40)
@given(st.lists(any_mark(), max_size=4), st.sampled_from([0, 90, 180, 270]))
def test_from_nod_into_xfdf_and_back_nothing_changes(marks, turn):
    papers = [Paper(PageBox(0, 0, 1190, 842, turn))]
    marks = [replace(each, id=f"mark-{place}") for place, each in enumerate(marks)]
    found = to_marks(read_xfdf(write_xfdf(marks, papers, "sheet.pdf")), papers, NOW)
    assert list(found.marks) == marks


@pytest.mark.parametrize("own", ["[" * 100_000, "{", "null", '{"kind": "pin"}', "\x00"], ids=range(5))
def test_what_only_looks_like_nods_own_words_keeps_no_mark_away(tmp_path, own):
    """Nested deeper than can be read, cut off, or of another shape."""
    (tmp_path / "a.pdf").write_bytes(pdf())
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [mark(MarkKind.RECTANGLE, ((10, 10), (60, 40)), text="Here")])
    with pikepdf.open(tmp_path / "b.pdf") as file:
        for each in file.pages[0].Annots:
            each[PRIVATE] = each[PRIVATE_LINK] = pikepdf.String(own)
        file.save(tmp_path / "c.pdf")
    (found,) = _back(tmp_path / "c.pdf").marks
    assert (found.kind, found.text) == (MarkKind.RECTANGLE, "Here")
    if own != "\x00":
        content = write_xfdf([found], [Paper(PageBox(0, 0, 842, 595))], "a.pdf")
        content = re.sub(rb"(<nod:mark>).*?(</nod:mark>)", rb"\1" + own.encode() + rb"\2", content)
        assert read_xfdf(content)[0].own is None


_OTHERS = b"""<?xml version="1.0"?><xfdf xmlns="http://ns.adobe.com/xfdf/"><annots>
<square page="0" rect="10,20,110,70" name="s" title="Ann" date="D:20270309083000Z" color="#FF0000" width="2"
style="cloudy"/>
<ink page="0" rect="0,0,50,50" name="i"><inklist>
<gesture>1,1;5,5;9,2</gesture><gesture>20,20;30,30</gesture></inklist></ink>
<line page="1" rect="0,0,50,50" start="1,2" end="30,40" head="None" tail="ClosedArrow"><contents>Here</contents></line>
<text page="0" rect="0,0,9,9" name="n"><contents-richtext><body xmlns="http://www.w3.org/1999/xhtml"><p>Rich
<b>words</b></p></body></contents-richtext></text>
<text page="0" rect="0,0,9,9" inreplyto="n" name="r" title="Ben"><contents>Reply</contents></text>
<text page="0" rect="0,0,9,9" inreplyto="n" state="Accepted" statemodel="Review" title="Ben" date="D:20270310Z"/>
<link page="0" rect="0,0,9,9"/></annots></xfdf>"""


def test_xfdf_of_another_program_comes_in():
    papers = [Paper(PageBox(0, 0, 842, 595))] * 2
    cloud, ink, arrow, note = to_marks(read_xfdf(_OTHERS), papers, NOW).marks
    assert (cloud.kind, cloud.points[0], cloud.look.colour) == (MarkKind.CLOUD, (10, 20), "red")
    assert (cloud.author, cloud.changed_at) == ("Ann", datetime(2027, 3, 9, 8, 30, tzinfo=UTC))
    assert ink.rings == (3, 2)
    assert (arrow.kind, arrow.page, arrow.text, arrow.changed_at) == (MarkKind.ARROW, 1, "Here", NOW)
    assert (note.text, note.state, [reply.text for reply in note.replies]) == (
        "Rich words",
        MarkState.AGREED,
        ["Reply"],
    )


@pytest.mark.parametrize("content", [
    b"", b"<xfdf", b"<other/>", b"\x00\x01", b'<!DOCTYPE x [<!ENTITY a "b">]><xfdf xmlns="http://ns.adobe.com/xfdf/"/>',
    b'<!DOCTYPE x SYSTEM "file:///etc/passwd"><xfdf/>',
])  # fmt: skip
def test_what_is_no_xfdf_says_so(content):
    with pytest.raises(NotXfdf):
        read_xfdf(content)


def test_strokes_and_holes_come_back(tmp_path):
    (tmp_path / "a.pdf").write_bytes(pdf())
    freehand = mark(MarkKind.FREEHAND, ((9, 9), (20, 30), (50, 60), (70, 80)), rings=(2, 2))
    area = mark(MarkKind.AREA, (*SHAPES[MarkKind.AREA], (450, 440), (470, 440), (470, 460)), rings=(4, 3))
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [freehand, area])
    assert list(_back(tmp_path / "b.pdf").marks) == [freehand, area]


def _change(tmp_path, kind, change):
    (tmp_path / "a.pdf").write_bytes(pdf())
    annotate(tmp_path / "a.pdf", tmp_path / "b.pdf", [mark(kind, label="fire")])
    with pikepdf.open(tmp_path / "b.pdf") as marked:
        change(marked.pages[0].Annots[0])
        marked.save(tmp_path / "c.pdf")
    return _back(tmp_path / "c.pdf").marks[0]


def test_what_another_program_moved_is_believed_and_the_label_stays(tmp_path):
    def move(line):
        line.L, line.Rect = Array([10, 10, 60, 90]), Array([5, 5, 65, 95])

    moved = _change(tmp_path, MarkKind.LINE, move)
    assert (moved.kind, moved.points, moved.label) == (MarkKind.LINE, ((10, 10), (60, 90)), "fire")

    def move_box(box):
        left, low, right, high = (float(each) for each in box.Rect)
        box.Rect = Array([left + 50, low, right + 50, high])

    (a, b), (c, d) = SHAPES[MarkKind.RECTANGLE]
    boxed = _change(tmp_path, MarkKind.RECTANGLE, move_box)
    assert [value for point in boxed.points for value in point] == pytest.approx([a + 50, b, c + 50, d], abs=0.01)


@pytest.mark.parametrize("spoiled", ["{", "[]", '{"kind": "cloud"}', '{"kind":"pin","points":[["x",1]],"look":{}}'])
def test_spoiled_words_beside_an_annotation_are_left_alone(tmp_path, spoiled):
    read = _change(tmp_path, MarkKind.ELLIPSE, lambda each: each.__setitem__("/NodMark", String(spoiled)))
    assert (read.kind, read.look.colour) == (MarkKind.ELLIPSE, "blue")


def test_words_that_are_too_large_are_not_believed(tmp_path):
    def spoil(each):
        own = json.loads(str(each["/NodMark"]))
        own["look"]["weight_mm"] = 1e300
        each["/NodMark"] = String(json.dumps(own))

    assert _change(tmp_path, MarkKind.ELLIPSE, spoil).look.weight_mm < 10


# The table of markup annotations in ISO 32000-1, 12.5.6.2; what is shown as something else is told.
_SHOWN = {
    "Text": "pin", "FreeText": "text", "Line": "line", "Square": "rectangle", "Circle": "ellipse", "Polygon": "polygon",
    "PolyLine": "polyline", "Highlight": "highlight", "Underline": "highlight", "Squiggly": "highlight",
    "StrikeOut": "highlight", "Stamp": "stamp", "Caret": "pin", "Ink": "freehand", "FileAttachment": "pin",
}  # fmt: skip
_TOLD = ("FileAttachment",)


def _inventory():
    root = shared_data("pdf_inventory.jsonl").parent
    lines = (root / "pdf_inventory.jsonl").read_text().splitlines()
    for each in map(json.loads, lines):
        if each["file"].startswith("pdf/annotations/"):
            yield root / each["file"], each.get("ann", {})


def test_annotations_of_other_programs_come_in_by_the_counts_of_the_inventory():
    seen = Counter()
    for path, counts in _inventory():
        annotations, _ = read_annotations(path)
        replies = Counter(each.subtype for each in annotations if each.reply_to)
        expected = Counter({kind: count - replies[kind] for kind, count in counts.items() if kind in _SHOWN})
        found = _back(path)
        assert len(found.marks) == sum(expected.values()), path.name
        kinds = Counter(each.kind.value for each in found.marks)
        exact = {"rectangle", "ellipse", "stamp", "freehand", "highlight"}
        for kind in exact:
            assert kinds[kind] == sum(n for sub, n in expected.items() if _SHOWN[sub] == kind), (path.name, kind)
        assert {kind: found.told.get(kind, 0) for kind in _TOLD} == {kind: expected[kind] for kind in _TOLD}
        assert all(each.id for each in found.marks)
        assert [each.id for each in _back(path).marks] == [each.id for each in found.marks]
        seen += expected
    assert len(seen) > 8


def _with(tmp_path, *annotations):
    path = tmp_path / "odd.pdf"
    with pikepdf.open(io.BytesIO(pdf())) as made:
        for each in annotations:
            each.Type = Name.Annot
        made.pages[0].Annots = Array([made.make_indirect(each) for each in annotations])
        made.save(path)
    return path


def test_a_thread_under_an_answer_belongs_to_the_mark(tmp_path):
    note = Dictionary(Subtype=Name.Text, Rect=Array([10, 10, 30, 30]), NM="n", T="A", Contents="Which?")
    path = _with(tmp_path, note)
    with pikepdf.open(path, allow_overwriting_input=True) as made:
        page = made.pages[0]
        parent = page.Annots[0]
        there = {"Subtype": Name.Text, "Rect": parent.Rect}
        answer = made.make_indirect(Dictionary(**there, NM="a", T="B", Contents="This", IRT=parent))
        below = made.make_indirect(Dictionary(**there, T="C", Contents="Agreed", IRT=answer))
        state = Dictionary(
            Subtype=Name.Text, Rect=parent.Rect, T="C", IRT=below, StateModel="Review", State="Completed"
        )
        page.Annots = Array([parent, below, answer, made.make_indirect(state)])
        made.save(path)
    (read,) = _back(path).marks
    assert {(reply.author, reply.text) for reply in read.replies} == {("B", "This"), ("C", "Agreed")}
    assert (read.state, read.state_by) == (MarkState.DONE, "C")


def test_odd_annotations_keep_nobody_away(tmp_path):
    path = _with(
        tmp_path, Dictionary(Subtype=Name.Line, Rect=Array([0, 0, 9, 9])), Dictionary(Rect=String("x")),
        Dictionary(Subtype=Name.Ink, Rect=Array([0, 0, 9, 9]), InkList=Array([Array([1])])),
        Dictionary(Subtype=Name.Sound, Rect=Array([0, 0, 9, 9]), Contents="Listen"),
        Dictionary(Subtype=Name.Link, Rect=Array([0, 0, 9, 9])),
        Dictionary(Subtype=Name.Square, Rect=Array([90, 90, 10, 10]), C=Array([1, 0, 0]), BS=Dictionary(W=400)),
    )  # fmt: skip
    found = _back(path)
    assert [each.kind.value for each in found.marks] == ["pin", "pin", "pin", "pin", "rectangle"]
    assert found.marks[-1].points == ((10, 10), (90, 90))
    assert found.told["Sound"] == 1
    assert found.marks[3].text == "Listen"


def test_a_locked_file_says_so(tmp_path):
    (tmp_path / "broken.pdf").write_bytes(b"%PDF-1.7 nothing")
    with pytest.raises(CannotAnnotate):
        read_annotations(tmp_path / "broken.pdf")


@pytest.mark.parametrize(("text", "when"), [
    ("D:20270309083000+01'00'", datetime(2027, 3, 9, 7, 30, tzinfo=UTC)),
    ("D:20270309", datetime(2027, 3, 9, tzinfo=UTC)), ("D:20270309083000Z", datetime(2027, 3, 9, 8, 30, tzinfo=UTC)),
    ("20270309083000-05'30'", datetime(2027, 3, 9, 14, tzinfo=UTC)),
    ("D:01220011195504+00'208'", None), ("yesterday", None), ("", None), ("D:20271399", None),
])  # fmt: skip
def test_dates_are_read_as_programs_write_them(text, when):
    assert read_date(text) == when


def test_colours_come_to_the_nearest_ink():
    assert [nearest_ink(each) for each in ((1, 0, 0), (0, 0, 1), (0, 0, 0), (0, 0.5, 0))] == [
        "red",
        "blue",
        "black",
        "green",
    ]
