"""What a specification asks for against the log: each line is of one item, each item has one line."""

from hypothesis import given
from hypothesis import strategies as st

from nod.core.submittals.spec_against import Logged, against
from nod.core.submittals.specification import SpecItem


def item(paragraph, kind="PD", title="", section="05 12 00"):
    title = title or f"{paragraph} {kind}"
    return SpecItem(0, 10.0, section, "Steel", paragraph, kind, title, title)


def line(id, paragraph, kind="PD", title="", *, from_here=True, section="05 12 00"):
    return Logged(id, section, paragraph, kind, title or f"{paragraph} {kind}", from_here)


def test_one_at_the_same_paragraph_is_there_also_with_another_kind_or_title():
    found = against([item("1.3.A"), item("1.3.B")], [line("b", "1.3.b.", "CE", "Set right"), line("a", "1.3.A")])
    assert (found.there, found.moved, found.gone) == ({0: "a", 1: "b"}, {}, [])


def test_a_line_that_did_not_come_from_it_is_there_only_where_its_kind_is_the_same():
    log = [line("a", "1.3.A", from_here=False), line("b", "1.3.B", "CE", from_here=False)]
    found = against([item("1.3.A"), item("1.3.B")], log)
    assert (found.there, found.moved, found.gone) == ({0: "a"}, {}, [])


def test_what_stands_elsewhere_and_what_went():
    log = [line("a", "1.3.A", title="Bolts"), line("b", "1.3.B", title="Paint"), line("x", "9", from_here=False)]
    found = against([item("1.4.C", title="bolts.")], log)
    assert (found.there, found.moved, found.gone) == ({}, {0: "a"}, ["b"])


def test_two_at_one_paragraph_are_two():
    found = against([item("1.3", title="one"), item("1.3", title="two")], [line("a", "1.3"), line("b", "1.3")])
    assert sorted(found.there.values()) == ["a", "b"]


PLACES, KINDS = st.sampled_from(["1.1", "1.2", "1.3.A"]), st.sampled_from(["PD", "SD", ""])
ITEMS = st.lists(st.builds(item, PLACES, KINDS), max_size=8)
LINES = st.lists(st.builds(lambda *given, here: (given, here), PLACES, KINDS, here=st.booleans()), max_size=8)


@given(ITEMS, LINES)
def test_nothing_is_counted_twice_and_nothing_from_here_is_lost(items, given_lines):
    log = [line(str(at), *given, from_here=here) for at, (given, here) in enumerate(given_lines)]
    found = against(items, log)
    used = [*found.there.values(), *found.moved.values(), *found.gone]
    assert len(used) == len(set(used))
    assert found.there.keys().isdisjoint(found.moved)
    assert {each.id for each in log if each.from_here} <= set(used)


@given(ITEMS)
def test_what_was_taken_whole_is_there_whole(items):
    log = [Logged(str(at), each.section, each.paragraph, each.kind, each.title, True) for at, each in enumerate(items)]
    found = against(items, log)
    assert (len(found.there), found.moved, found.gone) == (len(items), {}, [])
