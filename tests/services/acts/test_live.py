"""Who hears of what: worked out once for each who listens, and anew as soon as access has changed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.access.audiences import Eyes, for_folders, only_for
from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.services.acts import bell, live
from nod.services.acts.context import acting
from nod.services.acts.live import Event, Hearing
from nod.services.people.sign_in import DEMO_PASSWORD, Browser, SignIn, sign_in, who_is
from tests.ports import free_port
from tests.world import name

_FOLDERS = st.frozensets(st.sampled_from("abcd"), max_size=4)


@given(seen=st.none() | _FOLDERS, of=_FOLDERS, elsewhere=st.booleans())
def test_an_event_is_for_those_who_see_all_it_speaks_of(seen, of, elsewhere):
    event = Event(1, "k", "marks", "r", "other" if elsewhere else "here", "by", for_folders(*of))
    heard = Hearing({"here": Eyes("me", "HBC", seen)}, 1).knows(event)
    assert heard == (not elsewhere and (seen is None or of <= seen))


def test_through_anothers_eyes_nothing_private_is_heard():
    event = Event(1, "k", "marks", "r", "p", "by", only_for("me"))
    assert Hearing({"p": Eyes("me")}, 1).knows(event)
    assert not Hearing({"p": Eyes("you", folders=None, leads=True)}, 1).knows(event)
    assert not Hearing({"p": Eyes("me", borrowed=True)}, 1).knows(event)


def test_of_ones_own_place_one_hears_even_when_one_has_none_any_more():
    event = Event(1, "k", live.PLACE, "me", "p", "by", only_for("me"))
    gone = Hearing({}, 1, "me")
    assert gone.told([event]) == [("k", event.data)]
    assert not Hearing({"p": Eyes("you", folders=None, leads=True)}, 1, "you").knows(event)
    assert not Hearing({"p": Eyes("me", borrowed=True)}, 1).knows(event)
    # Nothing else of a project that one is not in.
    assert not gone.knows(Event(2, "l", "people", "me", "p", "by", only_for("me")))


CHANGES = {
    "a grant": "INSERT INTO access_grant (folder_id, to_kind, to_id, alone, project_id, level) "
    "SELECT id, 'person', 'nobody', 0, project_id, 1 FROM folder LIMIT 1",
    "another level": "UPDATE access_grant SET level = level + 1 WHERE rowid = (SELECT min(rowid) FROM access_grant)",
    "a grant taken away": "DELETE FROM access_grant WHERE rowid = (SELECT min(rowid) FROM access_grant)",
    "a folder moved": "UPDATE folder SET parent_id = (SELECT id FROM folder WHERE parent_id IS NULL) "
    "WHERE parent_id IS NOT NULL",
    "a member's roles": "UPDATE membership SET roles = '[]'",
    "a member removed": "UPDATE membership SET state = 'removed'",
    "another company": "UPDATE person SET company_id = company_id",
    "no steward any more": "UPDATE person SET steward = 0",
    "another name": "UPDATE person SET name = name",
    "a company renamed": "UPDATE company SET name = name",
    "the set-up": "UPDATE project SET rules = rules",
    "tools": "UPDATE membership SET tools = NULL",
    "nobody any more": "UPDATE person SET state = 'ended'",
    "other eyes": "UPDATE sign_in SET sees_as = 'x'",
    "a sign-in ended": "DELETE FROM sign_in",
}


@pytest.mark.parametrize("change", CHANGES)
def test_the_epoch_grows_with_every_change_of_who_may_see_what(world, change):
    _sign_in(world)
    with world.context.database.read() as session:
        before = live.epoch_of(session)
    world.write(CHANGES[change])
    with world.context.database.read() as session:
        assert live.epoch_of(session) > before


def test_the_epoch_stays_for_what_changes_no_access(world):
    token = _sign_in(world)
    with world.context.database.read() as session:
        before = live.epoch_of(session)
    world.file(name())
    who_is(world.context, token)
    with world.context.database.read() as session:
        assert live.epoch_of(session) == before


def _sign_in(world):
    ((email,),) = world.sql("SELECT email FROM person WHERE id = ?", world.cast.people["leilani"])
    command = SignIn(email=email, password=DEMO_PASSWORD)
    return sign_in(world.context, command, Browser("127.0.0.1"))[0]


def test_what_was_worked_out_is_what_a_seat_says(world):
    for person in world.cast.people:
        actor = world.actor(person)
        hearing = live.hearing_of(world.context, actor)
        try:
            with acting(world.context, actor) as act:
                seat = act.enter(world.project_id)
        except NotFound:
            assert world.project_id not in hearing.eyes
            continue
        seen = hearing.eyes[world.project_id].folders
        assert (seen is None) == seat.runs
        for folder in world.cast.folders.values():
            assert (seen is None or folder in seen) == (seat.at(folder) > Level.NONE)


def test_a_knock_is_heard_and_one_without_a_door_harms_nobody(world):
    port = free_port()
    door = bell.Door(port)
    assert door.open
    assert not door.wait(0.01)
    knock = bell.Knocker(port)
    for _ in range(3):
        knock()
    assert door.wait(5)
    assert not door.wait(0.01)
    second = bell.Door(port)
    assert not second.open
    assert not second.wait(0.01)
    door.close()
    knock()
    bell.Knocker(0)()


def test_only_a_commit_that_told_something_knocks(world):
    knocks = []
    world.context.database.on_told = lambda: knocks.append(world.sql("SELECT count(*) FROM live_event")[0][0])
    before = world.sql("SELECT count(*) FROM live_event")[0][0]
    with acting(world.context, world.actor("marit")) as act:
        act.ask("mail", "nothing to tell", {})
    assert knocks == []
    with pytest.raises(ZeroDivisionError), acting(world.context, world.actor("marit")) as act:
        act.tell(world.project_id, "marks", "r")
        raise ZeroDivisionError
    assert knocks == []
    with acting(world.context, world.actor("marit")) as act:
        act.tell(world.project_id, "marks", "r")
    assert knocks == [before + 1]


def test_news_come_in_parts_that_leave_nothing_out(world, monkeypatch):
    start = live.last_seq(world.context)
    for place in range(7):
        with acting(world.context, world.actor("marit")) as act:
            act.tell(world.project_id, "marks", str(place), [world.cast.folders[""]])
    monkeypatch.setattr(live, "MOST_AT_ONCE", 3)
    after, subjects = start, []
    while (news := live.read_news(world.context, after)).events:
        subjects += [each.subject_id for each in news.events]
        assert all(each.audience == for_folders(world.cast.folders[""]) for each in news.events)
        after = news.until
    assert subjects == [str(place) for place in range(7)]
    assert (news.until, after) == (after, live.last_seq(world.context))


def test_what_is_said_in_passing_is_heard_from_nod_alone():
    port = free_port()
    door = bell.Door(port, b"ours")
    bell.Knocker(port, b"theirs").say({"who": "somebody else on this machine"})
    bell.Knocker(port, b"ours").say({"who": "Nod"})
    bell.Knocker(port, b"ours")()
    while not door.wait(1):
        pass
    assert door.take_said() == [{"who": "Nod"}]
    assert door.take_said() == []
    door.close()
