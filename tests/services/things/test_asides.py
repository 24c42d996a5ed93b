"""Tables under names of their own, first asked for by several threads at once."""

import sys
import threading

import pytest
from sqlalchemy import select

from nod.core.access.audiences import Eyes
from nod.services.letters.kind import LETTER
from nod.services.things.audiences import seen
from nod.store.asides import asides
from nod.store.tables import LetterRow


@pytest.fixture
def often():
    """Threads take turns as often as they can."""
    before = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    yield
    sys.setswitchinterval(before)


def test_the_first_two_who_ask_at_once_both_get_the_condition(often):
    eyes, told = Eyes("ana", "HBC", frozenset("a")), []

    def ask(start):
        start.wait()
        try:
            told.append(str(select(LetterRow.id).where(seen(LETTER.audience, LetterRow.id, eyes))))
        except Exception as error:  # noqa: BLE001 - whatever it is, it is told
            told.append(repr(error))

    for _ in range(20):
        asides.cache_clear()
        start = threading.Barrier(6)
        threads = [threading.Thread(target=ask, args=(start,)) for _ in range(6)]
        for each in threads:
            each.start()
        for each in threads:
            each.join()
    assert len(told) == 120
    assert set(told) == {str(select(LetterRow.id).where(seen(LETTER.audience, LetterRow.id, eyes)))}
