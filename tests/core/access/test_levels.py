"""Effective access against a second reading of handbook §3, written differently, on random trees and grants."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nod.core.access.levels import (
    EVERYONE,
    Change,
    Grant,
    Grantee,
    Holder,
    Level,
    Reach,
    To,
    change_grants,
    check_move,
    effective,
    under,
)
from nod.core.access.tools import Role, tools_of
from nod.core.acts.refusals import RuleBroken

PEOPLE = ("ana", "ben", "cyd")
ROLES = ("author", "reviewer", "reader")
COMPANIES = ("HBC", "TRA")
GRANTEES = [
    EVERYONE,
    *(Grantee(To.PERSON, each) for each in PEOPLE),
    *(Grantee(To.ROLE, each) for each in ROLES),
    *(Grantee(To.COMPANY, each) for each in COMPANIES),
]


@st.composite
def trees(draw):
    size = draw(st.integers(1, 9))
    return {f"f{at}": None if at == 0 else f"f{draw(st.integers(0, at - 1))}" for at in range(size)}


def grants_in(tree):
    one = st.builds(
        Grant, st.sampled_from(sorted(tree)), st.sampled_from(GRANTEES), st.sampled_from(Level), st.booleans()
    )
    return st.lists(one, max_size=14, unique_by=lambda grant: grant.key)


holders = st.builds(
    Holder, st.sampled_from(PEOPLE), st.sampled_from(COMPANIES), st.frozensets(st.sampled_from(ROLES), max_size=2)
)


@st.composite
def projects(draw):
    tree = draw(trees())
    return tree, draw(grants_in(tree))


def _is_for(grant, holder):
    kind, who = grant.to.kind, grant.to.id
    return (
        kind == "everyone"
        or (kind == "person" and who == holder.person_id)
        or (kind == "company" and who == holder.company_id)
        or (kind == "role" and who in holder.roles)
    )


def _counts(grant, grants, start):
    """Whether the grant is in force for a walk that began at `start`."""
    if grant.folder_id != start:
        return not grant.alone
    instead = [other for other in grants if other.alone and other.to == grant.to and other.folder_id == start]
    return grant.alone or not instead


def oracle(tree, grants, holder, folder):
    """The handbook's sentence word by word, walking upward from one folder."""
    place = folder
    while place is not None:
        there = [each for each in grants if each.folder_id == place and _is_for(each, holder)]
        touching = [each for each in there if _counts(each, grants, folder)]
        own = [each.level for each in touching if each.to.kind == "person"]
        if touching:
            return own[0] if own else max(each.level for each in touching)
        place = tree[place]
    return Level.NONE


@settings(max_examples=400)
@given(projects(), holders)
def test_effective_access_is_the_handbooks(project, holder):
    tree, grants = project
    found = effective(tree, grants, holder)
    assert {folder: effect.level for folder, effect in found.items()} == {
        folder: oracle(tree, grants, holder, folder) for folder in tree
    }


@given(projects(), st.lists(holders, max_size=4))
def test_many_holders_at_once_are_the_same_as_each_alone(project, many):
    tree, grants = project
    reach = Reach(tree, grants)
    assert [reach.of(holder) for holder in many] == [effective(tree, grants, holder) for holder in many]


@given(projects(), holders)
def test_the_grants_named_are_those_that_decide(project, holder):
    tree, grants = project
    for effect in effective(tree, grants, holder).values():
        assert all(grant.level is effect.level and grant.to in holder.grantees() for grant in effect.grants)
        assert effect.grants or effect.level is Level.NONE


@given(projects(), st.sampled_from(("lead", "controller")))
def test_leads_and_controllers_keep_everything(project, role):
    tree, grants = project
    holder = Holder("ana", "HBC", frozenset((role, "reader")))
    assert {effect.level for effect in effective(tree, grants, holder).values()} == {Level.KEEP}


def level_of(tree, grants, holder):
    return {folder: effect.level for folder, effect in effective(tree, grants, holder).items()}


@settings(max_examples=300)
@given(projects(), holders, st.data())
def test_a_persons_cell_with_everything_below(project, holder, data):
    tree, grants = project
    folder, level = data.draw(st.sampled_from(sorted(tree))), data.draw(st.sampled_from(Level))
    to = Grantee(To.PERSON, holder.person_id)
    after = change_grants(tree, grants, [Change(to, folder, level, below=True)], {to: holder})
    before_levels, levels = level_of(tree, grants, holder), level_of(tree, after, holder)
    inside = {folder, *under(tree, folder)}
    assert all(levels[each] is level for each in inside)
    assert all(levels[each] is before_levels[each] for each in set(tree) - inside)


@settings(max_examples=300)
@given(projects(), holders, st.data())
def test_a_cell_alone_leaves_everything_else(project, holder, data):
    tree, grants = project
    folder, level = data.draw(st.sampled_from(sorted(tree))), data.draw(st.sampled_from(Level))
    to = Grantee(To.PERSON, holder.person_id)
    after = change_grants(tree, grants, [Change(to, folder, level, below=False)], {to: holder})
    before_levels, levels = level_of(tree, grants, holder), level_of(tree, after, holder)
    assert levels.pop(folder) is level
    before_levels.pop(folder)
    assert levels == before_levels


@given(projects(), holders, st.data())
def test_a_change_for_one_person_changes_nobody_else(project, holder, data):
    tree, grants = project
    to = Grantee(To.PERSON, holder.person_id)
    change = Change(
        to, data.draw(st.sampled_from(sorted(tree))), data.draw(st.sampled_from(Level)), data.draw(st.booleans())
    )
    after = change_grants(tree, grants, [change], {to: holder})
    for other in set(PEOPLE) - {holder.person_id}:
        them = Holder(other, "HBC", frozenset(("author",)))
        assert level_of(tree, grants, them) == level_of(tree, after, them)


def test_an_own_grant_taken_away_lets_the_one_above_through():
    tree = {"top": None, "in": "top"}
    to = Grantee(To.ROLE, "reader")
    grants = [Grant("top", to, Level.READ), Grant("in", to, Level.NONE)]
    after = change_grants(
        tree, grants, [Change(to, "in", None, below=True)], {to: Holder(roles=frozenset(("reader",)))}
    )
    assert after == [Grant("top", to, Level.READ)]


@pytest.mark.parametrize("target", ["b", "c", "d"])
def test_a_folder_is_not_moved_under_itself(target):
    tree = {"a": None, "b": "a", "c": "b", "d": "c", "e": "a"}
    with pytest.raises(RuleBroken) as refused:
        check_move(tree, "b", target)
    assert refused.value.code == "folder_under_itself"
    check_move(tree, "b", "e")


def test_the_root_stays():
    with pytest.raises(RuleBroken) as refused:
        check_move({"a": None, "b": "a"}, "a", "b")
    assert refused.value.code == "root_folder"


@pytest.mark.parametrize(
    ("roles", "own", "on", "tools"),
    [
        (("author",), None, ("x", "y"), {"x", "y"}),
        (("author", "reader"), None, ("y",), {"y"}),
        (("reader",), ["x"], ("x", "y"), {"x"}),
        (("author",), [], ("x", "y"), set()),
        (("gone",), None, ("x", "y"), set()),
    ],
)
def test_tools_come_from_roles_unless_the_person_has_a_setting(roles, own, on, tools):
    known = {"author": Role("author", "Author", ("x", "y")), "reader": Role("reader", "Reader", ("y",))}
    assert tools_of(roles, own, known, on) == tools
