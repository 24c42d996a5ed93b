"""One submittal on paper: all of it, read back by other programs; sent by mail in one act, which is logged."""

import io
import subprocess

import pytest
from pypdf import PdfReader

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.acts.replays import table_faults
from nod.services.submittals import record
from nod.services.submittals.record import SendRecord
from nod.services.threads import talk
from tests.services.mail_in.letters import email_of
from tests.services.submittals.acts import answer, ask, give, make, send_in
from tests.world import made_once


@made_once
def two_rounds(world):
    made = make(world, description="With loads.\nAnd anchors.")
    ask(world, made)
    send_in(world, made, note="First <b>try</b> & more.")
    give(world, made)
    answer(world, made, "C", note="The plate is missing.")
    send_in(world, made, files=3)
    give(world, made)
    talk.say(world.context, world.actor("marit"), "submittal", made, talk.Say(text="Which quay?"))
    return made


def words_of(content):
    return " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages).split())


def test_all_of_it_is_on_paper(world, two_rounds, tmp_path):
    made = record.take_record(world.context, world.actor("marit"), two_rounds)
    assert made.name == "GME-0001-rev-1.pdf"
    words = words_of(made.content)
    for told in (
        "GME-0001 rev 1 Mooring bollards, 100 t", "under review with Saoirse Tanaka", "shop drawing",
        "35 59 13 2.02.A", "With loads. And anchors.", "required 30 Jul 2027", "Revision 1", "Revision 0",
        "First <b>try</b> & more.", "The plate is missing.", "revise and resubmit", "file 2.pdf", "answer 0.pdf",
        "Which quay?", "sent in a submittal", "Taken by Marit Osei", "Page 1",
    ):  # fmt: skip
        assert told in words, told
    path = tmp_path / "it.pdf"
    path.write_bytes(made.content)
    said = subprocess.run(["pdftotext", "-layout", path, "-"], capture_output=True, text=True, check=True).stdout
    assert "The plate is missing." in said
    subprocess.run(["qpdf", "--check", path], check=True, capture_output=True)
    ((kind,),) = world.sql("SELECT kind FROM audit_entry ORDER BY seq DESC LIMIT 1")
    assert kind == "submittal_record_taken"


def test_what_is_ones_own_alone_is_not_put_on_paper(world, two_rounds):
    """Adding a file before it is sent in is an entry for whoever added it, and the paper goes to others."""
    content = record.take_record(world.context, world.actor("ottilie"), two_rounds).content
    assert "sent in a submittal" in words_of(content)
    assert "added a file" not in words_of(content)


def test_a_long_one_goes_over_pages_and_loses_nothing(world):
    made = make(world, description="Anchor plate. " * 280)
    ask(world, made)
    send_in(world, made, note="Word " * 790 + "last.")
    content = record.take_record(world.context, world.actor("marit"), made).content
    assert len(PdfReader(io.BytesIO(content)).pages) > 1
    assert "Word last." in words_of(content)
    assert words_of(content).count("Anchor plate.") >= 280


def send(world, submittal, *people, who="marit", note="For the meeting."):
    command = SendRecord(people=[world.cast.people.get(each, each) for each in people], note=note)
    return record.send_record(world.context, world.actor(who), submittal, command).people


def test_it_is_sent_to_anybody_of_the_project_and_outside_and_that_is_logged(world, two_rounds):
    world.send()
    assert send(world, two_rounds, "yusuf", "junpei", "yusuf") == 2
    mails = [payload for key, payload in world.send() if key.startswith("mail:submittal-sent-on")]
    assert {each["to_email"] for each in mails} == {email_of(world, "yusuf"), email_of(world, "junpei")}
    (enclosed,) = mails[0]["enclosed"]
    assert (enclosed["name"], enclosed["media_type"]) == ("GME-0001-rev-1.pdf", "application/pdf")
    with world.context.blobs.local(enclosed["sha256"]) as path:
        assert "Which quay?" in words_of(path.read_bytes())
    assert "For the meeting." in mails[0]["text"]
    ((body,),) = world.sql("SELECT body FROM audit_entry WHERE kind = 'submittal_sent_on'")
    for told in ("Yusuf Haldane", "Junpei Mori", enclosed["sha256"], "For the meeting."):
        assert told.encode() in body
    assert list(table_faults(world.context.database)) == []


def test_who_may_send_it_and_to_whom(world, two_rounds):
    with pytest.raises(NotAllowed):
        send(world, two_rounds, "yusuf", who="junpei")
    with pytest.raises(NotFound):
        send(world, two_rounds, "nobody")
    planned = make(world)
    with pytest.raises(NotFound):
        record.take_record(world.context, world.actor("junpei"), planned)
    assert send(world, two_rounds, "rafael", who="saoirse") == 1


def test_it_is_sent_to_an_address_typed_in_by_who_runs_the_project(world, two_rounds):
    """Who becomes an outside contact with it; for the others that is not to be done."""
    company = world.actor("ottilie").company_id
    given = record.ContactOfCompany(name="Nell Okonkwo", email="nell@gannetmarine.example", company_id=company)
    world.send()
    with pytest.raises(NotAllowed):
        record.send_record(world.context, world.actor("saoirse"), two_rounds, SendRecord(contact=given))
    sent = record.send_record(world.context, world.actor("marit"), two_rounds, SendRecord(contact=given))
    assert sent.people == 1
    mails = [payload for key, payload in world.send() if key.startswith("mail:submittal-sent-on")]
    assert [(each["to_email"], len(each["enclosed"])) for each in mails] == [(given.email, 1)]


def test_to_nobody_it_is_not_sent(world, two_rounds):
    with pytest.raises(RuleBroken, match="at least one person"):
        record.send_record(world.context, world.actor("marit"), two_rounds, SendRecord())
