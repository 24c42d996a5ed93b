"""Proofs for those in a project: of what they see, of what they only have the hash of; and checking for anybody."""

import json

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, TooMany
from nod.core.trail import merkle
from nod.services.trail import proofs
from nod.services.trail.proofs import AskProof, CheckProof, OfProject
from nod.services.trail.seals import make_seal
from tests.world import name, pdf


@pytest.fixture
def leaf(world):
    """Of the entry of a sheet that everybody in the project may see."""
    world.file(name())
    ((body,),) = world.sql("SELECT body FROM audit_entry WHERE kind = 'revision_filed'")
    return merkle.leaf_hash(body).hex()


def _ask(world, leaf, who, since=0):
    command = AskProof(project_id=world.project_id, leaf=leaf, since=since)
    return proofs.ask_proof(world.context, world.actor(who), command)


def test_seals_are_for_leads_and_controllers(world, leaf):
    of_project = OfProject(project_id=world.project_id)
    assert proofs.read_seal(world.context, world.actor("marit"), world.project_id) is None
    made = proofs.seal_now(world.context, world.actor("rafael"), of_project)
    assert proofs.read_seal(world.context, world.actor("marit"), world.project_id) == made
    for who in ("leilani", "junpei"):
        with pytest.raises(NotAllowed):
            proofs.read_seal(world.context, world.actor(who), world.project_id)
        with pytest.raises(NotAllowed):
            proofs.seal_now(world.context, world.actor(who), of_project)


def test_who_sees_an_entry_proves_it_whole_and_who_does_not_its_hash(world, leaf):
    assert NUMBER_IN_BODY in json.loads(_ask(world, leaf, "leilani"))["body"]
    pencil = world.draw(world.document(NUMBER_IN_BODY)[1], text="nobody else's")
    assert pencil
    ((body,),) = world.sql("SELECT body FROM audit_entry WHERE kind = 'mark_drawn'")
    hidden = merkle.leaf_hash(body).hex()
    assert "nobody else's" in _ask(world, hidden, "leilani")
    said = json.loads(_ask(world, hidden, "marit"))
    assert (said["body"], said["leaf"]) == (None, hidden)


NUMBER_IN_BODY = name().partition("_")[0]


def test_a_hash_that_no_entry_has_is_not_found(world, leaf):
    for wrong, kind in (("0" * 64, NotFound), ("zz", RuleBroken), ("", NotFound)):
        with pytest.raises(kind):
            _ask(world, wrong, "marit")
    with pytest.raises(NotFound):
        proofs.ask_proof(world.context, world.actor("marit"), AskProof(project_id="a" * 16, leaf=leaf))
    with pytest.raises(NotFound):
        _ask(world, leaf, "marit", since=10**6)


def _check(world, proof, key, seal="", address="10.0.0.1"):
    return proofs.check_proof(world.context, CheckProof(proof=proof, key=key, seal=seal), address)


def test_the_way_from_an_earlier_seal_is_added_where_it_is_known(world, leaf):
    first = make_seal(world.context)
    world.file(name("BFT-TRA-Z1-01-D-A-0107"), content=pdf("later"))
    proof = _ask(world, leaf, "marit")
    found = _check(world, proof, first.key, first.note)
    assert found.sound
    assert "grew out of the one" in found.lines[-1]
    assert json.loads(found.entry)["kind"] == "revision_filed"
    # Of another trail, nothing is known and nothing added.
    stranger = first.note.replace(str(first.size), str(first.size - 1), 1)
    assert not _check(world, proof, first.key, stranger).sound
    assert not _check(world, "{}", first.key, first.note).sound
    assert not _check(world, proof, "no key", first.note).sound


def test_checking_has_a_limit_an_address(world, leaf):
    with pytest.raises(TooMany):
        for _ in range(100):
            _check(world, "{}", "x")
    assert not _check(world, "{}", "x", address="10.0.0.2").sound
