"""Work that dies, hangs or fails is not taken for ever: it is given up where people see it, and tried again."""

import os
import threading
import time
from datetime import timedelta

import pytest

from nod import worker
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.services.acts import given_up, outbox
from nod.services.acts.heartbeats import Beats
from nod.services.acts.work import Lane, kinds_of
from nod.services.register import folder_packs
from nod.services.transmittals import transmittals, transmittals_view
from nod.worker import Hands, handlers_with
from tests.world import name, pdf


def _leave(world, kinds):
    """Takes the oldest task again and again, as processes would that die with it; the clock goes on."""
    taken = []
    for _ in range(3 * outbox.MOST_LAPSES):
        task = outbox.take(world.context, "gone:1", kinds)
        taken.append(task)
        world.clock.advance(timedelta(seconds=world.context.settings.lease_seconds + 1))
    return [each for each in taken if each]


def _marit(world):
    return given_up.list_given_up(world.context, world.actor("marit"), world.project_id)


def _arrive(world):
    from nod.services.intake import intake

    batch = intake.open_batch(world.context, world.actor("marit"), intake.OpenBatch(project_id=world.project_id))
    intake.add_file(world.context, world.actor("marit"), batch.id, name(), [pdf()])
    return batch.id


def test_a_task_that_kills_whoever_takes_it_is_given_up_and_shown_on_its_file(world):
    batch = _arrive(world)
    assert len(_leave(world, kinds_of(Lane.LOOK))) == outbox.MOST_LAPSES
    assert outbox.counts(world.context) == {"open": 0, "given_up": 1}
    (arrival,) = world.batch(batch).arrivals
    (work,) = arrival.given_up
    # The same bytes may lie in a batch that this person does not see: nothing of where else is told.
    assert (work.about, work.link) == ("", "")
    assert (work.doing, work.tries, arrival.looking) == ("reading the file", outbox.MOST_LAPSES, True)
    (line,) = _marit(world)
    assert (line.about, line.link) == (name(), f"/intake/{batch}")
    # Others than leads and controllers have no such list; who may file into the batch has it tried again.
    with pytest.raises(NotAllowed):
        given_up.list_given_up(world.context, world.actor("leilani"), world.project_id)
    for who in ("leilani", "junpei"):
        with pytest.raises(NotFound):
            given_up.try_again(world.context, world.actor(who), work.id)
    # The others of its batch do not wait for it: it is held.
    held = world.register(batch)
    given_up.try_again(world.context, world.actor("marit"), work.id)
    assert world.kinds()[-1] == "work_tried_again"
    assert [each.result for each in held] == ["held"]
    with pytest.raises(NotFound):
        given_up.try_again(world.context, world.actor("marit"), work.id)
    assert world.look() == 1
    (arrival,) = world.batch(batch).arrivals
    assert (arrival.page_count, arrival.given_up, _marit(world)) == (1, [], [])


def test_one_death_is_no_reason_to_give_up(world):
    batch = _arrive(world)
    outbox.take(world.context, "gone:1", kinds_of(Lane.LOOK))
    world.clock.advance(timedelta(seconds=world.context.settings.lease_seconds + 1))
    world.look()
    assert world.batch(batch).arrivals[0].page_count == 1


def test_what_dead_processes_had_is_free_at_once(world):
    _arrive(world)
    assert outbox.take(world.context, f"{os.getpid()}:x", kinds_of(Lane.LOOK))
    outbox.free_leases(world.context, lambda taken_by: True)
    assert outbox.take(world.context, "another", kinds_of(Lane.LOOK)) is None
    outbox.free_leases(world.context, worker._is_alive)
    assert outbox.take(world.context, "another", kinds_of(Lane.LOOK)).tries == 2


def _fail(*_):
    raise OSError("no")


def test_a_pack_and_a_transmittal_say_what_was_given_up(world):
    (_, revision), *_ = world.file(name())
    marit = world.actor("marit")
    world.send()
    asked = folder_packs.AskPack(folder_id=world.cast.folders[""], revisions="latest", names_as_came=False)
    pack = folder_packs.ask_pack(world.context, marit, asked)
    sent = transmittals.send_transmittal(
        world.context, marit,
        transmittals.SendTransmittal(
            project_id=world.project_id, revisions=[revision], people=[world.cast.people["yusuf"]], purpose="record"
        ),
    )  # fmt: skip
    broken = dict.fromkeys(handlers_with(world.context, world.press), _fail)
    for _ in range(outbox.MOST_TRIES):
        worker.drain(world.context, broken, "test", Lane.SEND, Lane.REST)
        world.clock.advance(timedelta(hours=1))
    (shown,) = folder_packs.list_packs(world.context, marit, world.project_id)
    assert shown.given_up.doing == "making the ZIP"
    (work,) = transmittals_view.read_transmittal(world.context, marit, sent.id).given_up
    assert work.doing == "packing the transmittal"
    telling = "telling those who follow"
    assert {each.doing for each in _marit(world)} == {"making the ZIP", "packing the transmittal", telling}
    for each in (shown.given_up, work):
        given_up.try_again(world.context, marit, each.id)
    # The mail to its recipient is the transmittal's, too.
    by_kind = {**handlers_with(world.context, world.press), "mail": _fail}
    for _ in range(outbox.MOST_TRIES + 1):
        worker.drain(world.context, by_kind, "test", Lane.SEND, Lane.REST)
        world.clock.advance(timedelta(hours=1))
    (work,) = transmittals_view.read_transmittal(world.context, marit, sent.id).given_up
    assert work.doing == "sending the mail"
    (line,) = [each for each in _marit(world) if each.doing != telling]
    assert line.about == f"{sent.number} to yusuf@sparrowgate.example"
    assert folder_packs.list_packs(world.context, marit, world.project_id)[0].id == pack.id


def test_any_trouble_is_survived_by_the_thread(world, monkeypatch):
    """`database is locked` ended it, and what came later was never looked into."""
    rounds, stop = [], threading.Event()

    def drain(*_, **__):
        rounds.append(1)
        if len(rounds) < 3:
            raise RuntimeError("database is locked")
        stop.set()

    monkeypatch.setattr(worker, "drain", drain)
    monkeypatch.setattr(worker, "_TROUBLED_SECONDS", 0.01)
    worker._work(Hands(world.context), {}, Lane.LOOK, stop)
    assert len(rounds) == 3


def test_a_thread_tells_that_it_lives_and_for_how_long_it_may_be_silent(world):
    hands = Hands(world.with_settings(task_patience_seconds=0.05))
    beats = Beats(world.context.settings.data_dir)
    hands.rest()
    assert hands.late() == ""
    _arrive(world)
    task = outbox.take(world.context, "x", kinds_of(Lane.LOOK))
    with hands.busy_with(task):
        time.sleep(0.1)
        thread = threading.current_thread().name
        assert hands.late() == f"{thread} {task.key}"
        assert [each.late for each in beats.read("worker")] == [True]
        hands.go_on(world.context, task.key)
        assert hands.late() == ""
    assert [each.late for each in beats.read("worker")] == [False]
    beats.forget("worker")
    assert beats.read() == []


def test_a_lease_is_kept_while_its_process_lives(world):
    hands = Hands(world.context)
    _arrive(world)
    task = outbox.take(world.context, "x", kinds_of(Lane.LOOK))
    with hands.busy_with(task):
        for _ in range(5):
            world.clock.advance(timedelta(seconds=world.context.settings.lease_seconds - 1))
            hands.keep()
            assert outbox.take(world.context, "y", kinds_of(Lane.LOOK)) is None
    world.clock.advance(timedelta(seconds=world.context.settings.lease_seconds + 1))
    assert outbox.take(world.context, "y", kinds_of(Lane.LOOK)).key == task.key
