from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, Refusal, RuleBroken
from nod.core.reviews import acts
from nod.core.reviews.acts import Act, outcomes_so_far
from nod.core.reviews.path import Quota, Step, StepAct, Then
from nod.core.reviews.running import DocumentState, Happening, PlaceState, ReviewState, StepState
from nod.core.reviews.verdicts import DEFAULT_SET, most_severe
from tests.core.reviews.making import (
    NOW,
    all_of,
    comments,
    decides,
    moment,
    role,
    row,
    says,
    some_of,
    started,
    who,
)

CHECK = row(comments("Check", "ann", "bo", "cy"))
DECIDE = row(decides("Decide", "dee"))
LEAD = who("lou", runs=True)


def hand(review, name, verdict="", at=None, step=0, **by_document):
    return acts.hand_in(review, who(name), step, says(review, verdict, **by_document), at or moment()).review


def checked():
    review = acts.pick_up(started(CHECK, DECIDE), who("bo"), 0).review
    return hand(review, "bo", at=moment(NOW + timedelta(days=1)))


def states(review):
    return [run.state.value for run in review.steps]


def test_a_started_review_has_its_first_step_running_and_due():
    review = started(CHECK, DECIDE)
    assert states(review) == ["running", "waiting"]
    assert (review.steps[0].due_on, review.steps[0].taken_by) == (date(2027, 3, 12), None)


def test_the_whole_way():
    review = checked()
    assert (review.steps[1].taken_by, review.steps[1].due_on) == ("dee", date(2027, 3, 15))
    closed = hand(review, "dee", "B", step=1)
    assert closed.state is ReviewState.CLOSED
    assert {each.verdict for each in closed.documents.values()} == {"B"}


def test_what_one_has_picked_up_another_cannot():
    review = acts.pick_up(started(CHECK), who("ann"), 0).review
    with pytest.raises(RuleBroken) as refused:
        acts.pick_up(review, who("bo"), 0)
    assert refused.value.code == "step_taken"
    review = acts.put_down(review, who("ann"), 0).review
    assert acts.pick_up(review, who("bo"), 0).review.steps[0].taken_by == "bo"


@pytest.mark.parametrize(
    ("act", "code"),
    [
        (lambda: acts.pick_up(started(CHECK), who("dee"), 0), "not_your_step"),
        (lambda: acts.pick_up(started(CHECK, DECIDE), who("dee"), 1), "not_your_step"),
        (lambda: acts.put_down(started(CHECK), who("ann"), 0), "step_not_yours"),
        (lambda: acts.put_down(checked(), who("dee"), 1), "only_candidate"),
        (lambda: acts.pick_up(started(row(all_of("Decide", "a", "b"))), who("a"), 0), "nothing_to_pick_up"),
        (lambda: hand(started(CHECK), "ann"), "pick_up_first"),
        (lambda: hand(checked(), "dee", step=1), "verdict_missing"),
        (lambda: hand(checked(), "dee", "Z", step=1), "verdict_missing"),
        (lambda: hand(checked(), "bo"), "step_over"),
        (lambda: hand(acts.pick_up(started(CHECK), who("bo"), 0).review, "bo", "A"), "verdict_unasked"),
        (lambda: started(DECIDE, documents=()), "no_documents"),
        (lambda: started(), "step_count"),
        (lambda: started(*[CHECK] * 11), "step_count"),
        (lambda: started(row(comments("Check"))), "step_unfit"),
        (lambda: started(row(Step("Check", StepAct.COMMENT, role("checker")))), "step_without_people"),
        (lambda: started(DECIDE, by="dee"), "separation_of_duties"),
        (lambda: started(row(decides("Sum up", "dee", sums_up=True))), "step_unfit"),
        (lambda: started(row(decides("A", "a"), comments("Sum up", "dee", sums_up=True))), "step_unfit"),
        (lambda: acts.cancel(started(CHECK), LEAD, "  ", NOW), "reason_missing"),
        (lambda: acts.cancel(started(CHECK), who("ann"), "why", NOW), "not_your_review"),
        (lambda: acts.recall(started(CHECK), LEAD, NOW), "not_your_review"),
        (lambda: acts.pick_up(acts.cancel(started(CHECK), LEAD, "why", NOW).review, who("ann"), 0), "review_over"),
        (lambda: acts.end_step(started(CHECK), who("ann"), 0, "why", moment()), "not_running"),
        (lambda: acts.end_step(started(CHECK, DECIDE), LEAD, 1, "why", moment()), "step_not_running"),
        (lambda: acts.end_step(started(CHECK), LEAD, 0, " ", moment()), "reason_missing"),
        (lambda: acts.put_in(started(DECIDE), LEAD, 0, "dee", "marit"), "own_document"),
        (lambda: acts.put_in(started(CHECK), LEAD, 0, "ann", "bo"), "in_step_already"),
        (lambda: acts.put_in(started(CHECK), LEAD, 0, "zoe", "yan"), "place_not_open"),
        (lambda: acts.swap(started(CHECK), who("ann"), {}, moment()), "not_your_review"),
        (lambda: acts.swap(started(CHECK), LEAD, {"d9": frozenset()}, moment()), "document_left"),
    ],
)
def test_each_refusal_names_its_situation(act, code):
    with pytest.raises(Refusal) as refused:
        act()
    assert refused.value.code == code


@pytest.mark.parametrize("answered", [1, 3])
def test_each_document_is_answered_once(answered):
    review = checked()
    answers = (says(review, "A") * 2)[:answered]
    with pytest.raises(RuleBroken, match="once"):
        acts.hand_in(review, who("dee"), 1, answers, moment())


def test_who_filed_one_of_them_has_no_place_where_one_hand_is_enough():
    review = started(row(decides("Decide", "dee", "marit")))
    assert [each.person for each in review.steps[0].places] == ["dee"]


def test_of_all_everybody_answers_but_on_their_own():
    review = started(row(all_of("Decide", "ann", "bo")), authors={"d1": {"ann"}, "d2": {"cy"}})
    ann = tuple(each for each in says(review, "B") if each.document_id == "d2")
    with pytest.raises(NotAllowed) as refused:
        acts.hand_in(review, who("ann"), 0, says(review, "A"), moment())
    assert refused.value.code == "own_document"
    review = acts.hand_in(review, who("ann"), 0, ann, moment()).review
    closed = hand(review, "bo", "A")
    assert {each.id: each.verdict for each in closed.documents.values()} == {"d1": "A", "d2": "B"}


def test_an_author_may_comment_and_decides_where_the_route_says_so():
    assert started(row(comments("Check", "marit"))).steps[0].places[0].person == "marit"
    assert started(row(decides("Decide", "marit", own_allowed=True))).steps[0].places[0].person == "marit"


def test_all_hand_in_and_the_most_severe_counts():
    review = started(row(all_of("Decide", "a", "b", "c")))
    review = hand(hand(review, "a", d1="A", d2="B"), "b", d1="C", d2="A")
    assert states(review) == ["running"]
    assert outcomes_so_far(review)["d1"] == "C"
    closed = hand(review, "c", "A")
    assert {each.id: each.verdict for each in closed.documents.values()} == {"d1": "C", "d2": "B"}


def test_at_least_two_of_three_and_the_third_is_told():
    review = hand(started(row(some_of(2, "Decide", "a", "b", "c"))), "a", "A")
    turn = acts.hand_in(review, who("c"), 0, says(review, "B"), moment())
    assert [(each.what, each.person) for each in turn.happened] == [
        (Happening.STEP_DONE, ""),
        (Happening.NOT_NEEDED, "b"),
        (Happening.CLOSED, ""),
    ]
    assert [each.state for each in turn.review.steps[0].places] == [
        PlaceState.HANDED_IN,
        PlaceState.NOT_NEEDED,
        PlaceState.HANDED_IN,
    ]


def test_three_companies_side_by_side_and_one_who_sums_up():
    path = row(
        decides("Fire", "a"), comments("Lifts", "b"), decides("Structure", "c"), decides("Sum", "lou", sums_up=True)
    )
    review = started(path)
    assert states(review) == ["running", "running", "running", "waiting"]
    review = hand(hand(hand(review, "c", "C", step=2), "a", "A"), "b", step=1)
    assert states(review) == ["done", "done", "done", "running"]
    assert outcomes_so_far(review)["d1"] == "C"
    closed = hand(review, "lou", "B", step=3)
    assert {each.verdict for each in closed.documents.values()} == {"B"}


def test_back_to_the_author_takes_a_document_out_and_the_others_go_on():
    review = started(row(decides("Check", "a"), C=Then.BACK, D=Then.END), DECIDE, documents=("d1", "d2", "d3"))
    turn = acts.hand_in(review, who("a"), 0, says(review, "A", d1="C", d3="D"), moment())
    assert [each.document_id for each in turn.happened if each.what is Happening.SENT_BACK] == ["d1"]
    assert [each.id for each in turn.review.going()] == ["d2"]
    closed = hand(turn.review, "dee", "B", step=1)
    assert {each.id: (each.verdict, each.state) for each in closed.documents.values()} == {
        "d1": ("C", DocumentState.BACK),
        "d2": ("B", DocumentState.DONE),
        "d3": ("D", DocumentState.DONE),
    }


def test_when_none_is_left_the_review_closes():
    review = started(row(decides("Check", "a"), C=Then.BACK), DECIDE)
    closed = hand(review, "a", "C")
    assert closed.state is ReviewState.CLOSED
    assert states(closed) == ["done", "dropped"]


def test_who_holds_a_role_is_looked_up_when_the_step_begins():
    path = (CHECK, row(Step("Decide", StepAct.DECIDE, role("checker"))))
    review = started(*path, at=moment(roles={"checker": ["eva"]}))
    review = acts.pick_up(review, who("bo"), 0).review
    review = hand(review, "bo", at=moment(roles={"checker": ["fay", "gus"]}))
    assert [each.person for each in review.steps[1].places] == ["fay", "gus"]


def test_a_step_for_whom_nobody_is_left_waits_for_a_lead():
    path = (CHECK, row(Step("Decide", StepAct.DECIDE, role("checker"))))
    review = acts.pick_up(started(*path, at=moment(roles={"checker": ["eva"]})), who("bo"), 0).review
    turn = acts.hand_in(review, who("bo"), 0, says(review), moment())
    assert turn.happened[-1].what is Happening.NOBODY_ASKED
    review = acts.put_in(turn.review, LEAD, 1, "", "fay").review
    assert acts.may(review, who("fay"), Act.PICK_UP, 1)
    assert acts.end_step(turn.review, LEAD, 1, "nobody there", moment()).review.state is ReviewState.CLOSED


def test_who_is_away_is_stood_in_for_but_not_by_an_author():
    review = started(row(decides("Decide", "dee")), at=moment(away={"dee": "eva"}))
    assert [(each.person, each.for_whom) for each in review.steps[0].places] == [("eva", "dee")]
    review = started(row(decides("Decide", "dee")), at=moment(away={"dee": "marit"}))
    assert [(each.person, each.for_whom) for each in review.steps[0].places] == [("dee", "")]


def test_a_place_is_handed_on_with_what_was_picked_up():
    review = acts.pick_up(started(CHECK), who("bo"), 0).review
    with pytest.raises(RuleBroken):
        acts.hand_on(review, who("ann"), 0, "eva")
    review = acts.hand_on(review, who("bo"), 0, "eva").review
    assert (review.steps[0].taken_by, review.steps[0].places[1].for_whom) == ("eva", "bo")


def test_recalling_is_for_what_is_not_decided():
    assert acts.recall(checked(), who("marit", started=True), NOW).review.state is ReviewState.RECALLED
    review = hand(started(row(all_of("Decide", "a", "b"))), "a", "A")
    with pytest.raises(RuleBroken) as refused:
        acts.recall(review, who("marit", started=True), NOW)
    assert refused.value.code == "decided_already"


def test_a_newer_revision_swapped_in_begins_the_stage_again():
    review = hand(started(row(all_of("Decide", "a", "b"))), "a", "C")
    review = acts.swap(review, LEAD, {"d1": frozenset({"marit"})}, moment(NOW + timedelta(days=3))).review
    assert [(each.person, each.state.value) for each in review.steps[0].places] == [
        ("a", "crossed"),
        ("b", "crossed"),
        ("a", "asked"),
        ("b", "asked"),
    ]
    assert review.steps[0].due_on == date(2027, 3, 17)
    closed = hand(hand(review, "b", "A"), "a", "A")
    assert {each.verdict for each in closed.documents.values()} == {"A"}
    assert closed.steps[0].places[0].answers[0].verdict == "C"


def test_cancelling_keeps_what_was_done():
    review = acts.cancel(checked(), LEAD, "drawn anew", NOW).review
    assert [run.state for run in review.steps] == [StepState.DONE, StepState.DROPPED]


def test_of_all_who_filed_everything_has_no_place():
    review = started(row(Step("Decide", StepAct.DECIDE, role("x"), Quota.ALL)), at=moment(roles={"x": ["a", "marit"]}))
    assert [each.person for each in review.steps[0].places] == ["a"]


def test_the_most_severe_verdict_counts():
    assert most_severe(["A", "C", "B"], DEFAULT_SET) == "C"
    assert most_severe([]) is None
