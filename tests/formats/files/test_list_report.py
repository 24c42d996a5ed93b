"""A log as a PDF: read back by two other readers."""

import io
import re
import subprocess

import pytest
from pypdf import PdfReader

from nod.formats.files.list_report import Report, ReportColumn, ReportLine, write_list_report

COLUMNS = [ReportColumn("Number", 1), ReportColumn("Title", 4), ReportColumn("Float", 1)]


def report(lines, **more):
    given = {
        "title": "Submittals",
        "about": "BFT Ferry",
        "narrowed": "late",
        "counts": [(1, "planned")],
        "taken": "Taken",
    }
    return Report(**given | {"columns": COLUMNS, "lines": lines} | more)


def line(place, title="Bollards"):
    return ReportLine((f"N-{place:04d}", title, f"{place} d"), f"http://nod.example/{place}", frozenset({2}))


def pages_of(content):
    return PdfReader(io.BytesIO(content)).pages


@pytest.mark.parametrize(("paper", "size"), [("A4", (842, 595)), ("A3", (1191, 842))])
def test_all_lines_are_there_with_heads_and_numbers_on_each_page(paper, size, tmp_path):
    content = write_list_report(report([line(place) for place in range(300)], paper=paper))
    pages = pages_of(content)
    assert (round(pages[0].mediabox.width), round(pages[0].mediabox.height)) == size
    texts = [page.extract_text() for page in pages]
    assert re.findall(r"N-\d{4}", "".join(texts)) == [f"N-{place:04d}" for place in range(300)]
    for number, text in enumerate(texts, start=1):
        assert f"Page {number} of {len(pages)}" in text
        assert "Title" in text
    assert "1 planned" in " ".join(texts[0].split())
    links = [each.get_object()["/A"]["/URI"] for page in pages for each in page.get("/Annots", [])]
    assert links == [f"http://nod.example/{place}" for place in range(300)]
    target = tmp_path / "list.pdf"
    target.write_bytes(content)
    read = subprocess.run(["pdftotext", "-layout", target, "-"], capture_output=True, text=True, check=True).stdout
    assert len(re.findall(r"N-\d{4}", read)) == 300
    assert subprocess.run(["qpdf", "--check", target], capture_output=True, check=False).returncode == 0


def test_what_is_long_breaks_and_nothing_of_it_is_lost():
    words = " ".join(f"word{place}" for place in range(400))
    text = " ".join(pages_of(write_list_report(report([line(1, words)])))[0].extract_text().split())
    assert all(f"word{place}" in text for place in range(400))


def test_a_heading_never_stands_alone_at_the_foot():
    for before in range(30, 60):
        lines = [line(place) for place in range(before)] + [ReportLine((), heading="GME, 2"), line(900), line(901)]
        page = next(each for each in pages_of(write_list_report(report(lines))) if "GME, 2" in each.extract_text())
        assert "N-0900" in page.extract_text()


def test_signs_that_no_font_has_break_nothing_and_the_same_gives_the_same():
    given = report([line(1, "日本 \x00\x07 ﷽ <b> & ]]>")], narrowed="x" * 500)
    assert write_list_report(given) == write_list_report(given)
    assert "N-0001" in pages_of(write_list_report(given))[0].extract_text()
    assert len(pages_of(write_list_report(report([])))) == 1
