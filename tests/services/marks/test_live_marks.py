"""Events about marks bring these along: whoever hears of them gets what a fetch would have shown them, and no more."""

import json
from dataclasses import replace
from datetime import timedelta

import pytest

from nod.services.acts import live
from nod.services.acts.outbox import forget_old_events
from nod.services.marks import live_marks, mark_links, mark_threads, scales
from nod.services.marks.mark_links import LinkMark
from nod.services.marks.marks_view import list_marks
from nod.store.tables import MembershipRow
from tests.world import name

OTHER = "BFT-TRA-Z1-02-D-A-0102"
PEOPLE = ("leilani", "anouk", "marit", "tomasz", "rafael")


@pytest.fixture
def sheet(world):
    ((_, revision_id),) = world.file(name())
    return revision_id


def heard(world, actor, after):
    """What goes out to somebody of all after a number."""
    told = live.hearing_of(world.context, actor).told(live.read_news(world.context, after).events)
    return [event for event in (json.loads(data) for _, data in told) if event["topic"] == "marks"]


def check_as_fetched(world, sheet, after, people=PEOPLE):
    """The events since then bring to each what the sheet shows them; returns how many marks came in all."""
    count = 0
    for who in people:
        actor = world.actor(who)
        shown = {each.id: each.model_dump(mode="json") for each in list_marks(world.context, actor, sheet)}
        for event in heard(world, actor, after):
            assert event["subject"] == sheet
            for mark in event["marks"]:
                assert mark == shown[mark["id"]]
                count += 1
            assert not set(event["gone"]) & set(shown)
    return count


def test_each_is_told_what_a_fetch_would_show_them(world, sheet):
    before = live.last_seq(world.context)
    one, two = world.draw(sheet), world.draw(sheet, kind="cloud", text="And this @Anouk de Ruiter?")
    # Pencil: to its author alone.
    assert check_as_fetched(world, sheet, before) == 2
    before = live.last_seq(world.context)
    (one, two) = world.ink(sheet, one, two)
    assert check_as_fetched(world, sheet, before) == 2 * len(PEOPLE)
    before = live.last_seq(world.context)
    world.reply(one, "Not mine")
    state = mark_threads.SetMarkState(version=two.version, state="done")
    mark_threads.set_mark_state(world.context, world.actor("anouk"), two.id, state)
    assert check_as_fetched(world, sheet, before) == 2 * len(PEOPLE)


def test_what_was_taken_away_is_told_by_its_id(world, sheet):
    (mark,) = world.ink(sheet, world.draw(sheet))
    before = live.last_seq(world.context)
    world.remove_mark(sheet, mark)
    assert [(each["marks"], each["gone"]) for each in heard(world, world.actor("anouk"), before)] == [([], [mark.id])]
    check_as_fetched(world, sheet, before)


def test_links_come_only_to_those_who_see_what_they_lead_to(world, sheet):
    document = world.sql("SELECT id FROM document")[0][0]
    (mark,) = world.ink(sheet, world.draw(sheet))
    review = world.start((document, sheet))
    for kind, target in (("review", review), ("web", "https://tides.example/")):
        before = live.last_seq(world.context)
        mark_links.link_mark(world.context, world.actor("leilani"), mark.id, LinkMark(kind=kind, target=target))
        assert check_as_fetched(world, sheet, before) == len(PEOPLE)
    ((both,),) = [each["marks"] for each in heard(world, world.actor("leilani"), before)]
    assert [(each["kind"], each["mine"]) for each in both["links"]] == [("review", True), ("web", True)]
    # Without the tool there is no review to be led to.
    with world.context.database.write() as session:
        session.get_one(MembershipRow, (world.project_id, world.actor("anouk").person_id)).tools = []
    assert check_as_fetched(world, sheet, before) == len(PEOPLE)
    ((seen,),) = [each["marks"] for each in heard(world, world.actor("anouk"), before)]
    assert [each["kind"] for each in seen["links"]] == ["web"]


def test_through_anothers_eyes_nothing_is_ones_own_and_no_pencil_is_seen(world, sheet):
    looking = replace(world.actor("leilani"), looker=world.actor("marit"))
    before = live.last_seq(world.context)
    drawn = world.draw(sheet)
    assert heard(world, looking, before) == []
    world.ink(sheet, drawn)
    (event,) = heard(world, looking, before)
    assert [(mark["mine"], mark["may_change"]) for mark in event["marks"]] == [(False, False)]


def test_only_what_has_just_happened_comes_along(world, sheet):
    """Later the sheet may be filed where somebody does not see it any more: then they ask for it."""
    (mark,) = world.ink(sheet, world.draw(sheet))
    before = live.last_seq(world.context)
    world.reply(mark, "Seen")
    assert "marks" in heard(world, world.actor("anouk"), before)[0]
    world.clock.advance(timedelta(seconds=live.LOAD_SECONDS + 1))
    assert "marks" not in heard(world, world.actor("anouk"), before)[0]
    world.clock.advance(timedelta(minutes=2))
    forget_old_events(world.context)
    assert world.sql("SELECT count(*) FROM live_event WHERE load IS NOT NULL") == [(0,)]
    assert [each["topic"] for each in heard(world, world.actor("anouk"), before)] == ["marks"]


def test_large_events_are_left_to_be_fetched(world, sheet, monkeypatch):
    for limit, value in (("MOST_CHARACTERS", 200), ("MOST_MARKS", 0)):
        monkeypatch.setattr(live_marks, limit, value)
        before = live.last_seq(world.context)
        world.draw(sheet, text="long " * 30)
        (event,) = heard(world, world.actor("leilani"), before)
        assert "marks" not in event


def test_a_new_scale_leaves_all_marks_to_be_fetched(world, sheet):
    world.ink(sheet, world.draw(sheet))
    before = live.last_seq(world.context)
    scale = scales.SetScale(page=0, ratio="1:100", distance="", points=[], aim_pt=0, box=None)
    scales.set_scale(world.context, world.actor("leilani"), sheet, scale)
    (event,) = heard(world, world.actor("anouk"), before)
    assert "marks" not in event
    assert event["topic"] == "marks"
