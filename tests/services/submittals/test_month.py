"""A month of submittals: each day has what is to be done on it, for who sees it (handbook §9)."""

from datetime import date

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.services.submittals import month
from tests.services.submittals.acts import answer, ask, change, close, company_of, deliver, give, make, send_in, void
from tests.services.submittals.acts import seen as submittal


def read(world, asked="", who="marit", **more):
    return month.read_month(world.context, world.actor(who), world.project_id, asked, **more)


def items(shown):
    return [(each.on, item.what, item.number) for each in shown.days for item in each.items]


def test_whole_weeks_from_monday_with_the_days_that_are_worked_on(world):
    shown = read(world)
    assert (shown.month, shown.today) == ("2027-03", date(2027, 3, 9))
    assert (shown.days[0].on, shown.days[-1].on, len(shown.days)) == (date(2027, 3, 1), date(2027, 4, 4), 35)
    assert [each.on.day for each in shown.days if not each.inside] == [1, 2, 3, 4]
    assert [each.on.day for each in shown.days[:7] if not each.working] == [6, 7]
    february = read(world, "2028-02")
    assert (february.days[0].on, february.days[-1].on) == (date(2028, 1, 31), date(2028, 3, 5))
    for wrong in ("2027-13", "march", "2027-3", "0000-01", "9999-12"):
        with pytest.raises(RuleBroken, match="written like 2027-03"):
            read(world, wrong)


def test_what_is_to_be_done_on_which_day(world):
    made = make(world)
    latest = submittal(world, made).line.latest_on
    assert (latest, "send", "GME-0001") in items(read(world, f"{latest:%Y-%m}"))
    july = items(read(world, "2027-07"))
    assert july == [(date(2027, 7, 30), "site", "GME-0001")]
    ask(world, made)
    send_in(world, made)
    give(world, made)
    due = submittal(world, made).line.standing.due_on
    assert (due, "answer", "GME-0001") in items(read(world, f"{due:%Y-%m}"))
    assert (latest, "send", "GME-0001") not in items(read(world, f"{latest:%Y-%m}"))
    answer(world, made, "A")
    close(world, made)
    deliver(world, made, date(2027, 3, 8))
    assert items(read(world)) == [(date(2027, 3, 8), "delivered", "GME-0001")]
    assert items(read(world, "2027-07")) == []


def test_what_is_late_says_so_and_what_is_void_is_not_there(world):
    made = make(world, required_on=date(2027, 4, 1))
    shown = read(world, "2027-04")
    (site,) = [item for each in shown.days for item in each.items]
    assert (site.what, site.late) == ("site", True)
    change(world, made, lead=0, required_on=date(2027, 9, 30))
    assert not any(item.late for each in read(world, "2027-09").days for item in each.items)
    void(world, made)
    assert items(read(world, "2027-09")) == []


def test_for_whom_and_of_which_company(world):
    make(world)
    make(world, by="leilani")
    assert len(items(read(world, "2027-07"))) == 2
    of_gme = read(world, "2027-07", company=company_of(world, "ottilie"))
    assert [number for _, _, number in items(of_gme)] == ["GME-0001"]
    assert [number for _, _, number in items(read(world, "2027-07", who="ottilie", view="company"))] == ["GME-0001"]
    assert items(read(world, "2027-07", who="junpei")) == []
    assert {each.code for each in of_gme.companies} == {"GME", "PLS"}
