"""What is in force: by filing, by giving a status, by withdrawing, by what the project says of its statuses."""

import json

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.acts.replays import table_faults
from nod.services.register import documents, folder_packs, register_list, releases, withdrawals
from nod.services.register.register_list import AskedView
from nod.services.setup import setup, setup_view
from nod.services.sheet import sheets
from tests.world import NUMBER, OTHER_NUMBER, name, pdf


def _line(world, number=NUMBER):
    return world.sql("SELECT revision, in_force, release, status FROM document WHERE number = ?", number)[0]


def _dossier(world, document, who="marit"):
    return documents.read_document(world.context, world.actor(who), document)


def _facts(world):
    bodies = world.sql("SELECT body FROM audit_entry WHERE kind = 'in_force_changed' ORDER BY seq")
    return [(body["before"], body["after"]) for body in (json.loads(each) for (each,) in bodies)]


@pytest.fixture
def released(world):
    """C01 released for construction: its document and revision."""
    return world.file(name(revision="C01", status="A1"))[0]


def test_c02_for_review_leaves_c01_in_force_until_it_is_released(world, released):
    assert _line(world) == ("C01", "C01", "same", "A1")
    document, new = world.file(name(revision="C02", status="S4"), content=pdf("second"))[0]
    assert _line(world) == ("C02", "C01", "newer", "S4")
    shown = {each.code: each for each in _dossier(world, document).revisions}
    assert (shown["C02"].standing.kind, shown["C01"].standing.kind) == ("not_released", "ahead")
    assert shown["C01"].superseded_at is None
    assert sheets.read_sheet(world.context, world.actor("marit"), released[1]).in_force_id == released[1]
    assert world.set_status(new, "A1") == "C02"
    assert _line(world) == ("C02", "C02", "same", "A1")
    shown = {each.code: each for each in _dossier(world, document).revisions}
    assert shown["C01"].standing.kind == "superseded"
    assert shown["C01"].superseded_at == world.clock.now()
    assert _facts(world) == [({"in_force": ""}, {"in_force": "C01"}), ({"in_force": "C01"}, {"in_force": "C02"})]


def test_a_release_taken_back_brings_the_one_before_in_force_again(world, released):
    document, new = world.file(name(revision="C02", status="A1"), content=pdf("second"))[0]
    assert _line(world)[1] == "C02"
    with pytest.raises(RuleBroken) as refused:
        world.set_status(new, "S4", reason=" ")
    assert refused.value.code == "reason_missing"
    assert world.set_status(new, "S4", reason="Released by mistake") == "C01"
    assert _line(world) == ("C02", "C01", "newer", "S4")
    assert {each.code: each.superseded_at for each in _dossier(world, document).revisions} == {"C01": None, "C02": None}


def test_what_a_status_would_do_is_said_before(world, released):
    document, new = world.file(name(revision="C02", status="S4"), content=pdf("second"))[0]
    choices = {each.code: {one.status: one for one in each.may_set} for each in _dossier(world, document).revisions}
    assert choices["C02"]["A2"].then == "C02 comes in force; C01 no longer is."
    assert choices["C02"]["S2"].then == "C01 stays in force."
    assert choices["C01"]["S3"].then == "C01 is no longer in force, and nothing is."
    assert (choices["C02"]["A2"].use, choices["C02"]["S2"].use) == ("may be built from", "may be referred to")
    for status, choice in choices["C02"].items():
        before = _line(world)[1]
        after = world.set_status(new, status)
        assert choice.then == releases.follows(before, after)
        if status != "S4":
            world.set_status(new, "S4")
    assert _dossier(world, document, "paolo").revisions[0].may_set == []


def test_nothing_withdrawn_is_in_force_and_it_comes_back_as_it_was(world, released):
    document = released[0]
    actor = world.actor("marit")
    seen = _dossier(world, document).line.version
    withdrawals.withdraw(world.context, actor, document, withdrawals.Withdraw(version=seen, reason="Merged"))
    assert _line(world)[1:3] == ("", "none")
    with pytest.raises(RuleBroken) as refused:
        world.set_status(released[1], "S3")
    assert refused.value.code == "withdrawn"
    seen = _dossier(world, document).line.version
    withdrawals.bring_back(world.context, actor, document, withdrawals.SeenDocument(version=seen))
    assert _line(world)[1:3] == ("C01", "same")


def test_whoever_only_files_does_not_release(world):
    """Paolo has *file* where his sheets are; a status to build from is not his to give, by no door."""
    batch = world.arrive({name(revision="C01", status="A1"): pdf("c")}, "paolo")
    (arrival,) = world.batch(batch, "paolo").arrivals
    assert "may_not_release" in {each.code for each in arrival.findings}
    assert world.register(batch, "paolo")[0].result == "held"
    document, revision = world.file(name(), who="paolo")[0]
    assert "A1" not in _dossier(world, document, "paolo").next_status
    assert "A1" in _dossier(world, document).next_status
    with pytest.raises(NotAllowed):
        world.set_status(revision, "A1", who="paolo")
    with pytest.raises(NotFound):
        world.set_status(revision, "A1", who="yusuf")
    assert _line(world)[1] == ""


def test_refusals_leave_everything_as_it_was(world, released):
    version = _dossier(world, released[0]).line.version
    for command, refusal in (
        ({"version": version + 1, "status": "S3", "reason": "x"}, Stale),
        ({"version": version, "status": "Q9", "reason": "x"}, RuleBroken),
        ({"version": version, "status": "A1", "reason": "x"}, RuleBroken),
        ({"version": version, "status": "", "reason": "x"}, RuleBroken),
    ):
        with pytest.raises(refusal):
            releases.set_status(world.context, world.actor("marit"), released[1], releases.SetStatus(**command))
    assert _line(world) == ("C01", "C01", "same", "A1")


def test_the_register_tells_latest_and_in_force_apart(world, released):
    world.file(name(revision="C02", status="S4"), content=pdf("second"))
    world.file(name(OTHER_NUMBER))

    def numbers(*each):
        asked = AskedView(world.project_id, filters=str([list(each)]).replace("'", '"'))
        return [line.number for line in register_list.list_register(world.context, world.actor("marit"), asked).lines]

    assert numbers("release", "is", "newer") == [NUMBER]
    assert numbers("release", "is", "none") == [OTHER_NUMBER]
    assert numbers("in_force", "is", "C01") == [NUMBER]
    assert numbers("in_force", "none") == [OTHER_NUMBER]


def test_a_folder_holds_what_is_in_force_or_the_latest_or_all(world, released):
    world.file(name(revision="C02", status="S4"), content=pdf("second"))
    world.file(name(OTHER_NUMBER))
    top = world.cast.folders[""]
    sizes = {
        each: folder_packs.read_size(world.context, world.actor("marit"), top, revisions=each).files
        for each in ("in_force", "latest", "all")
    }
    assert sizes == {"in_force": 1, "latest": 2, "all": 3}


def test_what_statuses_may_be_used_for_is_the_projects_to_say(world, released):
    """One entry for all documents it changes, and the tables replay from it."""
    world.file(name(OTHER_NUMBER, status="S4"))
    actor = world.actor("rafael")
    now = setup_view.read_setup(world.context, actor, world.project_id)
    uses = {**now.status_uses, "S4": "built", "A1": "received"}
    tried = setup.try_uses(world.context, actor, world.project_id, setup.TryUses(status_uses=uses))
    assert tried.changes == 2
    command = setup.SetCodes(
        version=now.version, revision_scheme="staged", statuses=now.statuses, verdict_set=now.verdict_set,
        reviewed_statuses=[], status_uses=uses,
    )  # fmt: skip
    setup.set_codes(world.context, actor, world.project_id, command)
    assert (_line(world)[1:3], _line(world, OTHER_NUMBER)[1:3]) == (("", "none"), ("P01", "same"))
    assert _facts(world)[-1] == ({}, {"documents": 2})
    assert list(table_faults(world.context.database)) == []
    with pytest.raises(RuleBroken):
        setup.try_uses(world.context, actor, world.project_id, setup.TryUses(status_uses={"S4": "burnt"}))
