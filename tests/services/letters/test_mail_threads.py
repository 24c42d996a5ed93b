"""Mails that name one another are one thread, whatever their subjects: kept mails of others, their shape by hand."""

from email import message_from_bytes

import pytest

from nod.services.people import newcomers
from nod.services.people.newcomers import AddPeople, PersonToAdd
from tests.outside import shared_data
from tests.services.letters.acts import listed, read
from tests.services.mail_in.letters import came_in, last_id

THREADING, LOOP = "threading/", "broken/loop/"
SHAPES = {
    # In the order in which they were written; each names the one before it, or an earlier one, as answered.
    "a tree": (
        THREADING + "ghost-root/",
        ("real-root", "child", "grand-child", "grand-child2", "great-grand-child"),
    ),
    # The second names a mistyped mail in one header, and the right one in the other.
    "a mistyped reference": (THREADING + "parent-priority/cur/", ("root", "child", "grand-child")),
    "two that answer each other": (LOOP, ("loop-12", "loop-21")),
}


def add_contact(world, email):
    person = PersonToAdd(name="", email=email, company_id=world.actor("marit").company_id, contact=True)
    command = AddPeople(project_id=world.project_id, people=[person])
    newcomers.add_people(world.context, world.actor("rafael"), command)


def come(world, folder, names):
    kept = shared_data("mail/notmuch-small")
    return [came_in(world, (kept / (folder + each)).read_bytes())[0] for each in names]


@pytest.fixture
def writers(world):
    for name in ("alice", "daniel", "mallory"):
        add_contact(world, f"{name}@example.org")
    return world


@pytest.mark.parametrize("shape", sorted(SHAPES))
def test_what_names_one_another_is_one_thread(writers, shape):
    folder, names = SHAPES[shape]
    assert come(writers, folder, names) == ["begun", *["answer"] * (len(names) - 1)]
    (line,) = listed(writers).lines
    kept = shared_data("mail/notmuch-small")
    subjects = [message_from_bytes((kept / (folder + each)).read_bytes())["Subject"] for each in names]
    assert [each.subject for each in read(writers, line.id, "rafael").messages] == subjects


def test_what_names_nothing_begins_a_thread_of_its_own(writers):
    come(writers, THREADING + "ghost-root/", ("real-root", "child"))
    come(writers, THREADING + "parent-priority/cur/", ("root", "child"))
    assert (
        sorted((line.subject, line.messages) for line in listed(writers, "rafael").lines) == [("root message", 2)] * 2
    )


def test_who_is_not_in_the_thread_that_their_mail_names_is_held(writers):
    """It answers a mail that nobody has, and names the tree among what led to it."""
    assert come(writers, THREADING + "ghost-root/", ("real-root", "child", "fake-root")) == ["begun", "answer", "held"]
    ((why,),) = writers.sql("SELECT why FROM mail_in WHERE id = ?", last_id(writers))
    assert why == "Its sender may not answer there."


def test_one_that_came_again_with_another_subject_is_held_and_begins_nothing(writers):
    add_contact(writers, "spwhitton@spwhitton.name")
    assert come(writers, "duplicate/", ("msg-3-1:2,", "msg-3-2:2,", "msg-3-3:2,"))[1:] == ["held"] * 2
    assert len(listed(writers, "rafael").lines) == 1
