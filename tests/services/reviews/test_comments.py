"""The comment sheet of a review: raised with what is handed in, responded to, closed, gone along, out and in."""

import io
import subprocess
from pathlib import Path

import openpyxl
import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.acts.replays import table_faults
from nod.services.reviews import comment_files, comment_sheet, comments, reviews
from nod.services.reviews.comments import ActOnComment, AddComment
from nod.services.reviews.reviews import DocumentAnswer, HandIn
from tests.services.reviews.test_route_editing import beside, make, start_on, step
from tests.world import NUMBER, OTHER_NUMBER, name, pdf


def _sheet(world, review, who="marit"):
    return comment_sheet.read_comments(world.context, world.actor(who), review)


def _lines(world, review):
    return [(each.number, each.document, each.text, each.grave, each.state) for each in _sheet(world, review).comments]


def _act(world, review, number, act, who, **more):
    line = next(each for each in _sheet(world, review).comments if each.number == number)
    command = ActOnComment(version=more.pop("version", line.version), act=act, **more)
    comments.act_on_comment(world.context, world.actor(who), line.id, command)


def _say(world, review, who, *said, verdict=""):
    """`said`: (comment, grave) of each document, in the order of the review."""
    shown = world.review(review, who)
    answers = [
        DocumentAnswer(document_id=each.document_id, verdict=verdict, comment=comment, grave=grave)
        for each, (comment, grave) in zip(shown.documents, said, strict=True)
    ]
    reviews.hand_in(world.context, world.actor(who), review, world.step(review, who), HandIn(answers=answers))


@pytest.fixture
def route(world):
    return make(
        world,
        step(world, "anouk", named="Check"),
        beside(step(world, "saoirse", act="decide", named="Decide"), C="back"),
    )


@pytest.fixture
def checked(world, route):
    """Two sheets of Paolo's, on each of which Anouk has said something."""
    filed = world.file(name(), name(OTHER_NUMBER), who="paolo")
    review = start_on(world, route, *filed)
    _say(world, review, "anouk", ("Door 4 is too narrow.", "must"), ("Add a scale bar.", "note"))
    return review, filed


def test_what_is_handed_in_is_numbered(world, checked):
    review, _ = checked
    assert _lines(world, review) == [
        (1, NUMBER, "Door 4 is too narrow.", "must", "open"),
        (2, OTHER_NUMBER, "Add a scale bar.", "note", "open"),
    ]
    sheet = _sheet(world, review)
    assert (sheet.all.raised, sheet.all.open, sheet.all.musts) == (2, 2, 1)
    assert [(each.of, each.open) for each in sheet.by_document] == [(OTHER_NUMBER, 1), (NUMBER, 1)]
    assert [(each.of, each.raised) for each in sheet.by_company] == [(sheet.comments[0].by.company, 2)]
    assert list(table_faults(world.context.database)) == []


def test_marks_inked_on_the_way_are_lines_too(world, route):
    sheet = world.file(name(), who="paolo")[0]
    review = start_on(world, route, sheet)
    world.ink(sheet[1], world.draw(sheet[1], who="anouk", text="Wall moves"), who="anouk")
    world.draw(sheet[1], who="anouk", text="still in pencil")
    _say(world, review, "anouk", ("See the wall.", "should"))
    assert [each[2] for each in _lines(world, review)] == ["See the wall.", "Wall moves"]
    assert _sheet(world, review).comments[1].place == "mark, page 1"


def test_a_must_stands_in_the_way_until_it_is_closed(world, checked):
    review, _ = checked
    with pytest.raises(RuleBroken) as refused:
        _say(world, review, "saoirse", ("", "should"), ("", "should"), verdict="A")
    assert refused.value.code == "must_open"
    assert world.review(review).state == "running"
    _act(world, review, 1, "respond", "paolo", text="Door 4 is 900 now.")
    _act(world, review, 1, "close", "anouk", text="Seen.")
    _say(world, review, "saoirse", ("", "should"), ("", "should"), verdict="A")
    assert world.review(review).state == "closed"
    line = _sheet(world, review).comments[0]
    assert (line.response, line.responded_by.name, line.close_note) == (
        "Door 4 is 900 now.",
        "Paolo Marchetti",
        "Seen.",
    )


def test_an_open_must_goes_along_to_the_next_revisions_review(world, checked, route):
    review, _ = checked
    _say(world, review, "saoirse", ("Not like this.", "should"), ("", "should"), verdict="C")
    world.file(name(revision="P02"), content=pdf("two"), who="paolo")
    second = start_on(world, route, world.document(NUMBER))
    assert _lines(world, second) == [(1, NUMBER, "Door 4 is too narrow.", "must", "open")]
    line = _sheet(world, second).comments[0]
    assert (line.place, line.by.name, line.revision) == ("from RV-0001 comment 1, on P01", "Anouk Ferreira", "P02")
    assert _lines(world, review)[0][4] == "carried"
    assert _sheet(world, review).all.musts == 0
    world.hand_in(second, "anouk")
    with pytest.raises(RuleBroken) as refused:
        world.hand_in(second, "saoirse", "B")
    assert "Comment 1 on" in refused.value.words
    with pytest.raises(RuleBroken) as refused:
        _act(world, review, 1, "close", "anouk")
    assert refused.value.code == "comment_carried"
    assert list(table_faults(world.context.database)) == []


def test_each_act_is_for_those_it_is_for(world, checked):
    review, _ = checked
    for act, who in (("respond", "anouk"), ("close", "paolo"), ("grade", "saoirse"), ("respond", "saoirse")):
        with pytest.raises(NotAllowed):
            _act(world, review, 1, act, who, text="x")
    with pytest.raises(NotFound):
        _act(world, review, 1, "respond", "yusuf", text="x")
    with pytest.raises(Stale):
        _act(world, review, 1, "respond", "paolo", text="x", version=7)
    with pytest.raises(RuleBroken):
        _act(world, review, 1, "respond", "paolo", text="  ")
    _act(world, review, 1, "grade", "anouk", grave="should")
    assert _lines(world, review)[0][3] == "should"
    may = {each.number: each.may for each in _sheet(world, review, "paolo").comments}
    assert may == {1: ["respond"], 2: ["respond"]}


def test_responding_tells_whoever_made_the_comment(world, checked):
    review, _ = checked
    _act(world, review, 1, "respond", "paolo", text="Widened.")
    texts = [payload["text"] for _, payload in world.send() if payload.get("to_email", "").startswith("anouk")]
    assert any("Widened." in each and "Door 4 is too narrow." in each for each in texts)


def test_a_comment_is_added_by_whoever_has_a_part(world, checked):
    review, filed = checked
    command = AddComment(document_id=filed[0][0], text="Grid line D is missing.", grave="should", place="at line D")
    comments.add_comment(world.context, world.actor("saoirse"), review, command)
    assert _lines(world, review)[-1] == (3, NUMBER, "Grid line D is missing.", "should", "open")
    with pytest.raises(NotAllowed):
        comments.add_comment(world.context, world.actor("paolo"), review, command)
    with pytest.raises(RuleBroken):
        comments.add_comment(world.context, world.actor("saoirse"), review, command.model_copy(update={"text": " "}))
    with pytest.raises(NotFound):
        comments.add_comment(
            world.context, world.actor("saoirse"), review, command.model_copy(update={"document_id": "../../x"})
        )


def _xlsx(world, review):
    made = comment_files.take_comments(world.context, world.actor("marit"), review, "xlsx")
    return openpyxl.load_workbook(io.BytesIO(made.content))


def _taken_in(world, review, book, who="marit"):
    out = io.BytesIO()
    book.save(out)
    return comment_files.take_responses_in(world.context, world.actor(who), review, [out.getvalue()])


def test_an_author_outside_responds_in_the_sheet(world, checked):
    review, _ = checked
    book = _xlsx(world, review)
    sheet = book.active
    heads = [cell.value for cell in sheet[1]]
    assert heads[:3] == ["No", "Document", "Rev"]
    sheet.cell(2, heads.index("Response") + 1).value = "Door 4 becomes 900 wide."
    sheet.cell(2, heads.index("Responded by") + 1).value = "Bram Hale, outside"
    told = _taken_in(world, review, book)
    assert (told.kept, told.same, told.troubles) == (1, 1, [])
    line = _sheet(world, review).comments[0]
    assert (line.response, line.response_from) == ("Door 4 becomes 900 wide.", "Bram Hale, outside")
    again = _taken_in(world, review, book)
    assert (again.kept, again.same) == (0, 2)


def test_a_long_response_of_several_lines_goes_out_and_comes_in_as_it_is(world, checked):
    review, _ = checked
    text = "Door 4 becomes wider.\n\n" + "It moves to the north. " * 120 + "end"
    _act(world, review, 1, "respond", "paolo", text=text)
    told = _taken_in(world, review, _xlsx(world, review))
    assert (told.kept, told.same) == (0, 2)
    assert _sheet(world, review).comments[0].response == text


def test_a_sheet_with_a_bad_row_changes_nothing(world, checked):
    review, _ = checked
    book = _xlsx(world, review)
    sheet = book.active
    heads = [cell.value for cell in sheet[1]]
    at = heads.index("Response") + 1
    sheet.cell(2, at).value = "Widened."
    sheet.append([99, "x", "x", "", "", "", "", "A response to nothing"])
    sheet.append([1, "x", "x", "", "", "", "", "Twice"])
    told = _taken_in(world, review, book)
    assert told.kept == 0
    assert [(each.cell, each.words) for each in told.troubles] == [
        ("A4", "“99” is no comment of this review."), ("A5", "1 is there twice."),
    ]  # fmt: skip
    assert _sheet(world, review).comments[0].response == ""
    long = _filled(world, review)
    long.active.cell(2, at).value = "x" * 4001
    assert [each.cell for each in _taken_in(world, review, long).troubles] == ["H2"]
    assert _sheet(world, review).comments[0].response == ""
    with pytest.raises(RuleBroken) as refused:
        comment_files.take_responses_in(world.context, world.actor("marit"), review, [b"no table at all"])
    assert refused.value.code in ("table_broken", "columns_wanted")
    with pytest.raises(NotAllowed):
        _taken_in(world, review, _filled(world, review), who="saoirse")


def _filled(world, review):
    book = _xlsx(world, review)
    heads = [cell.value for cell in book.active[1]]
    book.active.cell(2, heads.index("Response") + 1).value = "Widened."
    return book


def test_the_sheet_as_a_pdf_says_all_of_it(world, checked, tmp_path: Path):
    """Read back by poppler; 200 lines go over pages of A4, lying."""
    review, filed = checked
    _act(world, review, 1, "respond", "paolo", text="Door 4 is 900 now.")
    command = AddComment(document_id=filed[0][0], text="A long word of what is to be done here. " * 6)
    for _ in range(40):
        comments.add_comment(world.context, world.actor("saoirse"), review, command)
    made = comment_files.take_comments(world.context, world.actor("marit"), review, "pdf")
    path = tmp_path / "sheet.pdf"
    path.write_bytes(made.content)
    text = subprocess.run(["pdftotext", "-layout", str(path), "-"], capture_output=True, text=True, check=True).stdout
    info = subprocess.run(["pdfinfo", str(path)], capture_output=True, text=True, check=True).stdout
    for words in ("Comment sheet of RV-0001", "Door 4 is too narrow.", "Door 4 is 900 now.", "42 raised, 0 closed"):
        assert words in text
    assert "841.89 x 595.276 pts (A4)" in info
    assert world.kinds()[-1] == "comments_taken"
