"""The verdict in an answer by mail: what its first line says, and nothing that only looks like one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.submittals.mailed import verdict_said

WORDS = {"A": "Accepted", "B": "Accepted with comments", "C": "Revise and resubmit", "D": "Rejected"}


@pytest.mark.parametrize(
    ("text", "code", "rest"),
    [
        ("B", "B", ""),
        ("b.\n\nSee the marks.", "B", "See the marks."),
        ("\n\n  (C)  \nMove the plate.\nAnd the bolts.", "C", "Move the plate.\nAnd the bolts."),
        ("Verdict: A", "A", ""),
        ("Answer C", "C", ""),
        ("verdict - d", "D", ""),
        ("**B**", "B", ""),
        ("B - accepted with comments", "B", ""),
        ("B: Accepted   with comments.", "B", ""),
        ("A Accepted\r\nThank you", "A", "Thank you"),
    ],
)
def test_a_first_line_that_is_a_verdict(text, code, rest):
    assert verdict_said(text, WORDS) == (code, rest)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "A few things are missing",
        "Accepted",
        "B Rejected",
        "Dear Marit,\nB",
        "A and B are both wrong",
        "AB",
        "Verdict",
        "Verdict:",
        "D'accord",
        "C" * 500,
    ],
)
def test_a_sentence_is_none(text):
    assert verdict_said(text, WORDS) == ("", text.strip())


@given(st.text(), st.sampled_from(sorted(WORDS)))
def test_nothing_written_is_lost(text, code):
    assert verdict_said(f"{code}\n{text}", WORDS) == (code, text.strip() if len(text.splitlines()) < 2 else
                                                       "\n".join(text.splitlines()).strip())  # fmt: skip
