"""Links: for whom, what they allow, and all that closes them; asked anew at every act."""

from datetime import date, timedelta

import pytest

from nod.core.access.levels import Grantee, Level, To
from nod.core.acts.refusals import NotAllowed, NotFound, NotSignedIn, RuleBroken, TooMany
from nod.services.acts import projects
from nod.services.acts.context import acting
from nod.services.links import guest_talk, links, visits
from nod.services.links.guest_talk import GuestSays
from nod.services.links.links import GiveLink
from nod.services.links.visits import LookAtLink
from nod.services.people import members
from nod.services.register import by_link
from nod.services.threads import talk
from nod.services.trail import trail
from tests.services.links.visiting import enter
from tests.world import NUMBER, bytes_of, name, pdf


@pytest.fixture
def document(world):
    ((document_id, _),) = world.file(name())
    return document_id


def give(world, document, who="marit", **more):
    """The tokens of the links."""
    command = GiveLink(**{"kind": "document", "target": document, "for_kind": "anyone", **more})
    given = links.give_links(world.context, world.actor(who), command).links
    return [each.address.rpartition("/")[2] for each in given]


def look(world, token, address="10.0.0.1"):
    return visits.look_at_link(world.context, LookAtLink(token=token), address)


def withdraw(world, who="marit"):
    ((link_id,),) = world.sql("SELECT id FROM link")
    links.withdraw_link(world.context, world.actor(who), link_id)


def listed(world, who="marit", own=False):
    return links.list_links(world.context, world.actor(who), world.project_id, own=own).links


def test_anyone_with_the_link_types_a_name_and_sees_the_revision_of_now(world, document):
    (token,) = give(world, document, allows=["download", "comment"])
    front = look(world, token)
    assert (front.closed, front.needs_name, front.needs_password, front.kind) == ("", True, False, "document")
    assert NUMBER not in front.model_dump_json()
    with pytest.raises(RuleBroken):
        enter(world, token)
    guest = enter(world, token, "Otto  Brenner")
    shown = by_link.read_document(world.context, guest)
    assert (shown.number, shown.revision, shown.guest) == (NUMBER, "P01", "Otto Brenner")
    world.file(name(revision="P02"), content=pdf("Second"))
    assert by_link.read_document(world.context, guest).revision == "P02"
    assert bytes_of(by_link.download_document(world.context, guest)) == pdf("Second")
    assert by_link.read_page(world.context, world.press, guest, 0).is_file()
    with pytest.raises(NotFound):
        by_link.read_page(world.context, world.press, guest, 7)
    (line,) = listed(world)
    assert (line.opened, [each.name for each in line.visits]) == (1, ["Otto Brenner"])


def test_a_guest_speaks_in_their_own_name_and_the_trail_says_by_which_link(world, document):
    (token,) = give(world, document, allows=["comment"])
    guest = enter(world, token, "Otto Brenner")
    guest_talk.say(world.context, guest, GuestSays(text="@Marit Osei, which datum?"))
    (reply,) = talk.read_talk(world.context, world.actor("leilani"), "document", document).said
    assert (reply.author.name, reply.author.company, reply.author.way) == ("Otto Brenner", "guest of HBC", "link")
    view = trail.TrailView(project_id=world.project_id, subject_id=document, kind="talked")
    (entry,) = trail.read_log(world.context, world.actor("marit"), view).entries
    ((link_id,),) = world.sql("SELECT id FROM link")
    assert (entry.who, entry.company, entry.came_from) == ("Otto Brenner", "guest of HBC", f"link {link_id}")
    # What is said by somebody of the project is there for the guest, too.
    talk.say(world.context, world.actor("marit"), "document", document, talk.Say(text="Port datum."))
    assert [each.text for each in guest_talk.read_talk(world.context, guest).said][-1] == "Port datum."


def test_it_allows_no_more_than_it_says(world, document):
    guest = enter(world, give(world, document)[0], "Otto Brenner")
    for act in (
        lambda: by_link.download_document(world.context, guest),
        lambda: guest_talk.read_talk(world.context, guest),
        lambda: guest_talk.say(world.context, guest, GuestSays(text="x")),
    ):
        with pytest.raises(NotAllowed):
            act()
    with pytest.raises(RuleBroken):
        give(world, document, allows=["acknowledge"])


def test_named_people_have_one_each_by_mail(world, document):
    people = [world.cast.people[each] for each in ("yusuf", "anouk")]
    tokens = give(world, document, for_kind="named", people=people)
    mailed = {payload["to_email"]: payload for key, payload in world.send() if key.startswith("mail:link")}
    assert len(tokens) == len(mailed) == 2
    assert all("{link}" in each["text"] and token not in each["text"] for each in mailed.values() for token in tokens)
    guest = enter(world, tokens[0])
    assert by_link.read_document(world.context, guest).guest == "Yusuf Haldane"
    view = trail.TrailView(project_id=world.project_id, subject_id=document, kind="link_opened")
    assert [each.who for each in trail.read_log(world.context, world.actor("marit"), view).entries] == ["Yusuf Haldane"]
    with pytest.raises(RuleBroken):
        give(world, document, for_kind="named")
    with pytest.raises(NotFound):
        give(world, document, for_kind="named", people=["a" * 16])


def test_anyone_signed_in_is_themselves(world, document):
    (token,) = give(world, document, for_kind="signed_in")
    with pytest.raises(NotSignedIn):
        enter(world, token)
    assert by_link.read_document(world.context, enter(world, token, signed_in="ottilie")).guest == "Ottilie Vestergaard"


CLOSING = ["withdrawn", "expired", "used up", "giver removed", "giver sees less", "thing moved"]


@pytest.mark.parametrize("why", CLOSING)
def test_what_closes_a_link_closes_it_for_who_is_inside(world, document, why):
    world.written_by_hand = True
    more = {"expired": {"ends_on": date(2027, 3, 9)}, "used up": {"most_visits": 1}}.get(why, {})
    giver = "paolo" if why in ("giver removed", "giver sees less") else "marit"
    if giver == "paolo":
        allow_all(world, "paolo", Level.FILE)
    (token,) = give(world, document, who=giver, **more)
    guest = enter(world, token, "Otto Brenner")
    by_link.read_document(world.context, guest)
    close(world, why, document)
    assert look(world, token).closed
    with pytest.raises(RuleBroken) as refused:
        enter(world, token, "Otto Brenner")
    assert refused.value.code == "link_closed"
    if why == "used up":
        by_link.read_document(world.context, guest)
        return
    for act in (
        lambda: by_link.read_document(world.context, guest),
        lambda: by_link.read_page(world.context, world.press, guest, 0),
    ):
        with pytest.raises(NotFound):
            act()


def allow_all(world, who, level):
    """Or less, by hand."""
    person = world.cast.people[who]
    world.write(f"DELETE FROM access_grant WHERE to_id = '{person}'")
    with acting(world.context, world.actor("rafael")) as act:
        projects.give(act, world.project_id, world.cast.folders[""], Grantee(To.PERSON, person), level)


def close(world, why, document):
    paolo = world.cast.people["paolo"]
    if why == "withdrawn":
        withdraw(world)
    elif why == "expired":
        world.clock.advance(timedelta(days=1))
    elif why == "giver removed":
        command = members.RemoveMember(version=1, heir_id="")
        members.remove_member(world.context, world.actor("rafael"), world.project_id, paolo, command)
    elif why == "giver sees less":
        allow_all(world, "paolo", Level.READ)
    elif why == "thing moved":
        world.write(f"UPDATE document SET id = 'gone' || substr(id, 5) WHERE id = '{document}'")


def test_a_password_is_asked_and_tried_a_few_times_only(world, document):
    with pytest.raises(RuleBroken):
        give(world, document, password="short")
    (token,) = give(world, document, password="quiet tidal estuary")
    assert look(world, token).needs_password
    for _ in range(2 * visits.MOST_PASSWORDS_PER_ADDRESS):
        enter(world, token, "Otto", "quiet tidal estuary")
    for _ in range(visits.MOST_PASSWORDS_PER_ADDRESS):
        with pytest.raises(RuleBroken) as refused:
            enter(world, token, "Otto", "wrong")
        assert refused.value.code == "wrong_link_password"
    with pytest.raises(TooMany):
        enter(world, token, "Otto", "quiet tidal estuary")
    enter(world, token, "Otto", "quiet tidal estuary", address="10.0.0.2")
    assert world.sql("SELECT count(*) FROM link WHERE password_hash LIKE '%estuary%'") == [(0,)]


def test_guessing_is_slow_and_secrets_are_kept_nowhere(world, document):
    (token,) = give(world, document)
    guest = enter(world, token, "Otto Brenner")
    for _ in range(visits.MOST_TRIES_PER_ADDRESS):
        with pytest.raises(NotFound):
            look(world, "guess", "10.0.0.9")
    with pytest.raises(TooMany):
        look(world, "guess", "10.0.0.9")
    assert look(world, token, "10.0.0.9").closed == ""
    kept = (world.context.settings.data_dir / "nod.db").read_bytes()
    assert token.encode() not in kept
    assert guest.encode() not in kept


def test_who_may_give_list_and_withdraw(world, document):
    for who in ("leilani", "junpei"):
        with pytest.raises(NotAllowed):
            give(world, document, who=who)
    with pytest.raises(NotFound):
        give(world, document, who="bronwen")
    with pytest.raises(NotFound):
        give(world, world.project_id, kind="project")
    give(world, document)
    assert [line.thing.number for line in listed(world, "tomasz")] == [NUMBER]
    assert listed(world, "tomasz", own=True) == listed(world, "leilani") == []
    with pytest.raises(NotAllowed):
        withdraw(world, "leilani")
    withdraw(world, "rafael")
    withdraw(world, "rafael")
    assert world.kinds().count("link_withdrawn") == 1
    assert listed(world)[0].closed == "This link has been withdrawn."


def test_what_is_over_is_not_given(world, document):
    with pytest.raises(RuleBroken):
        give(world, document, ends_on=date(2027, 3, 8))
