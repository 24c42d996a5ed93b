import shutil
import subprocess
import zipfile
from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.transmittals import checking, guests, transmittals, transmittals_view
from nod.services.transmittals.guests import Acknowledge
from nod.services.transmittals.recipients import guest_token
from tests.services.links.visiting import enter
from tests.world import NUMBER, OTHER_NUMBER, bytes_of, name, pdf


@pytest.fixture
def closed(world):
    return world.once(_close)


def _close(world):
    documents = world.file(name(), name(number=OTHER_NUMBER))
    return world.closed_review(*documents, verdict="B"), documents


def _send(world, closed, to=("yusuf", "anouk"), who="marit", **more):
    review_id, documents = closed
    command = transmittals.SendTransmittal(
        project_id=world.project_id,
        revisions=[revision for _, revision in documents],
        people=[world.cast.people[each] for each in to],
        **{"purpose": "construction", "note": "Please build.", "review_id": review_id, **more},
    )
    return transmittals.send_transmittal(world.context, world.actor(who), command)


def _tokens(world):
    rows = world.sql("SELECT id FROM recipient ORDER BY place")
    return [guest_token(world.context, row[0]) for row in rows]


def _times(world, sent, who="marit"):
    shown = transmittals_view.read_transmittal(world.context, world.actor(who), sent.id)
    return {each.who.name: each for each in shown.recipients}


def test_what_was_sent_stays_as_it_was(world, closed):
    sent = _send(world, closed)
    assert sent.number == "HBC-T-0001"
    world.file(name(revision="P02"))
    shown = transmittals_view.read_transmittal(world.context, world.actor("marit"), sent.id)
    assert {(each.number, each.revision, each.standing.kind) for each in shown.documents} == {
        (NUMBER, "P01", "superseded"),
        (OTHER_NUMBER, "P01", "unreleased"),
    }
    assert world.review(closed[0]).transmittals == ["HBC-T-0001"]


def test_what_was_superseded_before_it_was_sent_is_not_superseded_since(world, closed):
    world.clock.advance(timedelta(hours=1))
    world.file(name(revision="P02"))
    world.clock.advance(timedelta(hours=1))
    sent = _send(world, closed)
    world.clock.advance(timedelta(hours=1))
    world.file(name(OTHER_NUMBER, revision="P02"))
    shown = transmittals_view.read_transmittal(world.context, world.actor("marit"), sent.id)
    assert {each.number: each.older_then for each in shown.documents} == {NUMBER: True, OTHER_NUMBER: False}


def test_a_copy_is_mailed_and_wants_nothing(world, closed):
    sent = _send(world, closed, to=("yusuf",), copied=[world.cast.people["anouk"], world.cast.people["yusuf"]])
    shown = transmittals_view.read_transmittal(world.context, world.actor("marit"), sent.id)
    assert [(each.who.name.split()[0], each.copied) for each in shown.recipients] == [("Yusuf", False), ("Anouk", True)]
    assert (shown.line.recipients, shown.line.with_whom) == (1, shown.recipients[0].who.name)
    mails = {p["to_email"].split("@")[0]: p["text"] for k, p in world.send() if k.startswith("mail:recipient:")}
    assert "as a copy" in mails["anouk"]
    assert "as a copy" not in mails["yusuf"]


def test_numbers_run_per_sending_company(world, closed):
    assert _send(world, closed).number == "HBC-T-0001"
    assert _send(world, closed, who="tomasz").number == "TRA-T-0001"
    assert _send(world, closed).number == "HBC-T-0002"


def test_the_pack_holds_the_exact_files_and_a_cover_sheet(world, closed, tmp_path):
    sent = _send(world, closed, answer_wanted_on=date(2027, 3, 20))
    world.send()
    pack = guests.download_part(world.context, world.actor("marit"), sent.id, "pack")
    with pack.content as path, zipfile.ZipFile(path) as opened:
        assert opened.testzip() is None
        assert sorted(opened.namelist()) == sorted(f"HBC-T-0001/{each}" for each in (
            "bagit.txt", "bag-info.txt", "manifest-sha256.txt", "tagmanifest-sha256.txt",
            "proof/HOW-TO-CHECK.txt", "proof/key.txt", "proof/sending.json",
            "data/HBC-T-0001_cover.pdf", "data/HBC-T-0001_list.csv",
            f"data/{OTHER_NUMBER}_P01_S3.pdf", f"data/{NUMBER}_P01_S3.pdf",
        ))  # fmt: skip
        assert opened.read(f"HBC-T-0001/data/{NUMBER}_P01_S3.pdf") == pdf(name())
    cover = guests.download_part(world.context, world.actor("marit"), sent.id, "cover")
    target = tmp_path / "cover.pdf"
    target.write_bytes(bytes_of(cover))
    text = _poppler_text(target)
    # The seal with this sending in it, to the letter.
    (note,) = (row[0] for row in world.sql("SELECT note FROM seal ORDER BY size DESC LIMIT 1"))
    assert note.split("\n")[2] in text
    for words in (NUMBER, OTHER_NUMBER, "P01", "HBC-T-0001", "For construction", "Yusuf Haldane", "20 March 2027", "B"):
        assert words in text
    check = subprocess.run(["qpdf", "--check", str(target)], capture_output=True, text=True, check=False)
    assert check.returncode == 0, check.stderr


def _poppler_text(path):
    """Read by poppler, which had no hand in writing it."""
    if not shutil.which("pdftotext"):
        pytest.skip("poppler-utils is not installed")
    return subprocess.run(["pdftotext", "-layout", str(path), "-"], capture_output=True, text=True, check=True).stdout


def test_mail_goes_out_once_it_is_packed_with_a_link_of_ones_own(world, closed):
    _send(world, closed)
    sent = world.send()
    mails = [payload for key, payload in sent if key.startswith("mail:recipient:")]
    assert sorted(mail["to_email"] for mail in mails) == ["anouk@brackwater.example", "yusuf@sparrowgate.example"]
    assert all("{link}" in mail["text"] and mail["link"]["of"] for mail in mails)
    assert len({mail["then"]["payload"]["recipient_id"] for mail in mails}) == 2


def test_each_thing_a_recipient_does_has_its_time(world, closed):
    sent = _send(world, closed)
    world.send()
    yusuf, _ = _tokens(world)
    yusuf = enter(world, yusuf)
    view = guests.read_as_guest(world.context, yusuf)
    assert (view.number, len(view.documents), view.packed) == ("HBC-T-0001", 2, True)
    world.clock.advance(timedelta(hours=1))
    assert guests.download_as_guest(world.context, yusuf, "pack").name == "HBC-T-0001.zip"
    world.clock.advance(timedelta(hours=1))
    guests.acknowledge(world.context, yusuf, Acknowledge())
    guests.acknowledge(world.context, yusuf, Acknowledge())
    times = _times(world, sent)
    yusufs = times["Yusuf Haldane"]
    assert yusufs.opened_at < yusufs.downloaded_at < yusufs.acknowledged_at
    assert times["Anouk Ferreira"].opened_at is None
    assert world.kinds().count("transmittal_acknowledged") == 1


def test_a_member_acknowledges_in_the_app_and_nobody_for_another(world, closed):
    sent = _send(world, closed, to=("anouk",))
    with pytest.raises(NotFound):
        guests.acknowledge_as_member(world.context, world.actor("leilani"), sent.id)
    with pytest.raises(NotAllowed):
        guests.acknowledge_as_member(world.context, world.actor("tomasz"), sent.id)
    guests.acknowledge_as_member(world.context, world.actor("anouk"), sent.id)
    assert _times(world, sent)["Anouk Ferreira"].acknowledged_at


@pytest.mark.parametrize("token", ["", "x", "0" * 64])
def test_a_made_up_link_leads_nowhere(world, closed, token):
    _send(world, closed)
    with pytest.raises(NotFound):
        enter(world, token)
    with pytest.raises(NotFound):
        guests.read_as_guest(world.context, token)
    with pytest.raises(NotFound):
        guests.acknowledge(world.context, token, Acknowledge())
    with pytest.raises(NotFound):
        guests.download_as_guest(world.context, token, "pack")


@pytest.mark.parametrize(("change", "code"), [({"to": ()}, "no_recipients"), ({"purpose": "fun"}, "purpose_unknown")])
def test_what_is_missing_is_named(world, closed, change, code):
    with pytest.raises(RuleBroken) as refused:
        _send(world, closed, **change)
    assert refused.value.code == code


def test_a_transmittal_of_nothing_is_refused(world, closed):
    with pytest.raises(RuleBroken) as refused:
        _send(world, (closed[0], []))
    assert refused.value.code == "no_documents"


def test_strangers_and_strange_documents_are_refused(world, closed):
    with pytest.raises(NotFound):
        _send(world, (closed[0], [("x", "nothing")]))
    with pytest.raises(NotFound):
        _send(world, closed, review_id="nothing")
    with pytest.raises(NotAllowed):
        _send(world, closed, who="leilani")


def test_the_sender_is_warned_of_superseded_and_unapproved(world, closed):
    world.file(name(revision="P02"))
    new = world.document(NUMBER)[1]
    first = closed[1][0][1]
    found = _check(world, first, new)
    assert {each.revision_id: each.stops for each in found.lines} == {
        first: ["Superseded. The latest is P02; nothing is in force."], new: ["Not released."],
    }  # fmt: skip
    assert found.stops == 2


def _check(world, *revisions, to=(), who="marit"):
    command = checking.CheckSending(
        project_id=world.project_id, revisions=list(revisions), people=[world.cast.people[each] for each in to],
        purpose="construction",
    )  # fmt: skip
    return checking.check_sending(world.context, world.actor(who), command)


def test_what_is_good_to_know_stands_at_its_line(world, closed):
    first, second = (revision for _, revision in closed[1])
    _send(world, closed, to=("anouk",))
    world.start(closed[1][1], name="Round two")
    hidden, document = world.cast.folders["Contractor only"], closed[1][0][0]
    world.write(f"UPDATE document SET folder_id = '{hidden}' WHERE id = '{document}'")
    found = _check(world, first, second, to=("anouk", "yusuf"))
    assert [each.notes for each in found.lines] == [
        ["Anouk Ferreira has exactly this.", "Anouk Ferreira could not see it in Nod, and gets it by this."],
        ["In RV-0002.", "Anouk Ferreira has exactly this."],
    ]
