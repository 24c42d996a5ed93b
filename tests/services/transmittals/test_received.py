"""What another company says it sent: by a list that is typed, or by the bag of another Nod."""

import hashlib
import io
import json
import zipfile
from datetime import date, timedelta

import pytest
from openpyxl import Workbook

from nod.core.access.levels import Grantee, Level, To
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.acts import projects
from nod.services.acts.context import acting
from nod.services.acts.work import Job
from nod.services.intake import intake
from nod.services.transmittals import guests, received, received_view
from nod.services.transmittals.received import KeepReceived, RemoveReceived, SendReceipt
from nod.services.transmittals.received_bags import take_bag_in
from tests.services.transmittals.test_transmittals import _send, closed  # noqa: F401
from tests.world import NUMBER, OTHER_NUMBER, bytes_of, name, pdf

THIRD = "BFT-TRA-Z1-02-D-A-0103"
LIST = f"Number\tRev\tTitle\n{NUMBER}\tP01\tQuay hall plan\n{OTHER_NUMBER}\tP02\tLevel 2\n{THIRD}\tP01\tRoof\nTotal"


@pytest.fixture
def batch(world):
    """One that is listed, one in another revision, one of which nothing is known."""
    return world.arrive({name(): pdf(), name(OTHER_NUMBER): pdf("two"), "letter.txt": b"Dear all"})


def keep(world, batch, who="marit", **more):
    command = KeepReceived(**{"number": "TRA-44", "dated": date(2027, 3, 8), "text": LIST, "keep": True} | more)
    return received.keep_received(world.context, world.actor(who), batch, command)


def of_batch(world, batch, who="marit"):
    return received_view.of_batch(world.context, world.actor(who), batch).lines


def found(one):
    return [(each.number, each.found) for each in one.lines]


def test_a_list_is_tried_and_nothing_kept(world, batch):
    tried = keep(world, batch, keep=False, number="")
    assert found(tried) == [(NUMBER, "here"), (OTHER_NUMBER, "other_revision"), (THIRD, "missing")]
    assert tried.more == ["letter.txt"]
    assert [(each.row, each.said) for each in tried.unread] == [(5, "Total")]
    assert of_batch(world, batch) == []


def test_a_list_is_kept_and_follows_what_becomes_of_the_files(world, batch):
    keep(world, batch)
    (one,) = of_batch(world, batch)
    assert (one.number, one.dated, one.here, one.more) == ("TRA-44", date(2027, 3, 8), 1, ["letter.txt"])
    assert one.lines[1].came_as == "P01"
    assert not one.from_bag
    assert one.proof == ""
    world.register(batch)
    missing = world.file(name(THIRD), content=pdf("three"))
    assert missing
    (one,) = of_batch(world, batch)
    assert found(one)[2] == (THIRD, "filed")
    assert one.here == 2


def test_it_can_be_corrected_until_its_receipt_is_sent(world, batch):
    tried = keep(world, batch)
    keep(world, batch, id=tried.id, version=1, number="TRA-45", text=f"{NUMBER} P01")
    (one,) = of_batch(world, batch)
    assert (one.number, one.version, len(one.lines)) == ("TRA-45", 2, 1)
    with pytest.raises(Stale):
        keep(world, batch, id=tried.id, version=1)
    received.send_receipt(
        world.context, world.actor("marit"), one.id, SendReceipt(person_id=world.cast.people["anouk"], version=2)
    )
    for act in (
        lambda: keep(world, batch, id=one.id, version=3),
        lambda: received.remove_received(world.context, world.actor("marit"), one.id, RemoveReceived(version=3)),
    ):
        with pytest.raises(RuleBroken) as refused:
            act()
        assert refused.value.code == "received_receipted"
    assert world.kinds()[-3:] == ["received_entered", "received_changed", "receipt_sent"]


def test_its_sender_reads_what_came(world, batch):
    keep(world, batch)
    (one,) = of_batch(world, batch)
    command = SendReceipt(person_id=world.cast.people["anouk"], version=1, note="Please send the roof again.")
    received.send_receipt(world.context, world.actor("marit"), one.id, command)
    letters = []
    world.send(letters.append)
    (letter,) = [each for each in letters if "receipt for TRA-44" in each["subject"]]
    assert letter["to_email"].startswith("anouk@")
    for words in (
        "Your transmittal TRA-44 of 8 March 2027 came on 9 March 2027.", "1 of 3 listed documents are here.",
        f"{OTHER_NUMBER} P02: came as P01", f"{THIRD} P01: missing", "letter.txt", "Please send the roof again.",
    ):  # fmt: skip
        assert words in letter["text"]
    (one,) = of_batch(world, batch)
    assert one.receipt_to.name == "Anouk Ferreira"
    with pytest.raises(RuleBroken):
        received.send_receipt(world.context, world.actor("marit"), one.id, command.model_copy(update={"version": 2}))


def test_one_entered_by_mistake_is_taken_away_and_stays_in_the_trail(world, batch):
    keep(world, batch)
    (one,) = of_batch(world, batch)
    with pytest.raises(Stale):
        received.remove_received(world.context, world.actor("marit"), one.id, RemoveReceived(version=9))
    received.remove_received(world.context, world.actor("marit"), one.id, RemoveReceived(version=1))
    assert of_batch(world, batch) == []
    assert world.kinds()[-1] == "received_removed"
    ((body,),) = world.sql("SELECT body FROM audit_entry ORDER BY seq DESC LIMIT 1")
    assert f"{THIRD} P01" in json.loads(body)["before"]["documents"]


@pytest.mark.parametrize(
    ("wrong", "code"),
    [
        ({"number": "  "}, "received_number_missing"),
        ({"dated": date(2027, 3, 10)}, "received_day_future"),
        ({"text": "Total\nnone"}, "received_list_empty"),
        ({"text": "\n".join(f"X-{at} A" for at in range(5001))}, "list_large"),
    ],
)
def test_what_cannot_be_kept_says_why(world, batch, wrong, code):
    with pytest.raises(RuleBroken) as refused:
        keep(world, batch, **wrong)
    assert refused.value.code == code
    assert of_batch(world, batch) == []


def test_who_may_not_file_there_sees_nothing_of_it(world, batch):
    tried = keep(world, batch)
    for who in ("anouk", "yusuf"):
        with pytest.raises((NotAllowed, NotFound)):
            of_batch(world, batch, who)
        with pytest.raises((NotAllowed, NotFound)):
            keep(world, batch, who)
        with pytest.raises((NotAllowed, NotFound)):
            received.remove_received(world.context, world.actor(who), tried.id, RemoveReceived(version=1))
    other = world.arrive({"other.pdf": pdf("other")})
    with pytest.raises(NotFound):
        keep(world, other, id=tried.id, version=1)
    with pytest.raises(NotFound):
        received.remove_received(world.context, world.actor("marit"), "a" * 16, RemoveReceived(version=1))


def test_a_list_tells_nobody_what_the_register_hides_from_them(world):
    """An author may file into the batch's folder and sees nothing of the other."""
    world.file(name(THIRD), content=pdf("three"))
    world.written_by_hand = True
    paolo = world.cast.people["paolo"]
    home, hidden = world.cast.folders["Drawings"], world.cast.folders["Temporary works"]
    world.write(f"DELETE FROM access_grant WHERE to_id = '{paolo}'")
    world.write(f"UPDATE document SET folder_id = '{hidden}' WHERE number = '{THIRD}'")
    with acting(world.context, world.actor("rafael")) as act:
        projects.give(act, world.project_id, home, Grantee(To.PERSON, paolo), Level.FILE)
    opened = intake.open_batch(
        world.context, world.actor("paolo"), intake.OpenBatch(project_id=world.project_id, folder_id=home)
    )
    assert found(keep(world, opened.id, "paolo", text=f"{THIRD} P01", keep=False)) == [(THIRD, "missing")]
    other = world.arrive({"other.pdf": pdf("other")})
    assert found(keep(world, other, text=f"{THIRD} P01", keep=False)) == [(THIRD, "filed")]


def test_the_log_has_them_the_last_first(world, batch):
    keep(world, batch)
    world.clock.advance(timedelta(minutes=1))
    keep(world, world.arrive({name(THIRD): pdf("three")}), number="TRA-45")
    log = received_view.list_received(world.context, world.actor("marit"), world.project_id, 0, 1)
    assert (log.total, [each.number for each in log.lines]) == (2, ["TRA-45"])
    assert (log.lines[0].documents, log.lines[0].here, log.lines[0].lines) == (3, 1, [])


def test_a_spreadsheet_becomes_the_text_of_a_list(world, batch):
    content = f"Number,Rev\n{NUMBER},P01\n".encode()
    text = received.text_of_file(world.context, world.actor("marit"), batch, [content]).text
    assert text == f"Number\tRev\n{NUMBER}\tP01"
    with pytest.raises(RuleBroken) as refused:
        received.text_of_file(world.context, world.actor("marit"), batch, [b"PK\x03\x04 no"])
    assert refused.value.code == "table_broken"


@pytest.fixture
def pack(world, closed):  # noqa: F811
    """The ZIP of a transmittal as its recipient has it."""
    sent = _send(world, closed, note="Please build.")
    world.send()
    return bytes_of(guests.download_part(world.context, world.actor("marit"), sent.id, "pack"))


def changed(pack, change):
    """The same ZIP with each file as `change(path, content)` gives it, None to leave it out."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(pack)) as old, zipfile.ZipFile(out, "w") as new:
        for each in old.namelist():
            content = change(each, old.read(each))
            if content is not None:
                new.writestr(each, content)
    return out.getvalue()


def test_the_bag_of_another_nod_says_who_sent_what(world, pack):
    batch = world.arrive({"HBC-T-0001.zip": pack})
    (one,) = of_batch(world, batch)
    assert (one.number, one.company, one.person) == ("HBC-T-0001", "Hollinbrook Contracting", "Marit Osei")
    assert (one.purpose, one.note, one.dated) == ("For construction", "Please build.", date(2027, 3, 9))
    assert one.faults == []
    assert one.proven
    assert "It is the first with this key" in one.proof
    assert found(one) == [(NUMBER, "here"), (OTHER_NUMBER, "here")]
    # Cover sheet, list, manifests and proof are not documents.
    files = [each.file_name for each in world.batch(batch).arrivals if each.state not in ("unpacked",)]
    assert len(files) == 2
    assert one.more == []
    (came,) = world.sql("SELECT came_from, came_said FROM batch WHERE id = ?", batch)
    assert came == ("Hollinbrook Contracting", 1)
    with pytest.raises(RuleBroken):
        keep(world, batch, id=one.id, version=one.version)


def test_the_second_of_the_same_sender_has_a_key_that_is_known(world, pack):
    world.arrive({"first.zip": pack})
    again = world.arrive({"HBC-T-0001.zip": pack})
    (one,) = of_batch(world, again)
    assert "as 1 transmittal of Hollinbrook Contracting before" in one.proof


def test_a_bag_in_which_a_file_was_exchanged_is_told(world, pack):
    forged = changed(pack, lambda path, content: pdf("forged") if f"data/{NUMBER}" in path else content)
    (one,) = of_batch(world, world.arrive({"bag.zip": forged}))
    assert not one.proven
    assert any("is not what was sent" in each for each in one.faults)
    assert any("The proof does not hold: the sending does not name" in each for each in one.faults)
    assert found(one)[0] == (NUMBER, "other_file")


def test_a_bag_that_was_made_anew_around_an_exchanged_file_is_not_proven(world, pack):
    """Manifests anybody can make: what they cannot is the proof."""
    with zipfile.ZipFile(io.BytesIO(pack)) as old:
        files = {each: old.read(each) for each in old.namelist() if "tagmanifest" not in each}
    (plan,) = [each for each in files if f"data/{NUMBER}" in each]
    files[plan] = pdf("forged")
    sums = {each.partition("/")[2]: hashlib.sha256(files[each]).hexdigest() for each in files if "/data/" in each}
    manifest = "".join(f"{sum}  {each}\n" for each, sum in sums.items()).encode()
    forged = changed(pack, lambda path, _: manifest if path.endswith("/manifest-sha256.txt") else files.get(path))
    (one,) = of_batch(world, world.arrive({"bag.zip": forged}))
    assert not one.proven
    (fault,) = one.faults
    assert fault.startswith("The proof does not hold: the sending does not name BFT-TRA")


def test_a_proof_of_another_sending_or_none_proves_nothing(world, pack):
    renamed = changed(pack, lambda path, was: was.replace(b"HBC-T-0001", b"HBC-T-0009") if "bag-info" in path else was)
    (one,) = of_batch(world, world.arrive({"bag.zip": renamed}))
    assert one.number == "HBC-T-0009"
    assert not one.proven
    bare = changed(pack, lambda path, was: None if "proof/" in path else was)
    (one,) = of_batch(world, world.arrive({"bare.zip": bare}))
    assert not one.proven
    assert one.proof == "It carries no proof that it stands in its sender’s trail."
    spoiled = changed(pack, lambda path, was: b"{}" if "sending.json" in path else was)
    (one,) = of_batch(world, world.arrive({"spoiled.zip": spoiled}))
    assert "Its proof does not hold" in one.proof


def test_what_somebody_said_of_its_sender_is_kept(world, pack):
    opened = intake.open_batch(
        world.context, world.actor("marit"), intake.OpenBatch(project_id=world.project_id, came_from="The post")
    )
    intake.add_file(world.context, world.actor("marit"), opened.id, "bag.zip", [pack])
    world.look()
    (one,) = of_batch(world, opened.id)
    assert one.company == "The post"


def test_a_bag_of_something_else_is_unpacked_and_no_transmittal(world, tmp_path):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as bag:
        bag.writestr("b/bagit.txt", "BagIt-Version: 1.0\n")
        bag.writestr("b/data/plan.pdf", pdf())
    batch = world.arrive({"b.zip": out.getvalue()})
    assert of_batch(world, batch) == []
    assert "plan.pdf" in [each.file_name for each in world.batch(batch).arrivals]


def test_a_bag_is_read_once_however_often_it_is_asked_for(world, pack):
    batch = world.arrive({"bag.zip": pack})
    (arrival,) = world.sql("SELECT id FROM arrival WHERE batch_id = ? AND state = 'unpacked'", batch)
    for wanted in (arrival[0], "a" * 16):
        take_bag_in(Job(world.context, world.press), {"arrival_id": wanted})
    assert len(of_batch(world, batch)) == 1


def test_a_list_out_of_a_book_says_its_sheets(world, batch):
    book = Workbook()
    book.active.append(["Read me"])
    book.create_sheet("List").append([NUMBER, 1.0])
    out = io.BytesIO()
    book.save(out)
    ask = (world.context, world.actor("marit"), batch, [out.getvalue()])
    first = received.text_of_file(*ask)
    assert (first.text, first.sheet, first.sheets) == ("Read me", "Sheet", ["Sheet", "List"])
    assert received.text_of_file(*ask, sheet="List").text == f"{NUMBER}\t1"
