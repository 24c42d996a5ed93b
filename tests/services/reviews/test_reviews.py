from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services import desk
from nod.services.register import documents
from nod.services.reviews import changing, ready_route, reviews, routes_view, starting
from tests.world import NUMBER, OTHER_NUMBER, name


@pytest.fixture
def filed(world):
    return world.file(name(), name(number=OTHER_NUMBER))


def _mailed(world):
    return [payload["to_email"].split("@")[0] for _, payload in world.send()]


def _line(world, document_id):
    return documents.read_document(world.context, world.actor("marit"), document_id).line


def test_the_way_through_two_steps(world, filed):
    review_id = world.start(*filed)
    assert sorted(_mailed(world)) == ["anouk", "leilani", "rafael"]
    line = _line(world, filed[0][0])
    assert line.standing.with_whom == "any of 3 for Check"
    assert line.standing.due_on == date(2027, 3, 12)

    world.pick_up(review_id, "leilani")
    assert _line(world, filed[0][0]).standing.with_whom == "Leilani Brandt"
    world.clock.advance(timedelta(days=1))
    world.hand_in(review_id, "leilani", comment="Door clashes.")
    assert _mailed(world) == ["saoirse"]
    assert _line(world, filed[0][0]).standing.with_whom == "Saoirse Tanaka"

    world.hand_in(review_id, "saoirse", "B")
    assert _mailed(world) == ["marit"]
    review = world.review(review_id)
    assert (review.state, [each.verdict for each in review.documents]) == ("closed", ["B", "B"])
    assert [[place.stamp for place in step.places] for step in review.slip] == [["LB", "", ""], ["ST"]]
    assert [(each["step"], each["comment"]) for each in review.documents[0].said] == [(0, "Door clashes."), (1, "")]
    line = _line(world, filed[0][0])
    assert (line.verdict, line.standing.with_whom, line.standing.due_on) == ("B", "", None)


def test_lateness_is_shown_everywhere_in_the_same_days(world, filed):
    review_id = world.start(*filed)
    world.clock.advance(timedelta(days=7))
    review = world.review(review_id)
    assert review.slip[0].days_late == 2
    assert _line(world, filed[0][0]).standing.days_late == 2
    lines = desk.read_desk(world.context, world.actor("marit"), world.project_id).late
    assert [(line.number, line.standing.days_late) for line in lines] == [("RV-0001", 2)]
    assert review.forecast_end_on == date(2027, 3, 19)


def test_putting_down_gives_it_back_to_all(world, filed):
    review_id = world.start(*filed)
    world.pick_up(review_id, "leilani")
    with pytest.raises(RuleBroken) as refused:
        world.pick_up(review_id, "anouk")
    assert refused.value.code == "step_taken"
    assert not world.review(review_id, "anouk").slip[0].mine.may_pick_up
    reviews.put_down(world.context, world.actor("leilani"), review_id, world.step(review_id, "leilani"))
    assert world.review(review_id, "anouk").slip[0].mine.may_pick_up
    world.pick_up(review_id, "anouk")


def test_who_picks_up_second_is_told_who_was_first(world, filed):
    review_id = world.start(*filed)
    world.clock.advance(timedelta(minutes=5))
    world.pick_up(review_id, "leilani")
    with pytest.raises(RuleBroken, match=r"Leilani Brandt was first: Check was picked up at 08:35 on 9 March\."):
        world.pick_up(review_id, "anouk")


def test_everybody_asked_is_told_that_a_review_was_cancelled(world, filed):
    review_id = world.start(*filed)
    world.send()
    command = changing.CancelReview(version=world.seen(review_id), reason="Drawn anew.")
    changing.cancel_review(world.context, world.actor("marit"), review_id, command)
    told = [payload for key, payload in world.send() if key.startswith("mail:review_cancelled:")]
    assert sorted(each["to_email"].split("@")[0] for each in told) == ["anouk", "leilani", "rafael"]
    assert all("Drawn anew." in each["text"] for each in told)


def ready(world, who="rafael", **more):
    people = world.cast.people
    given = {
        "name": "First",
        "commenting": [people["anouk"]],
        "deciding": [people["saoirse"]],
        "decide_days": 2,
        **more,
    }
    command = ready_route.MakeReadyRoute(project_id=world.project_id, **given)
    return ready_route.make_ready_route(world.context, world.actor(who), command).id


def test_the_first_route_is_made_from_names_and_goes(world, filed):
    route_id = ready(world)
    (route,) = [
        each
        for each in routes_view.list_routes(world.context, world.actor("marit"), world.project_id)
        if each.id == route_id
    ]
    assert [(step.name, step.act, step.days) for stage in route.stages for step in stage.steps] == [
        ("Check", "comment", 5),
        ("Decide", "decide", 2),
    ]
    command = starting.StartReview(
        project_id=world.project_id, route_id=route_id, name="One", documents={filed[0][0]: filed[0][1]}
    )
    starting.start_review(world.context, world.actor("marit"), command)
    assert _mailed(world) == ["anouk"]


@pytest.mark.parametrize("wrong", [{"name": " "}, {"deciding": []}])
def test_a_route_without_a_name_or_a_verdict_is_refused(world, wrong):
    with pytest.raises(RuleBroken):
        ready(world, **wrong)


def test_routes_are_made_by_those_who_run_the_project_for_its_people(world):
    with pytest.raises(NotAllowed):
        ready(world, who="leilani")
    with pytest.raises(NotFound):
        ready(world, deciding=["x" * 16])
    ready(world)
    with pytest.raises(RuleBroken, match="already"):
        ready(world)


def test_those_of_another_step_are_refused_before_anything_else(world, filed):
    review_id = world.start(*filed)
    with pytest.raises(NotAllowed):
        world.pick_up(review_id, "saoirse")
    with pytest.raises(NotFound):
        world.pick_up(review_id, "yusuf")


def test_a_refused_hand_in_leaves_nothing_behind(world, filed):
    review_id = world.start(*filed)
    world.pick_up(review_id, "leilani")
    before = (world.kinds(), world.sql("SELECT count(*) FROM answer"), world.sql("SELECT count(*) FROM outbox"))
    with pytest.raises(RuleBroken):
        world.hand_in(review_id, "leilani", verdict="A")
    assert before == (
        world.kinds(),
        world.sql("SELECT count(*) FROM answer"),
        world.sql("SELECT count(*) FROM outbox"),
    )


def test_what_has_moved_on_or_is_under_way_cannot_start(world, filed):
    document, revision = filed[0]
    world.start(filed[0])
    with pytest.raises(RuleBroken) as refused:
        world.start(filed[0])
    assert refused.value.code == "in_review_already"
    world.file(name(revision="P02"))
    with pytest.raises(RuleBroken) as refused:
        world.start((document, revision))
    assert refused.value.code == "revision_moved_on"
    with pytest.raises(RuleBroken):
        world.start(filed[1], name="  ")
    with pytest.raises(NotAllowed):
        world.start(filed[1], who="leilani")


def test_a_new_revision_during_the_review_is_shown_and_has_no_verdict(world, filed):
    review_id = world.start(filed[0])
    world.file(name(revision="P02"))
    (document,) = world.review(review_id).documents
    assert (document.revision, document.current_revision) == ("P01", "P02")
    world.pick_up(review_id, "leilani")
    world.hand_in(review_id, "leilani")
    world.hand_in(review_id, "saoirse", "C")
    assert _line(world, filed[0][0]).verdict == ""
    dossier = documents.read_document(world.context, world.actor("marit"), filed[0][0])
    assert {each.code: each.verdict for each in dossier.revisions} == {"P01": "C", "P02": ""}


def test_cancelling_frees_the_documents(world, filed):
    review_id = world.start(*filed)
    command = changing.CancelReview(version=world.review(review_id).version, reason="drawn anew")
    with pytest.raises(NotAllowed):
        changing.cancel_review(world.context, world.actor("leilani"), review_id, command)
    changing.cancel_review(world.context, world.actor("tomasz"), review_id, command)
    assert _line(world, filed[0][0]).standing.with_whom == ""
    assert world.review(review_id).why_cancelled == "drawn anew"
    world.start(*filed)


def _desk(world, who):
    found = desk.read_desk(world.context, world.actor(who), world.project_id)
    return {tray: [line.act for line in getattr(found, tray)] for tray in ("yours_now", "coming", "you_wait_for")}


def test_the_desk_gives_each_their_next_act(world, filed):
    review_id = world.start(*filed)
    assert _desk(world, "leilani")["yours_now"] == ["Pick up"]
    assert _desk(world, "saoirse")["coming"] == ["Look ahead"]
    assert _desk(world, "marit")["you_wait_for"] == ["Open"]
    world.pick_up(review_id, "leilani")
    assert _desk(world, "leilani")["yours_now"] == ["Hand in comments"]
    assert _desk(world, "anouk")["yours_now"] == []
    world.hand_in(review_id, "leilani")
    assert _desk(world, "saoirse")["yours_now"] == ["Hand in verdicts"]
    world.hand_in(review_id, "saoirse", "A")
    assert _desk(world, "marit")["yours_now"] == ["Send out"]
    assert _desk(world, "saoirse") == {"yours_now": [], "coming": [], "you_wait_for": []}


def test_numbers_run_without_gaps(world, filed):
    first, second = world.start(filed[0]), world.start(filed[1])
    assert [world.review(each).number for each in (first, second)] == ["RV-0001", "RV-0002"]
    assert NUMBER in {each.number for each in world.review(first).documents}
