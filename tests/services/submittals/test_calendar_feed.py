"""The days of submittals by a secret address: read by another reader of calendars, as far as its person sees."""

from datetime import date, timedelta

import icalendar
import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.submittals import calendar_feed
from nod.services.submittals.calendar_feed import MakeFeed, WithdrawFeed
from tests.services.submittals.acts import answer, ask, change, close, deliver, give, make, send_in, void
from tests.services.submittals.test_log import several  # noqa: F401 - a fixture


def feed(world, who="marit", view=""):
    made = calendar_feed.make_feed(world.context, world.actor(who), MakeFeed(project_id=world.project_id, view=view))
    return made.address.rsplit("/", 1)[1]


def events(world, token):
    calendar = icalendar.Calendar.from_ical(calendar_feed.read_calendar(world.context, token))
    assert calendar["VERSION"] == "2.0"
    return {str(each["SUMMARY"]): each for each in calendar.walk("VEVENT")}


def days(world, token):
    return {words.split(": ", 1)[1]: each["DTSTART"].dt for words, each in events(world, token).items()}


def test_what_must_be_done_by_when_stands_on_its_day(world, several):  # noqa: F811
    bollards, fenders, _ = several
    token = feed(world)
    latest = dict(world.sql("SELECT number, latest_on FROM submittal"))
    found = days(world, token)
    assert found["required on site: GME-0001 Mooring bollards, 100 t"] == date(2027, 7, 30)
    assert found["send in by today: GME-0001 Mooring bollards, 100 t"].isoformat() == latest["GME-0001"]
    # What is long past, as the latest day of what is late, is left out after two months; what is not known is nowhere.
    assert not any("OHS-0001" in each for each in found)
    send_in(world, bollards)
    give(world, bollards)
    due = world.sql("SELECT due_on FROM submittal_round WHERE submittal_id = ?", bollards)[0][0]
    found = days(world, token)
    assert found["answer wanted today: GME-0001 Mooring bollards, 100 t"].isoformat() == due
    assert not any(each.startswith("send in by today: GME-0001") for each in found)
    answer(world, bollards, "A")
    deliver(world, bollards, date(2027, 3, 9))
    void(world, fenders)
    assert days(world, token) == {}


def test_an_event_stays_the_same_one_and_takes_nobodys_time(world, several):  # noqa: F811
    token = feed(world)
    name = "BFT: required on site: GME-0001 Mooring bollards, 100 t"
    before = events(world, token)[name]
    change(world, several[0], required_on=date(2027, 8, 6))
    after = events(world, token)[name]
    assert before["UID"] == after["UID"]
    assert (after["SEQUENCE"] > before["SEQUENCE"], after["TRANSP"]) == (True, "TRANSPARENT")
    assert after["DTEND"].dt - after["DTSTART"].dt == timedelta(days=1)
    assert after["URL"].endswith(f"/submittals/{several[0]}")
    assert {"DTSTAMP", "DESCRIPTION"} <= set(after)


def test_it_has_what_its_person_sees_and_asked_for(world, several):  # noqa: F811
    assert any("GME-0001" in each for each in days(world, feed(world, "ottilie", "company")))
    assert not any("OHS" in each or "GME-0002" in each for each in days(world, feed(world, "ottilie", "mine")))
    assert days(world, feed(world, "kwabena")) == {}
    make(world, title="Rails", required_on=date(2027, 9, 1))
    assert any("Rails" in each for each in days(world, feed(world)))


def test_it_is_withdrawn_and_another_address_ends_the_one_before(world, several):  # noqa: F811
    first = feed(world)
    second = feed(world, view="mine")
    with pytest.raises(NotFound):
        calendar_feed.read_calendar(world.context, first)
    assert calendar_feed.read_feed(world.context, world.actor("marit"), world.project_id).view == "mine"
    assert calendar_feed.read_feed(world.context, world.actor("ottilie"), world.project_id).address == ""
    calendar_feed.withdraw_feed(world.context, world.actor("marit"), WithdrawFeed(project_id=world.project_id))
    for token in (second, "", "0" * 64, "../../x"):
        with pytest.raises(NotFound):
            calendar_feed.read_calendar(world.context, token)
    with pytest.raises(RuleBroken):
        calendar_feed.withdraw_feed(world.context, world.actor("marit"), WithdrawFeed(project_id=world.project_id))


def test_who_left_the_project_reads_nothing_any_more(world, several):  # noqa: F811
    token = feed(world, "ottilie")
    assert days(world, token)
    with world.context.database.write() as session:
        session.connection().exec_driver_sql(
            "UPDATE membership SET state = 'removed' WHERE person_id = ?", (world.cast.people["ottilie"],)
        )
    world.written_by_hand = True
    with pytest.raises((NotFound, NotAllowed)):
        calendar_feed.read_calendar(world.context, token)


def test_what_is_closed_and_not_there_yet_still_has_its_day(world, several):  # noqa: F811
    ask(world, several[1])
    send_in(world, several[1])
    give(world, several[1])
    answer(world, several[1], "A")
    token = feed(world)
    assert "required on site: GME-0002 Fenders" in days(world, token)
    close(world, several[1])
    assert "required on site: GME-0002 Fenders" in days(world, token)
