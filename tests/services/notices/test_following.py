"""Following: who is told of what, once an act, and what the bell shows."""

import json
from datetime import timedelta

import pytest
from sqlalchemy import Engine, event

from nod.core.access.levels import Grantee, Level, To
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts import live, projects
from nod.services.acts.context import acting
from nod.services.acts.work import Job
from nod.services.intake import intake
from nod.services.notices import followers, follows, unread
from nod.services.notices.unread import LookedAt
from nod.services.people import account
from nod.services.register import drawing_sets, withdrawals
from nod.services.register.withdrawals import Withdraw
from tests.services.things.test_toy_kind import borrowed
from tests.services.things.toys import add_private_toy, toys_are_there
from tests.world import NUMBER, OTHER_NUMBER, made_once, name, pdf


@made_once
def filed(world):
    found = world.file(name(), name(number=OTHER_NUMBER))
    world.send()
    return found


def follow(world, who, kind, target):
    return follows.follow(world.context, world.actor(who), world.project_id, kind, target)


def told(world, who):
    return [
        (each.words, each.because)
        for each in unread.read_bell(world.context, world.actor(who), world.project_id).notices
    ]


def mailed(world):
    return [(payload["to_email"].split("@")[0], payload) for key, payload in world.send() if key.startswith("mail:")]


def withdraw(world, document_id, who="marit"):
    ((version,),) = world.sql("SELECT version FROM document WHERE id = ?", document_id)
    command = Withdraw(version=version, reason="Replaced")
    withdrawals.withdraw(world.context, world.actor(who), document_id, command)


def test_a_document_its_folder_and_every_mark(world, filed):
    (document, revision), _ = filed
    follow(world, "anouk", "document", document)
    follow(world, "paolo", "folder", world.cast.folders[""])
    follow(world, "junpei", "marks", world.project_id)
    world.ink(revision, world.draw(revision, "leilani"))
    assert mailed(world) == []
    assert told(world, "anouk") == [(f"Leilani Brandt inked a mark: pin on {NUMBER} P01", f"you follow {NUMBER}")]
    assert [because for _, because in told(world, "paolo")] == ["you follow everything in this project"]
    assert [because for _, because in told(world, "junpei")] == ["you follow every mark in this project"]
    assert told(world, "leilani") == told(world, "marit") == []
    world.clock.advance(timedelta(minutes=1))
    withdraw(world, document)
    world.send()
    assert told(world, "anouk")[0][0] == f"Marit Osei withdrew a document: {NUMBER}"
    assert len(told(world, "paolo")) == 2
    assert len(told(world, "junpei")) == 1


def test_one_act_is_one_notice_however_many_reasons(world, filed):
    (document, revision), _ = filed
    for kind, target in (("document", document), ("folder", world.cast.folders[""]), ("marks", world.project_id)):
        follow(world, "anouk", kind, target)
    world.ink(revision, *[world.draw(revision, "leilani", text="@Anouk Ferreira look") for _ in range(3)])
    notices = told(world, "anouk")
    assert len(notices) == 1
    assert notices[0][1] == "you are named in it"
    world.send()
    world.clock.advance(timedelta(minutes=1))
    world.ink(revision, *[world.draw(revision, "leilani") for _ in range(30)])
    world.send()
    notices = told(world, "anouk")
    assert len(notices) == 2
    assert notices[0][0].endswith("and 29 more")
    assert notices[0][1] == f"you follow {NUMBER}"


def test_many_things_are_asked_as_quickly_as_few(world, filed):
    (document, revision), _ = filed
    asked = []
    for who in ("anouk", "paolo"):
        follow(world, who, "document", document)

    def note(connection, _cursor, statement, *_):
        if str(world.context.settings.data_dir) in str(connection.engine.url):
            asked.append(statement)

    def statements_for(marks):
        world.ink(revision, *[world.draw(revision, "leilani") for _ in range(marks)])
        (task,) = world.sql("SELECT key, payload FROM outbox WHERE kind = 'tell_followers' ORDER BY rowid DESC LIMIT 1")
        payload = json.loads(task[1])
        job = Job(world.context, world.press, task[0])
        asked.clear()
        followers.tell_followers(job, payload)
        world.send()
        return len(asked)

    event.listen(Engine, "before_cursor_execute", note)
    try:
        few, many = statements_for(2), statements_for(40)
    finally:
        event.remove(Engine, "before_cursor_execute", note)
    assert few == many


def test_filing_a_batch_tells_those_who_follow_the_folder_once(world):
    follow(world, "anouk", "folder", world.cast.folders[""])
    world.file(name(), name(number=OTHER_NUMBER))
    world.send()
    ((words, _),) = told(world, "anouk")
    assert words.startswith("Marit Osei filed a revision: ")
    assert words.endswith("and 1 more")
    world.send()
    assert len(told(world, "anouk")) == 1


def test_of_an_act_one_is_told_as_much_as_one_sees(world, filed):
    """Half of what is filed goes into a folder that Leilani does not see."""
    (document, _), _ = filed
    hidden = intake.OpenBatch(project_id=world.project_id, folder_id=world.cast.folders["Temporary works"])
    batch = intake.open_batch(world.context, world.actor("marit"), hidden)
    secret = "BFT-HBC-Z1-01-D-S-0900"
    intake.add_file(world.context, world.actor("marit"), batch.id, name(secret), [pdf(secret)])
    world.look()
    world.register(batch.id)
    world.send()
    follow(world, "leilani", "folder", world.cast.folders[""])
    follow(world, "rafael", "folder", world.cast.folders[""])
    before = len(told(world, "rafael"))
    world.written_by_hand = True
    with acting(world.context, world.actor("marit")) as act:
        for number, document_id in ((secret, world.document(secret)[0]), (NUMBER, document)):
            fact = Fact(FactKind.DOCUMENT_WITHDRAWN, Subject("document", document_id), number)
            act.record(world.project_id, fact)
    world.send()
    assert [words for words, _ in told(world, "leilani")] == [f"Marit Osei withdrew a document: {NUMBER}"]
    assert len(told(world, "rafael")) == before + 1
    assert f"Marit Osei withdrew a document: {secret} and 1 more" in [words for words, _ in told(world, "rafael")]


def test_as_it_is_set_by_mail_at_once_with_why_and_how_to_be_told_less(world, filed):
    (document, _), _ = filed
    ((email,),) = world.sql("SELECT email FROM person WHERE id = ?", world.cast.people["anouk"])
    set_to = account.SetNotices(hows={"followed": "now"}, summary_hour=7, time_zone="")
    signed_in = _signed_in(world, email)
    account.set_notices(world.context, signed_in, set_to)
    follow(world, "anouk", "document", document)
    withdraw(world, document)
    ((who, payload),) = mailed(world)
    assert who == "anouk"
    assert f"You are told because you follow {NUMBER}." in payload["text"]
    assert "/account" in payload["text"]


def _signed_in(world, email):
    from nod.services.people.sign_in import DEMO_PASSWORD, Browser, SignIn, sign_in, who_is

    token = sign_in(world.context, SignIn(email=email, password=DEMO_PASSWORD), Browser("127.0.0.1"))[0]
    return who_is(world.context, token)


def test_nobody_is_told_of_what_they_do_not_see_any_more(world, filed):
    (document, revision), _ = filed
    follow(world, "anouk", "document", document)
    world.ink(revision, world.draw(revision, "leilani"))
    world.send()
    assert len(told(world, "anouk")) == 1
    with acting(world.context, world.actor("rafael")) as act:
        to = Grantee(To.PERSON, world.cast.people["anouk"])
        projects.give(act, world.project_id, world.cast.folders[""], to, Level.NONE)
    assert told(world, "anouk") == []
    listed = follows.list_follows(world.context, world.actor("anouk"), world.project_id)
    assert listed.follows == []
    withdraw(world, document)
    world.send()
    assert world.sql("SELECT count(*) FROM notice WHERE person_id = ?", world.cast.people["anouk"]) == [(1,)]
    with pytest.raises(NotFound):
        follow(world, "anouk", "document", document)
    ended = follows.unfollow(world.context, world.actor("anouk"), world.project_id, "document", document)
    assert not ended.mine
    assert world.sql("SELECT count(*) FROM follow") == [(0,)]


def test_who_follows_is_seen_and_what_one_follows(world, filed):
    (document, _), _ = filed
    follow(world, "anouk", "document", document)
    assert follow(world, "anouk", "document", document).mine
    follow(world, "leilani", "document", document)
    follow(world, "anouk", "folder", world.cast.folders[""])
    shown = follows.read_following(world.context, world.actor("paolo"), world.project_id, "document", document)
    assert (shown.mine, [each.name for each in shown.followers]) == (False, ["Anouk Ferreira", "Leilani Brandt"])
    listed = follows.list_follows(world.context, world.actor("anouk"), world.project_id)
    assert [each.kind_words for each in listed.follows] == ["document", "folder"]
    assert not listed.marks
    assert world.kinds().count("follow_begun") == 3
    assert not follows.unfollow(world.context, world.actor("anouk"), world.project_id, "document", document).mine
    assert world.kinds()[-1] == "follow_ended"


@pytest.mark.parametrize("target", [("document", "nothing"), ("folder", "nothing"), ("marks", "x"), ("what", "x")])
def test_what_is_not_there_is_not_followed(world, target):
    with pytest.raises(NotFound):
        follow(world, "anouk", *target)
    assert not follows.unfollow(world.context, world.actor("anouk"), world.project_id, *target).mine


def test_looking_at_the_thing_clears_the_bell_live(world, filed):
    (document, revision), (other, _) = filed
    follow(world, "anouk", "document", document)
    world.ink(revision, world.draw(revision, "leilani"))
    after = live.last_seq(world.context)
    world.send()

    def bell():
        return unread.read_bell(world.context, world.actor("anouk"), world.project_id)

    def heard(who):
        return [each.topic for each in live.events_after(world.context, world.actor(who), after)[0]]

    assert heard("anouk") == ["notices"]
    assert heard("marit") == []
    assert bell().unread == 1
    look = LookedAt(project_id=world.project_id, kind="document", target=other)
    unread.note_looked_at(world.context, world.actor("anouk"), look)
    assert bell().unread == 1
    look = LookedAt(project_id=world.project_id, kind="document", target=document)
    unread.note_looked_at(world.context, world.actor("anouk"), look)
    assert (bell().unread, len(bell().notices)) == (0, 1)
    assert heard("anouk") == ["notices", "notices"]
    withdraw(world, document)
    world.send()
    unread.note_looked_at(world.context, world.actor("anouk"), LookedAt(project_id=world.project_id))
    assert (bell().unread, len(bell().notices)) == (0, 2)


def test_whoever_acts_on_a_thing_has_looked_at_it(world, filed):
    review_id = world.start(filed[0])
    world.send()

    def unread_of(who):
        return unread.read_bell(world.context, world.actor(who), world.project_id).unread

    assert (unread_of("leilani"), unread_of("anouk")) == (1, 1)
    world.pick_up(review_id, "leilani")
    world.hand_in(review_id, "leilani")
    world.send()
    # Anouk could have taken the step: it is not hers any more.
    assert (unread_of("leilani"), unread_of("anouk"), unread_of("saoirse")) == (0, 0, 1)


def test_through_anothers_eyes_there_is_no_bell(world, filed):
    (document, revision), _ = filed
    follow(world, "anouk", "document", document)
    world.ink(revision, world.draw(revision, "leilani"))
    world.send()
    eyes = borrowed(world, "anouk", "rafael")
    assert unread.read_bell(world.context, eyes, world.project_id).notices == []
    with pytest.raises(NotAllowed):
        unread.note_looked_at(world.context, eyes, LookedAt(project_id=world.project_id))


def test_a_private_thing_is_followed_by_those_in_it_alone(world):
    with toys_are_there():
        toy = add_private_toy(world, "Clockwork dredger", "leilani", "paolo")
        assert follow(world, "leilani", "toy", toy).mine
        for person in ("marit", "rafael", "ines"):
            with pytest.raises(NotFound):
                follow(world, person, "toy", toy)
            page = follows.list_follows(world.context, world.actor(person), world.project_id)
            assert "dredger" not in page.model_dump_json()


def test_a_drawing_set_and_what_is_in_it(world, filed):
    (document, revision), (other, _) = filed
    marit = (world.context, world.actor("marit"))
    made = drawing_sets.make_set(*marit, drawing_sets.MakeSet(project_id=world.project_id, name="Stage 3"))
    world.send()
    followed = follow(world, "anouk", "drawing_set", made.id)
    assert followed.mine
    (listed,) = follows.list_follows(world.context, world.actor("anouk"), world.project_id).follows
    assert (listed.words, listed.kind_words, listed.address) == (
        "Stage 3", "drawing set", f"/register/sets?set={made.id}"
    )  # fmt: skip
    follow(world, "junpei", "document", document)
    world.clock.advance(timedelta(minutes=1))
    command = drawing_sets.SetSheets(version=1, documents=[document])
    drawing_sets.set_sheets(*marit, made.id, command)
    world.send()
    assert told(world, "anouk") == [
        ("Marit Osei put the sheets of a drawing set: Stage 3", "you follow the drawing set Stage 3")
    ]
    assert told(world, "junpei") == []
    world.clock.advance(timedelta(minutes=1))
    world.ink(revision, world.draw(revision, "leilani"))
    withdraw(world, other)
    world.send()
    assert told(world, "anouk")[0][1] == "you follow the drawing set Stage 3"
    assert len(told(world, "anouk")) == 2
    with pytest.raises(NotFound):
        follow(world, "yusuf", "drawing_set", made.id)
