"""With whom something is, in the words of every list."""

import pytest

from nod.core.acts.open_work import Holder, with_words

ANA, BO, CY = Holder("1", "Ana"), Holder("2", "Bo"), Holder("3", "Cy")


@pytest.mark.parametrize(
    ("holders", "each", "words"),
    [
        ([], False, ""),
        ([ANA], False, "Ana"),
        ([ANA, BO], False, "Ana or Bo"),
        ([ANA, BO, CY], False, "any of 3 for Check"),
        ([], True, ""),
        ([ANA], True, "Ana"),
        ([ANA, BO], True, "Ana and Bo"),
        ([ANA, BO, CY], True, "Ana and 2 others"),
    ],
)
def test_words(holders, each, words):
    assert with_words(holders, "Check", each=each) == words


def test_what_has_no_name_is_not_named():
    assert with_words([ANA, BO, CY], "", each=False) == "any of 3"
