"""Routes as leads and controllers write them: each act's success, its refusals, and what stays as it was."""

from datetime import date

import numpy
import pytest
from pydantic import ValidationError

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.reviews import reviews, reviews_view, route_editing
from nod.services.reviews.route_editing import MakeRoute, SeenRoute, StepGiven, TryRoute, WriteRoute
from tests.world import name


def step(world, *people, named="Check", act="comment", days=3, counting="working"):
    return StepGiven(
        name=named, act=act, people=[world.cast.people[each] for each in people], days=days, counting=counting
    )


def make(world, *steps, who="marit", named="Marine path", purpose="For the water's side"):
    command = MakeRoute(project_id=world.project_id, name=named, purpose=purpose, steps=list(steps))
    return route_editing.make_route(world.context, world.actor(who), command).id


def shown(world, route_id, *, retired=False, who="marit"):
    routes = reviews_view.list_routes(world.context, world.actor(who), world.project_id, retired=retired)
    return next((each for each in routes if each.id == route_id), None)


def write(world, route_id, *steps, who="marit", named="Marine path", version=1):
    command = WriteRoute(name=named, purpose="", steps=list(steps), version=version)
    route_editing.change_route(world.context, world.actor(who), route_id, command)


def seen(version):
    return SeenRoute(version=version)


def test_a_route_of_ten_steps_is_made_and_a_review_goes_on_it(world):
    steps = [step(world, "leilani", "anouk", named=f"Look {place}") for place in range(9)]
    route = make(world, *steps, step(world, "saoirse", named="Decide", act="decide"))
    assert [each.name for each in shown(world, route).steps] == [*(f"Look {place}" for place in range(9)), "Decide"]
    ((document, revision),) = world.file(name())
    command = reviews.StartReview(
        project_id=world.project_id, route_id=route, name="Long way", message="", documents={document: revision}
    )
    review = reviews.start_review(world.context, world.actor("marit"), command).id
    assert len(world.review(review).slip) == 10
    with pytest.raises(ValidationError):
        make(world, *[step(world, "leilani")] * 11)


def test_a_review_that_runs_keeps_its_path(world):
    route = make(world, step(world, "leilani"), step(world, "saoirse", named="Decide", act="decide"))
    ((document, revision),) = world.file(name())
    command = reviews.StartReview(
        project_id=world.project_id, route_id=route, name="As it was", message="", documents={document: revision}
    )
    review = reviews.start_review(world.context, world.actor("marit"), command).id
    write(world, route, step(world, "anouk", named="Other", act="decide"), named="Short path")
    route_editing.retire_route(world.context, world.actor("marit"), route, seen(2))
    assert [each.name for each in world.review(review).slip] == ["Check", "Decide"]
    with pytest.raises(RuleBroken) as refused:
        reviews.start_review(world.context, world.actor("marit"), command)
    assert refused.value.code == "route_retired"


def test_a_route_is_retired_and_brought_back_unless_its_name_is_taken(world):
    route = make(world, step(world, "leilani"))
    marit = world.actor("marit")
    route_editing.retire_route(world.context, marit, route, seen(1))
    assert shown(world, route) is None
    assert shown(world, route, retired=True).retired
    with pytest.raises(RuleBroken) as refused:
        route_editing.retire_route(world.context, marit, route, seen(2))
    assert refused.value.code == "route_retired"
    again = make(world, step(world, "anouk"))
    with pytest.raises(RuleBroken) as refused:
        route_editing.bring_route_back(world.context, marit, route, seen(2))
    assert refused.value.code == "route_exists"
    write(world, again, step(world, "anouk"), named="Another path")
    route_editing.bring_route_back(world.context, marit, route, seen(2))
    assert shown(world, route).version == 3
    assert world.kinds()[-1] == "route_brought_back"


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"named": " "}, "name_missing"),
        ({"named": "Check and decide"}, "route_exists"),
        ({"steps": []}, "step_count"),
        ({"steps": [{"named": ""}]}, "step_unfit"),
        ({"steps": [{"people": ()}]}, "step_unfit"),
        ({"steps": [{}, {"people": ("bronwen",)}]}, "step_unfit"),
    ],
)
def test_what_cannot_work_is_named_and_leaves_nothing(world, change, code):
    before = world.kinds()
    given = [{"people": ("leilani",), **each} for each in change.get("steps", [{}])]
    steps = [step(world, *each.pop("people"), **each) for each in given]
    with pytest.raises(RuleBroken) as refused:
        make(world, *steps, named=change.get("named", "Marine path"))
    assert (refused.value.code, world.kinds()) == (code, before)
    if len(steps) > 1:
        assert "Step 2" in str(refused.value)


def test_only_who_runs_the_project_writes_routes_and_the_second_of_two_is_told(world):
    route = make(world, step(world, "leilani"), who="rafael")
    with pytest.raises(NotAllowed):
        make(world, step(world, "leilani"), who="saoirse", named="Hers")
    with pytest.raises(NotAllowed):
        write(world, route, step(world, "leilani"), who="leilani")
    with pytest.raises(NotFound):
        write(world, "nowhere", step(world, "leilani"))
    write(world, route, step(world, "anouk"))
    with pytest.raises(Stale):
        write(world, route, step(world, "saoirse"))
    assert [person.name for person in shown(world, route).steps[0].people] == ["Anouk Ferreira"]


@pytest.mark.parametrize("days", [1, 3, 10, 40])
def test_the_days_are_those_of_the_calendar_step_after_step(world, days):
    """Against numpy's busday_offset, on the project's weekdays and holidays."""
    steps = [step(world, "leilani", days=days), step(world, "saoirse", named="Decide", act="decide", days=days)]
    command = TryRoute(project_id=world.project_id, steps=steps)
    tried = route_editing.try_route(world.context, world.actor("marit"), command).steps
    today = world.clock.now().date()
    off = [row[0] for row in world.sql('SELECT "on" FROM holiday WHERE project_id = ?', world.project_id)]
    first = numpy.busday_offset(today, days, roll="backward", holidays=off)
    second = numpy.busday_offset(first, days, roll="backward", holidays=off)
    assert [each.ends_on for each in tried] == [first.astype(date), second.astype(date)]
    assert [each.trouble for each in tried] == ["", ""]


def test_trying_says_what_cannot_work_and_changes_nothing(world):
    before = world.kinds()
    command = TryRoute(project_id=world.project_id, steps=[step(world), step(world, "leilani", named=" ")])
    tried = route_editing.try_route(world.context, world.actor("rafael"), command)
    assert [each.trouble for each in tried.steps] == ["Nobody is named for it.", "Give the step a name."]
    assert (
        route_editing.try_route(
            world.context, world.actor("rafael"), TryRoute(project_id=world.project_id, steps=[])
        ).steps
        == []
    )
    with pytest.raises(NotAllowed):
        route_editing.try_route(world.context, world.actor("leilani"), command)
    assert world.kinds() == before
