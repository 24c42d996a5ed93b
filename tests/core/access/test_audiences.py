"""Who sees a thing, in the cases of the handbook."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.access.audiences import Audience, Eyes, for_folders, is_seen, only_for

MEMBER = Eyes("ana", "HBC", frozenset({"public", "site"}))
LEAD = Eyes("lea", "TRA", None, leads=True)
STEWARD = Eyes("ste", "TRA", None, steward=True)

LETTER = Audience(people=frozenset({"ana"}), is_open=False)
"""Handbook §11: leads and controllers see all letters, others the threads they are part of."""
PRIVATE = replace(LETTER, leads=False, stewards=False)
"""Handbook §11: the people in it alone, not even leads, controllers or stewards."""
SENT = Audience(frozenset({"site", "secret"}), people=frozenset({"ana"}), companies=frozenset({"PLS"}))
"""A transmittal: its recipients, and whoever sees all its documents (handbook §10)."""
PENCIL = Audience(frozenset({"site"}), people=frozenset({"ana"}), is_open=False, leads=False, stewards=False)

CASES = [
    (for_folders("site"), MEMBER, True),
    (for_folders("site", "secret"), MEMBER, False),
    (for_folders("secret"), LEAD, True),
    (for_folders("secret"), STEWARD, True),
    (for_folders(), Eyes(), True),
    (LETTER, MEMBER, True),
    (LETTER, replace(MEMBER, person_id="bo"), False),
    (LETTER, LEAD, True),
    (LETTER, STEWARD, True),
    (LETTER, replace(MEMBER, borrowed=True), True),
    (PRIVATE, MEMBER, True),
    (PRIVATE, LEAD, False),
    (PRIVATE, STEWARD, False),
    (PRIVATE, replace(LEAD, person_id="ana"), True),
    (PRIVATE, replace(MEMBER, borrowed=True), False),
    (replace(LETTER, stewards=False), STEWARD, False),
    (replace(LETTER, stewards=False), replace(STEWARD, leads=True), True),
    (replace(LETTER, stewards=False), replace(MEMBER, borrowed=True), False),
    (SENT, MEMBER, True),
    (SENT, replace(MEMBER, person_id="bo"), False),
    (SENT, replace(MEMBER, person_id="bo", company_id="PLS"), True),
    (SENT, replace(MEMBER, person_id="bo", folders=SENT.folders), True),
    (PENCIL, MEMBER, True),
    (PENCIL, replace(MEMBER, folders=frozenset()), False),
    (PENCIL, LEAD, False),
    (only_for("ana"), MEMBER, True),
    (only_for("ana"), replace(MEMBER, borrowed=True), False),
    (only_for("ana"), LEAD, False),
]


@pytest.mark.parametrize(("audience", "eyes", "seen"), CASES)
def test_who_sees(audience, eyes, seen):
    assert is_seen(audience, eyes) is seen


SOME = st.frozensets(st.sampled_from("abc"), max_size=3)


@given(audience=st.builds(Audience, SOME, SOME, SOME, st.booleans(), st.booleans(), st.booleans()), folders=SOME)
def test_who_borrows_eyes_never_sees_more_than_their_owner(audience, folders):
    own = Eyes("a", "b", folders)
    assert is_seen(audience, own) >= is_seen(audience, replace(own, borrowed=True))


@given(audience=st.builds(Audience, SOME, SOME, SOME, st.booleans(), st.booleans(), st.booleans()), folders=SOME)
def test_a_further_folder_never_hides_anything(audience, folders):
    assert is_seen(audience, Eyes("a", "b", folders | {"c"})) >= is_seen(audience, Eyes("a", "b", folders))
