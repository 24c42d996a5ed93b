"""The cover sheet, read back by poppler: its seal can be taken to the letter, and its code by a telephone."""

import subprocess

import numpy as np
import pypdfium2 as pdfium
import pytest
import zxingcpp

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


def test_the_code_is_read_by_another_reader(tmp_path):
    address = "https://nod.brackwater.example/cover/abcdefghjkm"
    cover = Cover(
        number="HBC-T-0001", project="BFT", sender="Marit Osei", purpose="For information", sent="today",
        answer_wanted="", recipients=("Yusuf Haldane",), note="", lines=(), address=address,
    )  # fmt: skip
    path = tmp_path / "cover.pdf"
    path.write_bytes(write_cover(cover))
    text = subprocess.run(["pdftotext", path, "-"], capture_output=True, check=True, text=True).stdout
    assert address in text
    page = np.asarray(pdfium.PdfDocument(path)[0].render(scale=2).to_pil().convert("L"))
    assert [code.text for code in zxingcpp.read_barcodes(page)] == [address]
