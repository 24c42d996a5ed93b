"""The distribution matrix as it comes of real acts: what is due to whom, against a second reading, and its drafts."""

import random
from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.trail.entries import instant_text
from nod.services.register import withdrawals
from nod.services.setup import distribution as matrix
from nod.services.setup.distribution import DistributionLine, SetDistribution, ShareSet, TryDistribution
from nod.services.transmittals import distribution, drafts, transmittals
from nod.services.transmittals.distribution import PrepareDue
from tests.services.transmittals.test_holders import company, send
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

FIRE = "BFT-NFA-Z1-00-D-F-0500"


def cell(world, who, share="act"):
    return ShareSet(kind="company", id=company(world, who), share=share)


def role(code, share="know"):
    return ShareSet(kind="role", id=code, share=share)


def set_matrix(world, *lines):
    version = matrix.read_distribution(world.context, world.actor("rafael"), world.project_id).version
    command = SetDistribution(version=version, lines=list(lines))
    matrix.set_distribution(world.context, world.actor("rafael"), world.project_id, command)


def due(world):
    """By company code: what is due as `number revision`, with a star where it is to know, in brackets in a draft."""
    found = distribution.read_due(world.context, world.actor("marit"), world.project_id)
    return {each.code: [_words(one) for one in each.documents] for each in found.companies}


def _words(one):
    return f"{'(' if one.in_draft else ''}{one.number} {one.revision}{'' if one.act else '*'}"


def prepare(world, *who):
    command = PrepareDue(project_id=world.project_id, companies=[company(world, each) for each in who])
    return distribution.prepare_due(world.context, world.actor("marit"), command).drafts


def content(world, draft_id):
    return drafts.read_draft(world.context, world.actor("marit"), draft_id).content


def test_what_is_filed_is_due_until_it_is_sent_and_again_at_the_next_revision(world):
    set_matrix(world, DistributionLine(discipline="A", form="D", purpose="comment", shares=[cell(world, "leilani")]))
    assert due(world) == {}
    world.file(name(), name(number=FIRE))
    assert due(world) == {"PLS": [f"{NUMBER} P01"]}
    (made,) = prepare(world, "leilani")
    assert (made.company, made.documents) == ("PLS", 1)
    assert due(world) == {"PLS": [f"({NUMBER} P01"]}
    draft = content(world, made.id)
    assert (draft.purpose, draft.people) == ("comment", [world.cast.people["leilani"]])
    with pytest.raises(RuleBroken) as refused:
        prepare(world, "leilani")
    assert refused.value.code == "nothing_due"
    command = transmittals.SendTransmittal(
        project_id=world.project_id, revisions=draft.revisions, people=draft.people, purpose=draft.purpose,
        draft_id=made.id, draft_version=1,
    )  # fmt: skip
    transmittals.send_transmittal(world.context, world.actor("marit"), command)
    assert due(world) == {}
    world.file(name(revision="P02"), content=pdf("changed"))
    assert due(world) == {"PLS": [f"{NUMBER} P02"]}
    version = world.sql("SELECT version FROM document WHERE number = ?", NUMBER)[0][0]
    gone = withdrawals.Withdraw(version=version, reason="Not built any more")
    withdrawals.withdraw(world.context, world.actor("marit"), world.document(NUMBER)[0], gone)
    assert due(world) == {}


def test_a_status_a_verdict_and_a_release_make_it_due(world):
    documents = world.file(name(), name(number=OTHER_NUMBER))
    lines = {
        "leilani": DistributionLine(status="A1", when="filed", shares=[cell(world, "leilani")]),
        "anouk": DistributionLine(when="accepted", shares=[cell(world, "anouk")]),
        "dede": DistributionLine(when="released", shares=[cell(world, "dede")]),
    }
    set_matrix(world, *lines.values())
    assert due(world) == {}
    review = world.start(*documents)
    world.pick_up(review, "leilani")
    world.hand_in(review, "leilani")
    world.hand_in(review, "saoirse", **{f"n{NUMBER[-4:]}": "A", f"n{OTHER_NUMBER[-4:]}": "C"})
    assert due(world) == {"BHT": [f"{NUMBER} P01"]}
    world.file(name(revision="C01"), content=pdf("for construction"))
    assert due(world) == {}
    world.set_status(world.document(NUMBER)[1], "A1")
    assert due(world) == {"NFA": [f"{NUMBER} C01"], "PLS": [f"{NUMBER} C01"]}


def test_company_and_roles_unite_in_one_draft_each_to_act_and_to_know(world):
    world.file(name(), name(number=FIRE))
    with world.context.database.read() as session:
        companies = distribution.companies_here(session, world.project_id)
    code = next(iter(next(each.roles for each in companies if each.code == "PLS")))
    by_role = role(code, "act")
    set_matrix(
        world,
        DistributionLine(discipline="A", purpose="approval", shares=[cell(world, "leilani", "know"), by_role]),
        DistributionLine(discipline="F", shares=[cell(world, "leilani", "know")]),
    )  # fmt: skip
    assert due(world)["PLS"] == [f"{FIRE} P01*", f"{NUMBER} P01"]
    assert len(due(world)) == sum(code in each.roles for each in companies)
    made = [content(world, each.id) for each in prepare(world, "leilani")]
    act, know = sorted(made, key=lambda each: each.purpose)
    assert (act.purpose, know.purpose) == ("approval", "information")
    assert act.revisions == [world.document(NUMBER)[1]]
    assert act.people == know.people == [world.cast.people["leilani"]]


def test_whoever_it_came_from_and_whoever_holds_a_later_one_is_owed_nothing(world):
    ((_, p01),) = world.file(name())
    ((_, p02),) = world.file(name(revision="P02"), content=pdf("changed"))
    set_matrix(world, DistributionLine(shares=[cell(world, "yusuf"), cell(world, "leilani")]))
    send(world, p01, to=("leilani",))
    send(world, p02, to=("yusuf",))
    assert due(world) == {"PLS": [f"{NUMBER} P02"]}
    came = world.sql("SELECT name FROM company WHERE id = ?", company(world, "leilani"))[0][0]
    with world.context.database.write() as session:
        session.connection().exec_driver_sql("UPDATE revision SET came_from = ?", (came,))
    assert due(world) == {}


def test_what_was_filed_before_the_day_it_counts_from_is_left_out(world):
    world.file(name())
    world.clock.advance(timedelta(days=2))
    world.file(name(number=OTHER_NUMBER))
    set_matrix(world, DistributionLine(since=world.clock.now().date(), shares=[cell(world, "anouk")]))
    assert due(world) == {"BHT": [f"{OTHER_NUMBER} P01"]}


def test_a_change_is_tried_before_it_is_kept_and_stands_in_the_trail(world):
    world.file(name(), name(number=OTHER_NUMBER))
    lines = [DistributionLine(shares=[cell(world, "leilani")])]
    command = TryDistribution(lines=lines)
    tried = matrix.try_distribution(world.context, world.actor("marit"), world.project_id, command)
    assert [(each.company, each.before, each.after) for each in tried.changes] == [("PLS", 0, 2)]
    assert due(world) == {}
    set_matrix(world, *lines)
    shown = matrix.read_distribution(world.context, world.actor("marit"), world.project_id)
    assert shown.lines == lines
    assert "rules_changed" in world.kinds()
    tried = matrix.try_distribution(world.context, world.actor("marit"), world.project_id, command)
    assert tried.changes == []


def test_who_does_not_run_the_project_is_not_told(world):
    with pytest.raises(NotAllowed):
        distribution.read_due(world.context, world.actor("anouk"), world.project_id)
    nothing = SetDistribution(version=1, lines=[])
    with pytest.raises(NotAllowed):
        matrix.set_distribution(world.context, world.actor("marit"), world.project_id, nothing)
    with pytest.raises(NotFound):
        distribution.prepare_due(
            world.context, world.actor("marit"), PrepareDue(project_id=world.project_id, companies=["none"])
        )  # fmt: skip


@pytest.mark.parametrize("seed", range(6))
def test_a_second_reading_of_random_histories(world, seed):
    """Documents filed, given statuses, sent and voided at random; each document and company worked out one by one."""
    dice = random.Random(seed)  # noqa: S311 - the same history every time
    numbers = (NUMBER, OTHER_NUMBER, FIRE, "BFT-PLS-Z1-00-D-S-0200", "BFT-HBC-Z1-00-S-A-0603")
    people = ("leilani", "anouk", "dede", "yusuf")
    world.file(*(name(number=each) for each in numbers))
    for _ in range(12):
        number = dice.choice(numbers)
        document, revision = world.document(number)
        if dice.random() < 0.3:
            code = f"P{int(world.sql('SELECT revision FROM document WHERE id = ?', document)[0][0][1:]) + 1:02d}"
            world.file(name(number=number, revision=code), content=pdf(f"{number} {code}"))
        elif dice.random() < 0.4:
            status = dice.choice(("S2", "S3"))
            if world.sql("SELECT status FROM revision WHERE id = ?", revision)[0][0] != status:
                world.set_status(revision, status)
        else:
            (some,) = dice.choice(world.sql("SELECT id FROM revision WHERE document_id = ?", document))
            send(world, some, to=(dice.choice(people),))
    lines = [
        DistributionLine(
            discipline=dice.choice(("", "A", "S")), form=dice.choice(("", "D")), status=status, purpose="approval",
            since=dice.choice((None, date(2027, 1, 1))),
            shares=[cell(world, who, dice.choice(("act", "know"))) for who in dice.sample(people, 3)],
        )
        for status in ("", "S2", "S3")
    ]  # fmt: skip
    set_matrix(world, *lines)
    assert due(world) == _by_hand(world, lines, people), instant_text(world.clock.now())


def _by_hand(world, lines, people):
    found = {}
    for who in people:
        id = company(world, who)
        code, own_name = world.sql("SELECT code, name FROM company WHERE id = ?", id)[0]
        for document, number, discipline, form, status, came_from, revision, place in world.sql(_LATEST):
            cells = [
                each.share for line in lines for each in line.shares
                if each.id == id and line.discipline in ("", discipline) and line.form in ("", form)
                and line.status in ("", status) and came_from != own_name
            ]  # fmt: skip
            sent = world.sql(_SENT, document, id)[0][0]
            if cells and (sent is None or sent < place):
                found.setdefault(code, []).append(f"{number} {revision}{'' if 'act' in cells else '*'}")
    return dict(sorted(found.items()))


_LATEST = """SELECT d.id, d.number, d.discipline, d.form, r.status, r.came_from, r.code, r.place
    FROM document d JOIN revision r ON r.id = d.revision_id ORDER BY d.number"""
_SENT = """SELECT max(r.place) FROM transmittal_document t JOIN revision r ON r.id = t.revision_id
    JOIN recipient p ON p.transmittal_id = t.transmittal_id WHERE t.document_id = ? AND p.company_id = ?"""
