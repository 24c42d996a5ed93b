"""Talk: whatever has a dossier is talked about there, by those who see it and may write; threads in general."""

from datetime import timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.threads.threads import Way
from nod.services.acts.answers import people_by_id
from nod.services.acts.context import acting
from nod.services.attachments import attachments
from nod.services.marks import mark_threads
from nod.services.notices import follows, unread
from nod.services.register.search import search
from nod.services.threads import talk
from nod.services.threads.said import Outside, add_reply, named_author, replies_of
from nod.services.threads.talk import Say
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from nod.store.tables import ThreadRow
from tests.services.things.toys import add_private_toy, toys_are_there
from tests.world import NUMBER, OTHER_NUMBER, name


@pytest.fixture
def document(world):
    return world.file(name())[0][0]


def say(world, kind, target, text, who="anouk"):
    return talk.say(world.context, world.actor(who), kind, target, Say(text=text))


def read(world, kind, target, who="leilani"):
    return talk.read_talk(world.context, world.actor(who), kind, target)


def mails(world):
    found = []
    world.send(found.append)
    return [(each["to_name"], each["subject"]) for each in found]


def test_what_is_said_is_there_for_everybody_who_sees_the_document(world, document):
    assert read(world, "document", document).said == []
    said = say(world, "document", document, "  Which datum is this on?\n").said
    assert [(each.text, each.author.name, each.author.way, each.said_on) for each in said] == [
        ("Which datum is this on?", "Anouk Ferreira", "person", "P01")
    ]
    world.file(name(revision="P02"))
    say(world, "document", document, "Port datum.", "leilani")
    assert [(each.text, each.said_on) for each in read(world, "document", document, "junpei").said] == [
        ("Which datum is this on?", "P01"), ("Port datum.", "P02"),
    ]  # fmt: skip
    assert world.sql("SELECT count(*) FROM thread WHERE kind = 'talk'") == [(1,)]
    assert world.kinds()[-1] == "talked"
    told = world.sql("SELECT count(*) FROM live_event WHERE topic = 'talk' AND subject_id = ?", document)
    assert told == [(2,)]


def test_readers_read_and_strangers_do_not_know_of_it(world, document):
    say(world, "document", document, "As agreed on the phone")
    assert not read(world, "document", document, "junpei").may_talk
    with pytest.raises(NotAllowed):
        say(world, "document", document, "Me too", "junpei")
    for person in ("yusuf",):
        with pytest.raises(NotFound):
            read(world, "document", document, person)
        with pytest.raises(NotFound):
            say(world, "document", document, "Let me in", person)
    assert world.sql("SELECT count(*) FROM reply") == [(1,)]


@pytest.mark.parametrize("text", ["", "  \n ", "x" * 4001])
def test_nothing_and_too_much_is_refused(world, document, text):
    with pytest.raises(RuleBroken):
        say(world, "document", document, text)
    assert world.sql("SELECT count(*) FROM thread") == [(0,)]


@pytest.mark.parametrize(("kind", "target"), [("document", "no-such"), ("thread", ""), ("folder", ""), ("web", "x")])
def test_what_is_no_thing_with_a_dossier_is_not_talked_about(world, kind, target):
    with pytest.raises(NotFound):
        read(world, kind, target)


def test_a_review_and_a_transmittal_are_talked_about_by_those_who_see_them(world, document):
    world.file(name(OTHER_NUMBER))
    review = world.closed_review(world.document(NUMBER))
    said = say(world, "review", review, "@Leilani Brandt, is the slab in this one?", "saoirse")
    assert "Leilani Brandt" in [each.name for each in said.people]
    assert ("Leilani Brandt", f"BFT: Saoirse Tanaka named you on {world.review(review).number}") in mails(world)
    assert [each.text for each in read(world, "review", review).said] == [said.said[0].text]


def test_those_who_are_named_and_those_who_have_spoken_are_told_once(world, document):
    say(world, "document", document, "First", "leilani")
    mails(world)
    say(world, "document", document, "@Leilani Brandt and @Saoirse Tanaka: look", "anouk")
    told = mails(world)
    assert sorted(told) == [
        ("Leilani Brandt", f"BFT: Anouk Ferreira named you on {NUMBER}"),
        ("Saoirse Tanaka", f"BFT: Anouk Ferreira named you on {NUMBER}"),
    ]
    world.clock.advance(timedelta(minutes=1))
    say(world, "document", document, "Done", "saoirse")
    assert {to for to, _ in mails(world)} == {"Leilani Brandt", "Anouk Ferreira"}
    bell = unread.read_bell(world.context, world.actor("leilani"), world.project_id)
    assert bell.notices[0].because == "you have answered there"
    assert bell.notices[0].link == f"/register?document={document}&tab=talk"
    assert [["document", document]] == [list(each) for each in bell.notices[0].about]


def test_followers_are_told_of_talk(world, document):
    follows.follow(world.context, world.actor("marit"), world.project_id, "document", document)
    say(world, "document", document, "Something new")
    mails(world)
    bell = unread.read_bell(world.context, world.actor("marit"), world.project_id)
    assert bell.notices[0].words.startswith("Anouk Ferreira said something about")


def test_talk_about_a_private_thing_stays_there(world):
    with toys_are_there():
        toy = add_private_toy(world, "Clockwork dredger", "leilani", "paolo")
        said = say(world, "toy", toy, "The secret spring, @Marit Osei", "paolo")
        assert {each.id for each in said.people} == {world.cast.people[each] for each in ("leilani", "paolo")}
        assert "Marit Osei" not in [to for to, _ in mails(world)]
        for person in ("marit", "rafael", "ines", "anouk"):
            with pytest.raises(NotFound):
                read(world, "toy", toy, person)
            log = trail.read_log(world.context, world.actor(person), TrailView(project_id=world.project_id))
            assert "secret spring" not in log.model_dump_json()
        log = trail.read_log(world.context, world.actor("leilani"), TrailView(project_id=world.project_id))
        assert "secret spring" in log.model_dump_json()


def test_a_mark_is_followed_found_and_led_to(world, document):
    revision = world.document(NUMBER)[1]
    (mark,) = world.ink(revision, world.draw(revision, text="Which mooring ring?"))
    pencil = world.draw(revision, text="mooring, in pencil")
    who = world.actor("anouk")
    world.clock.advance(timedelta(minutes=1))
    follows.follow(world.context, world.actor("saoirse"), world.project_id, "thread", mark.thread_id)
    with pytest.raises(NotFound):
        follows.follow(world.context, world.actor("saoirse"), world.project_id, "thread", pencil.thread_id)
    world.reply(mark, "The third", "anouk")
    mails(world)
    bell = unread.read_bell(world.context, world.actor("saoirse"), world.project_id)
    (notice,) = bell.notices
    assert (notice.link, notice.because) == (f"/marks/{mark.thread_id}", "you follow Which mooring ring?")
    place = mark_threads.find_place(world.context, who, mark.thread_id)
    assert (place.revision_id, place.mark_id, place.page) == (revision, mark.id, 0)
    with pytest.raises(NotFound):
        mark_threads.find_place(world.context, who, pencil.thread_id)
    assert [each.mark_id for each in search(world.context, who, world.project_id, "third", 9).marks] == [mark.id]
    assert search(world.context, who, world.project_id, "pencil", 9).marks == []


def test_authors_are_people_files_mails_and_guests(world, document):
    """Those from outside are named as they named themselves, and nobody here is taken for them."""
    say(world, "document", document, "Here")
    with acting(world.context, world.actor("marit")) as act:
        thread = act.session.query(ThreadRow).one()
        for way, company in ((Way.FILE, ""), (Way.MAIL, "HBC"), (Way.LINK, "HBC")):
            row = add_reply(act, thread, way.value, outside=Outside(way, "Ann Outside", act.at, company))
            if way is not Way.FILE:
                row.author_id = None
        act.session.flush()
        said = replies_of(act.session, [thread.id])[thread.id]
        authors = [each.author for each in said[1:]]
        assert [(each.name, each.company, each.way, each.taken_in_by) for each in authors] == [
            ("Ann Outside", "", "file", "Marit Osei"), ("Ann Outside", "HBC", "mail", ""),
            ("Ann Outside", "HBC", "link", ""),
        ]  # fmt: skip
        people = people_by_id(act.session, {world.cast.people["marit"]})
        assert named_author(row, people) == "Ann Outside (HBC)"


def test_a_file_without_words_is_told_of_in_words(world, document):
    say(world, "document", document, "First", "leilani")
    mails(world)
    added = attachments.add_attachment(
        world.context, world.actor("anouk"), "document", document, "Joint.txt", [b"joint"]
    )
    command = Say(text="", attachments=[added.id])
    talk.say(world.context, world.actor("anouk"), "document", document, command)
    found = []
    world.send(found.append)
    (mail,) = found
    assert "No words, but files: see them there." in mail["text"]
