"""What becomes of a mail: a table, and what holds for any."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.mail.judging import Fate, Known, judge

GOOD = {"sender": "contact", "to_thing": True, "may_answer": True}


@pytest.mark.parametrize(
    ("known", "fate", "words"),
    [
        (GOOD, Fate.ANSWER, ""),
        ({**GOOD, "same_before": True}, Fate.DUPLICATE, ""),
        ({**GOOD, "fault": "It is broken."}, Fate.HELD, "It is broken."),
        ({**GOOD, "automatic": True}, Fate.AUTOMATIC, ""),
        ({**GOOD, "own": True}, Fate.AUTOMATIC, "written by Nod"),
        ({"report": "failed", "report_of_ours": True, "automatic": True}, Fate.BOUNCE, ""),
        ({"report": "delayed", "report_of_ours": True}, Fate.NEWS, ""),
        ({"report": "failed"}, Fate.HELD, "did not leave from here"),
        ({"report": "unclear", "report_of_ours": True}, Fate.HELD, "not which"),
        ({**GOOD, "sender": ""}, Fate.HELD, "nobody in this project"),
        ({**GOOD, "sender": "removed"}, Fate.HELD, "removed"),
        ({**GOOD, "sender_count": 0}, Fate.HELD, "does not say who"),
        ({**GOOD, "sender_count": 2}, Fate.HELD, "more than one"),
        ({**GOOD, "failed_check": "SPF fails"}, Fate.HELD, "SPF fails"),
        ({**GOOD, "other_before": True}, Fate.HELD, "came before"),
        ({**GOOD, "to_thing": False}, Fate.HELD, "Say where it belongs"),
        ({**GOOD, "may_answer": False}, Fate.HELD, "may not answer"),
    ],
)
def test_table(known, fate, words):
    found, why = judge(Known(**known))
    assert found is fate
    assert words in why
    assert bool(why) == (fate is Fate.HELD) or fate is Fate.AUTOMATIC


@given(
    st.builds(
        Known, fault=st.sampled_from(["", "x."]), report=st.sampled_from(["", "failed", "unclear"]),
        sender=st.sampled_from(["", "person", "contact", "removed"]), failed_check=st.sampled_from(["", "SPF fails"]),
        sender_count=st.integers(0, 3),
    )
)  # fmt: skip
def test_only_a_known_sender_who_may_answers(known):
    fate, why = judge(known)
    if fate is Fate.ANSWER:
        assert known.sender in ("person", "contact")
        assert known.may_answer
        assert not any((known.automatic, known.failed_check, known.report, known.fault, known.same_before))
    if fate is Fate.HELD:
        assert why.endswith(".")
