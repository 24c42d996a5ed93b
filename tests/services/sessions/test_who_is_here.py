"""Who is in a session and where they look, as the live process keeps it; and what the trail says of it to whom."""

import json
from dataclasses import replace
from datetime import timedelta
from types import SimpleNamespace

import pytest

from nod.core.access.audiences import Eyes
from nod.services.acts import live
from nod.services.notices import unread
from nod.services.sessions import guests, happened, presence
from nod.services.sessions.guests import GuestHearing, guest_eyes
from nod.services.sessions.opening import TakeSheetOut, take_sheet_out
from nod.services.sessions.presence import GONE_SECONDS, Here, Presence
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from tests.services.links.visiting import enter
from tests.services.sessions.meeting import be_here, close, draw, link_to, listed, make, person, seen
from tests.world import OTHER_NUMBER, name


@pytest.fixture
def pair(world):
    return [revision_id for _, revision_id in world.file(name(), name(OTHER_NUMBER, title="Foundations"))]


class Line:
    """The live process's ear, and the line of a listener to it."""

    def __init__(self, world):
        self.world, self.presence, self.now, self.version = world, Presence(), 0.0, 0
        self.context = replace(world.context, knocker=SimpleNamespace(say=self._hear))

    def _hear(self, said):
        self.presence.hear(json.loads(json.dumps(said)), self.now)

    def says(self, who, session_id, revision_id, **more):
        presence.be_here(self.context, self.world.actor(who), session_id, Here(revision_id=revision_id, **more))

    def hears(self, eyes):
        told, self.version = self.presence.since(self.version, {self.world.project_id: eyes})
        return json.loads(told) if told else {}


def test_those_of_a_session_hear_where_one_looks_and_a_call_until_the_next(world, pair):
    id = make(world, pair[0], parties=[person(world, "leilani")])
    line = Line(world)
    mine = Eyes(person_id=world.actor("leilani").person_id)
    line.says("marit", id, pair[0], box=(0, 0, 50, 40), calls=True)
    ((at, (marit,)),) = line.hears(mine).items()
    assert (at, marit["revision"], marit["box"], marit["left"]) == (id, pair[0], [0, 0, 50, 40], False)
    called = marit["call"]
    assert (called["revision"], called["box"]) == (pair[0], [0, 0, 50, 40])
    assert line.hears(mine) == {}, "what was told once is told again"
    # She looks elsewhere: where she called them to is still said to who comes late.
    line.says("marit", id, pair[0], box=(10, 0, 60, 40))
    late, line.version = line.version, 0
    assert line.hears(mine)[id][0]["call"] == called
    assert line.version == late + 1
    line.says("leilani", id, pair[0], leaves=True)
    assert [each["left"] for each in line.hears(mine)[id]] == [True]
    line.version = 0
    assert line.hears(Eyes(person_id=world.actor("kwabena").person_id)) == {}


def test_who_says_nothing_any_more_is_forgotten(world, pair):
    id = make(world, pair[0], parties=[person(world, "leilani")])
    line = Line(world)
    line.says("marit", id, pair[0])
    line.now = 2 * GONE_SECONDS + 1
    line.says("leilani", id, pair[0])
    (here,) = line.hears(Eyes(person_id=world.actor("leilani").person_id)).values()
    assert [each["who"] for each in here] == [world.actor("leilani").person_id]


def test_the_trail_of_a_sheet_tells_a_sessions_marks_to_who_sees_the_sheet(world, pair):
    """Anouk sees the sheet and was not invited; the session's own trail is for those who take part."""
    id = make(world, pair[0], parties=[person(world, "kwabena")])
    draw(world, id, pair[0], "kwabena", "Quinceblossom")

    def told(who):
        entries = trail.read_log(world.context, world.actor(who), TrailView(project_id=world.project_id)).entries
        return [each.kind for each in entries if "Quinceblossom" in str(each) or "S-0001" in str(each)]

    assert "session_made" in told("marit")
    assert told("anouk") == ["mark_inked", "document_checked_out"]


def test_who_was_let_in_reads_afterwards_what_is_theirs_and_counts_no_more(world, pair):
    id = make(world, pair[0], parties=[person(world, "kwabena")])
    draw(world, id, pair[0], "kwabena", "Cable here")
    draw(world, id, pair[0], "marit", "Pipe here")
    draw(world, id, pair[0], "marit", "Ours", readers="company", group=world.actor("marit").company_id)

    def read(who):
        told = happened.read_happenings(world.context, world.actor(who), id).happened
        return sorted(each.text for each in told if each.did == "marked")

    assert (read("kwabena"), read("marit")) == (["Cable here", "Pipe here"], ["Cable here", "Ours", "Pipe here"])
    assert [listed(world, who).lines[0].open_marks for who in ("kwabena", "marit")] == [2, 3]
    close(world, id)
    # The folder was never theirs: what they see of the sheet has ended with the session.
    assert read("kwabena") == ["Cable here"]
    assert listed(world, "kwabena").lines[0].open_marks == 1
    assert read("marit") == ["Cable here", "Ours", "Pipe here"]


def test_two_guests_of_one_name_are_both_told_of_at_its_close(world, pair):
    id = make(world, pair[0])
    for _ in range(2):
        secret = enter(world, link_to(world, id, "reply", "mark"), "Otto Brenner")
        guests.be_here_as_guest(world.context, secret, Here(revision_id=pair[0]))
    close(world, id)
    entries = trail.read_log(world.context, world.actor("marit"), TrailView(project_id=world.project_id)).entries
    (closed,) = [each for each in entries if each.kind == "session_closed"]
    assert str(closed).count("Otto Brenner (guest of HBC)") == 2


def test_a_guest_hears_nothing_of_a_sheet_that_was_taken_out(world, pair):
    id = make(world, *pair)
    secret = enter(world, link_to(world, id), "Otto Brenner")
    project_id, eyes, _ = guest_eyes(world.context, secret)
    hearing = GuestHearing({project_id: eyes}, "")

    def hears(revision_id, words):
        before = live.last_seq(world.context)
        draw(world, id, revision_id, "marit", words)
        return any(words in data for _, data in hearing.told(live.read_news(world.context, before).events))

    assert hears(pair[0], "Pipe here")
    before = live.last_seq(world.context)
    take_sheet_out(world.context, world.actor("marit"), id, pair[0], TakeSheetOut(version=seen(world, id).version))
    world.ink(pair[0], world.draw(pair[0], text="Said afterwards"))
    told = hearing.told(live.read_news(world.context, before).events)
    assert not any("Said afterwards" in data for _, data in told)
    assert hears(pair[1], "Cable here")


def test_coming_is_noted_once_and_leaving_later(world, pair):
    id = make(world, pair[0], parties=[person(world, "leilani")])
    be_here(world, id, pair[0], "leilani")
    came = world.clock.now()
    world.clock.advance(timedelta(minutes=5))
    be_here(world, id, pair[0], "leilani", leaves=True)
    (visit,) = seen(world, id).visits
    assert (visit.came_at, visit.seen_at) == (came, world.clock.now())


def test_who_was_let_in_is_told_of_answers_and_of_what_names_them(world, pair):
    """Kwabena does not see the sheet's folder: what he is told of leads into the session."""
    id = make(world, pair[0], parties=[person(world, "kwabena")])
    mark = draw(world, id, pair[0], "kwabena", "Cable here")
    world.reply(mark, "It goes below", "marit")
    draw(world, id, pair[0], "marit", "@Kwabena Lindqvist, and this?")
    bell = unread.read_bell(world.context, world.actor("kwabena"), world.project_id).notices
    told = {each.words.partition(" on ")[0]: each.link for each in bell}
    assert set(told) >= {"Marit Osei answered your mark", "Marit Osei named you in a mark"}
    assert all(f"session={id}" in each.link for each in bell if "mark" in each.words)
