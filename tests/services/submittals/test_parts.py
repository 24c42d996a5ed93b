"""Items with their own verdicts; lots with their own days, and the least float of what has not come (handbook §9)."""

from datetime import date

import pytest

from nod.core.acts.refusals import NotFound, RuleBroken, Stale
from nod.services.submittals import answering, month, parts, sending_in
from tests.services.submittals import acts as do

JUL30, AUG31, MAR9 = date(2027, 7, 30), date(2027, 8, 31), date(2027, 3, 9)


def set_items(world, submittal, *titles):
    there = {each.title: each.id for each in do.seen(world, submittal).items}
    given = [parts.ItemGiven(id=there.get(each, ""), title=each) for each in titles]
    command = parts.SetItems(version=do.version(world, submittal), items=given)
    parts.set_items(world.context, world.actor("marit"), submittal, command)
    return {each.title: each.id for each in do.seen(world, submittal).items}


def set_lots(world, submittal, **lots):
    """By name, the day it is required."""
    there = {each.name: each.id for each in do.seen(world, submittal).lots}
    given = [parts.LotGiven(id=there.get(name, ""), name=name, required_on=on) for name, on in lots.items()]
    command = parts.SetLots(version=do.version(world, submittal), lots=given)
    parts.set_lots(world.context, world.actor("marit"), submittal, command)
    return {each.name: each.id for each in do.seen(world, submittal).lots}


def deliver(world, submittal, lot, on):
    command = sending_in.Deliver(version=do.version(world, submittal), lot_id=lot, delivered_on=on)
    sending_in.deliver(world.context, world.actor("marit"), submittal, command)


def under_review(world, submittal):
    do.ask(world, submittal)
    do.send_in(world, submittal)
    do.give(world, submittal)


def answer(world, submittal, verdict, items):
    added = [do.add(world, submittal, "saoirse", "answer.pdf")]
    command = answering.AnswerSubmittal(
        version=do.version(world, submittal), verdict=verdict, files=added, items=items
    )  # fmt: skip
    answering.answer(world.context, world.actor("saoirse"), submittal, command)


def verdicts(world, submittal):
    return {each.title: (each.verdict, each.is_open) for each in do.seen(world, submittal).items}


def test_each_item_has_its_verdict_and_the_gravest_is_the_submittals(world):
    submittal = do.make(world)
    ids = set_items(world, submittal, "Bollard", "Anchor plate")
    under_review(world, submittal)
    answer(world, submittal, "C", {ids["Bollard"]: "A", ids["Anchor plate"]: "C"})
    assert verdicts(world, submittal) == {"Bollard": ("A", False), "Anchor plate": ("C", True)}
    assert do.state(world, submittal) == "asked for"
    # The second round is about what is open; the other keeps what it has.
    do.send_in(world, submittal)
    do.give(world, submittal)
    with pytest.raises(RuleBroken, match="each of its open items"):
        answer(world, submittal, "B", {ids["Bollard"]: "B", ids["Anchor plate"]: "B"})
    answer(world, submittal, "B", {ids["Anchor plate"]: "B"})
    assert verdicts(world, submittal) == {"Bollard": ("A", False), "Anchor plate": ("B", False)}
    assert do.state(world, submittal) == "answered"
    second, first = do.seen(world, submittal).rounds
    assert [(each.title, each.verdict) for each in first.items] == [("Bollard", "A"), ("Anchor plate", "C")]
    assert [(each.title, each.verdict) for each in second.items] == [("Anchor plate", "B")]


def test_one_verdict_without_items_counts_for_all_that_are_open(world):
    submittal = do.make(world)
    set_items(world, submittal, "Bollard", "Anchor plate")
    under_review(world, submittal)
    do.answer(world, submittal, "B")
    assert verdicts(world, submittal) == {"Bollard": ("B", False), "Anchor plate": ("B", False)}


def test_a_verdict_that_is_not_the_gravest_is_refused_and_nothing_is_answered(world):
    submittal = do.make(world)
    ids = set_items(world, submittal, "Bollard", "Anchor plate")
    under_review(world, submittal)
    with pytest.raises(RuleBroken) as refused:
        answer(world, submittal, "A", {ids["Bollard"]: "A", ids["Anchor plate"]: "C"})
    assert refused.value.code == "items_unfit"
    assert verdicts(world, submittal) == {"Bollard": ("", True), "Anchor plate": ("", True)}


def test_items_are_renamed_added_and_left_out_until_they_are_answered(world):
    submittal = do.make(world)
    set_items(world, submittal, "Bollard", "Anchor plate")
    set_items(world, submittal, "Anchor plate", "Bolts")
    assert list(verdicts(world, submittal)) == ["Anchor plate", "Bolts"]
    under_review(world, submittal)
    do.answer(world, submittal, "B")
    with pytest.raises(RuleBroken) as refused:
        set_items(world, submittal, "Bolts")
    assert refused.value.code == "part_settled"
    assert len(verdicts(world, submittal)) == 2


def test_the_float_is_the_least_of_the_lots_not_delivered(world):
    submittal = do.make(world, required_on=AUG31)
    before = do.seen(world, submittal).line.float_days
    lots = set_lots(world, submittal, North=JUL30, South=None)
    shown = do.seen(world, submittal)
    north, south = shown.lots
    assert (south.float_days, shown.line.float_days) == (before, north.float_days)
    assert north.float_days < before
    assert "required 30 Jul 2027" in shown.arithmetic.latest
    assert (shown.arithmetic.lot, shown.line.rail.required_on) == ("North", JUL30)
    under_review(world, submittal)
    do.answer(world, submittal, "A")
    deliver(world, submittal, lots["North"], MAR9)
    shown = do.seen(world, submittal)
    assert (shown.line.float_days, shown.line.delivered_on) == (shown.lots[1].float_days, None)
    deliver(world, submittal, lots["South"], MAR9)
    shown = do.seen(world, submittal)
    assert (shown.line.delivered_on, shown.arithmetic.forecast) == (MAR9, "delivered 9 Mar 2027")
    deliver(world, submittal, lots["South"], None)
    assert do.seen(world, submittal).line.delivered_on is None


def test_a_lot_has_a_lead_of_its_own(world):
    submittal = do.make(world)
    given = [parts.LotGiven(name="Far", lead=8, lead_in="weeks"), parts.LotGiven(name="Near", lead=1)]
    command = parts.SetLots(version=do.version(world, submittal), lots=given)
    parts.set_lots(world.context, world.actor("marit"), submittal, command)
    far, near = do.seen(world, submittal).lots
    assert far.float_days < near.float_days
    assert "lead 8 weeks" in do.seen(world, submittal).arithmetic.latest


def test_lots_that_make_up_for_what_the_submittal_does_not_say(world):
    """Without a day of its own, its float is that of its lots."""
    submittal = do.make(world, required_on=None)
    assert do.seen(world, submittal).line.float_days is None
    set_lots(world, submittal, North=JUL30)
    line = do.seen(world, submittal).line
    assert (line.float_days is not None, line.unknown) == (True, "")


def test_a_delivery_says_which_lot(world):
    submittal = do.make(world)
    set_lots(world, submittal, North=JUL30)
    under_review(world, submittal)
    do.answer(world, submittal, "A")
    with pytest.raises(RuleBroken) as refused:
        deliver(world, submittal, "", MAR9)
    assert refused.value.code == "lot_missing"
    with pytest.raises(NotFound):
        deliver(world, submittal, "x" * 16, MAR9)


def test_what_was_delivered_stays(world):
    submittal = do.make(world)
    lots = set_lots(world, submittal, North=JUL30, South=AUG31)
    under_review(world, submittal)
    do.answer(world, submittal, "A")
    deliver(world, submittal, lots["North"], MAR9)
    with pytest.raises(RuleBroken) as refused:
        set_lots(world, submittal, South=AUG31)
    assert refused.value.code == "part_settled"
    # Taking the one away that is still to come leaves all of it delivered.
    set_lots(world, submittal, North=JUL30)
    assert do.seen(world, submittal).line.delivered_on == MAR9


def test_two_at_once_change_the_lots_once(world):
    submittal = do.make(world)
    seen = do.version(world, submittal)
    set_lots(world, submittal, North=JUL30)
    command = parts.SetLots(version=seen, lots=[])
    with pytest.raises(Stale):
        parts.set_lots(world.context, world.actor("marit"), submittal, command)


def test_of_another_submittals_part_nothing_is_changed(world):
    first, second = do.make(world), do.make(world)
    lot = set_lots(world, first, North=JUL30)["North"]
    command = parts.SetLots(version=do.version(world, second), lots=[parts.LotGiven(id=lot, name="Mine")])
    with pytest.raises(NotFound):
        parts.set_lots(world.context, world.actor("marit"), second, command)
    assert [each.name for each in do.seen(world, first).lots] == ["North"]


def test_lots_are_in_the_month_and_the_calendar_on_their_own_days(world):
    submittal = do.make(world, required_on=AUG31)
    set_lots(world, submittal, North=JUL30, South=None)

    def on(which):
        shown = month.read_month(world.context, world.actor("marit"), world.project_id, which)
        return [(day.on, item.title) for day in shown.days for item in day.items if item.what == "site"]

    assert on("2027-07") == [(JUL30, "Mooring bollards, 100 t, North")]
    assert on("2027-08") == [(JUL30, "Mooring bollards, 100 t, North"), (AUG31, "Mooring bollards, 100 t, South")]
