"""Notices of the contract, and letters on paper: their days, how they were served, who sees to them (handbook §11)."""

from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.desk import read_desk
from nod.services.letters import drafts
from nod.services.trail.trail import TrailView, read_log
from tests.services.letters.acts import add, draft, half, keep, listed, person, read, reply, send, state, write

TODAY = date(2027, 3, 9)


def desk(world, who):
    lines = read_desk(world.context, world.actor(who), world.project_id).yours_now
    return [(line.name, line.standing.due_on) for line in lines if "not served" in line.detail]


def test_a_notice_runs_out_on_the_desk_until_it_is_served(world):
    begun = half(world, kind="N", aware_on=TODAY - timedelta(days=4))
    bar = date(2027, 4, 2)
    assert draft(world, begun).bar_on == bar
    assert desk(world, "marit") == desk(world, "rafael") == [("Bollards on the quay", bar)]
    for other in ("ottilie", "tomasz", "leilani"):
        assert desk(world, other) == []
    thread = draft(world, begun).letter_id
    assert read(world, thread, "rafael").messages == []
    with pytest.raises(NotFound):
        read(world, thread, "ottilie")
    letter = send(world, begun)
    shown = read(world, letter, "ottilie")
    assert (shown.aware_on, shown.bar_on) == (date(2027, 3, 5), bar)
    (message,) = shown.messages
    assert (message.served_how, message.served_on, message.spare_days) == ("through Nod", TODAY, 24)
    (line,) = listed(world).lines
    assert (line.bar_on, line.served_on) == (bar, TODAY)
    assert desk(world, "rafael") == []


def test_a_private_one_is_on_its_authors_desk_alone(world):
    begun = half(world, kind="N", aware_on=TODAY, private=True)
    assert desk(world, "rafael") == []
    assert len(desk(world, "marit")) == 1
    with pytest.raises(NotFound):
        read(world, draft(world, begun).letter_id, "rafael")
    keep(world, begun, private=False)
    assert len(desk(world, "rafael")) == 1
    keep(world, begun, kind="L")
    assert desk(world, "rafael") == desk(world, "marit") == []


def test_what_is_thrown_away_runs_out_for_nobody(world):
    begun = half(world, kind="N", aware_on=TODAY)
    command = drafts.LetterDraftVersion(version=draft(world, begun).version)
    drafts.drop_draft(world.context, world.actor("marit"), begun, command)
    assert desk(world, "rafael") == desk(world, "marit") == []
    assert world.sql("SELECT count(*) FROM open_work WHERE kind LIKE 'letter%'")[0][0] == 0


def test_how_it_was_served_is_said_with_the_evidence(world):
    letter = write(world, kind="N", aware_on=TODAY)
    world.clock.advance(timedelta(days=2))
    begun = drafts.begin_reply(world.context, world.actor("marit"), letter).message_id
    receipt = add(world, begun, name="receipt.pdf")
    served = TODAY + timedelta(days=1)
    keep(world, begun, page="<p>Handed over.</p>", files=[receipt], served_how="by hand", served_on=served)
    send(world, begun)
    last = read(world, letter, "ottilie").messages[-1]
    assert (last.served_how, last.served_on, last.spare_days) == ("by hand", served, 27)
    assert [each.name for each in last.files] == ["receipt.pdf"]
    with pytest.raises(RuleBroken) as refused:
        reply(world, letter, "ottilie", served_how="by hand", served_on=served)
    assert refused.value.code == "served_by_others"


@pytest.mark.parametrize(
    ("written", "code"),
    [
        ({}, "aware_missing"),
        ({"aware_on": TODAY + timedelta(days=1)}, "aware_to_come"),
        ({"aware_on": TODAY, "served_how": "by pigeon"}, "served_how_unknown"),
        ({"aware_on": TODAY, "served_on": TODAY - timedelta(days=1)}, "served_day_unfit"),
        ({"aware_on": TODAY, "served_on": TODAY + timedelta(days=1)}, "served_day_unfit"),
    ],
)
def test_days_that_cannot_be_are_said(world, written, code):
    with pytest.raises(RuleBroken) as refused:
        write(world, kind="N", **written)
    assert refused.value.code == code


def on_paper(world, who="marit", writer="yusuf", **more):
    begun = half(
        world, who, to=("rafael",), own_ref="SGS/114", other_ref="HBC-L-7", paper_from=world.cast.people[writer]
    )
    scan = add(world, begun, who, name="scan.pdf")
    days = {"dated_on": date(2027, 3, 2), "received_on": date(2027, 3, 5)}
    keep(world, begun, who, **{"files": [scan], "page": "", **days, **more})
    return begun


def test_a_letter_on_paper_is_filed_under_who_wrote_it_and_when(world):
    letter = send(world, on_paper(world))
    shown = read(world, letter)
    (message,) = shown.messages
    assert (message.way, message.author.name, message.forwarded_by.name) == (
        "paper",
        "Yusuf Haldane",
        "Marit Osei",
    )
    assert (message.dated_on, message.received_on) == (date(2027, 3, 2), date(2027, 3, 5))
    assert (message.own_ref, message.other_ref) == ("SGS/114", "HBC-L-7")
    assert message.written_at.date() == date(2027, 3, 2)
    assert shown.line.number == "SGS-HBC-L-0001"
    assert (shown.line.company, shown.line.written_by) == ("SGS", "Yusuf Haldane")
    mails = {payload["to_email"]: payload for key, payload in world.send() if key.startswith("mail:")}
    (text,) = [each["text"] for each in mails.values()]
    assert "A letter on paper from Yusuf Haldane (SGS), of 2 March 2027, came on 5 March 2027:" in text


@pytest.mark.parametrize(
    ("written", "code"),
    [
        ({"files": []}, "scan_missing"),
        ({"dated_on": None}, "paper_day_missing"),
        ({"received_on": date(2027, 3, 10)}, "paper_day_to_come"),
        ({"dated_on": date(2027, 3, 6)}, "paper_days_crossed"),
    ],
)
def test_a_letter_on_paper_has_its_days_and_its_scan(world, written, code):
    begun = on_paper(world, **{"page": "<p>About bolts.</p>", **written})
    with pytest.raises(RuleBroken) as refused:
        send(world, begun)
    assert refused.value.code == code


def test_nobody_but_who_runs_the_project_writes_in_anothers_name(world):
    begun = on_paper(world, "ottilie", "marit")
    assert not draft(world, begun, "ottilie").may_put_in_paper
    with pytest.raises(NotAllowed):
        send(world, begun, "ottilie")


def test_since_when_a_bar_runs_is_in_the_trail_for_its_author_alone(world):
    begun = half(world, kind="N", aware_on=TODAY - timedelta(days=4))
    keep(world, begun, aware_on=TODAY - timedelta(days=2))
    letter = send(world, begun)

    def told(who):
        view = TrailView(project_id=world.project_id, subject_id=letter)
        entries = read_log(world.context, world.actor(who), view).entries
        return [each.after["time bar"] for each in entries if each.kind == "letter_bar_set"]

    assert told("marit") == ["2027-04-04", "2027-04-02"]
    for other in ("ottilie", "rafael", "tomasz"):
        assert told(other) == []


def test_an_answer_on_paper_lands_in_its_thread(world):
    letter = write(world, to=("yusuf",), kind="RFI", asked_id=world.cast.people["yusuf"])
    begun = drafts.begin_reply(world.context, world.actor("marit"), letter).message_id
    scan = add(world, begun, name="answer.pdf")
    keep(
        world, begun, files=[scan], paper_from=world.cast.people["yusuf"], dated_on=TODAY, received_on=TODAY,
        is_answer=True,
    )  # fmt: skip
    send(world, begun)
    last = read(world, letter).messages[-1]
    assert (last.author.name, last.is_answer, state(world, letter)) == ("Yusuf Haldane", True, "answered")
    with pytest.raises(NotFound):
        keep(world, half(world), to=[person(world, "ottilie")], paper_from="nobody", dated_on=TODAY, received_on=TODAY)
        send(world, on_paper(world, paper_from="nobody"))
