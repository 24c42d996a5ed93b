"""Reminders in the project's morning, absences and who stands in."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.reviews import absences, reminding
from nod.services.reviews.absences import SetAbsence
from nod.services.reviews.reminding import RemindNow, send_reminders
from tests.services.reviews.test_route_editing import beside, make, start, step
from tests.world import made_once, name

ZONE = ZoneInfo("Europe/London")


@made_once
def running(world):
    """With Leilani since 9 March, due on Friday 12 March."""
    (filed,) = world.file(name())
    review = world.start(filed)
    world.pick_up(review, "leilani")
    world.send()
    return review


def on(world, day, hour=8):
    then = datetime(2027, 3, day, hour, 1, tzinfo=ZONE)
    world.clock.advance(then - world.clock.now())


def reminded(world):
    """Who got a mail of what kind since."""
    return sorted(
        (key.split(":")[1], payload["to_email"].split("@")[0]) for key, payload in world.send() if key != "mail"
    )


def test_in_the_morning_of_the_days_that_the_step_says_and_once(world, running):
    on(world, 10)
    assert send_reminders(world.context) == 0
    on(world, 11, hour=6)
    assert send_reminders(world.context) == 0
    on(world, 11, hour=7)
    assert send_reminders(world.context) == 1
    assert send_reminders(world.context) == 0
    assert reminded(world) == [("reminder", "leilani")]
    on(world, 12)
    assert send_reminders(world.context) == 1
    assert "due today" in world.send()[0][1]["subject"]
    for day in (13, 14, 15):
        on(world, day)
        assert send_reminders(world.context) == 0
    on(world, 16)
    assert send_reminders(world.context) == 1
    assert "2 days late" in world.send()[0][1]["subject"]
    assert world.kinds().count("step_reminded") == 3


def test_when_it_is_late_enough_the_leads_are_told_once(world, running):
    on(world, 17)
    assert send_reminders(world.context) == 1
    told = reminded(world)
    assert {"rafael", "marit", "tomasz"} <= {who for kind, who in told if kind == "late"}
    on(world, 18)
    assert send_reminders(world.context) == 1
    assert {kind for kind, _ in reminded(world)} == {"reminder"}
    on(world, 19)
    assert send_reminders(world.context) == 0


def test_who_has_handed_in_is_not_reminded(world, running):
    on(world, 11)
    world.hand_in(running, "leilani")
    assert send_reminders(world.context) == 0


def test_many_are_reminded_in_one_act_by_those_who_may(world, running):
    command = RemindNow(project_id=world.project_id, reviews=[running])
    assert reminding.remind_now(world.context, world.actor("rafael"), command).steps == 1
    assert reminded(world) == [("reminder", "leilani")]
    with pytest.raises(NotAllowed):
        reminding.remind_now(world.context, world.actor("anouk"), command)
    with pytest.raises(RuleBroken, match="nobody is asked"):
        nothing = RemindNow(project_id=world.project_id, reviews=["x" * 16])
        reminding.remind_now(world.context, world.actor("rafael"), nothing)


def away(world, who, stand_in, first, last, by=""):
    command = SetAbsence(
        project_id=world.project_id, person_id=world.cast.people[who], stand_in_id=world.cast.people[stand_in],
        first_on=date(2027, 3, first), last_on=date(2027, 3, last),
    )  # fmt: skip
    return absences.set_absence(world.context, world.actor(by or who), command).id


def test_what_is_with_who_goes_away_goes_to_who_stands_in(world, running):
    away(world, "leilani", "dede", 9, 12)
    row = world.review(running).slip[0]
    assert (row.taken_by.name, row.places[0].for_whom.name) == ("Dede Okonkwo", "Leilani Brandt")
    assert "dede" in {who for _, who in reminded(world)}
    world.hand_in(running, "dede")
    assert world.review(running).slip[0].places[0].stamp == "DO"


def test_an_absence_to_come_begins_in_its_morning_and_counts_for_steps_that_begin(world, running):
    away(world, "leilani", "dede", 11, 12, by="rafael")
    away(world, "saoirse", "anouk", 11, 20)
    assert world.review(running).slip[0].taken_by.name == "Leilani Brandt"
    on(world, 11)
    send_reminders(world.context)
    assert world.review(running).slip[0].taken_by.name == "Dede Okonkwo"
    world.hand_in(running, "dede")
    (place,) = world.review(running).slip[1].places
    assert (place.who.name, place.for_whom.name) == ("Anouk Ferreira", "Saoirse Tanaka")


def test_who_filed_it_does_not_stand_in_for_deciding(world, running):
    away(world, "saoirse", "marit", 9, 20)
    world.hand_in(running, "leilani")
    (place,) = world.review(running).slip[1].places
    assert (place.who.name, place.for_whom) == ("Saoirse Tanaka", None)


def test_once_it_is_taken_away_it_counts_no_more(world, running):
    absence = away(world, "saoirse", "anouk", 9, 20)
    listed = absences.list_absences(world.context, world.actor("saoirse"), world.project_id).absences
    assert [(each.who.name, each.stand_in.name, each.may_remove) for each in listed] == [
        ("Saoirse Tanaka", "Anouk Ferreira", True)
    ]
    with pytest.raises(NotAllowed):
        absences.remove_absence(world.context, world.actor("leilani"), absence)
    absences.remove_absence(world.context, world.actor("saoirse"), absence)
    world.hand_in(running, "leilani")
    assert world.review(running).slip[1].places[0].who.name == "Saoirse Tanaka"
    with pytest.raises(NotFound):
        absences.remove_absence(world.context, world.actor("saoirse"), absence)


@pytest.mark.parametrize(
    ("given", "code"),
    [
        (("leilani", "leilani", 9, 12), "stands_in_for_self"),
        (("leilani", "dede", 12, 10), "absence_over"),
        (("leilani", "dede", 1, 8), "absence_over"),
        (("leilani", "dede", 12, 20), "absence_twice"),
    ],
)
def test_days_and_people_that_cannot_be_are_refused(world, given, code):
    away(world, "leilani", "anouk", 20, 21)
    with pytest.raises(RuleBroken) as refused:
        away(world, *given)
    assert refused.value.code == code
    with pytest.raises(NotAllowed):
        away(world, "leilani", "dede", 9, 10, by="anouk")
    with pytest.raises(NotFound):
        away(world, "leilani", "yusuf", 9, 10)


def test_what_comes_back_is_told_to_who_filed_it_and_a_step_for_nobody_to_the_leads(world):
    """Kinds of notices that nothing else here sends."""
    route = make(world, beside(step(world, "saoirse", act="decide", named="Decide"), C="back"))
    review = start(world, route, who="rafael")
    world.send()
    world.hand_in(review, "saoirse", "C", comment="Beam missing")
    mails = {key.split(":")[1]: payload for key, payload in world.send()}
    assert mails["sent_back"]["to_email"].startswith("marit")
    assert "Saoirse Tanaka: Beam missing" in mails["sent_back"]["text"]
    assert mails["review_closed"]["to_email"].startswith("rafael")
