import json
import threading
from datetime import timedelta

import pytest

from nod import worker
from nod.core.acts.refusals import DiskFull
from nod.services.acts import outbox
from nod.services.acts.context import acting
from nod.services.acts.work import Job, Lane, work, works
from nod.services.files.new_files import keep_blob, new_blob
from nod.services.mail.mails import send_mail
from nod.services.mail.post_room import list_mail
from nod.services.press.press import PressCrashed
from nod.services.transmittals.recipients import guest_link
from nod.standins.post_room import open_post_room
from nod.worker import handlers_with
from tests.ports import free_port
from tests.world import pdf


def _ask(world, key="k", kind="mail", **payload):
    with acting(world.context, world.actor("marit")) as act:
        act.ask(kind, key, payload)


def test_an_act_that_fails_asks_for_nothing(world):
    with pytest.raises(ZeroDivisionError), acting(world.context, world.actor("marit")) as act:
        act.ask("mail", "k", {})
        raise ZeroDivisionError
    assert not outbox.waiting(world.context, ("mail",))


def test_the_same_wish_twice_is_one(world):
    _ask(world)
    _ask(world)
    assert outbox.counts(world.context)["open"] == 1


def test_a_task_is_taken_by_one_and_comes_back_when_its_lease_runs_out(world):
    _ask(world)
    taken = outbox.take(world.context, "one", ("mail",))
    assert taken.key == "k"
    assert outbox.take(world.context, "two", ("mail",)) is None
    world.clock.advance(timedelta(seconds=world.context.settings.lease_seconds + 1))
    again = outbox.take(world.context, "two", ("mail",))
    assert (again.key, again.tries) == ("k", 2)
    outbox.finish(world.context, again)
    assert outbox.counts(world.context) == {"open": 0, "given_up": 0}


def test_trouble_is_tried_again_later_and_given_up_visibly(world):
    _ask(world)

    def fail(*_):
        raise OSError("the line is dead")

    waits = []
    for _ in range(outbox.MOST_TRIES):
        task = outbox.take(world.context, "one", ("mail",))
        assert outbox.do_one(world.context, task, {"mail": fail}) == "OSError: the line is dead"
        before = world.clock.now()
        while not outbox.waiting(world.context, ("mail",)) and world.clock.now() < before + timedelta(hours=1):
            world.clock.advance(timedelta(seconds=1))
        waits.append(world.clock.now() - before)
    assert outbox.counts(world.context) == {"open": 0, "given_up": 1}
    assert waits[:-1] == sorted(waits[:-1])
    assert world.sql("SELECT trouble FROM outbox")[0][0] == "OSError: the line is dead"


def test_mail_goes_by_smtp_and_twice_is_kept_once(world):
    port = free_port()
    context = world.with_settings(smtp_port=port)
    room = open_post_room(context.settings.mail_dir, world.clock, "127.0.0.1", port)
    payload = {
        "to_name": 'Ångström, Zoë "the Quay" <x@y.example>', "to_email": "zoe@brackwater.example",
        "subject": "Prüfung: Kaihalle",
        "text": "Bitte bis Freitag.\n.\n", "link": None, "then": None,
    }  # fmt: skip
    try:
        send_mail(Job(context, world.press, "key"), payload)
        send_mail(Job(context, world.press, "key"), payload)
        send_mail(Job(context, world.press, "other"), payload)
    finally:
        room.stop()
    mails = list_mail(context)
    assert len(mails) == 2
    assert (mails[0].to, mails[0].subject) == (["zoe@brackwater.example"], "Prüfung: Kaihalle")
    assert "Bitte bis Freitag." in mails[0].text


def test_a_header_cannot_be_smuggled_in(world):
    from nod.services.mail.mails import write_mail

    with acting(world.context, world.actor("marit")) as act:
        write_mail(act, "k", world.cast.people["anouk"], "Round one\r\nBcc: all@example.com", ["hello"])
    ((_, payload),) = world.send()
    assert payload["subject"] == "Round one Bcc: all@example.com"


class DyingPress:
    """A press whose processes die under whatever they are given."""

    def facts(self, _path):
        raise PressCrashed("facts brought its process down")


def test_a_file_is_blamed_for_crashes_only_after_several_tries(world):
    with acting(world.context, world.actor("marit")) as act:
        keep_blob(act, new_blob(world.context.blobs.put([pdf()])))
    by_kind = handlers_with(world.context, DyingPress())
    states = []
    for _ in range(3):
        task = outbox.take(world.context, "one", ("look_into",))
        outbox.do_one(world.context, task, by_kind)
        states.append(world.sql("SELECT state, fault FROM blob")[0])
        world.clock.advance(timedelta(minutes=1))
    assert states == [("waiting", ""), ("waiting", ""), ("known", "unreadable")]
    assert outbox.counts(world.context) == {"open": 0, "given_up": 0}


def test_a_worker_waits_for_room_on_the_disk_and_goes_on(world, monkeypatch):
    """The thread must outlive a full disk, or nothing would be done ever after."""
    rounds = []
    stop = threading.Event()

    def drain(*_, **__):
        rounds.append(1)
        if len(rounds) == 1:
            raise DiskFull
        stop.set()

    monkeypatch.setattr(worker, "drain", drain)
    monkeypatch.setattr(worker, "_TROUBLED_SECONDS", 0.01)
    worker._work(worker.Hands(world.context), {}, Lane.LOOK, stop)
    assert len(rounds) == 2


def test_each_kind_of_work_is_known_by_its_words_and_done_by_one_feature():
    kinds = {each.kind: each for each in works()}
    assert set(kinds) == {
        "look_into", "split", "compare", "unpack", "read_scan", "index_words", "pack", "pack_folder", "pack_list",
        "mail", "read_mail_in", "note_refused",
        "note_mailed",
        "tell_followers", "draft_transmittal", "bag", "distribute", "session_time", "session_record",
        "file_sent_in", "review_over",
    }  # fmt: skip
    assert all(each.doing for each in kinds.values())
    assert {kind for kind, each in kinds.items() if each.lane is Lane.SEND} == {
        "pack", "mail", "note_mailed", "note_refused", "tell_followers", "draft_transmittal", "distribute",
        "session_time", "review_over",
    }  # fmt: skip
    with pytest.raises(ValueError, match="mail is done by"):
        work("mail", Lane.SEND, "sending it otherwise", lambda *_: [])(lambda *_: None)


def test_what_follows_a_mail_is_asked_for_once_it_is_sent(world):
    port = free_port()
    context = world.with_settings(smtp_port=port)
    room = open_post_room(context.settings.mail_dir, world.clock, "127.0.0.1", port)
    payload = {
        "to_name": "Yusuf", "to_email": "yusuf@sparrowgate.example", "subject": "Sent", "text": "Open it: {link}",
        "link": {"path": "/t/", "of": "recipient:r1"},
        "then": {"kind": "note_mailed", "payload": {"recipient_id": "r1"}},
    }  # fmt: skip
    try:
        send_mail(Job(context, world.press, "key"), payload)
        send_mail(Job(context, world.press, "key"), payload)
    finally:
        room.stop()
    ((kept,),) = world.sql("SELECT payload FROM outbox WHERE kind = 'note_mailed'")
    assert json.loads(kept) == {
        "recipient_id": "r1", "to_email": "yusuf@sparrowgate.example", "sent_at": world.clock.now().isoformat(),
    }  # fmt: skip
    assert "/t/" + guest_link("r1").token(context) in list_mail(context)[0].text
