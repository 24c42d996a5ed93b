"""What is sent in is registered by rule; a submittal on a route is answered by the review's outcome (handbook §9)."""

import io
import json
from datetime import timedelta

import pikepdf
import pytest

from nod.core.acts.refusals import RuleBroken
from nod.services.reviews import changing
from nod.services.submittals import on_route
from tests.services.submittals import acts as do
from tests.world import pdf


@pytest.fixture
def sent(world):
    """Bollards sent in by Ottilie with two files, looked into and registered."""
    submittal = do.make(world)
    do.ask(world, submittal)
    do.send_in(world, submittal, files=2)
    settle(world)
    return submittal


def settle(world):
    world.look()
    world.send()


def registered(world, submittal):
    query = """SELECT d.number, d.title, d.revision, d.status, f.name FROM submittal_file s
        JOIN submittal_round r ON r.id = s.round_id JOIN revision v ON v.id = s.revision_id
        JOIN document d ON d.id = v.document_id JOIN folder f ON f.id = d.folder_id
        WHERE r.submittal_id = ? ORDER BY d.number"""
    return world.sql(query, submittal)


def give(world, submittal, who="marit", route=None):
    command = on_route.GiveToRoute(version=do.version(world, submittal), route_id=route or world.cast.route_id)
    on_route.give_to_route(world.context, world.actor(who), submittal, command)
    return world.sql("SELECT review_id FROM submittal WHERE id = ?", submittal)[0][0]


def decide(world, review, verdict):
    """Through the two steps of the world's route."""
    world.pick_up(review, "leilani")
    world.hand_in(review, "leilani", comment="Looked at.")
    world.hand_in(review, "saoirse", verdict)


def test_what_is_sent_in_is_registered_by_rule(world, sent):
    number = do.seen(world, sent).line.number
    assert registered(world, sent) == [
        (f"{number}-0-01", "Mooring bollards, 100 t: file 0", "P01", "S0", "Submittals"),
        (f"{number}-0-02", "Mooring bollards, 100 t: file 1", "P01", "S0", "Submittals"),
    ]
    (shown,) = do.seen(world, sent).rounds
    assert [each.number for each in shown.registered] == [f"{number}-0-01", f"{number}-0-02"]
    assert {each.attachment_id for each in shown.registered} == {each.id for each in shown.files}
    # Doing it once more, as after a kill, changes nothing.
    world.write("UPDATE outbox SET done_at = NULL WHERE kind = 'file_sent_in'")
    settle(world)
    assert len(registered(world, sent)) == 2


def test_the_folder_is_for_those_who_run_and_review(world, sent):
    """What one company sent in is not for another in the register; their own they have in the submittal."""
    assert [each.number for each in do.seen(world, sent, "ottilie").rounds[0].registered] == []
    assert len(do.seen(world, sent, "ottilie").rounds[0].files) == 2
    assert [row.number for row in world.list("ottilie").lines if "-0-0" in row.number] == []


def test_a_round_has_numbers_of_its_own(world, sent):
    do.give(world, sent)
    do.answer(world, sent, "C")
    do.send_in(world, sent)
    settle(world)
    numbers = [row[0] for row in registered(world, sent)]
    assert [each.rpartition("-")[0].rpartition("-")[2] for each in numbers] == ["0", "0", "1"]


def test_a_number_that_is_taken_is_left_to_whoever_has_it(world):
    submittal = do.make(world, number="BFT-TRA-00-ZZ-D-A-0101")
    do.ask(world, submittal)
    do.send_in(world, submittal)
    settle(world)
    taken = registered(world, submittal)[0][0]
    other = do.make(world, number="OTHER")
    world.write(f"UPDATE submittal SET number = 'GONE' WHERE id = '{submittal}'")
    world.write(f"UPDATE submittal SET number = 'BFT-TRA-00-ZZ-D-A-0101' WHERE id = '{other}'")
    do.ask(world, other)
    do.send_in(world, other)
    settle(world)
    assert registered(world, other)[0][0] == taken[:-1] + "2"


def locked():
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf("locked"))) as file:
        file.save(out, encryption=pikepdf.Encryption(owner="o", user="secret"))
    return out.getvalue()


def test_only_its_content_keeps_a_file_out_and_that_is_told(world):
    """Known by then, it is refused at once, and nothing is sent in; found later, the rest is registered."""
    submittal = do.make(world)
    do.ask(world, submittal)
    files = [
        do.add(world, submittal, "ottilie", "locked.pdf", locked()),
        do.add(world, submittal, "ottilie", "fine.pdf"),
    ]
    command = do.sending_in.SendIn(version=do.version(world, submittal), files=files)
    do.sending_in.send_in(world.context, world.actor("ottilie"), submittal, command)
    settle(world)
    assert [row[0][-5:] for row in registered(world, submittal)] == ["-0-02"]
    shown = {each.number[-5:]: each.trouble for each in do.seen(world, submittal).rounds[0].registered}
    assert "password" in shown[""].lower()
    told = world.sql("SELECT person_id, words FROM notice WHERE words LIKE '%could not be registered%'")
    assert {row[0] for row in told} == {world.cast.people["ottilie"], world.cast.people["marit"]}
    mailed = world.sql("SELECT count(*) FROM outbox WHERE kind = 'mail' AND payload LIKE '%locked.pdf: %'")
    assert mailed[0][0]

    again = do.make(world)
    do.ask(world, again)
    known = do.add(world, again, "ottilie", "locked.pdf", locked())
    world.look()
    command = do.sending_in.SendIn(version=do.version(world, again), files=[known])
    with pytest.raises(RuleBroken, match=r"^locked\.pdf: .*password"):
        do.sending_in.send_in(world.context, world.actor("ottilie"), again, command)
    assert do.state(world, again) == "asked for"


def test_what_is_not_looked_into_yet_is_registered_later(world):
    submittal = do.make(world)
    do.ask(world, submittal)
    do.send_in(world, submittal)
    world.send()
    assert registered(world, submittal) == []
    with pytest.raises(RuleBroken) as refused:
        give(world, submittal)
    assert refused.value.code == "still_looking"
    world.look()
    world.clock.set(world.clock.now() + timedelta(seconds=5))
    world.send()
    assert len(registered(world, submittal)) == 1


def test_the_outcome_of_the_review_is_the_answer(world, sent):
    review = give(world, sent)
    line = do.seen(world, sent).line
    assert (line.state, line.standing.with_whom != "") == ("under review", True)
    assert not {"answer", "answer for", "give", "void", "remind"} & set(line.may)
    with pytest.raises(RuleBroken) as refused:
        do.answer(world, sent, "A", who="marit", on_behalf=True)
    assert refused.value.code == "submittal_on_route"
    decide(world, review, "B")
    settle(world)
    shown = do.seen(world, sent)
    (first,) = shown.rounds
    assert (shown.line.state, shown.line.verdict, first.verdict.code) == ("answered", "B", "B")
    assert (first.approver.id, first.answered_by.id) == (world.cast.people["saoirse"],) * 2
    assert [each.name.rpartition("_")[2] for each in first.answer_files] == ["record.pdf", "comments.pdf"]
    assert first.review.id == review
    assert f"{shown.line.number}-0-02 B" in first.answer_note
    settle(world)
    assert len(do.seen(world, sent).rounds) == 1


def test_the_gravest_verdict_counts_and_revise_opens_the_next_round(world, sent):
    review = give(world, sent)
    world.pick_up(review, "leilani")
    world.hand_in(review, "leilani", comment="Looked at.")
    world.hand_in(review, "saoirse", "A", **{"n0-02": "C"})
    settle(world)
    shown = do.seen(world, sent)
    assert (shown.line.state, shown.line.revision, shown.rounds[0].verdict.code) == ("asked for", 1, "C")


def test_a_cancelled_review_gives_it_back(world, sent):
    review = give(world, sent)
    seen = world.review(review)
    command = changing.CancelReview(version=seen.version, reason="Wrong route taken.")
    changing.cancel_review(world.context, world.actor("marit"), review, command)
    settle(world)
    shown = do.seen(world, sent)
    assert (shown.line.state, shown.rounds[0].review) == ("sent in", None)
    ((body,),) = world.sql("SELECT body FROM audit_entry WHERE kind = 'submittal_returned'")
    # By nobody: who cancelled stands in the trail of the review.
    returned = json.loads(body)
    assert (returned["who"]["name"], returned["why"]) == ("Nod", "Wrong route taken.")
    do.give(world, sent)
    assert do.state(world, sent) == "under review"


def test_a_route_on_which_nobody_decides_answers_nothing(world, sent):
    route = world.sql("SELECT id, stages FROM route WHERE id = ?", world.cast.route_id)[0]
    world.write(f"UPDATE route SET stages = replace(stages, '\"decide\"', '\"comment\"') WHERE id = '{route[0]}'")
    with pytest.raises(RuleBroken) as refused:
        give(world, sent)
    assert refused.value.code == "route_decides_nothing"
    assert do.state(world, sent) == "sent in"


def test_the_review_says_what_it_answers(world, sent):
    review = give(world, sent)
    assert world.review(review, "marit").answers.target == sent
