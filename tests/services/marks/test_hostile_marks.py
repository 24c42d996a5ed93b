"""Files with marks written to do harm, or badly: each is told in words, and the rest of the file comes in."""

import io
import json

import pikepdf
import pytest
from pikepdf import Array, Dictionary, Name, String

from nod.formats.marks.pdf_papers import PRIVATE
from nod.services.marks import mark_files, marks_in
from tests.world import name, pdf

XFDF = """<?xml version="1.0" encoding="UTF-8"?>
<xfdf xmlns="http://ns.adobe.com/xfdf/" xmlns:nod="urn:nod:mark"><annots>{}
<square page="0" rect="10,10,60,40" name="sound" title="Somebody"><contents>The rest</contents></square>
</annots></xfdf>"""
LOOK = {
    "colour": "red", "weight_mm": 0.5, "fill": "", "opacity": 1, "dashed": False, "type_mm": 3.5, "symbol": "",
}  # fmt: skip
OWN = {"kind": "rectangle", "points": [[10, 10], [60, 40]], "text": "Own", "label": "", "rings": [], "look": LOOK}


@pytest.fixture
def sheet(world):
    return world.file(name())[0][1]


def _take_in(world, sheet, content, who="marit"):
    return marks_in.take_in_marks(world.context, world.press, world.actor(who), sheet, "marks.pdf", [content])


def _export(world, sheet, form="pdf", who="anouk"):
    return mark_files.export_marks(world.context, world.press, world.actor(who), sheet, form).content


def _with(**changes):
    return {**OWN, **changes}


def _look(**changes):
    return {**OWN, "look": {**LOOK, **changes}}


HOSTILE = {
    "dashed is a word": _look(dashed="yes"),
    "colour is a list": _look(colour=["red"]),
    "fill is a list": _look(fill=[]),
    "a weight of 400 figures": _look(weight_mm=10**400),
    "a weight that is not a number": _look(weight_mm=float("nan")),
    "kind is a list": _with(kind=["rectangle"]),
    "kind is none": _with(kind=None),
    "rings is a number": _with(rings=5),
    "an outline of nothing": _with(kind="freehand", rings=[0, 2]),
    "rings without end": _with(kind="freehand", rings=[10**30]),
    "points is a word": _with(points="10,10"),
    "no points": _with(points=[]),
    "a point of three": _with(points=[[1, 2, 3], [4, 5, 6]]),
    "points of 400 figures": _with(points=[[10**400, 1], [1, 10**400]]),
    "points that are not numbers": _with(points=[[float("nan"), 1], [1, float("inf")]]),
    "the text is a number": _with(text=5),
    "half a character": _with(text="\ud800 half", label="\udfff"),
    "noncharacters": _with(text="\ufffe\uffff\x00\x0b"),
    "the pin is a list": _with(kind="pin", points=[[35, 25]], pin=[1]),
    "a pin of 30 figures": _with(kind="pin", points=[[35, 25]], pin=10**30),
    "the discipline is a list": _with(discipline=["A"]),
    "look is a list": _with(look=[]),
    "nothing at all": {},
    "a list": [],
}


def _hostile_xfdf(own):
    said = json.dumps(own).replace("&", "&amp;").replace("<", "&lt;")
    mark = f'<square page="0" rect="10,10,60,40" name="bad" title="X"><nod:mark>{said}</nod:mark></square>'
    return XFDF.format(mark).encode()


def _hostile_pdf(own):
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf())) as made:
        bad = Dictionary(Type=Name.Annot, Subtype=Name.Square, Rect=Array([10, 10, 60, 40]), NM=String("bad"))
        bad[PRIVATE] = String(json.dumps(own))
        sound = Dictionary(
            Type=Name.Annot, Subtype=Name.Square, Rect=Array([10, 10, 60, 40]), NM=String("sound"),
            Contents=String("The rest"),
        )  # fmt: skip
        made.pages[0].Annots = Array([made.make_indirect(bad), made.make_indirect(sound)])
        made.save(out)
    return out.getvalue()


@pytest.mark.parametrize("link", [5, {"kind": ["x"]}, {"kind": [[]], "target": "\ud800", "words": {}}, "[" * 300])
def test_a_hostile_link_keeps_no_other_away(world, sheet, link):
    nested = link if link != "[" * 300 else json.loads("[" * 300 + "]" * 300)
    said = json.dumps({"kind": nested, "target": "x", "words": "y"} if isinstance(nested, list) else nested)
    answer = f'<text page="0" rect="0,0,1,1" name="a" inreplyto="sound"><nod:link>{said}</nod:link></text>'
    taken = _take_in(world, sheet, XFDF.format(answer).encode())
    assert (taken.added, taken.links) == (1, 0)


@pytest.mark.parametrize("what", HOSTILE)
@pytest.mark.parametrize("write", [_hostile_pdf, _hostile_xfdf])
def test_a_hostile_mark_keeps_no_other_away_and_is_read_ever_after(world, sheet, what, write):
    taken = _take_in(world, sheet, write(HOSTILE[what]))
    assert 1 <= taken.added <= 2
    assert "The rest" in [each.text for each in world.marks(sheet, "anouk")]
    for form in ("pdf", "summary", "xfdf", "xlsx", "csv"):
        assert _export(world, sheet, form)


def test_what_is_already_in_the_database_is_read_too(world, sheet):
    """By an older Nod, or by a hand in the database."""
    _take_in(world, sheet, _hostile_xfdf(OWN))
    with world.context.database.write() as session:
        from nod.store.tables import MarkRow, ThreadRow

        for row in session.query(MarkRow).join(ThreadRow).filter(ThreadRow.file_id == "bad"):
            row.look, row.points, row.rings = {"dashed": "yes", "colour": [1]}, [["x"]], 7
    shown = {each.text: each for each in world.marks(sheet, "anouk")}
    assert (shown["Own"].sound, shown["Own"].kind, shown["The rest"].sound) == (False, "pin", True)
    assert _export(world, sheet, "summary")
    # Whoever took it in takes it away.
    world.remove_mark(sheet, shown["Own"], who="marit")
    assert [each.text for each in world.marks(sheet, "anouk")] == ["The rest"]


@pytest.mark.parametrize("write", [_hostile_pdf, _hostile_xfdf])
def test_a_text_of_two_million_characters_is_cut_and_said_so(world, sheet, write):
    taken = _take_in(world, sheet, write(_with(text="long " * 400_000)))
    assert [each.words for each in taken.told] == [
        "whose text is longer than 4000 characters, and was cut: the file has all of it"
    ]
    assert max(len(each.text) for each in world.marks(sheet, "anouk")) <= 4000
    assert _export(world, sheet, "summary")


def _foreign(per_page, same_names=True, replies=False):
    """Two pages of text annotations of another program; ISO 32000-1, table 164: /NM is unique on a page alone."""
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf("two pages", pages=2))) as made:
        for place, page in enumerate(made.pages):
            listed = []
            for number in range(per_page):
                each = made.make_indirect(
                    Dictionary(
                        Type=Name.Annot, Subtype=Name.Square, Rect=Array([10 + 30 * number, 10, 30 + 30 * number, 40]),
                        NM=String(f"n{number}" if same_names else f"n{place}{number}"), T=String("Outside"),
                        Contents=String(f"{number} on page {place + 1}"),
                    )
                )  # fmt: skip
                listed.append(each)
                if replies:
                    answer = Dictionary(
                        Type=Name.Annot, Subtype=Name.Text, Rect=Array([0, 0, 1, 1]), IRT=each,
                        Contents=String(f"answer to {number} on {place + 1}"),
                    )  # fmt: skip
                    listed.append(made.make_indirect(answer))
            link = Dictionary(Type=Name.Annot, Subtype=Name.Link, Rect=Array([0, 0, 5, 5]), NM=String("a link"))
            page.Annots = Array([*listed, made.make_indirect(link)])
        made.save(out)
    return out.getvalue()


def test_the_same_name_on_two_pages_is_two_marks(world):
    content = _foreign(4, replies=True)
    sheet = world.file(name(), content=content)[0][1]
    assert _take_in(world, sheet, content).added == 8
    shown = world.marks(sheet, "anouk")
    assert sorted(each.text for each in shown) == sorted(f"{n} on page {p}" for p in (1, 2) for n in range(4))
    answers = {each.text: [reply.text for reply in each.replies] for each in shown}
    assert answers["3 on page 2"] == ["answer to 3 on 2"]
    again = _take_in(world, sheet, content)
    assert (again.added, again.same, again.answers) == (0, 8, 0)


def test_two_things_of_one_name_on_a_page_are_two_marks(world, sheet):
    marks = "".join(
        f'<square page="0" rect="{left},10,{left + 9},40" name="same" title="X"><contents>{left}</contents></square>'
        for left in (10, 20, 30)
    )
    content = XFDF.format(marks).encode()
    assert _take_in(world, sheet, content).added == 4
    assert _take_in(world, sheet, content).same == 4


@pytest.mark.parametrize("same_names", [True, False])
def test_a_mark_takes_the_place_of_what_it_was_made_from(world, same_names):
    """18 became 36 on the next coming in: the file's own annotations lay beside Nod's of the same marks."""
    content = _foreign(9, same_names, replies=True)
    sheet = world.file(name(), content=content)[0][1]
    assert _take_in(world, sheet, content).added == 18
    written = _export(world, sheet)
    with pikepdf.open(io.BytesIO(written)) as made:
        squares = [each for page in made.pages for each in page.Annots if each.Subtype == "/Square"]
        links = [each for page in made.pages for each in page.Annots if each.Subtype == "/Link"]
    assert (len(squares), len(links)) == (18, 2)
    again = _take_in(world, sheet, written)
    assert (again.added, again.same, again.answers) == (0, 18, 0)
    # On another sheet, where none of it is known, too.
    other = world.file(name(revision="P02"), content=pdf("other", pages=2))[0][1]
    assert _take_in(world, other, written).added == 18


def test_what_was_taken_away_here_is_not_written_again(world):
    content = _foreign(2)
    sheet = world.file(name(), content=content)[0][1]
    _take_in(world, sheet, content)
    first = world.marks(sheet, "marit")[0]
    world.remove_mark(sheet, first, who="marit")
    with pikepdf.open(io.BytesIO(_export(world, sheet))) as made:
        texts = [str(each.Contents) for page in made.pages for each in page.Annots if each.Subtype == "/Square"]
    assert len(texts) == 3
    assert first.text not in texts


def test_what_nod_did_not_take_stays_as_it_was(world):
    content = _foreign(1)
    sheet = world.file(name(), content=content)[0][1]
    with pikepdf.open(io.BytesIO(_export(world, sheet))) as made:
        assert [str(each.Subtype) for page in made.pages for each in page.Annots] == ["/Square", "/Link"] * 2
