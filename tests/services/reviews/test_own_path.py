"""People changed while sending, a path for one review alone, who else should know, and steps that are not handed on."""

import json

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.reviews import changing, route_editing, starting
from nod.services.reviews.paths import NamedGiven
from nod.services.reviews.route_editing import MakeRoute
from tests.services.reviews.test_route_editing import rows, step
from tests.world import NUMBER, name


def _route(world, *steps, **more):
    command = MakeRoute(
        project_id=world.project_id, name="Structure", purpose="", stages=rows(steps), may_change=more.get("may", False)
    )
    return route_editing.make_route(world.context, world.actor("marit"), command).id


def _start(world, filed, who="marit", route="", stages=(), tell=()):
    command = starting.StartReview(
        project_id=world.project_id, route_id=route, name="One", documents=dict([filed]), stages=rows(stages),
        tell=list(tell), message="Before Friday.",
    )  # fmt: skip
    return starting.start_review(world.context, world.actor(who), command)


def _asked(world, review):
    return [place.who.name.split()[0] for place in world.review(review).slip[0].places]


def test_a_lead_writes_a_path_for_one_review(world):
    filed = world.file(name())[0]
    started = _start(world, filed, stages=[step(world, "anouk", named="Look")])
    shown = world.review(started.id)
    assert (shown.route_name, _asked(world, started.id)) == ("a path of its own", ["Anouk"])
    assert world.sql("SELECT count(*) FROM route WHERE name LIKE '%own%'") == [(0,)]


def test_whoever_starts_changes_people_where_the_route_says_so_and_nothing_else(world):
    filed = world.file(name(), who="paolo")[0]
    fixed = _route(world, step(world, "rafael", named="Look", days=5))
    with pytest.raises(NotAllowed) as refused:
        _start(world, filed, "paolo", fixed, [step(world, "anouk", named="Look", days=5)])
    assert refused.value.code == "route_fixed"
    world.write("UPDATE route SET may_change = 1 WHERE name = 'Structure'")
    for steps in ([step(world, "anouk", named="Look", days=9)], [step(world, "anouk", named="Look", days=5)] * 2):
        with pytest.raises(NotAllowed):
            _start(world, filed, "paolo", fixed, steps)
    with pytest.raises(NotAllowed):
        _start(world, filed, "paolo", stages=[step(world, "anouk", named="Look")])
    started = _start(world, filed, "paolo", fixed, [step(world, "anouk", named="Look", days=5)])
    assert (world.review(started.id).route_name, _asked(world, started.id)) == ("Structure, changed", ["Anouk"])


def test_an_unchanged_path_is_the_routes(world):
    route = _route(world, step(world, "rafael", named="Look"))
    started = _start(world, world.file(name())[0], route=route, stages=[step(world, "rafael", named="Look")])
    assert world.review(started.id).route_name == "Structure"


def test_a_path_that_cannot_work_starts_nothing(world):
    filed = world.file(name())[0]
    with pytest.raises(RuleBroken):
        _start(world, filed, stages=[step(world, named="Look")])
    with pytest.raises(NotFound):
        _start(world, filed)
    with pytest.raises(NotFound):
        _start(world, filed, route="../../x")
    assert world.sql("SELECT count(*) FROM review") == [(0,)]


def test_who_else_should_know_is_told_and_follows(world):
    filed = world.file(name())[0]
    route = _route(world, step(world, "rafael", named="Look"))
    tell = [NamedGiven(kind="person", id=world.cast.people["anouk"]), NamedGiven(kind="role", id="controller")]
    started = _start(world, filed, route=route, tell=tell)
    assert started.told > 1
    texts = [payload["text"] for _, payload in world.send() if payload.get("to_email", "").startswith("anouk")]
    assert any("wanted you told" in each and "Before Friday." in each for each in texts)
    follows = world.sql("SELECT count(*) FROM follow WHERE kind = 'review' AND target = ?", started.id)
    assert follows == [(started.told,)]
    (said,) = world.sql("SELECT body FROM audit_entry WHERE kind = 'follow_begun'")[0]
    assert "Anouk Ferreira" in json.loads(said)["after"]["for"]
    with pytest.raises(RuleBroken):
        _start(world, world.file(name("BFT-TRA-Z1-01-D-A-0102"))[0], route=route,
               tell=[NamedGiven(kind="person", id="nobody")])  # fmt: skip


def test_a_step_that_is_not_handed_on(world):
    filed = world.file(name())[0]
    started = _start(world, filed, stages=[step(world, "anouk", named="Look", handing_on=False)])
    mine = world.review(started.id, "anouk").slip[0]
    assert not mine.mine.may_hand_on
    command = changing.HandOn(person_id=world.cast.people["rafael"])
    with pytest.raises(RuleBroken) as refused:
        changing.hand_on(world.context, world.actor("anouk"), started.id, mine.id, command)
    assert refused.value.code == "not_handed_on"
    assert NUMBER in world.review(started.id).documents[0].number
