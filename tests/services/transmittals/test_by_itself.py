"""What the matrix sends by itself, and to whom it would have chosen documents sent."""

import json
from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.acts.work import Job
from nod.services.setup import distribution as matrix
from nod.services.setup.distribution import DistributionLine
from nod.services.transmittals import by_matrix, drafts
from nod.services.transmittals.by_itself import distribute
from nod.services.transmittals.by_matrix import AskMatrix
from tests.services.transmittals.test_distribution import FIRE, cell, due, prepare, role, set_matrix
from tests.world import NUMBER, name, pdf

THIRD = "BFT-TRA-Z1-02-D-A-0102"


def line(world, *shares, **more):
    plain = {"discipline": "A", "form": "D", "status": "S3", "purpose": "construction", "since": date(2027, 3, 1)}
    return DistributionLine(**{**plain, "by_itself": True, "shares": list(shares), **more})


def sent(world):
    """What the worker has sent, as `number: documents → to`, once all that acts left is done."""
    world.send()
    documents = "SELECT number FROM transmittal_document WHERE transmittal_id = ? ORDER BY place"
    people = (
        "SELECT p.name FROM recipient r JOIN person p ON p.id = r.person_id WHERE transmittal_id = ? ORDER BY place"
    )
    found = []
    for id, number in world.sql("SELECT id, number FROM transmittal ORDER BY number"):
        found.append((number, *([each for (each,) in world.sql(query, id)] for query in (documents, people))))
    return found


def test_what_is_filed_goes_by_itself_once_and_in_the_name_of_who_said_so(world):
    set_matrix(world, line(world, cell(world, "leilani")))
    world.file(name(), name(number=FIRE), name(THIRD))
    assert sent(world) == [("HBC-T-0001", [NUMBER, THIRD], ["Leilani Brandt"])]
    ((by_itself, purpose, note, by),) = world.sql("SELECT by_itself, purpose, note, sent_by FROM transmittal")
    assert (by_itself, purpose, by) == (1, "construction", world.cast.people["rafael"])
    assert note == "Sent by the distribution matrix of the project."
    ((body,),) = world.sql("SELECT body FROM audit_entry WHERE kind = 'transmittal_sent'")
    entry = json.loads(body)
    assert (entry["after"]["by itself"], entry["from"]) == ("the distribution matrix", "the worker")
    assert due(world) == {}
    # Nothing more of it, and the next revision again.
    assert len(sent(world)) == 1
    world.file(name(revision="P02"), content=pdf("changed"))
    assert [each[1] for each in sent(world)] == [[NUMBER, THIRD], [NUMBER]]


def test_doing_the_work_twice_sends_once(world):
    set_matrix(world, line(world, cell(world, "leilani")))
    world.file(name())
    assert len(sent(world)) == 1
    payload = {"project_id": world.project_id, "document_ids": [world.document(NUMBER)[0]]}
    distribute(Job(world.context, world.press), payload)
    assert len(sent(world)) == 1


def test_what_was_there_before_stays_for_a_controller(world):
    world.file(name())
    world.clock.advance(timedelta(days=40))
    since = world.clock.now().date()
    set_matrix(world, line(world, cell(world, "leilani"), since=since))
    world.file(name(THIRD))
    assert [each[1] for each in sent(world)] == [[THIRD]]


def test_a_status_that_is_reached_sends_and_to_know_goes_for_information(world):
    set_matrix(world, line(world, cell(world, "yusuf"), role("reviewer"), status="A1", when="released"))
    ((_, revision),) = world.file(name())
    assert sent(world) == []
    world.set_status(revision, "A1", who="rafael")
    found = {people[0]: documents for _, documents, people in sent(world)}
    assert found["Yusuf Haldane"] == [NUMBER]
    purposes = dict(world.sql(
        "SELECT p.name, t.purpose FROM transmittal t JOIN recipient r ON r.transmittal_id = t.id"
        " JOIN person p ON p.id = r.person_id"))  # fmt: skip
    assert purposes["Yusuf Haldane"] == "construction"
    assert set(purposes.values()) <= {"construction", "information"}


def test_what_lies_in_a_draft_is_left_to_the_draft(world):
    set_matrix(world, line(world, cell(world, "leilani"), by_itself=False))
    world.file(name())
    # Of the same company as who lets it go by itself.
    prepare(world, "leilani")
    set_matrix(world, line(world, cell(world, "leilani")))
    world.set_status(world.document(NUMBER)[1], "S4", who="rafael")
    world.set_status(world.document(NUMBER)[1], "S3", who="rafael")
    assert sent(world) == []
    (kept,) = drafts.list_drafts(world.context, world.actor("marit"), world.project_id)
    assert kept.documents == 1


def test_nothing_goes_in_the_name_of_one_who_runs_the_project_no_more(world):
    set_matrix(world, line(world, cell(world, "leilani")))
    world.write(f"UPDATE membership SET roles = '[\"viewer\"]' WHERE person_id = '{world.cast.people['rafael']}'")
    world.file(name())
    assert sent(world) == []
    assert due(world) == {"PLS": [f"{NUMBER} P01"]}


def test_the_name_stays_until_it_is_said_anew(world):
    set_matrix(world, line(world, cell(world, "leilani")))
    kept = matrix.read_distribution(world.context, world.actor("rafael"), world.project_id)
    assert [each.by_itself for each in kept.lines] == [True]
    set_matrix(world, *kept.lines)
    ((rules,),) = world.sql("SELECT rules FROM project WHERE id = ?", world.project_id)
    assert [each["sent_by"] for each in json.loads(rules)["distribution"]] == [world.cast.people["rafael"]]
    set_matrix(world, line(world, cell(world, "leilani"), by_itself=False))
    ((rules,),) = world.sql("SELECT rules FROM project WHERE id = ?", world.project_id)
    assert [each["sent_by"] for each in json.loads(rules)["distribution"]] == [""]


def test_what_goes_by_itself_says_its_status_and_its_day(world):
    for more in ({"status": ""}, {"since": None}):
        with pytest.raises(RuleBroken) as refused:
            set_matrix(world, line(world, cell(world, "leilani"), **more))
        assert refused.value.code == "by_itself_open"


def ask(world, *revisions, who="marit"):
    command = AskMatrix(project_id=world.project_id, revisions=list(revisions))
    said = by_matrix.ask_matrix(world.context, world.actor(who), command)
    names = {id: key for key, id in world.cast.people.items()}
    return [names[each] for each in said.people], [names[each] for each in said.copied], said


def test_the_form_is_told_to_whom_the_matrix_would_have_it_sent(world):
    (_, plan), (_, fire) = world.file(name(), name(number=FIRE))
    shares = [cell(world, "leilani"), cell(world, "yusuf", "know")]
    set_matrix(world, line(world, *shares, by_itself=False, since=None))
    to, copied, said = ask(world, plan, fire)
    assert (to, copied, said.purpose, said.uncovered) == (["leilani"], ["yusuf"], "construction", 1)
    assert said.lines == ["A D, at S3, when it is filed"]
    to, copied, said = ask(world, fire)
    assert (to, copied, said.lines, said.uncovered) == ([], [], [], 1)
    # Only as far as a line's moment has come.
    set_matrix(world, line(world, *shares, by_itself=False, when="accepted"))
    assert ask(world, plan)[0] == []


def test_only_what_one_may_send_is_asked_for(world):
    ((_, plan),) = world.file(name())
    with pytest.raises(NotFound):
        ask(world, "nowhere")
    with pytest.raises((NotAllowed, NotFound)):
        ask(world, plan, who="leilani")


def test_a_status_that_releases_nothing_sends_too(world):
    set_matrix(world, line(world, cell(world, "leilani"), status="S4"))
    ((_, revision),) = world.file(name())
    assert sent(world) == []
    world.set_status(revision, "S4")
    assert [each[1] for each in sent(world)] == [[NUMBER]]


def test_what_a_review_accepts_goes_when_it_closes(world):
    set_matrix(world, line(world, cell(world, "yusuf"), when="accepted"))
    documents = world.file(name(), name(THIRD))
    world.closed_review(documents[0], verdict="A")
    assert [each[1] for each in sent(world)] == [[NUMBER]]
    world.closed_review(documents[1], verdict="C")
    assert [each[1] for each in sent(world)] == [[NUMBER]]


def test_who_changes_a_line_has_it_sent_in_their_own_name(world):
    world.write(f"UPDATE membership SET roles = '[\"lead\"]' WHERE person_id = '{world.cast.people['marit']}'")
    set_matrix(world, line(world, cell(world, "leilani")))

    def save(*lines):
        marit = (world.context, world.actor("marit"), world.project_id)
        version = matrix.read_distribution(*marit).version
        matrix.set_distribution(*marit, matrix.SetDistribution(version=version, lines=list(lines)))
        ((rules,),) = world.sql("SELECT rules FROM project WHERE id = ?", world.project_id)
        return [each["sent_by"] for each in json.loads(rules)["distribution"]]

    kept = line(world, cell(world, "leilani"))
    rafael, marit = world.cast.people["rafael"], world.cast.people["marit"]
    assert save(kept) == [rafael]
    assert save(kept.model_copy(update={"shares": [*kept.shares, cell(world, "yusuf")]})) == [marit]
