"""What is said: tidied, bounded, and whom it names."""

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.core.threads.threads import check_text, mentioned


def test_text_is_tidied_and_bounded():
    assert check_text("  door \n", required=True) == "door"
    assert check_text("", required=False) == ""
    for text in (" ", "x" * 4001):
        with pytest.raises(RuleBroken):
            check_text(text, required=True)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("@Ana Lima please", ["a"]), ("@ana lima, @Ana Lima-Souza", ["a", "b"]), ("@Ana Lima-Souza", ["b"]),
        ("@Ana", []), ("ana lima", []), ("mail@Ana Lima", ["a"]), ("@Ana Limas", []), ("@", []),
        ("@Ana Lima@Ana Lima", ["a"]),
    ],
)  # fmt: skip
def test_mentions_are_whole_names(text, found):
    assert mentioned(text, {"a": "Ana Lima", "b": "Ana Lima-Souza", "c": ""}) == found
