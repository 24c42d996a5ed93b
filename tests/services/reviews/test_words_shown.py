"""What is said in a review that shows at its end: to its people at once, to others when a document has left it."""

import io
import subprocess

import openpyxl
import pytest

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.services.acts import live
from nod.services.marks import mark_threads
from nod.services.marks.mark_threads import InkMarks
from nod.services.reviews import comment_files, comment_sheet, comments, on_sheet, review_record, reviews, route_editing
from nod.services.reviews.comments import ActOnComment
from nod.services.reviews.reviews import DocumentAnswer, HandIn
from nod.services.reviews.route_editing import MakeRoute
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from tests.services.reviews.test_route_editing import beside, rows, start_on, step
from tests.world import OTHER_NUMBER, made_once, name

# Leads and controllers run the review; Paolo has filed, and Dede has no part in it.
PEOPLE, OTHERS = ("anouk", "saoirse", "marit", "rafael"), ("paolo", "dede")


def route(world, *steps, shows="end", named="Quietly"):
    command = MakeRoute(project_id=world.project_id, name=named, purpose="", stages=rows(steps), shows=shows)
    return route_editing.make_route(world.context, world.actor("marit"), command).id


@made_once
def going(world):
    """Two sheets of Paolo's: Anouk has said something of both, and inked one for the review's people."""
    path = route(
        world,
        step(world, "anouk", named="Check"),
        beside(step(world, "saoirse", act="decide", named="Decide"), C="back"),
        beside(step(world, "leilani", act="decide", named="Release")),
    )
    filed = world.file(name(), name(OTHER_NUMBER), who="paolo")
    review = start_on(world, path, *filed)
    sheet = filed[0][1]
    drawn = world.draw(sheet, "anouk", text="Quinceblossom on the sheet")
    command = InkMarks(marks={drawn.id: drawn.version}, readers="review", group=review)
    mark_threads.ink_marks(world.context, world.actor("anouk"), sheet, command)
    hand_in(world, review, "anouk", comment="Quinceblossom in words")
    return review, dict(filed), sheet


def hand_in(world, review, who, *verdicts, comment=""):
    shown = world.review(review, "marit")
    left = [each for each in shown.documents if each.state == "going"]
    given = verdicts or ("",) * len(left)
    answers = [
        DocumentAnswer(document_id=each.document_id, verdict=verdict, comment=comment)
        for each, verdict in zip(left, given, strict=True)
    ]
    command = HandIn(answers=answers, note="Quinceblossom in the note")
    reviews.hand_in(world.context, world.actor(who), review, world.step(review, who), command)


def _told(world, review, sheet, who):
    """Where somebody finds the word: in the review, its comments, their files, the record, the ink, the trail."""
    actor = world.actor(who)
    sheets = {
        "review": world.review(review, who),
        "comments": comment_sheet.read_comments(world.context, actor, review),
        "file": [
            [cell for cell in row if cell]
            for row in openpyxl.load_workbook(
                io.BytesIO(comment_files.take_comments(world.context, actor, review, "xlsx").content)
            ).active.iter_rows(values_only=True)
        ],
        "ink": world.marks(sheet, who),
        "trail": trail.read_log(world.context, actor, TrailView(project_id=world.project_id)).entries,
    }
    return {place for place, found in sheets.items() if "Quinceblossom" in str(found)}


EVERYWHERE = {"review", "comments", "file", "ink", "trail"}


@pytest.mark.parametrize("who", PEOPLE)
def test_its_people_see_all_of_it_at_once(world, going, who):
    review, _, sheet = going
    assert _told(world, review, sheet, who) == EVERYWHERE
    assert world.review(review, who).shows_me


@pytest.mark.parametrize("who", OTHERS)
def test_others_see_where_it_stands_and_not_what_is_said(world, going, who):
    review, _, sheet = going
    assert _told(world, review, sheet, who) == set()
    shown = world.review(review, who)
    assert (shown.shows, shown.shows_me) == ("end", False)
    assert shown.slip[0].places[0].state == "handed_in"
    assert comment_sheet.read_comments(world.context, world.actor(who), review).all.raised == 0


def test_a_part_in_another_review_shows_nothing_of_this_one(world, going):
    review, _, sheet = going
    path = route(world, step(world, "dede", named="Another"), named="Another way")
    ((document, other),) = world.file(name("BFT-PLS-Z1-01-D-S-0202"), who="paolo")
    start_on(world, path, (document, other))
    assert _told(world, review, sheet, "dede") == set()


def test_a_document_that_goes_back_brings_its_author_what_was_said_of_it(world, going):
    review, filed, sheet = going
    first, second = (each.document_id for each in world.review(review).documents)
    before = live.last_seq(world.context)
    verdicts = {each: "A" for each in filed} | {next(d for d, r in filed.items() if r == sheet): "C"}
    hand_in(world, review, "saoirse", *(verdicts[each] for each in (first, second)), comment="Plumblossom")
    shown = world.review(review, "paolo")
    said = {each.document_id: [one["comment"] for one in each.said] for each in shown.documents}
    back = next(each for each in filed if filed[each] == sheet)
    still = next(each for each in filed if filed[each] != sheet)
    assert said == {back: ["Quinceblossom in words", "Plumblossom"], still: []}
    lines = comment_sheet.read_comments(world.context, world.actor("paolo"), review).comments
    assert {each.document_id for each in lines} == {back}
    # The ink is for everybody who sees the sheet now: told live, and recorded with why.
    assert [each.text for each in world.marks(sheet, "paolo")] == ["Quinceblossom on the sheet"]
    told = live.events_after(world.context, world.actor("paolo"), before)[0]
    assert "marks" in {each.topic for each in told}
    entries = trail.read_log(world.context, world.actor("paolo"), TrailView(project_id=world.project_id)).entries
    opened = next(each for each in entries if each.kind == "mark_opened")
    assert opened.after == {"readers": "everybody"}
    assert opened.why.endswith("has left RV-0001")


def test_at_its_end_all_of_it_is_shown(world, going):
    review, _, sheet = going
    hand_in(world, review, "saoirse", "A", "A")
    hand_in(world, review, "leilani", "A", "A")
    assert world.review(review).state == "closed"
    for who in OTHERS:
        assert _told(world, review, sheet, who) == EVERYWHERE


def test_what_is_not_shown_is_not_acted_on(world, going):
    review, _, _ = going
    line = comment_sheet.read_comments(world.context, world.actor("marit"), review).comments[0]
    command = ActOnComment(version=line.version, act="respond", text="Guessed.")
    with pytest.raises(NotFound):
        comments.act_on_comment(world.context, world.actor("paolo"), line.id, command)
    comments.act_on_comment(world.context, world.actor("marit"), line.id, command)


def test_the_record_of_others_says_nothing_of_it(world, going, press, tmp_path):
    review, _, _ = going
    for who, there in (("saoirse", True), ("paolo", False)):
        made = review_record.take_record(world.context, press, world.actor(who), review)
        path = tmp_path / f"{who}.pdf"
        path.write_bytes(made.content)
        text = subprocess.run(["pdftotext", path, "-"], capture_output=True, text=True, check=True).stdout
        assert ("Quinceblossom" in text) == there


def test_one_that_shows_at_once_hides_nothing_and_its_ink_is_opened_by_hand(world):
    path = route(world, step(world, "anouk", named="Check"), shows="at_once")
    ((document, sheet),) = world.file(name(), who="paolo")
    review = start_on(world, path, (document, sheet))
    offered = mark_threads.list_readers(world.context, world.actor("anouk"), sheet)
    assert [(each.kind, each.words) for each in offered.groups] == [
        ("company", "BHT"), ("review", "the people of RV-0001"),
    ]  # fmt: skip
    assert offered.first == -1
    drawn = world.draw(sheet, "anouk", text="For us in it")
    command = InkMarks(marks={drawn.id: drawn.version}, readers="review", group=review)
    mark_threads.ink_marks(world.context, world.actor("anouk"), sheet, command)
    hand_in(world, review, "anouk", comment="For all")
    assert world.review(review, "dede").documents[0].said[0]["comment"] == "For all"
    assert world.marks(sheet, "dede") == []
    assert [each.may_open for each in world.marks(sheet, "marit")] == [True]


def test_whoever_has_no_part_is_not_offered_its_people(world, going):
    _, _, sheet = going
    kinds = {who: [each.kind for each in _offers(world, who, sheet).groups] for who in ("anouk", "dede", "marit")}
    assert kinds == {"anouk": ["company", "review"], "dede": ["company"], "marit": ["company", "review"]}
    assert _offers(world, "anouk", sheet).first == 1


def _offers(world, who, sheet):
    return mark_threads.list_readers(world.context, world.actor(who), sheet)


def test_a_step_in_words_takes_no_marks_of_those_it_asks(world):
    path = route(world, step(world, "anouk", named="Words", marking=False), shows="at_once")
    ((document, sheet),) = world.file(name(), who="paolo")
    review = start_on(world, path, (document, sheet))
    with pytest.raises(RuleBroken) as refused:
        world.draw(sheet, "anouk")
    assert refused.value.code == "words_only"
    assert "RV-0001 asks you for words in its step Words" in refused.value.words
    (part,) = on_sheet.list_parts(world.context, world.actor("anouk"), sheet)
    assert not part.marking
    world.draw(sheet, "leilani")
    hand_in(world, review, "anouk", comment="In words")
    world.draw(sheet, "anouk")


def test_two_steps_at_once_of_which_one_takes_marks(world):
    row = beside(step(world, "anouk", named="Words", marking=False), step(world, "anouk", named="Marks"))
    path = route(world, row, shows="at_once")
    ((document, sheet),) = world.file(name(), who="paolo")
    start_on(world, path, (document, sheet))
    world.draw(sheet, "anouk")
