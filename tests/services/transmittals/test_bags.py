"""The package that goes out: checked by a stranger, the same whenever it is made, and named by the trail."""

import csv
import io
import json
import zipfile
from datetime import timedelta

import bagit
import pytest

from nod.core.trail import seals
from nod.formats.files.bag import Damaged
from nod.services.register import withdrawals
from nod.services.transmittals import guests
from nod.services.transmittals.packages import pack_bag
from tests.services.transmittals.test_transmittals import _send, closed  # noqa: F401
from tests.world import NUMBER, OTHER_NUMBER, bytes_of, name


def _taken(world, sent):
    return bytes_of(guests.download_part(world.context, world.actor("marit"), sent.id, "pack"))


def _entries(world, kind):
    rows = world.sql("SELECT body FROM audit_entry WHERE kind = ? ORDER BY seq", kind)
    return [json.loads(body) for (body,) in rows]


@pytest.fixture
def sent(world, closed):  # noqa: F811
    return _send(world, closed, copied=[world.cast.people["saoirse"]], note="Please\nbuild.")


@pytest.fixture
def bag(world, sent, tmp_path):
    world.send()
    with zipfile.ZipFile(io.BytesIO(_taken(world, sent))) as pack:
        pack.extractall(tmp_path)
    return tmp_path / sent.number


def test_a_stranger_finds_it_whole_and_reads_who_sent_what_to_whom(bag):
    opened = bagit.Bag(str(bag))
    opened.validate()
    info = opened.info
    assert info["Source-Organization"] == "Hollinbrook Contracting"
    assert info["External-Identifier"] == "HBC-T-0001"
    assert info["Transmittal-Purpose"] == "For construction"
    assert info["Transmittal-Sent"].startswith(info["Bagging-Date"])
    assert [each.split(",")[0] for each in info["Transmittal-To"]] == ["Yusuf Haldane", "Anouk Ferreira"]
    assert info["Transmittal-Copied-To"].startswith("Saoirse")
    assert info["Transmittal-Note"] == "Please build."
    rows = list(csv.DictReader(io.StringIO((bag / "data/HBC-T-0001_list.csv").read_text("utf-8-sig"))))
    assert [(row["Number"], row["Revision"], row["Verdict"]) for row in rows] == [
        (NUMBER, "P01", "B"), (OTHER_NUMBER, "P01", "B"),
    ]  # fmt: skip
    entries = opened.payload_entries()
    for row in rows:
        assert entries[f"data/{row['File']}"]["sha256"] == row["SHA-256"]
        assert (bag / "data" / row["File"]).stat().st_size == int(row["Bytes"])


def test_the_proof_in_it_says_the_sending_with_the_hashes_of_its_files(bag):
    key = seals.read_key((bag / "proof/key.txt").read_text())
    checked = seals.check_proof(seals.read_proof((bag / "proof/sending.json").read_text()), [key])
    entry = checked.entry
    assert entry["about"] == "HBC-T-0001"
    manifest = dict(reversed(line.split("  data/")) for line in (bag / "manifest-sha256.txt").read_text().splitlines())
    for line in entry["after"]["files"]:
        sha256, name_inside = line.split("  ")
        assert manifest[name_inside] == sha256
    assert len(entry["after"]["files"]) == 2


def test_the_trail_names_what_went_out(world, sent):
    world.send()
    (packed,) = _entries(world, "transmittal_packed")
    (row,) = world.sql("SELECT cover_sha256, proof_sha256, pack_sha256 FROM transmittal")
    assert tuple(packed["after"][key] for key in ("cover_sha256", "proof_sha256", "pack_sha256")) == row


def test_made_again_it_has_the_same_bytes_whatever_has_happened_since(world, sent):
    world.send()
    before = _taken(world, sent)
    world.clock.advance(timedelta(days=40))
    world.file(name(revision="P02"))
    document = world.document(NUMBER)[0]
    (version,) = world.sql("SELECT version FROM document WHERE id = ?", document)[0]
    command = withdrawals.RenameDocument(number="BFT-TRA-Z1-01-D-A-0999", version=version, reason="wrong number")
    withdrawals.rename_document(world.context, world.actor("marit"), document, command)
    again = pack_bag(world.context, sent.id)
    with world.context.blobs.local(again.sha256) as path:
        assert path.read_bytes() == before


def test_a_stop_while_it_is_packed_changes_nothing_of_what_goes_out(world, sent, monkeypatch):
    class Stopped(BaseException):
        pass

    def stop(*_):
        raise Stopped

    monkeypatch.setattr("nod.services.transmittals.packages.write_bag", stop)
    with pytest.raises(Stopped):
        world.send()
    kept = world.sql("SELECT proof_sha256, cover_sha256, pack_sha256 FROM transmittal")[0]
    assert all(kept[:2])
    assert not kept[2]
    monkeypatch.undo()
    world.clock.advance(timedelta(hours=2))
    assert any(key.startswith("mail:recipient:") for key, _ in world.send())
    assert world.sql("SELECT proof_sha256, cover_sha256 FROM transmittal")[0] == kept[:2]


def test_a_file_that_rotted_on_the_disk_is_not_sent(world, sent):
    (sha256,) = world.sql("SELECT sha256 FROM revision LIMIT 1")[0]
    with world.context.blobs.local(sha256) as path:
        path.chmod(0o644)
        path.write_bytes(b"rotten")
    assert not any(key.startswith("mail:recipient:") for key, _ in world.send())
    with pytest.raises(Damaged, match="is not what was filed"):
        pack_bag(world.context, sent.id)
    assert world.sql("SELECT pack_sha256 FROM transmittal") == [("",)]
