"""Seals and proofs, against the tree's own vectors and another reading of the note's form."""

import base64
import hashlib
import json

import pytest
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey
from hypothesis import given
from hypothesis import strategies as st

from nod.core.trail import merkle, seals
from nod.core.trail.seals import NotSound, Proof, Seal, SealKey

SEED = bytes(range(32))
KEY = SealKey("nod/brackwater.example", seals.public_of(SEED))
AT = "2027-03-09T08:30:00.000000Z"
BODIES = [json.dumps({"seq": place + 1, "kind": "signed_in"}).encode() for place in range(23)]
LEAVES = [merkle.leaf_hash(body) for body in BODIES]


def _note(size=23, leaves=LEAVES, origin=KEY.name, key=KEY, seed=SEED):
    return seals.sign(Seal(origin, size, merkle.root_of(leaves[:size]), AT), key, seed)


def _proof(entry=5, size=23, since=0, **more):
    leaves = LEAVES[:size]
    grown = merkle.consistency_proof(leaves, since) if since else ()
    path = merkle.inclusion_proof(leaves, entry)
    return Proof(entry, leaves[entry], BODIES[entry], tuple(path), _note(size), since, tuple(grown), **more)


def test_the_public_key_is_the_one_of_the_standard():
    """RFC 8032, 7.1, TEST 1."""
    secret = bytes.fromhex("9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60")
    assert seals.public_of(secret).hex() == "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a"


def test_a_note_is_read_by_who_knows_its_form_alone():
    """Signed notes, from memory: text, empty line, dash, name, and base64 of four bytes of tag and the signature."""
    text, _, signature = _note().partition("\n\n")
    dash, name, packed = signature.rstrip("\n").split(" ")
    raw = base64.b64decode(packed)
    tag = hashlib.sha256(KEY.name.encode() + b"\n\x01" + KEY.public).digest()[:4]
    assert (dash, name, raw[:4]) == ("—", KEY.name, tag)
    Ed25519PublicKey.from_public_bytes(KEY.public).verify(raw[4:], f"{text}\n".encode())
    assert text.split("\n") == [KEY.name, "23", base64.b64encode(merkle.root_of(LEAVES)).decode(), AT]


def test_a_seal_and_a_key_come_back_as_they_were():
    assert seals.read_key(f" {KEY.words}\n") == KEY
    assert seals.read_seal(_note(), [KEY]) == Seal(KEY.name, 23, merkle.root_of(LEAVES), AT)
    assert seals.read_seal(_note().replace("\n", "\r\n"), [KEY]).size == 23


@pytest.mark.parametrize(
    "words", ["", "nod", "nod+00000000+AA==", "a+b+c", KEY.words[:-4] + "AAA=", KEY.words.replace("+", "-", 1), "é+é+é"]
)
def test_what_is_no_key_is_told(words):
    with pytest.raises(NotSound):
        seals.read_key(words)


def test_another_key_has_not_signed_it():
    other = SealKey(KEY.name, seals.public_of(bytes(32)))
    with pytest.raises(NotSound, match="not signed with this key"):
        seals.read_seal(_note(), [other])
    assert seals.read_seal(_note(key=other, seed=bytes(32)), [KEY, other]).size == 23


@given(st.data())
def test_no_sign_of_a_seal_can_be_changed(data):
    note = _note()
    place = data.draw(st.integers(0, len(note) - 1))
    sign = data.draw(st.characters(codec="ascii", exclude_categories=("Cc",)))
    spoiled = note[:place] + sign + note[place + 1 :]
    if spoiled == note:
        return
    try:
        read = seals.read_seal(spoiled, [KEY])
    except NotSound:
        return
    # What is not signed may be changed: the end of base64 has bits that say nothing.
    assert read == seals.read_seal(note, [KEY])


@given(st.text())
def test_whatever_is_given_is_no_seal_and_no_proof(text):
    for read in (lambda: seals.read_seal(text, [KEY]), lambda: seals.read_proof(text), lambda: seals.read_key(text)):
        with pytest.raises(NotSound):
            read()


@pytest.mark.parametrize("entry", range(23))
def test_every_entry_is_proved_over_the_wire(entry):
    sent = seals.read_proof(_proof(entry, since=9).as_json())
    older = seals.read_seal(_note(9), [KEY])
    checked = seals.check_proof(sent, [KEY], older)
    assert checked.entry == json.loads(BODIES[entry])
    assert "grew out of the one of 9 entries" in checked.words[-1]


def test_an_entry_can_be_proved_without_its_content():
    hidden = seals.read_proof(Proof(**{**vars(_proof()), "body": None}).as_json())
    assert seals.check_proof(hidden, [KEY]).entry is None


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"body": BODIES[5].replace(b"signed_in", b"signed_up")}, "another hash"),
        ({"index": 6}, "does not stand at place 7"),
        ({"index": -1}, "does not stand"),
        ({"leaf": LEAVES[4], "body": None}, "does not stand"),
        ({"path": ()}, "does not stand"),
        ({"note": _note(seed=bytes(32), key=SealKey(KEY.name, seals.public_of(bytes(32))))}, "not signed"),
        ({"note": _note(22)}, "does not stand"),
        ({"note": "23"}, "not a seal"),
    ],
)
def test_what_does_not_hold_is_named(change, words):
    with pytest.raises(NotSound, match=words):
        seals.check_proof(Proof(**{**vars(_proof()), **change}), [KEY])


def test_a_rewritten_trail_did_not_grow_out_of_the_sealed_one():
    forged = [merkle.leaf_hash(b"forged"), *LEAVES[1:]]
    older = seals.read_seal(_note(9, forged), [KEY])
    with pytest.raises(NotSound, match="was rewritten"):
        seals.check_proof(_proof(since=9), [KEY], older)
    with pytest.raises(NotSound, match="says nothing of a tree of 9"):
        seals.check_proof(_proof(since=4), [KEY], older)
    other = seals.read_seal(_note(9, origin="nod/elsewhere.example"), [KEY])
    with pytest.raises(NotSound, match="different trails"):
        seals.check_proof(_proof(since=9), [KEY], other)
