"""Who sees which threads and messages, found from either side; the list by words and its counts."""

from dataclasses import replace

import pytest
from sqlalchemy import select

from nod.services.acts.seats import take_seat
from nod.services.letters.kind import LETTER, MESSAGE, letters_with
from nod.services.things.audiences import seen
from nod.store.tables import LetterMessageRow, LetterRow
from tests.services.letters.acts import ask, begin, close, company, listed, person, reply, write


@pytest.fixture
def threads(world):
    """Of all sorts: to a person, a company, private, with somebody added later, and with somebody taken out."""
    write(world)
    write(world, to=(company(world, "paolo"),), subject="Bollards in store")
    write(world, "ottilie", to=("anouk",), private=True, subject="Bollards, between us")
    ask(world, "paolo", "ottilie")
    added = write(world, "ottilie", to=("paolo",), subject="Bollards again")
    reply(world, added, "paolo", to=[person(world, "ottilie"), person(world, "anouk")])
    taken = write(world, to=("ottilie", "anouk"), subject="Bollards no more")
    reply(world, taken, "ottilie", to=[person(world, "marit")], page="<p>Secretly of bollards.</p>")
    close(world, write(world, "anouk", to=("marit",), subject="Bollards, done"), "anouk")
    begin(world)


def test_those_that_name_somebody_are_the_same_from_either_side(world, threads):
    one_by_one = replace(LETTER.audience, named_in=None)
    with world.context.database.read() as session:
        for seat in _seats(world, session):
            sought = set(session.scalars(select(LetterRow.id).where(LETTER.seen(seat))))
            assert sought == set(session.scalars(select(LetterRow.id).where(seen(one_by_one, LetterRow.id, seat.eyes))))


def test_words_find_the_messages_that_are_there_to_see_and_no_other(world, threads):
    spoken = LetterMessageRow.text.icontains("bollards") | LetterRow.subject.icontains("bollards")
    theirs = select(LetterMessageRow.letter_id).join(LetterRow, LetterRow.id == LetterMessageRow.letter_id)
    with world.context.database.read() as session:
        for seat in _seats(world, session):
            there = theirs.where(spoken, LetterMessageRow.sent_at.is_not(None), MESSAGE.seen(seat))
            assert set(session.scalars(letters_with(seat, "bollards"))) == set(session.scalars(there))


def _seats(world, session):
    """Everybody's, and each as somebody else sees through their eyes."""
    for who in ("marit", "ottilie", "paolo", "anouk"):
        seat = take_seat(session, world.actor(who), world.project_id)
        yield seat
        yield replace(seat, eyes=replace(seat.eyes, borrowed=True))


@pytest.mark.parametrize("words", ["", "bollards"])
@pytest.mark.parametrize("who", ["marit", "ottilie", "anouk"])
def test_pages_and_counts_are_those_of_the_lines(world, threads, who, words):
    everything = listed(world, who, words=words)
    assert everything.total == len(everything.lines) > 1
    for each in everything.states:
        narrowed = listed(world, who, words=words, state=each.state)
        assert [line.id for line in narrowed.lines] == [
            line.id for line in everything.lines if line.state == each.state
        ]
        assert each.count == narrowed.total == len(narrowed.lines)
        assert narrowed.states == everything.states
    paged = [listed(world, who, words=words, start=at, limit=1).lines[0].id for at in range(everything.total)]
    assert paged == [line.id for line in everything.lines]


@pytest.mark.parametrize("words", ["–", "...", "?", "–?", "bollards –", '"', "%", "_"])
def test_words_that_are_none_show_nothing_that_is_not_there_to_see(world, words):
    write(world, "ottilie", to=("anouk",), private=True, subject='Bollards – "quietly" ... 100 % a_b –?')
    write(world, "ottilie", to=("anouk",), subject='Others – "aloud" ... 50 % c_d –?')
    private = listed(world, "ottilie", view="in").total - 1
    assert private == 1
    for who in ("marit", "paolo"):
        found = listed(world, who, words=words)
        assert not [line.subject for line in found.lines if line.private]
        assert found.total == len(found.lines) == sum(each.count for each in found.states)
    assert not listed(world, "paolo", words=words).lines
