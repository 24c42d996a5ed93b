"""Layers switched off are not drawn: poppler is asked to draw the same copy."""

import io
import json
import subprocess

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from pikepdf import Array, Dictionary, Name
from PIL import Image

from nod.formats.intake.pdf_contents import file_contents
from nod.formats.sheet.pdf_layers import read_layers, with_layers
from tests.outside import shared_data


@pytest.fixture
def layered(tmp_path):
    """Three squares beside each other, each on a layer of its own; the last is off when the file is opened."""
    path = tmp_path / "layered.pdf"
    with pikepdf.new() as made:
        made.add_blank_page(page_size=(300, 100))
        page = made.pages[0]
        groups = [made.make_indirect(Dictionary(Type=Name.OCG, Name=name)) for name in ("Walls", "Doors", "Doors")]
        page.obj.Resources = Dictionary(Properties=Dictionary({f"/L{at}": each for at, each in enumerate(groups)}))
        drawn = "".join(f"/OC /L{at} BDC {100 * at + 10} 10 80 80 re f EMC\n" for at in range(3))
        page.Contents = made.make_stream(drawn.encode())
        made.Root.OCProperties = Dictionary(
            OCGs=Array(groups), D=Dictionary(ON=Array(groups[:2]), OFF=Array(groups[2:]))
        )
        made.save(path)
    return path


def _dark(picture):
    grey = np.asarray(picture.convert("L"))
    third = grey.shape[1] // 3
    return [bool((grey[:, at * third : (at + 1) * third] < 128).mean() > 0.3) for at in range(3)]


def _by_pdfium(path):
    return _dark(pdfium.PdfDocument(path)[0].render(scale=1).to_pil())


def _by_poppler(path):
    drawn = subprocess.run(["pdftoppm", "-r", "72", "-png", path], capture_output=True, check=True).stdout
    return _dark(Image.open(io.BytesIO(drawn)))


def test_layers_are_told_with_their_first_state(layered):
    assert [(each.name, each.on) for each in read_layers(layered)] == [
        ("Walls", True),
        ("Doors", True),
        ("Doors", False),
    ]


@pytest.mark.parametrize("off", [(), (0,), (1,), (2,), (0, 2), (0, 1, 2)])
def test_just_those_that_are_off_are_not_drawn(layered, tmp_path, off):
    with_layers(layered, tmp_path / "copy.pdf", frozenset(off))
    expected = [place not in off for place in range(3)]
    assert _by_pdfium(tmp_path / "copy.pdf") == expected == _by_poppler(tmp_path / "copy.pdf")
    assert _by_pdfium(layered) == [True, True, False]


def test_a_base_state_of_off_is_understood(layered, tmp_path):
    with pikepdf.open(layered) as made:
        made.Root.OCProperties.D.BaseState = Name.OFF
        made.save(tmp_path / "off.pdf")
    assert [each.on for each in read_layers(tmp_path / "off.pdf")] == [True, True, False]


def test_layers_of_other_programs_are_those_of_the_inventory(tmp_path):
    root = shared_data("pdf_inventory.jsonl").parent
    seen = 0
    for line in (root / "pdf_inventory.jsonl").read_text().splitlines():
        said = json.loads(line)
        if not said.get("ocgn") or said.get("enc"):
            continue
        layers = read_layers(root / said["file"])
        if not layers:
            continue
        assert len(layers) == said["ocgn"], said["file"]
        with_layers(root / said["file"], tmp_path / "copy.pdf", frozenset({0}))
        assert [each.on for each in read_layers(tmp_path / "copy.pdf")] == [False] + [True] * (len(layers) - 1)
        seen += 1
    assert seen >= 4


def test_a_broken_file_has_no_layers(tmp_path):
    (tmp_path / "broken.pdf").write_bytes(b"%PDF-1.7")
    assert read_layers(tmp_path / "broken.pdf") == []


def test_a_name_keeps_nothing_that_cannot_be_shown(layered):
    with pikepdf.open(layered, allow_overwriting_input=True) as file:
        file.Root.OCProperties.OCGs[0].Name = pikepdf.String("Wa\x00lls\x07")
        file.save(layered)
        assert file_contents(file).layers[0] == "Walls"
    assert read_layers(layered)[0].name == "Walls"
