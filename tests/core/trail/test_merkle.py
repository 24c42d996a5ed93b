"""The tree against RFC 6962: the vectors of an independent implementation, and the properties of its proofs."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.trail import merkle
from tests.outside import shared_data

VECTORS = json.loads((shared_data("merkle") / "rfc6962_vectors.json").read_text())
LEAVES = [merkle.leaf_hash(bytes.fromhex(leaf)) for leaf in VECTORS["leaves_hex"]]
some_leaves = st.lists(st.binary(max_size=8), min_size=1, max_size=70).map(
    lambda all: [merkle.leaf_hash(b) for b in all]
)


def test_the_empty_tree_has_the_hash_of_nothing():
    assert merkle.root_of([]).hex() == VECTORS["empty_root"]


@pytest.mark.parametrize("size", range(1, 9))
def test_roots_are_those_of_the_vectors(size):
    assert merkle.root_of(LEAVES[:size]).hex() == VECTORS["roots_by_size"][size - 1]


@pytest.mark.parametrize("vector", VECTORS["inclusion"])
def test_inclusion_proofs_are_those_of_the_vectors(vector):
    size, index = vector["tree_size"], vector["leaf_index_0_based"]
    proof = merkle.inclusion_proof(LEAVES[:size], index)
    assert [node.hex() for node in proof] == vector["proof"]
    assert merkle.verify_inclusion(LEAVES[index], index, size, proof, bytes.fromhex(vector["root"]))


@pytest.mark.parametrize("vector", VECTORS["consistency"])
def test_consistency_proofs_are_those_of_the_vectors(vector):
    old, new = vector["size1"], vector["size2"]
    proof = merkle.consistency_proof(LEAVES[:new], old)
    assert [node.hex() for node in proof] == vector["proof"]
    roots = [bytes.fromhex(VECTORS["roots_by_size"][size - 1]) for size in (old, new)]
    assert merkle.verify_consistency(old, new, *roots, proof)


@given(some_leaves, st.data())
def test_every_leaf_proves_itself_and_no_other(leaves, data):
    index = data.draw(st.integers(0, len(leaves) - 1))
    proof, root = merkle.inclusion_proof(leaves, index), merkle.root_of(leaves)
    assert merkle.verify_inclusion(leaves[index], index, len(leaves), proof, root)
    assert not merkle.verify_inclusion(merkle.leaf_hash(b"forged" * 3), index, len(leaves), proof, root)
    assert not merkle.verify_inclusion(leaves[index], index, len(leaves), [*proof, root], root)


@given(some_leaves, st.data())
def test_a_longer_tree_proves_that_it_only_appends(leaves, data):
    old = data.draw(st.integers(1, len(leaves)))
    proof = merkle.consistency_proof(leaves, old)
    old_root, root = merkle.root_of(leaves[:old]), merkle.root_of(leaves)
    assert merkle.verify_consistency(old, len(leaves), old_root, root, proof)
    forged = merkle.root_of([merkle.leaf_hash(b"forged" * 3), *leaves[1:old]])
    assert not merkle.verify_consistency(old, len(leaves), forged, root, proof)


@given(some_leaves)
def test_appending_one_by_one_gives_the_recursive_root(leaves):
    frontier = merkle.Frontier()
    for leaf in leaves:
        frontier = frontier.append(leaf)
    assert frontier.root() == _root_by_definition(leaves)
    assert len(frontier.heads) == bin(len(leaves)).count("1")


def _root_by_definition(leaves):
    """MTH of RFC 6962 2.1, word for word."""
    if len(leaves) == 1:
        return leaves[0]
    split = 1
    while split * 2 < len(leaves):
        split *= 2
    return merkle.node_hash(_root_by_definition(leaves[:split]), _root_by_definition(leaves[split:]))


def test_a_place_outside_the_tree_is_refused():
    with pytest.raises(IndexError):
        merkle.inclusion_proof(LEAVES, len(LEAVES))
    with pytest.raises(IndexError):
        merkle.consistency_proof(LEAVES, 0)
