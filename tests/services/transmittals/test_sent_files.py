"""What goes along with the documents: natives, stamped copies, copies with marks; and files that go with the mail."""

import io
import json
import subprocess
import zipfile
from datetime import timedelta

import bagit
import pypdf
import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.acts.work import Job
from nod.services.intake import intake
from nod.services.sessions import records
from nod.services.setup import setup, setup_view
from nod.services.setup.setup import SetAttachmentFolders
from nod.services.transmittals import drafts, guest_sheets, guests, previewing, received_view, transmittals_view
from nod.services.transmittals.packages import pack_bag
from nod.services.transmittals.sent_files import make_copies
from nod.services.transmittals.transmittals import SendTransmittal
from nod.services.transmittals.voiding import VoidTransmittal, void_transmittal
from tests.services.sessions.meeting import be_here, close, draw, make, person, work
from tests.services.transmittals.test_bags import _taken
from tests.services.transmittals.test_holders import send
from tests.services.transmittals.test_previewing import state_of
from tests.services.transmittals.test_recipients_page import _visit
from tests.services.transmittals.test_transmittals import _send
from tests.world import NUMBER, OTHER_NUMBER, bytes_of, name, pdf

DWG = b"AC1032" + b"\0" * 500


def _file(world):
    """One with a native, one with a mark in ink."""
    native = name().replace(".pdf", ".dwg")
    world.register(world.arrive({name(): pdf(name()), native: DWG, name(OTHER_NUMBER): pdf("two")}))
    documents = [world.document(each) for each in (NUMBER, OTHER_NUMBER)]
    world.ink(documents[1][1], world.draw(documents[1][1], text="Move this door"))
    return documents


@pytest.fixture
def filed(world):
    return world.once(_file)


def sent_with(world, filed, **more):
    sent = _send(world, (None, filed), to=("yusuf",), **more)
    world.send()
    return sent


def opened(world, sent, tmp_path):
    with zipfile.ZipFile(io.BytesIO(_taken(world, sent))) as pack:
        pack.extractall(tmp_path)
    return tmp_path / sent.number


def poppler(content):
    return subprocess.run(["pdftotext", "-", "-"], input=content, capture_output=True, check=True).stdout.decode()


def test_the_bag_has_what_was_asked_for_and_is_whole(world, filed, tmp_path):
    sent = sent_with(world, filed, natives=True, stamped=True, marks="marked")
    bag = opened(world, sent, tmp_path)
    bagit.Bag(str(bag)).validate()
    names = sorted(str(each.relative_to(bag / "data")) for each in (bag / "data").rglob("*") if each.is_file())
    copies = "HBC-T-0001_copies"
    assert names == sorted([
        "HBC-T-0001_cover.pdf", "HBC-T-0001_list.csv",
        f"{NUMBER}_P01_S3.pdf", f"{NUMBER}_P01_S3.dwg", f"{OTHER_NUMBER}_P01_S3.pdf",
        f"{copies}/{NUMBER}_P01_S3_stamped.pdf", f"{copies}/{OTHER_NUMBER}_P01_S3_stamped.pdf",
        f"{copies}/{OTHER_NUMBER}_P01_S3_marks.pdf",
    ])  # fmt: skip
    assert (bag / "data" / f"{NUMBER}_P01_S3.dwg").read_bytes() == DWG
    stamped = (bag / "data" / copies / f"{NUMBER}_P01_S3_stamped.pdf").read_bytes()
    words = " ".join(poppler(stamped).split())
    for said in (f"{NUMBER} P01 S3", "HBC-T-0001, For construction", "09 Mar 2027", "Still current?"):
        assert said in words
    # In its own size: what is measured on it is what is measured on the sheet.
    box = pypdf.PdfReader(io.BytesIO(stamped)).pages[0].mediabox
    assert (round(float(box.width) / 72 * 25.4), round(float(box.height) / 72 * 25.4)) == (420, 297)
    marked = pypdf.PdfReader(bag / "data" / copies / f"{OTHER_NUMBER}_P01_S3_marks.pdf")
    assert [each.get_object().get("/Contents") for each in marked.pages[0]["/Annots"]][:1] == ["Move this door"]
    for each in (bag / "data" / copies).iterdir():
        assert subprocess.run(["qpdf", "--check", str(each)], capture_output=True, check=False).returncode == 0


def test_the_sending_names_the_natives_and_what_goes_along(world, filed):
    sent_with(world, filed, natives=True, stamped=True, marks="summary")
    ((body,),) = world.sql("SELECT body FROM audit_entry WHERE kind = 'transmittal_sent'")
    after = json.loads(body)["after"]
    assert after["with"] == "native files, stamped copies and summaries of their marks"
    assert [each.split("  ")[1] for each in after["files"]] == [
        f"{NUMBER}_P01_S3.pdf", f"{OTHER_NUMBER}_P01_S3.pdf", f"{NUMBER}_P01_S3.dwg",
    ]  # fmt: skip


def test_the_bag_is_the_same_when_it_is_made_again(world, filed):
    sent = sent_with(world, filed, natives=True, stamped=True, marks="summary")
    ((before,),) = world.sql("SELECT pack_sha256 FROM transmittal")
    world.clock.advance(timedelta(days=3))
    assert pack_bag(world.context, sent.id).sha256 == before


def test_mail_and_cover_say_what_goes_along(world, filed, tmp_path):
    sent = _send(world, (None, filed), to=("yusuf",), stamped=True)
    mails = [payload["text"] for key, payload in world.send() if key.startswith("mail:recipient:")]
    assert ["With stamped copies." in each for each in mails] == [True]
    cover = bytes_of(guests.download_part(world.context, world.actor("marit"), sent.id, "cover"))
    assert "stamped copies" in poppler(cover)


def test_a_recipient_takes_what_goes_along_and_it_is_in_the_trail(world, filed):
    sent_with(world, filed, natives=True, stamped=True)
    visit = _visit(world)
    first, second = guests.read_as_guest(world.context, visit).documents
    assert [(each.words, each.file, each.size_bytes > 0) for each in first.along] == [
        ("native file", f"{NUMBER}_P01_S3.dwg", True), ("stamped copy", f"{NUMBER}_P01_S3_stamped.pdf", True),
    ]  # fmt: skip
    assert [each.words for each in second.along] == ["stamped copy"]
    taken = guest_sheets.download_along(world.context, visit, first.along[0].place)
    assert (taken.name, bytes_of(taken)) == (f"{NUMBER}_P01_S3.dwg", DWG)
    assert guests.read_as_guest(world.context, visit).files_taken == [first.revision_id]
    ((body,),) = world.sql("SELECT body FROM audit_entry ORDER BY seq DESC LIMIT 1")
    assert json.loads(body)["after"] == {"file": f"{NUMBER}_P01_S3.dwg"}
    with pytest.raises(NotFound):
        guest_sheets.download_along(world.context, visit, 99)


def test_what_may_only_be_looked_at_gives_no_copies_away(world, filed):
    sent_with(world, filed, natives=True, view_only=True)
    with pytest.raises(NotAllowed):
        guest_sheets.download_along(world.context, _visit(world), 0)


def test_what_cannot_be_copied_says_why_and_holds_up_nothing(world, filed):
    world.write("UPDATE blob SET page_count = 1, fault = '' WHERE sha256 IN (SELECT sha256 FROM revision)")
    sha256 = world.sql("SELECT sha256 FROM revision WHERE id = ?", filed[0][1])[0][0]
    sent = _send(world, (None, filed), to=("yusuf",), stamped=True)
    with world.context.blobs.local(sha256) as path:
        good = path.read_bytes()
        path.chmod(0o644)
        path.write_bytes(b"%PDF-1.7 broken")
    make_copies(Job(world.context, world.press), sent.id)
    with world.context.blobs.local(sha256) as path:
        path.write_bytes(good)
    world.send()
    shown = transmittals_view.read_transmittal(world.context, world.actor("marit"), sent.id)
    assert shown.packed
    first, second = shown.documents
    assert "cannot be printed" in first.along[0].fault
    assert (second.along[0].fault, second.along[0].size_bytes > 0) == ("", True)


def test_another_nod_takes_in_the_documents_and_not_the_copies(world, filed):
    sent = sent_with(world, filed, natives=True, stamped=True, marks="marked")
    content = _taken(world, sent)
    batch = intake.open_batch(world.context, world.actor("marit"), intake.OpenBatch(project_id=world.project_id))
    intake.add_file(world.context, world.actor("marit"), batch.id, f"{sent.number}.zip", [content])
    world.look()
    arrived = set(world.arrivals(batch.id)) - {f"{sent.number}.zip"}
    assert arrived == {f"{NUMBER}_P01_S3.pdf", f"{NUMBER}_P01_S3.dwg", f"{OTHER_NUMBER}_P01_S3.pdf"}
    (one,) = received_view.of_batch(world.context, world.actor("marit"), batch.id).lines
    assert (one.number, one.faults) == (sent.number, [])
    assert one.proof.startswith("It stands in its sender’s trail")
    assert {each.number for each in one.lines} == {NUMBER, OTHER_NUMBER}


def attach(world, mib):
    actor = world.actor("rafael")
    version = setup_view.read_setup(world.context, actor, world.project_id).version
    command = SetAttachmentFolders(version=version, folders={}, attach_mb=mib)
    setup.set_attachment_folders(world.context, actor, world.project_id, command)


def enclosed(world):
    mails = [payload for key, payload in world.send() if key.startswith("mail:recipient:")]
    return [([each["name"] for each in mail["enclosed"]], "attached to this mail" in mail["text"]) for mail in mails]


def test_small_files_go_with_the_mail_where_the_project_says_so(world, filed):
    files = [f"{NUMBER}_P01_S3.pdf", f"{OTHER_NUMBER}_P01_S3.pdf"]
    _send(world, (None, filed), to=("yusuf",))
    assert enclosed(world) == [(["HBC-T-0001_cover.pdf"], False)]
    attach(world, 1)
    _send(world, (None, filed), to=("yusuf",))
    assert enclosed(world) == [(["HBC-T-0002_cover.pdf", *files], True)]
    # The natives count, and go along.
    _send(world, (None, filed), to=("yusuf",), natives=True)
    assert enclosed(world) == [(["HBC-T-0003_cover.pdf", *files, f"{NUMBER}_P01_S3.dwg"], True)]
    world.write("UPDATE rendition SET size_bytes = 999900")
    _send(world, (None, filed), to=("yusuf",), natives=True)
    assert [attached for _, attached in enclosed(world)] == [False]
    # What may be looked at only, or until a day, stays behind its link; so do copies, which are made later.
    for more in ({"view_only": True}, {"expires_on": world.clock.now().date()}, {"stamped": True}):
        _send(world, (None, filed), to=("yusuf",), **more)
        assert [attached for _, attached in enclosed(world)] == [False]
    world.write("UPDATE revision SET size_bytes = 1000001")
    _send(world, (None, filed), to=("yusuf",))
    assert [attached for _, attached in enclosed(world)] == [False]


def test_how_much_is_attached_is_bounded(world):
    with pytest.raises(ValueError, match="less than or equal to 25"):
        SetAttachmentFolders(version=1, folders={}, attach_mb=26)


def test_seen_before_it_is_sent_and_nothing_stays(world, filed):
    command = SendTransmittal(
        project_id=world.project_id, revisions=[each for _, each in filed], purpose="construction",
        people=[world.cast.people["yusuf"]], natives=True, stamped=True, marks="summary",
    )  # fmt: skip
    before = state_of(world)
    shown = previewing.preview_sending(world.context, world.actor("marit"), command)
    assert "With native files, stamped copies and summaries of their marks." in shown.text
    assert state_of(world) == before


def test_pencil_and_ink_that_not_all_read_do_not_go_along(world, filed):
    pencil = world.file(name("BFT-TRA-Z1-02-D-A-0102"))
    world.draw(pencil[0][1], text="Only mine")
    send(world, pencil[0][1], marks="marked")
    assert world.sql("SELECT count(*) FROM sent_file") == [(0,)]


def test_marks_are_one_of_what_there_is(world, filed):
    with pytest.raises((RuleBroken, ValueError)):
        _send(world, (None, filed), marks="everything")


def _met(world, filed):
    """A closed session about one of the two sheets, whose record is made."""
    id = make(world, filed[0][1], parties=[person(world, "leilani"), person(world, "dede")])
    be_here(world, id, filed[0][1], "leilani")
    draw(world, id, filed[0][1], "leilani", "Wall missing")
    close(world, id)
    work(world)
    return id


def test_the_record_of_a_session_goes_with_its_sheets(world, filed, tmp_path):
    record = {"session_id": _met(world, filed), "part": 1}
    sent = sent_with(world, filed, record=record)
    bag = opened(world, sent, tmp_path)
    bagit.Bag(str(bag)).validate()
    went = (bag / "data" / "HBC-T-0001_copies" / "S-0001_record.zip").read_bytes()
    with records.download_record(world.context, world.actor("marit"), record["session_id"], 1).content as path:
        assert went == path.read_bytes()
    ((body,),) = world.sql("SELECT body FROM audit_entry WHERE kind = 'transmittal_sent'")
    assert json.loads(body)["after"]["with"] == "the record of S-0001"
    shown = transmittals_view.read_transmittal(world.context, world.actor("marit"), sent.id)
    assert [[each.words for each in document.along] for document in shown.documents] == [["record of the session"], []]
    # A draft in the place of one that was void has it, too.
    undone = VoidTransmittal(reason="The wrong purpose", replace=True)
    draft = void_transmittal(world.context, world.actor("marit"), sent.id, undone).draft_id
    content = drafts.read_draft(world.context, world.actor("marit"), draft).content
    assert content.record.model_dump() == record


def test_a_record_goes_with_its_own_sheets_and_from_who_took_part(world, filed):
    record = {"session_id": _met(world, filed), "part": 1}
    with pytest.raises(RuleBroken) as refused:
        _send(world, (None, filed[1:]), record=record)
    assert refused.value.code == "record_alone"
    with pytest.raises(NotFound):
        _send(world, (None, filed), record={**record, "part": 2})
    for who, why in (("anouk", NotFound), ("dede", NotAllowed)):
        with world.context.database.read() as session, pytest.raises(why):
            records.record_to_send(session, world.actor(who), record["session_id"], 1)
    assert world.sql("SELECT count(*) FROM transmittal") == [(0,)]
