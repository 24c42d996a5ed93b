"""Bags, read by others: the reference package of the Library of Congress, `unzip`, `sha256sum`."""

import hashlib
import subprocess
import unicodedata
import zipfile
from functools import partial

import bagit
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.formats.files.bag import LONGEST_PATH, Damaged, Packed, payload_names, write_bag

INFO = [
    ("Source-Organization", "Hollinbrook Contracting"),
    ("External-Identifier", "HBC-T-0001"),
    ("Note", "für Zoë: 5"),
]
PROOF = [("proof/key.txt", b"key\n"), ("proof/sending.json", b"{}")]


def _packed(folder, files):
    for path, content in files.items():
        source = folder / hashlib.sha256(content).hexdigest()
        source.write_bytes(content)
        yield Packed(path, source.name, source)


def _written(tmp_path, files, name="bag.zip", **more):
    target = tmp_path / name
    write_bag(target, "HBC-T-0001", INFO, PROOF, _packed(tmp_path, files), **more)
    return target


FILES = {"a.pdf": b"%PDF-1.7" * 300_000, "b 50 ä.pdf": b"second", "empty.txt": b""}


@pytest.fixture
def unpacked(tmp_path):
    target = _written(tmp_path, FILES)
    out = subprocess.run(["unzip", "-t", target], capture_output=True, text=True, check=True).stdout
    assert "No errors detected" in out
    with zipfile.ZipFile(target) as pack:
        pack.extractall(tmp_path / "out")
    (folder,) = (tmp_path / "out").iterdir()
    assert folder.name == "HBC-T-0001"
    return folder


def test_the_reference_package_finds_it_whole_and_reads_its_fields(unpacked):
    bag = bagit.Bag(str(unpacked))
    bag.validate()
    assert bag.version_info == (1, 0)
    assert dict(bag.info) == {**dict(INFO), "Payload-Oxum": f"{sum(map(len, FILES.values()))}.3"}
    assert set(bag.payload_files()) == {f"data/{path}" for path in FILES}
    assert set(bag.tagfile_entries()) == {
        "bagit.txt", "bag-info.txt", "manifest-sha256.txt", "proof/key.txt", "proof/sending.json",
    }  # fmt: skip


@pytest.mark.parametrize("path", ["data/a.pdf", "proof/sending.json", "bag-info.txt"])
def test_the_reference_package_sees_what_was_changed(unpacked, path):
    (unpacked / path).write_bytes((unpacked / path).read_bytes()[:-1] + b"!")
    with pytest.raises(bagit.BagError):
        bagit.Bag(str(unpacked)).validate()


def test_it_is_checked_with_no_program_for_bags_at_all(unpacked):
    check = partial(subprocess.run, cwd=unpacked, capture_output=True, check=True)
    check(["sha256sum", "--strict", "-c", "tagmanifest-sha256.txt"])
    check(["sha256sum", "--strict", "-c", "manifest-sha256.txt"])


def test_the_same_content_gives_the_same_bytes_and_progress_is_told(tmp_path):
    told = []
    first = _written(tmp_path, FILES, told=told.append)
    assert told == [1, 2, 3]
    assert first.read_bytes() == _written(tmp_path, FILES, "again.zip").read_bytes()


def test_a_file_that_has_changed_on_the_disk_is_not_sent(tmp_path):
    source = tmp_path / "x"
    source.write_bytes(b"rotten")
    with pytest.raises(Damaged, match=r"a\.pdf is not what was filed"):
        write_bag(tmp_path / "t.zip", "B", INFO, PROOF, [Packed("a.pdf", hashlib.sha256(b"good").hexdigest(), source)])


@given(
    st.lists(st.text(max_size=300) | st.sampled_from(["a.pdf", "A.PDF", "con", "Con.txt", "../../x", "aux .c", "."]))
)
def test_names_are_safe_on_every_system_and_no_two_alike(names):
    found = payload_names("HBC-T-0001", names)
    assert len({unicodedata.normalize("NFC", each).casefold() for each in found}) == len(names)
    for each in found:
        assert each
        assert len(f"HBC-T-0001/data/{each}") <= LONGEST_PATH
        assert not set(each) & set('%<>:"/\\|?*\x00\r\n\x7f')
        assert each[-1] not in " ."
        assert each[0] != " "
        # Names of devices (Win32, Naming Files), as they are kept in common practice.
        assert each.split(".")[0].strip().casefold() not in {"con", "prn", "aux", "nul", "com1", "lpt9"}
