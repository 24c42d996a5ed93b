"""One open line of the live channel: what it says while access, sign-ins and the line itself come and go."""

import json
from dataclasses import replace
from datetime import timedelta
from types import SimpleNamespace

import pytest

from nod.clock import steady_seconds
from nod.core.acts.refusals import NotSignedIn
from nod.services.acts import live as told
from nod.services.acts.context import acting
from nod.services.people.sign_in import DEMO_PASSWORD, Browser, SignIn, sign_in, sign_out
from nod.services.sessions import presence
from nod.services.sessions.presence import Here
from nod.web import live
from nod.web.live import Bell
from tests.services.links.visiting import enter
from tests.services.sessions.meeting import close, draw, link_to, make
from tests.world import OTHER_NUMBER, name

STILL_HERE = ": still here\n\n"


@pytest.fixture
def line(world, monkeypatch):
    monkeypatch.setattr(live, "KEEP_ALIVE_SECONDS", 0.3)
    ((email,),) = world.sql("SELECT email FROM person WHERE id = ?", world.cast.people["leilani"])
    token, _ = sign_in(world.context, SignIn(email=email, password=DEMO_PASSWORD), Browser("here"))
    bell, gone = Bell(world.context), []
    stream = live._stream(world.context, bell, live.Listener(token), None, lambda: bool(gone))
    assert "event: missed" in next(stream)
    return stream, bell, token, gone


def _tell(world, subject, folder=""):
    with acting(world.context, world.actor("marit")) as act:
        act.tell(world.project_id, "marks", subject, [world.cast.folders[folder]])


def _heard(world, bell, stream):
    """The subjects of what comes next, once the bell has it; signs of life left out."""
    while bell.last_seq < told.last_seq(world.context):
        bell.wait(bell.last_seq)
    text = next(stream)
    while text == STILL_HERE:
        text = next(stream)
    return _subjects(text)


def _subjects(text):
    return [json.loads(each.removeprefix("data: "))["subject"] for each in text.splitlines() if each.startswith("data")]


def test_what_was_told_comes_in_order_with_the_names_to_go_on_from(world, line):
    stream, *_ = line
    for subject in "abc":
        _tell(world, subject)
    text = next(stream)
    while _subjects(text) != ["a", "b", "c"]:
        text += next(stream)
    names = [each.removeprefix("id: ") for each in text.splitlines() if each.startswith("id")]
    assert [told.seq_of(world.context, each) for each in names] == sorted(told.seq_of(world.context, e) for e in names)


def test_access_that_ends_ends_with_the_next_thing_told(world, line):
    stream, bell, *_ = line
    _tell(world, "before")
    assert _heard(world, bell, stream) == ["before"]
    world.write(f"UPDATE membership SET state = 'removed' WHERE person_id = '{world.cast.people['leilani']}'")
    _tell(world, "after")
    while bell.last_seq < told.last_seq(world.context):
        bell.wait(bell.last_seq)
    assert next(stream) == STILL_HERE
    world.write("UPDATE membership SET state = 'active'")
    _tell(world, "again")
    assert _heard(world, bell, stream) == ["again"]


def test_the_line_ends_with_the_sign_in(world, line):
    stream, _, token, _ = line
    sign_out(world.context, token)
    _tell(world, "for nobody")
    assert set(stream) <= {STILL_HERE}
    with pytest.raises(NotSignedIn):
        live.Listener(token).hearing(world.context)


def test_the_line_ends_when_the_sign_in_has_run_out_where_nothing_happens(world, line):
    stream, *_ = line
    ((ends_at,),) = world.sql("SELECT ends_at FROM sign_in")
    while world.sql("SELECT 1 WHERE ? > ?", ends_at, world.clock.now().isoformat()):
        world.clock.advance(timedelta(days=1))
    assert set(stream) <= {STILL_HERE}


def test_what_changes_while_a_line_is_worked_out_makes_it_old(world, line, monkeypatch):
    """Whose eyes they are and what these see are two questions; a change between them must not be missed for good."""
    _, _, token, _ = line
    who_is = live.who_is_until

    def changed_since(*asked):
        found = who_is(*asked)
        world.write("UPDATE person SET steward = steward")
        return found

    monkeypatch.setattr(live, "who_is_until", changed_since)
    hearing, _ = live.Listener(token).hearing(world.context)
    assert hearing.epoch < told.present_epoch(world.context)


def test_a_closed_window_gives_its_place_back(world, line):
    stream, *_, gone = line
    gone.append(True)
    assert set(stream) <= {STILL_HERE}


def test_who_is_far_behind_reads_what_is_not_kept_any_more(world, monkeypatch):
    monkeypatch.setattr(live, "_MOST_KEPT", 3)
    bell = Bell(world.context)
    start = bell.last_seq
    for place in range(8):
        _tell(world, str(place))
    while bell.last_seq < told.last_seq(world.context):
        bell.wait(bell.last_seq)
    assert [each.subject_id for each in bell.news(start).events] == [str(place) for place in range(8)]
    assert [each.subject_id for each in bell.news(bell.last_seq - 2).events] == ["6", "7"]
    assert bell.news(bell.last_seq).events == ()


def _texts(bell, stream, words, most=40):
    """Reads on until something has these words."""
    for _ in range(most):
        text = next(stream)
        if words in text:
            return text
    raise AssertionError(f"{words} never came")


def test_a_guest_of_a_session_hears_of_its_ink_and_of_nothing_else(world, monkeypatch):
    monkeypatch.setattr(live, "KEEP_ALIVE_SECONDS", 0.2)
    (_, sheet), (_, other) = world.file(name(), name(OTHER_NUMBER, title="Foundations"))
    session_id = make(world, sheet)
    secret = enter(world, link_to(world, session_id), "Otto Brenner")
    bell = Bell(world.context)
    stream = live._stream(world.context, bell, live.Listener("", secret), bell.last_seq, lambda: False)
    assert "event: start" in next(stream)
    world.ink(other, world.draw(other, text="Elsewhere"))
    world.ink(sheet, world.draw(sheet, text="Outside of the session"))
    with acting(world.context, world.actor("marit")) as act:
        act.tell(world.project_id, "setup", world.project_id)
    draw(world, session_id, sheet, "marit", "In the session")
    text = _texts(bell, stream, "In the session")
    assert "Elsewhere" not in text
    assert "Outside" not in text
    assert "setup" not in text
    # Who is there is told them, too.
    relay = SimpleNamespace(say=lambda said: bell.presence.hear(said, steady_seconds()))
    here = Here(revision_id=sheet, box=(0, 0, 10, 10))
    presence.be_here(replace(world.context, knocker=relay), world.actor("marit"), session_id, here)
    assert "Marit Osei" in _texts(bell, stream, "event: here")
    # When it closes, so does their line.
    close(world, session_id)
    world.clock.set(world.clock.now() + timedelta(minutes=1))
    with pytest.raises(StopIteration):
        for _ in range(40):
            next(stream)
