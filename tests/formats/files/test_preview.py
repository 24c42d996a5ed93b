"""Files without pages, in plain parts: mail, documents, tables, text; and what is refused."""

import io
import zipfile
from email.message import EmailMessage

import docx
import pytest
from openpyxl import Workbook

from nod.formats.files.eml import words_of_html
from nod.formats.files.preview import MOST_LINES, MOST_ROWS, NoPreview, read_preview
from tests.outside import shared_data


def kept(tmp_path, content, name="file.bin"):
    path = tmp_path / "blob"
    path.write_bytes(content)
    return read_preview(path, name)


def test_every_sheet_of_a_spreadsheet_with_its_values(tmp_path):
    book = Workbook()
    book.worksheets[0].append(["Door", 1010.0, 2.5, None, ""])
    book.create_sheet("Empty")
    book.create_sheet("Fire").append(["EI 30"])
    out = io.BytesIO()
    book.save(out)
    found = kept(tmp_path, out.getvalue())
    assert found.what == "Spreadsheet"
    assert [(part.title, part.rows) for part in found.parts] == [
        ("Sheet", (("Door", "1010", "2.5"),)),
        ("Empty", ()),
        ("Fire", (("EI 30",),)),
    ]


def test_a_long_table_says_that_there_is_more(tmp_path):
    (part,) = kept(tmp_path, b"\n".join(b"a;%d" % place for place in range(MOST_ROWS + 5)), "list.csv").parts
    assert len(part.rows) == MOST_ROWS
    assert part.more
    assert part.rows[1] == ("a", "1")


def test_a_document_keeps_its_order(tmp_path):
    document = docx.Document()
    document.add_heading("Piling", 0)
    document.add_paragraph("How the piles are driven.")
    table = document.add_table(rows=1, cols=2)
    table.cell(0, 0).text, table.cell(0, 1).text = "Quay hall", "75 dB"
    document.add_heading("Hours", 1)
    document.add_paragraph("From 08:00.")
    out = io.BytesIO()
    document.save(out)
    found = kept(tmp_path, out.getvalue())
    assert found.what == "Document"
    assert [(part.title, part.lines, part.rows) for part in found.parts] == [
        ("Piling", ("How the piles are driven.",), ()),
        ("", (), (("Quay hall", "75 dB"),)),
        ("Hours", ("From 08:00.",), ()),
    ]


def test_mail_tells_who_whom_and_what_and_names_what_is_attached(tmp_path):
    mail = EmailMessage()
    mail["From"], mail["To"], mail["Subject"] = (
        "Saoirse <s@tallow.example>",
        "Marit <m@hbc.example>",
        "Größe\tder Türen",
    )
    mail.set_content("As discussed.\nSee attached.")
    mail.add_attachment(b"x", maintype="application", subtype="pdf", filename="../../plan.pdf")
    found = kept(tmp_path, mail.as_bytes(), "letter.eml")
    facts, words, attached = found.parts
    assert dict(facts.rows)["Subject"] == "Größe der Türen"
    assert words.lines == ("As discussed.", "See attached.")
    assert attached.rows == (("../../plan.pdf", "application/pdf"),)


def test_a_page_in_a_mail_is_read_and_not_run():
    page = (
        "<style>p {}</style><p>One<br>two &amp; three</p><script>alert(1)</script><img src=x onerror=alert(1)><p>Four"
    )
    assert words_of_html(page) == "One\ntwo & three\nFour"
    assert words_of_html("<script>alert(1)</script>") == ""


@pytest.mark.parametrize(
    ("raw", "line"),
    [
        (b"plain", "plain"),
        ("\ufeffGröße".encode(), "Größe"),
        ("Größe".encode("cp1252"), "Größe"),
        ("Größe".encode("utf-16"), "Größe"),
        (b"bell\x07 and \x1b[31mred", "bell and [31mred"),
    ],
)
def test_text_in_whatever_coding(tmp_path, raw, line):
    assert kept(tmp_path, raw, "notes.txt").parts[0].lines == (line,)


def test_long_text_is_cut_off_and_says_so(tmp_path):
    (part,) = kept(tmp_path, b"x\n" * (MOST_LINES + 1), "log.txt").parts
    assert len(part.lines) == MOST_LINES
    assert part.more


@pytest.mark.parametrize("content", [b"\0\1\2\3", b"PK\3\4broken", b"PK"])
def test_what_cannot_be_read_says_so(tmp_path, content):
    with pytest.raises(NoPreview):
        kept(tmp_path, content)


def test_a_spreadsheet_that_is_a_bomb_is_refused(tmp_path):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.xml", b"<a>" + b" " * 210 * 1024**2)
    with pytest.raises(NoPreview, match="larger inside"):
        kept(tmp_path, out.getvalue())


def test_a_spreadsheet_that_names_an_outside_entity_reads_nothing_by_it(tmp_path):
    secret = tmp_path / "secret"
    secret.write_text("hidden words")
    out = io.BytesIO()
    Workbook().save(out)
    hostile = io.BytesIO()
    with zipfile.ZipFile(out) as good, zipfile.ZipFile(hostile, "w") as bad:
        for name in good.namelist():
            content = good.read(name)
            if name == "xl/worksheets/sheet1.xml":
                content = (
                    f'<!DOCTYPE x [<!ENTITY e SYSTEM "file://{secret}">]>'
                    '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'
                    '<row r="1"><c r="A1" t="inlineStr"><is><t>&e;</t></is></c></row></sheetData></worksheet>'
                ).encode()
            bad.writestr(name, content)
    try:
        said = str(kept(tmp_path, hostile.getvalue()))
    except NoPreview as error:
        said = str(error)
    assert "hidden words" not in said


def test_every_mail_of_the_shared_data_can_be_read():
    paths = [path for path in shared_data("mail").rglob("*") if path.is_file()]
    assert len(paths) > 50
    with_words = 0
    for path in paths:
        try:
            found = read_preview(path, "mail.eml")
        except NoPreview:
            continue
        with_words += any(part.lines for part in found.parts)
    assert with_words > 0.8 * len(paths)


def test_the_spreadsheets_of_the_shared_data():
    found = read_preview(shared_data("spreadsheets/test.xlsx"), "test.xlsx")
    assert any(part.rows for part in found.parts)
