"""What Nod writes out of a file of somebody else is whole, as qpdf sees it: also where the file itself is not."""

import re
import subprocess

import pikepdf
import pytest

from nod.core.marks.marks import MarkKind
from nod.core.sheet.papers import PrintStrip
from nod.formats.files.unfit import CannotAnnotate
from nod.formats.intake.pdf_split import CannotSplit, split_pages
from nod.formats.marks.pdf_marks import annotate
from nod.formats.marks.pdf_print import write_print
from nod.formats.sheet.pdf_layers import with_layers
from tests.formats.marks.test_pdf_marks import mark
from tests.outside import ROOT
from tests.world import pdf

STRIP = PrintStrip("BFT-1  P01", "http://x/c/1", "Printed")


def _annotate(source, aside):
    annotate(source, aside / "made.pdf", [mark(MarkKind.CLOUD)])


def _print(source, aside):
    write_print(source, aside / "made.pdf", aside / "marked.pdf", [mark(MarkKind.CLOUD)], frozenset(), "own", STRIP)


def _layers(source, aside):
    with pikepdf.open(source) as file:
        if "/OCProperties" not in file.Root or "/D" not in file.Root.OCProperties:
            raise CannotAnnotate("no layers")
    with_layers(source, aside / "made.pdf", frozenset({0}))


def _split(source, aside):
    split_pages(source, aside)


def check(path):
    done = subprocess.run(["qpdf", "--check", str(path)], capture_output=True, text=True, check=False)
    assert done.returncode == 0, (path.name, done.stdout[-500:], done.stderr[-500:])


# A sheet cut out of a form has its fields as they look, without the form.
@pytest.mark.filterwarnings("ignore:This document has .* form widget")
@pytest.mark.parametrize("write", [_annotate, _print, _layers, _split])
def test_files_nobody_here_wrote(tmp_path, write):
    if not ROOT.exists():
        pytest.skip(f"the test files at {ROOT} are absent")
    checked = 0
    for place, source in enumerate(sorted(ROOT.glob("pdf/*/*.pdf"))):
        try:
            with pikepdf.open(source) as file:
                if len(file.pages) > 60:
                    continue
        except (pikepdf.PdfError, pikepdf.PasswordError):
            continue
        aside = tmp_path / str(place)
        aside.mkdir()
        try:
            write(source, aside)
        except (CannotAnnotate, CannotSplit, pikepdf.PdfError):
            continue
        for made in aside.glob("*.pdf"):
            check(made)
            checked += 1
    assert checked >= (3 if write is _layers else 15)


@pytest.mark.parametrize("write", [_annotate, _print])
def test_a_trailer_without_its_size(tmp_path, write):
    source = tmp_path / "source.pdf"
    source.write_bytes(re.sub(rb"/Size \d+", b"", pdf()))
    with pikepdf.open(source) as file:
        assert "/Size" not in file.trailer
    write(source, tmp_path)
    check(tmp_path / "made.pdf")
