"""Guests of a session: by a link, in the name they typed, as far as it allows, and nowhere else (handbook §7)."""

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.links import links
from nod.services.links.links import GiveLink
from nod.services.marks import marks_view
from nod.services.marks.marks import NewMark
from nod.services.sessions import guests, records
from nod.services.sessions.guests import DrawAsGuest, ReplyAsGuest, SeenMark, StateAsGuest
from tests.services.links.visiting import enter
from tests.services.sessions.meeting import close, draw, link_to, make, seen, work
from tests.world import OTHER_NUMBER, name

PIN = NewMark(page=0, kind="pin", points=[(40, 40)], text="Anchor here")


@pytest.fixture
def pair(world):
    return [revision_id for _, revision_id in world.file(name(), name(OTHER_NUMBER, title="Foundations"))]


def _draw(world, secret, revision_id):
    return guests.draw_as_guest(world.context, secret, revision_id, DrawAsGuest(marks=[PIN])).marks[0]


def test_marks_in_their_own_name_and_are_seen_by_all(world, pair):
    id = make(world, pair[0])
    secret = enter(world, link_to(world, id, "reply", "mark"), "Otto Brenner")
    shown = guests.read_as_guest(world.context, secret)
    assert (shown.me, shown.company, [each.revision_id for each in shown.sheets]) == (
        "Otto Brenner", "guest of HBC", pair[:1]
    )  # fmt: skip
    drawn = _draw(world, secret, pair[0])
    assert drawn.mine
    (mark,) = marks_view.list_marks(world.context, world.actor("leilani"), pair[0])
    assert (mark.author.name, mark.author.company, mark.author.way) == ("Otto Brenner", "guest of HBC", "link")
    assert (mark.may_change, mark.session) == (False, "S-0001")
    (visit,) = seen(world, id).visits
    assert (visit.name, visit.guest) == ("Otto Brenner", True)
    # Another guest of the same name answers it, and takes nothing away that is not theirs.
    other = enter(world, link_to(world, id, "reply", "mark"), "Otto Brenner")
    with pytest.raises(NotAllowed):
        guests.remove_as_guest(world.context, other, mark.id, SeenMark(version=mark.version))
    (answered,) = guests.reply_as_guest(world.context, other, mark.id, ReplyAsGuest(text="Yes")).marks
    assert answered.mark.replies[0].author.company == "guest of HBC"
    with pytest.raises(RuleBroken) as refused:
        guests.remove_as_guest(world.context, secret, mark.id, SeenMark(version=answered.mark.version))
    assert refused.value.code == "mark_answered"
    state = StateAsGuest(version=answered.mark.version, state="done")
    guests.set_state_as_guest(world.context, secret, mark.id, state)
    close(world, id)
    work(world)
    with records.download_record(world.context, world.actor("marit"), id, 1).content as path:
        assert path.stat().st_size > 0


def test_takes_back_what_they_drew(world, pair):
    id = make(world, pair[0])
    secret = enter(world, link_to(world, id, "mark"), "Otto Brenner")
    drawn = _draw(world, secret, pair[0])
    guests.remove_as_guest(world.context, secret, drawn.mark.id, SeenMark(version=drawn.mark.version))
    assert guests.read_marks(world.context, secret, pair[0]).marks == []


def test_sees_this_session_while_it_is_open_and_nothing_else(world, pair):
    id = make(world, pair[0])
    world.ink(pair[0], world.draw(pair[0], text="Said outside"))
    draw(world, id, pair[0], "marit", "Ours", readers="company", group=world.actor("marit").company_id)
    draw(world, id, pair[0], "marit", "Between those who meet", readers="session", group=id)
    secret = enter(world, link_to(world, id), "Otto Brenner")
    said = [each.mark.text for each in guests.read_marks(world.context, secret, pair[0]).marks]
    assert said == ["Between those who meet"]
    with pytest.raises(NotFound):
        guests.read_marks(world.context, secret, pair[1])
    with pytest.raises(NotAllowed):
        _draw(world, secret, pair[0])
    (mark,) = guests.read_marks(world.context, secret, pair[0]).marks
    with pytest.raises(NotAllowed):
        guests.reply_as_guest(world.context, secret, mark.mark.id, ReplyAsGuest(text="May I?"))
    close(world, id)
    assert guests.read_as_guest(world.context, secret).sheets == []
    with pytest.raises(RuleBroken):
        guests.read_marks(world.context, secret, pair[0])


def test_a_link_that_is_withdrawn_is_shut_at_once(world, pair):
    id = make(world, pair[0])
    command = GiveLink(kind="session", target=id, for_kind="anyone", allows=["mark"], password="linkspan-tide-42")
    given = links.give_links(world.context, world.actor("marit"), command).links[0]
    token = given.address.rpartition("/")[2]
    with pytest.raises(RuleBroken):
        enter(world, token, "Otto Brenner")
    secret = enter(world, token, "Otto Brenner", password="linkspan-tide-42")
    _draw(world, secret, pair[0])
    links.withdraw_link(world.context, world.actor("marit"), given.id)
    with pytest.raises(NotFound):
        _draw(world, secret, pair[0])


def test_links_are_given_by_its_host_and_who_runs_the_project(world, pair):
    id = make(world, pair[0])
    for who in ("saoirse", "leilani"):
        with pytest.raises(NotFound):
            link_to(world, id, who=who)
    assert link_to(world, id, "mark", who="rafael")
