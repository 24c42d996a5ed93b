"""Several sets of verdicts in a project: a step gives its own, and a code means one thing wherever it stands."""

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.replays import table_faults
from nod.services.reviews import on_sheet, route_editing, starting
from nod.services.reviews.route_editing import MakeRoute, TryRoute
from nod.services.setup import setup, setup_view
from nod.services.setup.setup_view import VerdictSet
from tests.services.reviews.test_route_editing import beside, start_on, step
from tests.world import NUMBER, name

FIRE = tuple(
    VerdictSet(code=code, words=words, meaning=meaning, may_be_used=good, needs_new_revision=not good, of_set="Fire")
    for code, words, meaning, good in (
        ("F0", "no remark", "go", True), ("F1", "with remarks", "look", True), ("F2", "refused", "stop", False),
    )
)  # fmt: skip


@pytest.fixture
def fire(world):
    _set_verdicts(world, lambda usual: [*usual, *FIRE])
    return world


def _set_verdicts(world, change):
    now = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id)
    command = setup.SetCodes(
        version=now.version, revision_scheme="staged", statuses=now.statuses, verdict_set=change(now.verdict_set),
        reviewed_statuses=now.reviewed_statuses, status_uses=now.status_uses,
    )  # fmt: skip
    setup.set_codes(world.context, world.actor("rafael"), world.project_id, command)


def _route(world, *stages, named="Fire first"):
    command = MakeRoute(
        project_id=world.project_id, name=named, purpose="", stages=[beside(*stage) for stage in stages]
    )
    return route_editing.make_route(world.context, world.actor("marit"), command).id


def _fire_step(world, *who, **more):
    return step(world, *who, act="decide", named="Fire check", **more).model_copy(update={"verdicts": "Fire"})


def _codes(part):
    return [each.code for each in part.verdict_set]


def test_each_step_gives_the_verdicts_of_its_own_set(fire):
    route = _route(fire, [_fire_step(fire, "dede")], [step(fire, "rafael", act="decide", named="Decide")])
    ((document, revision),) = fire.file(name())
    review = start_on(fire, route, (document, revision))
    part = on_sheet.list_parts(fire.context, fire.actor("dede"), revision)[0]
    assert _codes(part) == ["F0", "F1", "F2"]
    with pytest.raises(RuleBroken) as refused:
        fire.hand_in(review, "dede", "A")
    assert refused.value.code == "verdict_missing"
    fire.hand_in(review, "dede", "F1")
    part = on_sheet.list_parts(fire.context, fire.actor("rafael"), revision)[0]
    assert _codes(part) == ["A", "B", "C", "D"]
    with pytest.raises(RuleBroken):
        fire.hand_in(review, "rafael", "F0")
    fire.hand_in(review, "rafael", "B")
    assert fire.sql("SELECT verdict FROM document WHERE number = ?", NUMBER) == [("B",)]
    assert list(table_faults(fire.context.database)) == []


def test_of_several_the_most_severe_of_the_set_counts(fire):
    both = [_fire_step(fire, "dede", "saoirse", quota="all")]
    review = start_on(fire, _route(fire, both), *fire.file(name()))
    fire.hand_in(review, "saoirse", "F2")
    fire.hand_in(review, "dede", "F0")
    assert fire.sql("SELECT verdict FROM document WHERE number = ?", NUMBER) == [("F2",)]


def test_those_beside_each_other_give_verdicts_of_one_set(fire):
    stage = [_fire_step(fire, "dede"), step(fire, "rafael", act="decide", named="Decide")]
    tried = route_editing.try_route(
        fire.context, fire.actor("marit"), TryRoute(project_id=fire.project_id, stages=[beside(*stage)])
    )
    assert [each.trouble for each in tried.stages[0].steps] == [
        "Those who decide in one row give verdicts of one set."
    ] * 2  # fmt: skip
    with pytest.raises(RuleBroken):
        _route(fire, stage)


def test_a_set_that_is_gone_is_said_at_the_row_and_starts_no_review(fire):
    route = _route(fire, [_fire_step(fire, "dede")])
    filed = fire.file(name())
    running = start_on(fire, route, *filed)
    _set_verdicts(fire, lambda all_: [each for each in all_ if each.of_set == ""])
    # What runs keeps the verdicts it began with.
    fire.hand_in(running, "dede", "F0")
    command = starting.StartReview(
        project_id=fire.project_id, route_id=route, name="Again", documents=dict(fire.file(name(revision="P02")))
    )
    with pytest.raises(RuleBroken, match="no verdicts called “Fire”"):
        starting.start_review(fire.context, fire.actor("marit"), command)


def test_each_set_has_a_verdict_that_lets_a_document_be_used(fire):
    with pytest.raises(RuleBroken, match="of the set Fire lets the document be used"):
        _set_verdicts(fire, lambda all_: [each for each in all_ if each.code not in ("F0", "F1")])


def test_a_code_is_there_once_whatever_its_set(fire):
    double = FIRE[0].model_copy(update={"code": "A"})
    with pytest.raises(RuleBroken):
        _set_verdicts(fire, lambda all_: [*all_, double])
