"""Answers per company, rounds per kind, floats kept daily; each figure leads to its lines (handbook §9)."""

from datetime import date, timedelta

import pytest

from nod.services.submittals import analysis
from nod.services.submittals.outlooks import work_out_daily
from tests.services.submittals import acts as do

AUG2 = date(2027, 8, 2)


def read(world, who="marit"):
    return analysis.read_analysis(world.context, world.actor(who), world.project_id)


def on(world, days):
    world.clock.set(world.clock.now() + timedelta(days=days))


def answered(world, days, *verdicts, kind="SD", number=""):
    """Each round answered so many days after it was sent in, a Tuesday."""
    submittal = do.make(world, number=number, kind=kind)
    do.ask(world, submittal)
    for verdict in verdicts:
        do.send_in(world, submittal)
        do.give(world, submittal)
        on(world, days)
        do.answer(world, submittal, verdict)
    return submittal


def test_a_companys_answers_and_how_they_spread(world):
    for days in (1, 2, 7):
        answered(world, days, "A")
    (tra,) = read(world).answers
    assert (tra.code, tra.count, tra.least, tra.median, tra.most, tra.waiting) == ("TRA", 3, 1, 2.0, 5, 0)
    assert sorted(do.numbers(world, answered_by=tra.company_id)) == ["GME-0001", "GME-0002", "GME-0003"]


def test_what_waits_is_counted_beside(world):
    answered(world, 1, "A")
    waits = do.make(world)
    do.ask(world, waits)
    do.send_in(world, waits)
    do.give(world, waits)
    (tra,) = read(world).answers
    assert (tra.count, tra.waiting, do.numbers(world, waits_for=tra.company_id)) == (1, 1, ["GME-0002"])


def test_rounds_by_kind_lead_to_their_lines(world):
    answered(world, 1, "A", number="ONE")
    answered(world, 1, "C", "B", number="TWO")
    answered(world, 1, "C", number="OPEN")
    answered(world, 1, "A", kind="PD", number="DATA")
    product, shop = read(world).rounds
    assert (product.words, product.settled, product.mean) == ("product data", 1, 1.0)
    assert (shop.settled, shop.mean, [(each.rounds, each.count) for each in shop.rounds]) == (2, 1.5, [(1, 1), (2, 1)])
    assert do.numbers(world, kind="SD", took=2) == ["TWO"]
    assert do.numbers(world, kind="SD", took=1) == ["ONE"]


def test_floats_are_kept_daily_and_are_seen_falling(world):
    """Also of days on which nobody looked: the worker keeps them."""
    submittal = do.make(world)
    before = do.seen(world, submittal).line.float_days
    for _ in range(3):
        on(world, 1)
        work_out_daily(world.context)
    floats = do.seen(world, submittal).floats
    assert [each.days for each in floats] == [before, before - 1, before - 2, before - 3]
    assert [each.median for each in read(world).floats] == [before, before - 1, before - 2, before - 3]


def test_what_was_late_on_a_day_is_listed(world):
    late, fine = do.make(world, required_on=date(2027, 3, 30), number="LATE"), do.make(world, number="FINE")
    first = read(world).floats[-1]
    assert (first.known, first.late) == (2, 1)
    on(world, 1)
    do.change(world, late, required_on=AUG2)
    today = read(world).floats[-1]
    assert (today.late, do.numbers(world, late_on=first.on)) == (0, ["LATE"])
    assert do.numbers(world, late_on=today.on) == []
    assert do.seen(world, fine).line.number == "FINE"


def test_nothing_moves_any_more_once_it_is_there(world):
    submittal = answered(world, 1, "A")
    do.close(world, submittal)
    do.deliver(world, submittal, world.clock.now().date())
    assert do.seen(world, submittal).floats[-1].days is None
    assert read(world).floats[-1].known == 0


@pytest.mark.parametrize(("who", "known"), [("ottilie", 1), ("junpei", 0)])
def test_of_what_one_does_not_see_nothing_is_counted(world, who, known):
    do.make(world)
    assert [each.known for each in read(world, who).floats][-1:] == [known]
