"""Bags out of ZIPs: those of the package `bagit` (by the Library of Congress) and our own, whole and not."""

import shutil
import zipfile
from pathlib import Path

import bagit
import pytest

from nod.formats.files.bag_read import bag_folder, documents_of, read_bag, read_payload
from nod.formats.files.zip_unpack import BadArchive, list_members

FILES = {"plan.pdf": b"a plan", "a folder/50 % more.txt": b"more", "HBC-T-0007_cover.pdf": b"cover"}


@pytest.fixture
def folder(tmp_path):
    """As the reference package makes one."""
    made = tmp_path / "HBC-T-0007"
    for name, content in FILES.items():
        (made / name).parent.mkdir(parents=True, exist_ok=True)
        (made / name).write_bytes(content)
    bagit.make_bag(
        str(made), {"Source-Organization": "Plinth & Sons", "Contact-Name": ["One", "Two"]}, checksums=["sha256"]
    )
    return made


def zipped(folder):
    return Path(shutil.make_archive(str(folder.parent / "bag"), "zip", folder.parent, folder.name))


def faults(folder):
    return read_bag(zipped(folder)).faults


def test_one_of_the_reference_package_is_whole(folder):
    bag = read_bag(zipped(folder))
    assert bag.faults == []
    assert set(bag.payload) == set(FILES)
    assert (bag.said("Source-Organization"), bag.info["Contact-Name"]) == ("Plinth & Sons", ["One", "Two"])
    assert bag.said("External-Identifier") == ""


def test_a_longer_value_goes_on_in_the_next_line(folder):
    info = folder / "bag-info.txt"
    info.write_text("External-Description: begun\n  and ended\n" + info.read_text())
    assert read_bag(zipped(folder)).said("External-Description") == "begun and ended"


def test_what_is_not_as_it_was_sent_is_named(folder):
    (folder / "data/plan.pdf").write_bytes(b"another")
    (folder / "data/a folder/50 % more.txt").unlink()
    (folder / "data/put in.pdf").write_bytes(b"later")
    (folder / "bag-info.txt").write_text("Source-Organization: Somebody else\n")
    assert faults(folder) == [
        "plan.pdf is not what was sent: its SHA-256 is another.", "a folder/50 % more.txt is missing.",
        "put in.pdf is in the bag, but not in its manifest.", "bag-info.txt was changed after the bag was made.",
    ]  # fmt: skip


def test_sha512_is_read_too_and_without_a_manifest_nothing_is_known(folder, tmp_path):
    other = tmp_path / "other"
    other.mkdir()
    (other / "a.txt").write_bytes(b"a")
    bagit.make_bag(str(other), checksums=["sha512"])
    assert faults(other) == []
    (other / "data/a.txt").write_bytes(b"b")
    assert faults(other) == ["a.txt is not what was sent: its SHA-512 is another."]
    (folder / "manifest-sha256.txt").rename(folder / "manifest-md5.txt")
    assert faults(folder)[0] == "The bag has no manifest that can be checked (SHA-256 or SHA-512)."


def test_many_faults_are_counted(folder):
    for at in range(30):
        (folder / f"data/{at:02d}.txt").write_bytes(b"x")
    assert faults(folder)[-1] == "And 10 more."


def test_an_archive_without_a_bag_or_with_two_is_none(tmp_path):
    with zipfile.ZipFile(tmp_path / "plain.zip", "w") as pack:
        pack.writestr("plan.pdf", b"x")
    assert read_bag(tmp_path / "plain.zip") is None
    assert bag_folder(["a/bagit.txt", "b/bagit.txt"]) is None
    assert bag_folder(["deep/er/bagit.txt"]) is None
    assert bag_folder(["bagit.txt", "data/a"]) == ""
    (tmp_path / "no.zip").write_bytes(b"no")
    with pytest.raises(BadArchive):
        read_bag(tmp_path / "no.zip")


def test_links_and_ways_out_in_a_bag_are_faults_and_nothing_is_followed(folder):
    archive = zipped(folder)
    with zipfile.ZipFile(archive, "a") as pack:
        pack.writestr("HBC-T-0007/data/../../x.pdf", b"out")
    assert "../../x.pdf cannot be read: its path leads out of the archive." in read_bag(archive).faults


def test_what_is_to_be_filed_of_it(folder, tmp_path):
    found = documents_of(list_members(zipped(folder)), "HBC-T-0007/")
    assert {(each.name, each.folder_path) for each in found} == {("plan.pdf", ""), ("50 % more.txt", "a folder")}
    assert read_payload(zipped(folder), "plan.pdf") == b"a plan"
    assert read_payload(zipped(folder), "not there.pdf") == b""


def test_what_lies_beside_the_bag_is_to_be_filed_too(folder):
    archive = zipped(folder)
    with zipfile.ZipFile(archive, "a") as pack:
        pack.writestr("letter.pdf", b"Dear all")
    found = documents_of(list_members(archive), "HBC-T-0007/")
    assert {each.name for each in found} == {"plan.pdf", "50 % more.txt", "letter.pdf"}


def test_a_bag_that_is_stuffed_with_other_files_is_not_read_whole(folder):
    archive = zipped(folder)
    with zipfile.ZipFile(archive, "a") as pack:
        for at in range(40):
            pack.writestr(f"HBC-T-0007/more/{at}.txt", b"x")
    bag = read_bag(archive)
    assert len(bag.tags) == 20
    assert bag.faults[-1].startswith("Beside its documents the bag has files that are not read")
