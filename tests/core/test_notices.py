"""How a person is told (handbook §13): what wants an act is never silenced."""

import itertools

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.core.notices import FOLLOWED, HOW, KINDS, OF_MARKS, REACHING, check_setting, told_how, ways


@pytest.mark.parametrize(
    ("own", "by_role", "told"),
    [
        ({}, {}, "now"),
        ({"answer": "never"}, {"author": {"answer": "now"}}, "never"),
        ({}, {"author": {"answer": "nod"}, "reviewer": {"answer": "daily"}}, "daily"),
        ({}, {"author": {"answer": "nod"}, "other": {"answer": "now"}}, "nod"),
    ],
)
def test_ones_own_setting_then_the_promptest_of_the_roles(own, by_role, told):
    assert told_how("answer", own, by_role, ["author", "reviewer"]) == told


@pytest.mark.parametrize(("own", "role"), list(itertools.product((None, *HOW), (None, *HOW))))
def test_what_wants_an_act_reaches_its_person_whatever_anybody_has_set(own, role):
    by_role = {"author": {"step": role}} if role else {}
    assert told_how("step", {"step": own} if own else {}, by_role, ["author"]) in REACHING


@pytest.mark.parametrize("kind", KINDS)
def test_settings_that_are_taken(kind):
    for how in ways(kind):
        check_setting(kind, how)
    for how in set(HOW) - set(ways(kind)):
        with pytest.raises(RuleBroken, match="wants an act"):
            check_setting(kind, how)


def test_marks_are_followed():
    assert OF_MARKS < FOLLOWED
