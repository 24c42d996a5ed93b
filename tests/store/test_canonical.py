"""The trail's JSON is RFC 8785's, whichever way it is written: held against the reference library for it."""

import json

import pytest
import rfc8785
from hypothesis import given
from hypothesis import strategies as st

from nod.store.canonical import canonical_json

_VALUES = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**53) + 1, 2**53 - 1) | st.text() | st.floats(-1e9, 1e9),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=6), inner, max_size=4),
    max_leaves=20,
)


@given(st.dictionaries(st.text(max_size=8), _VALUES, max_size=6))
def test_the_bytes_are_those_of_the_reference(value):
    assert canonical_json(value) == rfc8785.dumps(value)


@given(
    st.dictionaries(
        st.text(st.characters(max_codepoint=127), max_size=8), st.text() | st.integers(-9, 9) | st.booleans()
    )
)
def test_what_is_plain_too_with_every_sign_that_is_escaped(value):
    value["signs"] = "".join(map(chr, range(0x80))) + "é€\u2028\U0001f600"
    assert canonical_json(value) == rfc8785.dumps(value)


def test_keys_are_in_the_order_of_utf_16():
    """RFC 8785 §3.2.3: U+1F600 comes before U+FB33 there, and after it by code points."""
    text = canonical_json({"\ufb33": 1, "\U0001f600": 2, "a": 3}).decode()
    assert list(json.loads(text)) == ["a", "\U0001f600", "\ufb33"]


@pytest.mark.parametrize("odd", [{"n": 2**53}, {"n": float("nan")}, {"n": "\ud800"}, {"n": {1, 2}}, {1: "n"}])
def test_what_json_lacks_is_refused_as_by_the_reference(odd):
    with pytest.raises((rfc8785.CanonicalizationError, UnicodeEncodeError)) as ours:
        canonical_json(odd)
    with pytest.raises(type(ours.value)):
        rfc8785.dumps(odd)
