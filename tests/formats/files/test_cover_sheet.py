"""The cover sheet, read back by poppler: the seal on it can be taken to the letter."""

import subprocess

import pytest

from nod.core.transmittals.transmittals import Cover, CoverLine
from nod.formats.files.cover_sheet import write_cover


@pytest.mark.parametrize("letter", ["W", "M", "i", "+", "0"])
def test_no_line_of_a_seal_is_broken_however_wide(tmp_path, letter):
    note = f"nod.brackwater.example/{letter * 20}\n123456\n{letter * 44}\n\n— nod.brackwater.example {letter * 96}\n"
    lines = (CoverLine("BFT-1", "P01", "S3", "Roof plan", "", "A1"),)
    cover = Cover(
        number="HBC-T-0001", project="BFT", sender="Marit Osei", purpose="For information", sent="today",
        answer_wanted="", recipients=("Yusuf Haldane",), copied=(), note="", lines=lines, seal=note,
    )  # fmt: skip
    path = tmp_path / "cover.pdf"
    path.write_bytes(write_cover(cover))
    text = subprocess.run(["pdftotext", "-layout", path, "-"], capture_output=True, check=True, text=True).stdout
    said = [line.strip() for line in text.splitlines()]
    for line in note.strip().split("\n"):
        assert line in said
