"""Who holds what: the handbook's example, a table of cases, and random histories against a second reading."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nod.core.transmittals.holders import Cell, CellState, Places, Sending, cell_of, held_of

START = datetime(2027, 3, 1, 8, tzinfo=UTC)


def at(hours):
    return START + timedelta(hours=hours)


def test_the_handbooks_example():
    """HBC was sent C01; C02 filed for review: still in step; C02 released: behind (handbook §10)."""
    sent = held_of([Sending(1, at(0), acknowledged_at=at(2))])
    assert cell_of(sent, Places(1, [(1, "C01")])) == Cell(CellState.IN_STEP)
    # C02 is there, at place 2, and not released.
    assert cell_of(sent, Places(1, [(1, "C01")])) == Cell(CellState.IN_STEP)
    assert cell_of(sent, Places(2, [(1, "C01"), (2, "C02")])) == Cell(CellState.BEHIND, ("C02",))


DONE = {"acknowledged_at": at(5)}


@pytest.mark.parametrize(
    ("sendings", "places", "state", "behind"),
    [
        ([], Places(1, [(1, "C01")]), CellState.NEVER, ()),
        ([Sending(1, at(0))], Places(1, [(1, "C01")]), CellState.NOT_ACKNOWLEDGED, ()),
        ([Sending(1, at(0), wanted=False)], Places(1, [(1, "C01")]), CellState.IN_STEP, ()),
        # One of two of its people has acknowledged: the company has it.
        ([Sending(1, at(0)), Sending(1, at(0), **DONE)], Places(1, [(1, "C01")]), CellState.IN_STEP, ()),
        ([Sending(2, at(0))], Places(1, [(1, "C01")]), CellState.AHEAD, ()),
        ([Sending(1, at(0), **DONE)], Places(None), CellState.AHEAD, ()),
        ([Sending(1, at(0), **DONE)], Places(1, [(1, "C01")], withdrawn=True), CellState.WITHDRAWN, ()),
        # Behind by what was released in between, and not by what never was (place 2).
        (
            [Sending(1, at(0), **DONE)],
            Places(4, [(1, "C01"), (3, "C03"), (4, "C04"), (5, "C05")]),
            CellState.BEHIND,
            ("C03", "C04"),
        ),
        # An older one that is sent by mistake later is not what the company works from.
        ([Sending(2, at(0), **DONE), Sending(1, at(9))], Places(2, [(2, "C02")]), CellState.IN_STEP, ()),
    ],
)
def test_each_state(sendings, places, state, behind):
    assert cell_of(held_of(sendings), places) == Cell(state, behind)


def test_a_mistaken_later_sending_of_an_older_one_is_told_and_not_taken():
    held = held_of([Sending(2, at(0)), Sending(1, at(9)), Sending(1, at(12)), Sending(1, at(-3))])
    assert (held.place, held.older_at) == (2, at(12))
    assert held_of([Sending(1, at(-3)), Sending(2, at(0))]).older_at is None


SENDINGS = st.lists(
    st.builds(
        Sending,
        place=st.integers(0, 4),
        at=st.integers(0, 50).map(at),
        opened_at=st.none() | st.integers(0, 60).map(at),
        acknowledged_at=st.none() | st.integers(0, 60).map(at),
        wanted=st.booleans(),
    ),
    max_size=6,
)
PLACES = st.builds(
    lambda released, withdrawn: Places(
        max(released) if released else None, [(each, f"R{each}") for each in sorted(released)], withdrawn
    ),
    st.sets(st.integers(0, 4), max_size=4),
    st.booleans(),
)


@settings(max_examples=500)
@given(sendings=SENDINGS, places=PLACES)
def test_random_histories_against_a_second_reading(sendings, places):
    """Read as the handbook says it, day by day: the pile on the site's table, of which the topmost counts."""
    pile: dict[int, list[Sending]] = {}
    for each in sorted(sendings, key=lambda one: one.at):
        pile.setdefault(each.place, []).append(each)
    cell = cell_of(held_of(sendings), places)
    if not pile:
        assert cell.state is CellState.NEVER
        return
    top = sorted(pile)[-1]
    if places.withdrawn:
        assert cell.state is CellState.WITHDRAWN
    elif places.in_force is None or top > places.in_force:
        assert cell.state is CellState.AHEAD
    elif top == places.in_force:
        answered = [each for each in pile[top] if each.acknowledged_at] or all(not each.wanted for each in pile[top])
        assert cell.state is (CellState.IN_STEP if answered else CellState.NOT_ACKNOWLEDGED)
    else:
        assert cell.state is CellState.BEHIND
        assert cell.behind == tuple(f"R{each}" for each in range(top + 1, places.in_force + 1)
                                    if f"R{each}" in [code for _, code in places.released])  # fmt: skip
        assert cell.behind[-1] == f"R{places.in_force}"
    held = held_of(sendings)
    assert held.sent_at == min(each.at for each in pile[top])
    assert held.opened_at == min((each.opened_at for each in pile[top] if each.opened_at), default=None)
