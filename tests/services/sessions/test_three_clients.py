"""Three clients in a session, whose requests and answers are lost, come twice and in any order: the same marks for all.

A client sends an act again, under its key, until it has an answer; in between others act. What is on the sheet in the
end is what was drawn, answered and set, each once, whatever became of the messages.
"""

import hashlib
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from nod.core.acts.once import Once
from nod.core.acts.refusals import DoneAlready, Stale
from nod.services.marks import mark_threads, marks_view
from nod.services.marks.mark_threads import SetMarkState, WriteReply
from nod.services.marks.marks import NewMark
from nod.services.sessions import guests, marking
from nod.services.sessions.guests import ReplyAsGuest
from nod.services.sessions.marking import DrawInSession
from tests.services.links.visiting import enter
from tests.services.sessions.meeting import close, link_to, make, person
from tests.world import name

pytestmark = pytest.mark.walk

CLIENTS = ("marit", "leilani", "anouk")
ACT = st.tuples(
    st.sampled_from(range(len(CLIENTS))),
    st.sampled_from(["draw", "answer", "agree"]),
    # How often it is sent before its answer comes, and whether it waits behind those of the others.
    st.integers(1, 3),
    st.booleans(),
)


class Client:
    """Somebody who sends their acts in their order, each until it is answered."""

    def __init__(self, world, who, session_id, sheet):
        self.world, self.who, self.session_id, self.sheet = world, who, session_id, sheet
        self.waiting = []

    def send(self, key, what, times):
        """The same act under the same key, so many times: all but the last answer are lost."""
        fingerprint = hashlib.sha256(f"{self.who} {key}".encode()).hexdigest()
        for _ in range(times):
            actor = replace(self.world.actor(self.who), once=Once(key, fingerprint))
            try:
                what(actor)
            except DoneAlready:
                continue

    def draw(self, number):
        words = f"{self.who} {number}"
        command = DrawInSession(marks=[NewMark(page=0, kind="pin", points=[(number, number)], text=words)])

        def act(actor):
            marking.draw_in_session(self.world.context, actor, self.session_id, self.sheet, command)

        return act

    def answer(self, number):
        seen = self.seen()

        def act(actor):
            if seen:
                words = WriteReply(text=f"{self.who} answers {number}")
                mark_threads.write_reply(self.world.context, actor, seen[0].id, words)

        return act

    def agree(self, number):
        seen = self.seen()

        def act(actor):
            if seen:
                # Whoever sees an older state is told, and looks again.
                command = SetMarkState(version=seen[0].version, state="agreed")
                try:
                    mark_threads.set_mark_state(self.world.context, actor, seen[0].id, command)
                except Stale:
                    assert self.seen()[0].version > seen[0].version

        return act

    def seen(self):
        listed = marks_view.list_marks(self.world.context, self.world.actor(self.who), self.sheet)
        return [each for each in listed if each.session_id == self.session_id]


def _shared(mark):
    """What is the same for all who see it."""
    return (
        mark.id, mark.version, mark.text, mark.state, tuple(each.text for each in mark.replies), mark.pin_number
    )  # fmt: skip


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(acts=st.lists(ACT, min_size=1, max_size=12), order=st.permutations(range(len(CLIENTS))))
def test_any_order_of_acts_losses_and_repeats_ends_in_the_same_marks_everywhere(world, acts, order):
    sheet = world.sql("SELECT id FROM revision")
    sheet = sheet[0][0] if sheet else world.file(name())[0][1]
    session_id = make(world, sheet, parties=[person(world, who) for who in CLIENTS[1:]])
    try:
        _go_through(world, session_id, sheet, acts, order)
    finally:
        close(world, session_id)


def _go_through(world, session_id, sheet, acts, order):
    guest = enter(world, link_to(world, session_id, "reply", "mark"), "Otto Brenner")
    clients = [Client(world, who, session_id, sheet) for who in CLIENTS]
    drawn = set()
    for number, (place, kind, times, waits) in enumerate(acts):
        client = clients[place]
        client.waiting.append((f"{session_id}{number:04d}", getattr(client, kind)(number), times))
        if kind == "draw":
            drawn.add(f"{client.who} {number}")
        if not waits:
            _send_all(client)
    for place in order:
        _send_all(clients[place])
    _check(world, clients, guest, drawn)
    if drawn:
        first = clients[0].seen()[0]
        guests.reply_as_guest(world.context, guest, first.id, ReplyAsGuest(text="And I"))
        _check(world, clients, guest, drawn)


def _send_all(client):
    for key, what, times in client.waiting:
        client.send(key, what, times)
    client.waiting = []


def _check(world, clients, guest, drawn):
    views = [sorted(map(_shared, client.seen())) for client in clients]
    found = guests.read_marks(world.context, guest, clients[0].sheet).marks
    views.append(sorted(_shared(each.mark) for each in found))
    assert all(view == views[0] for view in views)
    # Each once, and each answer once.
    texts = [text for _, _, text, *_ in views[0]]
    assert sorted(texts) == sorted(drawn)
    for _, _, _, _, replies, _ in views[0]:
        assert len(replies) == len(set(replies))
