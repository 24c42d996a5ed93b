"""Routes as leads and controllers write them: each act's success, its refusals, and what stays as it was."""

from datetime import date

import numpy
import pytest
from pydantic import ValidationError

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.reviews import route_editing, routes_view, starting
from nod.services.reviews.paths import NamedGiven, StageGiven, StepGiven
from nod.services.reviews.route_editing import MakeRoute, SeenRoute, TryRoute, WriteRoute
from tests.world import name


def step(world, *people, named="Check", act="comment", days=3, counting="working", whom=(), **more):
    """`whom`: (kind, id) of roles and companies."""
    asked = [("person", world.cast.people[each]) for each in people]
    given = [NamedGiven(kind=kind, id=id) for kind, id in (*asked, *whom)]
    return StepGiven(name=named, act=act, whom=given, days=days, counting=counting, **more)


def rows(steps):
    """Each step in a row of its own, but for rows that are given as such."""
    return [each if isinstance(each, StageGiven) else StageGiven(steps=[each]) for each in steps]


def beside(*steps, **then):
    return StageGiven(steps=list(steps), then=then)


def tried(world, *steps, who="marit"):
    command = TryRoute(project_id=world.project_id, stages=rows(steps))
    return route_editing.try_route(world.context, world.actor(who), command).stages


def start(world, route, who="marit"):
    return start_on(world, route, *world.file(name()), who=who)


def start_on(world, route, *filed, who="marit"):
    command = starting.StartReview(project_id=world.project_id, route_id=route, name="One", documents=dict(filed))
    return starting.start_review(world.context, world.actor(who), command).id


def make(world, *steps, who="marit", named="Marine path", purpose="For the water's side", starters=()):
    starters = [NamedGiven(kind=kind, id=id) for kind, id in starters]
    command = MakeRoute(
        project_id=world.project_id, name=named, purpose=purpose, stages=rows(steps), may_start=starters
    )
    return route_editing.make_route(world.context, world.actor(who), command).id


def shown(world, route_id, *, retired=False, who="marit"):
    routes = routes_view.list_routes(world.context, world.actor(who), world.project_id, retired=retired)
    return next((each for each in routes if each.id == route_id), None)


def write(world, route_id, *steps, who="marit", named="Marine path", version=1):
    command = WriteRoute(name=named, purpose="", stages=rows(steps), version=version)
    route_editing.change_route(world.context, world.actor(who), route_id, command)


def start_again(world, review, route):
    (document,) = world.review(review).documents
    command = starting.StartReview(
        project_id=world.project_id, route_id=route, name="Two", documents={document.document_id: document.revision_id}
    )
    starting.start_review(world.context, world.actor("marit"), command)


def seen(version):
    return SeenRoute(version=version)


def test_a_route_of_ten_steps_is_made_and_a_review_goes_on_it(world):
    steps = [step(world, "leilani", "anouk", named=f"Look {place}") for place in range(9)]
    route = make(world, *steps, step(world, "saoirse", named="Decide", act="decide"))
    assert [each.name for row in shown(world, route).stages for each in row.steps] == [
        *(f"Look {place}" for place in range(9)),
        "Decide",
    ]
    review = start(world, route)
    assert len(world.review(review).slip) == 10
    with pytest.raises(ValidationError):
        make(world, *[step(world, "leilani")] * 11)
    with pytest.raises(RuleBroken, match="ten steps"):
        make(world, *[beside(step(world, "leilani"), step(world, "anouk"))] * 6, named="Longer")


def test_a_review_that_runs_keeps_its_path(world):
    route = make(world, step(world, "leilani"), step(world, "saoirse", named="Decide", act="decide"))
    review = start(world, route)
    write(world, route, step(world, "anouk", named="Other", act="decide"), named="Short path")
    route_editing.retire_route(world.context, world.actor("marit"), route, seen(2))
    assert [each.name for each in world.review(review).slip] == ["Check", "Decide"]
    with pytest.raises(RuleBroken) as refused:
        start_again(world, review, route)
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
    assert [each.words for each in shown(world, route).stages[0].steps[0].whom] == ["Anouk Ferreira"]


@pytest.mark.parametrize("days", [1, 3, 10, 40])
def test_the_days_are_those_of_the_calendar_step_after_step(world, days):
    """Against numpy's busday_offset, on the project's weekdays and holidays."""
    steps = [step(world, "leilani", days=days), step(world, "saoirse", named="Decide", act="decide", days=days)]
    found = [each.steps[0] for each in tried(world, *steps)]
    today = world.clock.now().date()
    off = [row[0] for row in world.sql('SELECT "on" FROM holiday WHERE project_id = ?', world.project_id)]
    first = numpy.busday_offset(today, days, roll="backward", holidays=off)
    second = numpy.busday_offset(first, days, roll="backward", holidays=off)
    assert [each.ends_on for each in found] == [first.astype(date), second.astype(date)]
    assert [each.trouble for each in found] == ["", ""]


def test_trying_says_what_cannot_work_and_changes_nothing(world):
    before = world.kinds()
    found = tried(world, step(world), step(world, "leilani", named=" "), who="rafael")
    assert [row.steps[0].trouble for row in found] == ["Nobody is named for it.", "Give the step a name."]
    assert tried(world) == []
    with pytest.raises(NotAllowed):
        tried(world, step(world, "leilani"), who="leilani")
    assert world.kinds() == before


def company(world, code):
    return ("company", world.sql("SELECT id FROM company WHERE code = ?", code)[0][0])


def test_roles_and_companies_are_named_and_counted(world):
    ((asked,), (nobody,), (stranger,)) = (
        row.steps
        for row in tried(
            world,
            step(world, whom=[("role", "lead"), company(world, "HBC")]),
            step(world, whom=[company(world, "PFG")]),
            step(world, whom=[("role", "nonsense")]),
        )
    )
    leads = world.sql(
        "SELECT count(*) FROM membership m JOIN person p ON p.id = m.person_id JOIN company c ON c.id = p.company_id "
        "WHERE m.project_id = ? AND m.state IN ('active', 'invited') AND (c.code = 'HBC' OR m.roles LIKE '%\"lead\"%')",
        world.project_id,
    )
    assert (asked.people, asked.trouble) == (leads[0][0], "")
    assert (
        nobody.trouble
        == f"Nobody of {world.sql('SELECT name FROM company WHERE code = ?', 'PFG')[0][0]} is in the project."
    )
    assert stranger.trouble == "Something named for it is not there any more."


def test_steps_beside_each_other_end_with_the_slowest_and_are_hinted_at(world):
    decide = {"act": "decide"}
    side = [step(world, "leilani", days=2, **decide), step(world, "saoirse", days=5, **decide)]
    one, two = tried(world, beside(*side), step(world, "rafael", days=1))
    assert [each.ends_on for each in one.steps] == [date(2027, 3, 11), date(2027, 3, 16)]
    assert two.steps[0].ends_on == date(2027, 3, 17)
    assert one.hint.startswith("Several companies decide here.")
    summed = beside(*side, step(world, "rafael", sums_up=True, **decide))
    assert tried(world, summed)[0].hint == ""


@pytest.mark.parametrize(
    ("last", "words"),
    [
        ({"sums_up": True, "act": "comment"}, "decides as well"),
        ({"quota": "some", "least": 3}, "wants 3 hands, and names 1"),
    ],
)
def test_what_cannot_work_in_a_row_is_named(world, last, words):
    with pytest.raises(RuleBroken, match=words):
        make(world, beside(step(world, "leilani", act="decide"), step(world, "anouk", **{"act": "decide", **last})))


def test_what_follows_a_verdict_is_of_the_projects_verdicts(world):
    with pytest.raises(RuleBroken) as refused:
        make(world, beside(step(world, "leilani", act="decide"), Z="back"))
    assert refused.value.code == "verdict_unknown"
    route = make(world, beside(step(world, "leilani", act="decide"), C="back"))
    assert shown(world, route).stages[0].then == {"C": "back"}


def test_only_those_named_start_it_and_who_runs_the_project(world):
    route = make(world, step(world, "leilani"), starters=[company(world, "HBC")], who="rafael")
    assert not shown(world, route, who="ottilie").may_start
    with pytest.raises(NotAllowed, match="for others to start"):
        start(world, route, who="ottilie")
    assert shown(world, route, who="rafael").may_start


def test_who_may_start_has_to_be_there(world):
    with pytest.raises(RuleBroken) as refused:
        make(world, step(world, "leilani"), starters=[("role", "nonsense")])
    assert refused.value.code == "starter_unknown"


def test_a_new_project_has_four_routes_by_role(world):
    found = routes_view.list_routes(world.context, world.actor("marit"), world.project_id)
    assert {"One verdict", "Six steps in line", "Three companies side by side, and a lead"} <= {
        each.name for each in found
    }
