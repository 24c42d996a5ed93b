from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.acts.refusals import NotAllowed, Refusal, RuleBroken
from nod.core.acts.working_days import Calendar
from nod.core.reviews import routes
from nod.core.reviews.routes import Answer, ProjectClock, ReviewState, Step, StepAct, StepState
from nod.core.reviews.verdicts import DEFAULT_SET, most_severe

NOW = datetime(2027, 3, 9, 8, 30, tzinfo=UTC)
AT = ProjectClock(Calendar(), ZoneInfo("Europe/London"))
CHECK = Step("Check", StepAct.COMMENT, ("ann", "bo", "cy"))
DECIDE = Step("Decide", StepAct.DECIDE, ("dee",))
FILED_BY = {"d1": "marit", "d2": "marit"}


def _started(steps=(CHECK, DECIDE), filed_by=FILED_BY):
    return routes.start(steps, filed_by, DEFAULT_SET, NOW, AT)


def _answers(verdict=""):
    return tuple(Answer(document, verdict, "") for document in FILED_BY)


def _checked():
    review = routes.pick_up(_started(), "bo")
    return routes.hand_in(review, "bo", _answers(), NOW + timedelta(days=1), AT)


def test_a_started_review_has_its_first_step_running_and_due():
    review = _started()
    assert review.current() == 0
    assert review.steps[0].due_on == date(2027, 3, 12)
    assert review.steps[0].taken_by is None
    assert review.steps[1].state is StepState.WAITING


def test_the_whole_way():
    review = _checked()
    assert review.current() == 1
    assert review.steps[1].taken_by == "dee"
    assert review.steps[1].due_on == date(2027, 3, 15)
    closed = routes.hand_in(review, "dee", _answers("B"), NOW + timedelta(days=2), AT)
    assert closed.state is ReviewState.CLOSED
    assert closed.current() is None


def test_what_one_has_picked_up_another_cannot():
    review = routes.pick_up(_started(), "ann")
    with pytest.raises(RuleBroken) as refused:
        routes.pick_up(review, "bo")
    assert refused.value.code == "step_taken"
    assert routes.pick_up(routes.put_down(review, "ann"), "bo").steps[0].taken_by == "bo"


@pytest.mark.parametrize(
    ("act", "code"),
    [
        (lambda: routes.pick_up(_started(), "dee"), "not_your_step"),
        (lambda: routes.put_down(_started(), "ann"), "step_not_yours"),
        (lambda: routes.put_down(_checked(), "dee"), "only_candidate"),
        (lambda: routes.hand_in(_started(), "ann", _answers(), NOW, AT), "pick_up_first"),
        (lambda: routes.hand_in(_checked(), "dee", _answers(), NOW, AT), "verdict_missing"),
        (lambda: routes.hand_in(_checked(), "dee", _answers("Z"), NOW, AT), "verdict_missing"),
        (lambda: routes.hand_in(_checked(), "dee", _answers("A")[:1], NOW, AT), "answers_incomplete"),
        (lambda: routes.hand_in(_checked(), "dee", _answers("A")[:1] * 2, NOW, AT), "answers_incomplete"),
        (lambda: routes.hand_in(routes.pick_up(_started(), "bo"), "bo", _answers("A"), NOW, AT), "verdict_unasked"),
        (lambda: _started(filed_by={}), "no_documents"),
        (lambda: _started(steps=()), "step_count"),
        (lambda: _started(steps=(CHECK,) * 11), "step_count"),
        (lambda: _started(steps=(Step("Check", StepAct.COMMENT, ()),)), "step_without_people"),
        (lambda: _started(filed_by={"d1": "dee"}), "separation_of_duties"),
        (lambda: routes.cancel(_started(), "  ", NOW), "reason_missing"),
        (lambda: routes.pick_up(routes.cancel(_started(), "withdrawn", NOW), "ann"), "review_over"),
    ],
)
def test_each_refusal_names_its_situation(act, code):
    with pytest.raises(Refusal) as refused:
        act()
    assert refused.value.code == code


def test_nobody_decides_on_a_document_they_filed():
    decide = Step("Decide", StepAct.DECIDE, ("dee", "marit"))
    review = routes.pick_up(_started(steps=(decide,)), "marit")
    with pytest.raises(NotAllowed) as refused:
        routes.hand_in(review, "marit", _answers("A"), NOW, AT)
    assert refused.value.code == "own_document"


def test_cancelling_keeps_what_was_done():
    review = routes.cancel(_checked(), "drawn anew", NOW)
    assert [run.state for run in review.steps] == [StepState.DONE, StepState.DROPPED]


def test_the_forecast_of_a_late_step_pushes_those_after_it():
    review = _started()
    assert routes.forecast(review, date(2027, 3, 9), AT) == (date(2027, 3, 12), date(2027, 3, 17))
    assert routes.forecast(review, date(2027, 3, 22), AT) == (date(2027, 3, 12), date(2027, 3, 25))


@given(
    st.lists(st.tuples(st.sampled_from(["pick", "put", "hand"]), st.sampled_from(["ann", "bo", "dee"])), max_size=25)
)
def test_whatever_is_tried_at_most_one_step_runs_and_it_never_goes_back(acts):
    review, furthest = _started(), 0
    for act, person in acts:
        try:
            if act == "pick":
                review = routes.pick_up(review, person)
            elif act == "put":
                review = routes.put_down(review, person)
            else:
                review = routes.hand_in(review, person, _answers("A" if review.current() == 1 else ""), NOW, AT)
        except Refusal:
            continue
        running = [place for place, run in enumerate(review.steps) if run.state is StepState.RUNNING]
        assert len(running) == (review.state is ReviewState.RUNNING)
        here = running[0] if running else len(review.steps)
        assert here >= furthest
        furthest = here


def test_the_most_severe_verdict_counts():
    assert most_severe(["A", "C", "B"]) == "C"
    assert most_severe([]) is None
