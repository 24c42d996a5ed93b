"""Which revision is in force, against a second reading of handbook §4 written otherwise."""

from __future__ import annotations

from dataclasses import dataclass, field

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.register.in_force import Around, Force, Issued, Use, follows, force_of, standing_of, use_of


@pytest.mark.parametrize(
    ("status", "use"),
    [
        # ISO 19650-2 UK national annex, table NA.1: suitability codes.
        ("S0", Use.RECEIVED), ("S1", Use.REFERRED), ("S2", Use.REFERRED), ("S3", Use.RECEIVED), ("S4", Use.RECEIVED),
        ("S5", Use.RECEIVED), ("A1", Use.BUILT), ("A12", Use.BUILT), ("B3", Use.BUILT), ("CR", Use.BUILT),
        ("X9", Use.RECEIVED),
    ],
)  # fmt: skip
def test_a_status_without_a_word_of_the_project_has_the_use_of_its_code(status: str, use: Use) -> None:
    assert use_of(status, {}) is use


def test_what_the_project_says_counts() -> None:
    assert use_of("A1", {"A1": "received"}) is Use.RECEIVED
    assert use_of("FC", {"FC": "built"}) is Use.BUILT


def _force(*revisions: tuple[str, Use], withdrawn: bool = False) -> Force:
    issued = [Issued(code, place, use, counts=True) for place, (code, use) in enumerate(revisions)]
    return force_of(issued, withdrawn=withdrawn)


def test_c02_received_for_review_does_not_supersede_c01_released_for_construction() -> None:
    """The example of handbook §4."""
    waiting = _force(("P01", Use.REFERRED), ("C01", Use.BUILT), ("C02", Use.RECEIVED))
    assert (waiting.latest, waiting.in_force, waiting.release) == ("C02", "C01", "newer")
    assert waiting.superseded == {"P01"}
    released = _force(("P01", Use.REFERRED), ("C01", Use.BUILT), ("C02", Use.BUILT))
    assert (released.in_force, released.release, released.superseded) == ("C02", "same", {"P01", "C01"})


def test_a_sheet_for_information_takes_none_for_construction_out_of_force() -> None:
    assert _force(("C01", Use.BUILT), ("C02", Use.REFERRED)).in_force == "C01"
    assert _force(("P01", Use.REFERRED), ("P02", Use.REFERRED)).in_force == "P02"


def test_nothing_of_a_withdrawn_document_is_in_force() -> None:
    assert _force(("C01", Use.BUILT), withdrawn=True) == Force("C01", None, frozenset(), "none")


def test_history_is_superseded_at_once() -> None:
    history = [Issued("P01", 1, Use.BUILT, counts=False), Issued("P02", 2, Use.RECEIVED, counts=False)]
    assert force_of(history) == Force("P02", None, frozenset({"P01"}), "none")


@pytest.mark.parametrize(
    ("code", "around", "kind", "words"),
    [
        ("C02", Around("C02", "C02"), "in_force", "In force."),
        ("C01", Around("C02", "C01"), "ahead", "In force. The latest, C02, is not released."),
        ("C02", Around("C02", "C01"), "not_released", "Not released. In force is C01."),
        ("P01", Around("P01", ""), "unreleased", "Not released. Nothing of it is in force."),
        ("P01", Around("C02", "C01"), "superseded", "Superseded. In force is C01. The latest, C02, is not released."),
        ("P01", Around("C01", "C01"), "superseded", "Superseded. In force is C01."),
        ("P01", Around("P02", ""), "superseded", "Superseded. The latest is P02; nothing is in force."),
        ("C01", Around("C01", "", withdrawn=True), "withdrawn", "Withdrawn."),
    ],
)
def test_both_are_named_where_they_differ(code: str, around: Around, kind: str, words: str) -> None:
    found = standing_of(code, around)
    assert (found.kind, found.words) == (kind, words)


@pytest.mark.parametrize(
    ("before", "after", "words"),
    [
        ("C01", "C02", "C02 comes in force; C01 no longer is."),
        ("", "C01", "C01 comes in force."),
        ("C01", "", "C01 is no longer in force, and nothing is."),
        ("C01", "C01", "C01 stays in force."),
        ("", "", "Nothing is in force, as before."),
    ],
)
def test_what_follows_is_said(before: str, after: str, words: str) -> None:
    assert follows(before, after) == words


# A second reading: a story of acts, told one after the other, that keeps two piles of released sheets.


@dataclass
class Cabinet:
    """The drawers of somebody who keeps one document on paper: all sheets in order, and who may use which."""

    order: list[str] = field(default_factory=list)
    drawer: dict[str, str] = field(default_factory=dict)
    never: set[str] = field(default_factory=set)
    withdrawn: bool = False

    def in_force(self) -> str | None:
        if self.withdrawn:
            return None
        for wanted in ("built", "referred"):
            for code in reversed(self.order):
                if self.drawer[code] == wanted and code not in self.never:
                    return code
        return None


_USES = ("received", "referred", "built")
_acts = st.one_of(
    st.tuples(st.just("file"), st.integers(0, 0), st.sampled_from(_USES)),
    st.tuples(st.just("history"), st.integers(0, 30), st.sampled_from(_USES)),
    st.tuples(st.just("status"), st.integers(0, 30), st.sampled_from(_USES)),
    st.tuples(st.just("withdraw"), st.integers(0, 0), st.just("")),
    st.tuples(st.just("bring back"), st.integers(0, 0), st.just("")),
)


@given(first=st.sampled_from(_USES), story=st.lists(_acts, max_size=25))
def test_any_history_of_filing_releasing_withdrawing_and_bringing_back(
    first: str, story: list[tuple[str, int, str]]
) -> None:
    cabinet = Cabinet(["r0"], {"r0": first})
    kept = [Issued("r0", 0, Use[first.upper()], counts=True)]
    for number, (act, which, use) in enumerate(story, 1):
        code = f"r{number}"
        rank = Use[use.upper()] if use else Use.RECEIVED
        if act == "file":
            cabinet.order.append(code)
            cabinet.drawer[code] = use
            kept.append(Issued(code, max(each.place for each in kept) + 1, rank, counts=True))
        elif act == "history":
            # Older than the latest, in front of one of those that are there.
            at = which % len(cabinet.order)
            before = next(each for each in kept if each.id == cabinet.order[at]).place
            cabinet.order.insert(at, code)
            cabinet.drawer[code] = use
            cabinet.never.add(code)
            kept = [Issued(e.id, e.place + (e.place >= before), e.use, e.counts) for e in kept]
            kept.append(Issued(code, before, rank, counts=False))
        elif act == "status":
            code = cabinet.order[which % len(cabinet.order)]
            cabinet.drawer[code] = use
            # Whoever gives a status to what was filed as history says that it counts.
            cabinet.never.discard(code)
            kept = [Issued(e.id, e.place, rank, counts=True) if e.id == code else e for e in kept]
        else:
            cabinet.withdrawn = act == "withdraw"
        found = force_of(kept, withdrawn=cabinet.withdrawn)
        assert found.in_force == cabinet.in_force()
        assert found.latest == cabinet.order[-1]
        assert found.superseded == set(cabinet.order) - {cabinet.order[-1], cabinet.in_force()}
