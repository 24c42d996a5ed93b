"""One's part in a review as the strip on a sheet has it, and what was begun, over days and devices."""

from datetime import timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.reviews import begun, changing, on_sheet, reviews
from nod.services.reviews.begun import BegunAnswer, KeepBegun
from tests.world import NUMBER, OTHER_NUMBER, made_once, name


@made_once
def going(world):
    """Two documents, at the step that Saoirse decides."""
    filed = world.file(name(), name(number=OTHER_NUMBER))
    review = world.start(*filed)
    world.pick_up(review, "leilani")
    world.hand_in(review, "leilani", comment="Door clashes.")
    return review, filed


def parts(world, who, revision):
    return on_sheet.list_parts(world.context, world.actor(who), revision)


def keep(world, who, review, *answers):
    given = [BegunAnswer(document_id=id, verdict=verdict, comment=comment) for id, verdict, comment in answers]
    step = world.step(review, who)
    begun.keep_begun(world.context, world.actor(who), review, step, KeepBegun(answers=given))


def test_the_strip_says_which_of_how_many_and_what_others_said(world, going):
    _, ((_, first), (_, second)) = going
    (part,) = parts(world, "saoirse", second)
    assert (part.step, part.place, part.count, part.before_id, part.after_id) == ("Decide", 2, 2, first, "")
    assert [(each.step, each.who, each.comment) for each in part.said] == [("Check", "Leilani Brandt", "Door clashes.")]
    assert (part.may_hand_in, part.may_pick_up) == (True, False)
    assert part.follows == "Then the review closes, and Marit Osei is told."
    for nobody in ("leilani", "marit", "junpei", "rafael"):
        assert parts(world, nobody, second) == []


def test_who_may_pick_up_sees_the_strip_until_another_has_it(world):
    (filed,) = world.file(name())
    review = world.start(filed)
    (part,) = parts(world, "anouk", filed[1])
    assert (part.may_pick_up, part.may_hand_in, part.follows) == (True, False, "")
    world.pick_up(review, "leilani")
    assert parts(world, "anouk", filed[1]) == []


def test_what_was_begun_is_there_on_another_day_and_gone_once_handed_in(world, going):
    review, ((document, first), (other, _)) = going
    keep(world, "saoirse", review, (document, "B", "Nearly"))
    world.clock.advance(timedelta(days=1))
    keep(world, "saoirse", review, (document, "C", "Not quite"), (other, "", "Looked at"))
    (part,) = parts(world, "saoirse", first)
    assert {(each.document_id, each.verdict, each.comment) for each in part.begun} == {
        (document, "C", "Not quite"),
        (other, "", "Looked at"),
    }
    assert part.answered == 1
    # It goes on with the document that has no verdict yet.
    (_, second) = world.document(OTHER_NUMBER)
    assert on_sheet.first_open(world.context, world.actor("saoirse"), review) == second
    world.hand_in(review, "saoirse", "A")
    assert world.sql("SELECT count(*) FROM begun_answer") == [(0,)]
    assert on_sheet.first_open(world.context, world.actor("saoirse"), review) == ""


def test_what_is_begun_is_seen_by_nobody_else(world, going):
    review, ((document, _), _) = going
    keep(world, "saoirse", review, (document, "D", "No."))
    step = world.step(review, "saoirse")
    assert begun.read_begun(world.context, world.actor("rafael"), review, step) == []
    assert begun.read_begun(world.context, world.actor("saoirse"), review, step)[0].comment == "No."
    assert "No." not in str(world.review(review, "saoirse"))


@pytest.mark.parametrize(
    ("who", "answer", "refused"),
    [
        ("leilani", ("A", ""), NotAllowed),
        ("yusuf", ("A", ""), NotFound),
        ("saoirse", ("Z", ""), RuleBroken),
    ],
)
def test_only_who_is_asked_begins_and_with_a_verdict_that_there_is(world, going, who, answer, refused):
    review, ((document, _), _) = going
    with pytest.raises(refused):
        keep(world, who, review, (document, *answer))
    with pytest.raises(RuleBroken):
        keep(world, "saoirse", review, ("x" * 16, "A", ""))
    assert world.sql("SELECT count(*) FROM begun_answer") == [(0,)]


def test_it_says_on_which_revision_one_answered_before_and_counts_ones_marks(world, going):
    review, ((_, first), _) = going
    world.hand_in(review, "saoirse", "C")
    world.file(name(revision="P02"))
    again = world.start(world.document(NUMBER))
    world.pick_up(again, "leilani")
    world.hand_in(again, "leilani")
    revision = world.document(NUMBER)[1]
    assert parts(world, "saoirse", first) == []
    world.draw(revision, who="saoirse")
    world.draw(revision, who="anouk")
    (part,) = parts(world, "saoirse", revision)
    assert (part.last_answered.code, part.last_answered.revision_id, part.marks) == ("P01", first, 1)


def test_the_mail_leads_to_the_sheet_and_an_answer_on_what_was_swapped_is_refused(world, going):
    review, ((document, first), _) = going
    mails = [payload for key, payload in world.send() if key.startswith("mail:step:")]
    assert any(f"/reviews/{review}/go-on" in mail["text"] for mail in mails)
    world.file(name(revision="P02"))
    command = changing.SwapIn(version=world.seen(review), documents=[document])
    changing.swap_in(world.context, world.actor("marit"), review, command)
    shown = world.review(review)
    assert {each.number: each.revision for each in shown.documents}[NUMBER] == "P02"
    answers = [
        reviews.DocumentAnswer(
            document_id=each.document_id, revision_id=first if each.document_id == document else "", verdict="A"
        )
        for each in shown.documents
    ]
    with pytest.raises(RuleBroken) as refused:
        reviews.hand_in(
            world.context, world.actor("saoirse"), review, world.step(review, "saoirse"),
            reviews.HandIn(answers=answers),
        )  # fmt: skip
    assert refused.value.code == "revision_swapped"
    with pytest.raises(RuleBroken):
        changing.swap_in(
            world.context, world.actor("marit"), review,
            changing.SwapIn(version=world.seen(review), documents=[document]),
        )  # fmt: skip


def test_what_goes_round_in_another_review_is_not_swapped_in(world, going):
    review, ((document, _), _) = going
    world.file(name(revision="P02"))
    other = world.start(world.document(NUMBER))
    with pytest.raises(RuleBroken, match=world.review(other).number):
        changing.swap_in(
            world.context, world.actor("marit"), review,
            changing.SwapIn(version=world.seen(review), documents=[document]),
        )  # fmt: skip
