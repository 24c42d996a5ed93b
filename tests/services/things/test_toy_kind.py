"""A kind that one entry registers is linked, found, logged, told, noticed and refused like all others."""

from dataclasses import replace

import pytest

from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts import live
from nod.services.acts.context import acting
from nod.services.links import guest_talk, links
from nod.services.links.rooms import LinkRoom, forget_room, link_room
from nod.services.mail.mails import About, write_mail
from nod.services.mail_in import held_mail
from nod.services.marks import linked_things, mark_links
from nod.services.marks.mark_links import LinkMark
from nod.services.notices.notices import Notice, tell_person
from nod.services.register.search import search
from nod.services.things import kinds
from nod.services.things.things import (
    audience_of_thing,
    may_know,
    see_thing,
    tell_thing,
    who_may_know,
    who_sees,
)
from nod.services.threads import talk
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from nod.store.tables import ProjectRow
from tests.services.links.visiting import enter
from tests.services.mail_in.letters import answer_address, came_in, email_of, letter
from tests.services.mail_in.test_bounces import report
from tests.services.things.toys import TOY, add_private_toy, toys_are_there
from tests.world import name

NAME = "Clockwork dredger"
STRANGERS = ("marit", "rafael", "ines", "anouk")
"""Controller, lead, steward and another reviewer: none of them is in it."""


@pytest.fixture
def toy(world):
    with toys_are_there():
        yield add_private_toy(world, NAME, "leilani", "paolo")


def borrowed(world, eyes, looker):
    return replace(world.actor(eyes), looker=world.actor(looker).witness(), only_project=world.project_id)


def seen_by(world, actor, toy):
    with world.context.database.read() as session:
        try:
            return see_thing(session, actor, TOY, toy)[0].name
        except NotFound:
            return None


def test_it_is_there_for_those_in_it_and_refused_to_leads_and_stewards(world, toy):
    assert [seen_by(world, world.actor(each), toy) for each in ("leilani", "paolo")] == [NAME, NAME]
    assert [seen_by(world, world.actor(each), toy) for each in STRANGERS] == [None] * 4
    assert seen_by(world, borrowed(world, "leilani", "marit"), toy) is None
    with world.context.database.read() as session:
        people = who_sees(session, world.project_id, audience_of_thing(session, Subject("toy", toy)))
    assert set(people) == {world.cast.people["leilani"], world.cast.people["paolo"]}


def test_a_mark_leads_to_it_and_it_leads_back(world, toy):
    ((_, revision),) = world.file(name())
    (mark,) = world.ink(revision, world.draw(revision, "leilani", text="As agreed"), who="leilani")
    command = LinkMark(kind="toy", target=toy)
    for person in STRANGERS:
        with pytest.raises(NotFound):
            mark_links.link_mark(world.context, world.actor(person), mark.id, command)
    (link,) = mark_links.link_mark(world.context, world.actor("leilani"), mark.id, command).links
    assert (link.words, link.kind_words, link.address) == (NAME, "toy", f"/toys/{toy}")
    offered = linked_things.find_targets(world.context, world.actor("paolo"), revision, "dredg").targets
    assert [each.target for each in offered] == [toy]
    assert linked_things.find_targets(world.context, world.actor("marit"), revision, "dredg").targets == []
    back = linked_things.list_linked_marks(world.context, world.actor("paolo"), world.project_id, "toy", toy)
    assert [each.mark_id for each in back.marks] == [mark.id]
    for person in STRANGERS:
        assert world.marks(revision, person)[0].links == []
        with pytest.raises(NotFound):
            linked_things.list_linked_marks(world.context, world.actor(person), world.project_id, "toy", toy)
        assert NAME not in trail.read_log(world.context, world.actor(person), view(world)).model_dump_json()
    assert NAME in trail.read_log(world.context, world.actor("paolo"), view(world)).model_dump_json()


def view(world, **more):
    return TrailView(project_id=world.project_id, **more)


def test_it_is_found_by_those_who_see_it(world, toy):
    def found(person):
        answer = search(world.context, world.actor(person), world.project_id, "clock dredger"[6:], 8)
        return [(each.plural, [thing.words for thing in each.things]) for each in answer.others]

    assert found("leilani") == [("toys", [NAME])]
    assert [found(person) for person in STRANGERS] == [[]] * 4


def test_its_entries_are_for_those_who_see_it_and_its_kind_can_be_chosen(world, toy):
    with acting(world.context, world.actor("paolo")) as act:
        act.record(world.project_id, Fact(FactKind.DOCUMENT_CHANGED, Subject("toy", toy), NAME))
    asked = view(world, object_kind="toy")
    page = trail.read_log(world.context, world.actor("leilani"), asked)
    assert [each.about for each in page.entries] == [NAME]
    assert ("toy", "toy") in {(each.code, each.words) for each in page.object_kinds}
    for person in STRANGERS:
        assert trail.read_log(world.context, world.actor(person), asked).entries == []
        assert NAME not in trail.export_log(world.context, world.actor(person), view(world))


def test_a_change_is_told_live_to_those_who_see_it(world, toy):
    after = live.last_seq(world.context)
    with acting(world.context, world.actor("paolo")) as act:
        tell_thing(act, TOY, see_thing(act.session, act.actor, TOY, toy)[0])
    heard = {
        person: [
            (each.topic, each.subject_id) for each in live.events_after(world.context, world.actor(person), after)[0]
        ]
        for person in ("leilani", *STRANGERS)
    }
    assert heard == {"leilani": [("toys", toy)], **{each: [] for each in STRANGERS}}


def test_nobody_else_is_noticed_of_it(world, toy):
    told = ("leilani", *STRANGERS)
    with acting(world.context, world.actor("paolo")) as act:
        project = act.session.get_one(ProjectRow, world.project_id)
        for person in told:
            notice = Notice(f"toy:{person}", NAME, ["It runs."], f"/toys/{toy}", [Subject("toy", toy)])
            tell_person(act, project, "mention", world.cast.people[person], notice)
    assert world.sql("SELECT key FROM outbox WHERE key LIKE '%toy:%'") == [("mail:toy:leilani",)]


def test_who_may_know_is_asked_of_all_as_of_each(world, toy):
    """A private toy, a document of everybody, one of the contractor alone, a review of both, what is no kind."""
    (open_one, _), (hidden, _) = world.file(name(), name(number="BFT-HBC-Z1-01-D-A-0101"))
    world.write(f"UPDATE document SET folder_id = '{world.cast.folders['Temporary works']}' WHERE id = '{hidden}'")
    world.write("UPDATE membership SET state = 'invited' WHERE person_id = '" + world.cast.people["dede"] + "'")
    subjects = [Subject("toy", toy), Subject("document", open_one), Subject("document", hidden), Subject("hat", "h")]
    everybody = list(world.cast.people.values())
    seen = set()
    with world.context.database.read() as session:
        for about in (*([each] for each in subjects), subjects[:2], subjects[1:3]):
            each = {one for one in everybody if may_know(session, world.project_id, one, about)}
            assert who_may_know(session, world.project_id, everybody, about) == each
            seen.add(len(each))
    assert len(seen) > 2


def test_a_kind_has_one_entry():
    with toys_are_there():
        with pytest.raises(ValueError, match="toy"):
            kinds.thing_kind(TOY)
        assert kinds.kind_of("toy") is TOY
    assert kinds.kind_of("toy") is None


def test_a_link_to_it_is_its_givers_and_no_lead_hears_of_it(world, toy):
    room = LinkRoom("toy", ("look", "comment"), lambda seat, row: True)
    link_room(room)
    try:
        command = links.GiveLink(kind="toy", target=toy, for_kind="anyone", allows=["comment"])
        with pytest.raises(NotFound):
            links.give_links(world.context, world.actor("rafael"), command)
        (given,) = links.give_links(world.context, world.actor("leilani"), command).links
        guest = enter(world, given.address.rpartition("/")[2], "Otto Brenner")
        said = guest_talk.say(world.context, guest, guest_talk.GuestSays(text="Which spring?")).said
        assert [each.text for each in said] == ["Which spring?"]
        for person in ("marit", "rafael", "ines"):
            told = links.list_links(world.context, world.actor(person), world.project_id, own=False)
            assert told.links == []
            with pytest.raises(NotFound):
                links.withdraw_link(world.context, world.actor(person), given.id)
            assert "Otto" not in trail.read_log(world.context, world.actor(person), view(world)).model_dump_json()
        assert links.list_links(world.context, world.actor("leilani"), world.project_id, own=True).links[0].opened == 1
        links.withdraw_link(world.context, world.actor("leilani"), given.id)
        with pytest.raises(NotFound):
            guest_talk.read_talk(world.context, guest)
    finally:
        forget_room("toy")


def test_mail_about_it_is_answered_and_comes_back_without_a_lead_knowing(world, toy):
    with acting(world.context, world.actor("paolo")) as act:
        project = act.session.get_one(ProjectRow, world.project_id)
        about = About(project, Subject("toy", toy), by_hand=True)
        write_mail(act, "toy", world.cast.people["leilani"], f"The {NAME}", ["Look."], about=about)
    email = email_of(world, "leilani")
    to = answer_address(world, email, thing_kind="toy")
    raw = letter(f"Leilani <{email}>", f"The {NAME} ticks.", subject=f"Re: The {NAME}")
    assert came_in(world, raw, to)[0] == "answer"
    assert [each.text.strip() for each in talk.read_talk(world.context, world.actor("paolo"), "toy", toy).said] == [
        f"The {NAME} ticks."
    ]
    assert came_in(world, report(world, email), to, "<>")[0] == "bounce"
    for person in ("marit", "rafael", "ines"):
        boxes = [held_mail.read_mailbox(world.context, world.actor(person), world.project_id, tab) for tab in TABS]
        assert NAME not in "".join(each.model_dump_json() for each in boxes)
        assert [line for each in boxes for line in each.mails] == []
        with pytest.raises(NotFound):
            held_mail.download_mail(world.context, world.actor(person), last_answer(world))
        assert NAME not in trail.read_log(world.context, world.actor(person), view(world)).model_dump_json()
        assert search(world.context, world.actor(person), world.project_id, NAME, 9).others == []
    assert held_mail.download_mail(world.context, world.actor("leilani"), last_answer(world)).name.endswith(".eml")


TABS = ("held", "taken", "back")


def last_answer(world):
    return world.sql("SELECT id FROM mail_in WHERE state = 'answer' ORDER BY seq DESC LIMIT 1")[0][0]
