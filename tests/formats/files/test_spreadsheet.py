"""Tables against other readers: the csv module of Python (RFC 4180), and the XML of ECMA-376 read by hand."""

import contextlib
import csv
import io
import xml.etree.ElementTree as ET
import zipfile
from datetime import UTC, date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook

from nod.formats.files import spreadsheet
from nod.formats.files.spreadsheet import BrokenTable, cell_name, read_table, write_csv, write_xlsx
from tests.outside import shared_data

MAIN = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
PRINTABLE = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs", "Cn"]), max_size=30)


def _table(path, content):
    path.write_bytes(content)
    return read_table(path)


@given(st.lists(st.lists(PRINTABLE, min_size=2, max_size=2), min_size=1, max_size=8))
def test_csv_is_what_the_standard_says(rows):
    text = write_csv(["a", "b"], rows)
    assert text.startswith("\ufeff")
    read = list(csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline="")))
    assert read[0] == ["a", "b"]
    for given_row, found in zip(rows, read[1:], strict=True):
        assert [cell.removeprefix("'") for cell in found] == [cell.removeprefix("'") for cell in given_row]


# OWASP, "CSV Injection": a cell that begins with one of these can run in a spreadsheet.
@pytest.mark.parametrize("first", ["=", "+", "-", "@", "\t", "\r"])
def test_no_cell_of_a_csv_runs_as_a_formula(first):
    (_, row) = list(csv.reader(io.StringIO(write_csv(["a"], [[f"{first}cmd|' /C calc'!A0"]]), newline="")))
    assert row[0].startswith("'")


def test_figures_and_days_stay_what_they_are(tmp_path):
    target = tmp_path / "x.xlsx"
    rows = [[-5, 2.5, date(2027, 3, 9), datetime(2027, 3, 9, 8, 30, tzinfo=UTC), "=1+1", "a\x0bb", None]]
    write_xlsx(target, ["n", "f", "d", "t", "x", "c", "e"], [80] * 7, rows)
    with zipfile.ZipFile(target) as archive:
        sheet = ET.fromstring(archive.read("xl/worksheets/sheet1.xml"))  # noqa: S314 - our own
    cells = {cell.get("r"): cell for cell in sheet.iter(f"{MAIN}c")}
    assert cells["A2"].findtext(f"{MAIN}v") == "-5"
    assert cells["B2"].findtext(f"{MAIN}v") == "2.5"
    assert not list(sheet.iter(f"{MAIN}f"))
    assert "".join(cells["E2"].itertext()) == "=1+1"
    assert "".join(cells["F2"].itertext()) == "ab"
    # Day 1 is 1 January 1900, with a 29 February that there was not (ECMA-376 part 1, 18.17.4.1).
    assert float(cells["C2"].findtext(f"{MAIN}v")) == (date(2027, 3, 9) - date(1899, 12, 30)).days


@pytest.mark.parametrize(
    ("content", "rows"),
    [
        (b"a;b\n1;2\n\n\n", [["a", "b"], ["1", "2"]]),
        (b"a,b\n1\n", [["a", "b"], ["1", None]]),
        ("\ufeffNummer\tTitel\n1\tTür, groß\n".encode(), [["Nummer", "Titel"], ["1", "Tür, groß"]]),
        ("Nummer;Titel\n1;Tür\n".encode("cp1252"), [["Nummer", "Titel"], ["1", "Tür"]]),
        (b'a,b\n"two\nlines","x""y"\n', [["a", "b"], ["two lines", 'x"y']]),
    ],
)
def test_a_csv_is_read_as_people_save_it(tmp_path, content, rows):
    assert _table(tmp_path / "list", content).rows == rows


def test_an_xlsx_is_read_by_its_first_sheet_whatever_its_name(tmp_path):
    book = Workbook()
    book.active.append(["Number", "On", None, None])
    book.active.append(["X-1", datetime(2027, 3, 9), None, None])  # noqa: DTZ001 - as a spreadsheet keeps it
    book.create_sheet("Other").append(["not", "this"])
    book.save(tmp_path / "book.xlsx")
    (tmp_path / "list").write_bytes((tmp_path / "book.xlsx").read_bytes())
    table = read_table(tmp_path / "list")
    assert table.columns == 2
    assert table.rows[1] == ["X-1", datetime(2027, 3, 9)]  # noqa: DTZ001 - the same


def test_what_is_too_large_is_told(tmp_path, monkeypatch):
    monkeypatch.setattr(spreadsheet, "MOST_ROWS", 3)
    with pytest.raises(BrokenTable, match="more than 3 rows"):
        _table(tmp_path / "list", b"a,b\n" * 6)
    monkeypatch.setattr(spreadsheet, "_LARGEST_INSIDE_BYTES", 100)
    Workbook().save(tmp_path / "book.xlsx")
    with pytest.raises(BrokenTable, match="larger inside"):
        read_table(tmp_path / "book.xlsx")


@given(st.binary(max_size=300))
def test_whatever_comes_is_read_or_told_in_words(tmp_path_factory, content):
    path = tmp_path_factory.mktemp("any") / "list"
    with contextlib.suppress(BrokenTable):
        table = _table(path, content)
        assert all(len(row) == table.columns for row in table.rows)


@given(st.binary(max_size=200))
def test_whatever_calls_itself_a_spreadsheet_is_read_or_told(tmp_path_factory, content):
    path = tmp_path_factory.mktemp("any") / "list"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("xl/workbook.xml", content)
        archive.writestr("[Content_Types].xml", content)
    with pytest.raises(BrokenTable):
        read_table(path)


@pytest.mark.parametrize(("place", "name"), [((0, 1), "A1"), ((1, 7), "B7"), ((25, 2), "Z2"), ((26, 3), "AA3")])
def test_cells_are_called_as_the_spreadsheet_calls_them(place, name):
    assert cell_name(*place) == name


def _book(path, *sheets):
    """`sheets`: (name, rows); a cell may be (value, format)."""
    book = Workbook()
    book.remove(book.active)
    for name, rows in sheets:
        sheet = book.create_sheet(name)
        for at, row in enumerate(rows, 1):
            for column, cell in enumerate(row, 1):
                value, shown = cell if isinstance(cell, tuple) else (cell, "General")
                sheet.cell(at, column, value).number_format = shown
    book.save(path)
    return path


# What a format shows is that of ECMA-376 part 1, 18.8.31; the values beside them were written by hand.
@pytest.mark.parametrize(
    ("value", "shown", "read"),
    [
        (31001.0, "General", 31001),
        (31001.5, "General", 31001.5),
        (7, "0000", "0007"),
        (12345, "0000", "12345"),
        (7.0, "000", "007"),
        (50102, '"A-"00-00', "A-501-02"),
        (102, "00-00", "01-02"),
        (3, "\\P00", "P03"),
        (3, '"0"00', "003"),
        (7, "0", 7),
        (7, "0.00", 7),
        (0.5, "0%", 0.5),
        (7, "#,##0", 7),
        (7, "0000;[Red]-0000", "0007"),
        (-7, "0000", -7),
        (True, "0000", True),
    ],
)
def test_a_figure_is_read_as_it_is_shown(tmp_path, value, shown, read):
    table = read_table(_book(tmp_path / "b.xlsx", ("One", [["Number"], [(value, shown)]])))
    assert table.rows[1] == [read]
    assert type(table.rows[1][0]) is type(read)


def test_a_day_that_is_none_is_nothing_but_a_zero(tmp_path):
    table = read_table(_book(tmp_path / "b.xlsx", ("One", [["On", "At"], [(0, "yyyy-mm-dd"), (46455, "yyyy-mm-dd")]])))
    assert table.rows[1] == [0, datetime(2027, 3, 9)]  # noqa: DTZ001 - as a spreadsheet keeps it


def test_a_sheet_of_a_book_is_chosen(tmp_path):
    path = _book(tmp_path / "b.xlsx", ("Empty", []), ("First", [["a"]]), ("Second", [["b"]]))
    table = read_table(path)
    assert (table.sheet, table.sheets, table.rows) == ("First", ("Empty", "First", "Second"), [["a"]])
    assert read_table(path, sheet="Second").rows == [["b"]]
    with pytest.raises(BrokenTable, match="no sheet Third"):
        read_table(path, sheet="Third")
    with pytest.raises(BrokenTable, match="empty"):
        read_table(path, sheet="Empty")
    book = Workbook()
    book.active.sheet_state = "hidden"
    book.active.append(["not this"])
    book.create_sheet("Seen").append(["this"])
    book.active = 1
    book.save(tmp_path / "hidden.xlsx")
    assert read_table(tmp_path / "hidden.xlsx").rows == [["this"]]


def test_a_spreadsheet_of_the_old_kind_says_how_to_save_it():
    with pytest.raises(BrokenTable, match="save it as XLSX"):
        read_table(shared_data("spreadsheets/test.xls"))


def test_a_real_book_is_read_where_something_is_in_it():
    table = read_table(shared_data("spreadsheets/test_sheets.xlsx"))
    assert (table.sheet, table.sheets) == ("data", ("not this sheet", "data"))
    assert table.rows[0] == ["number", "text", "boolean", "date", "datetime"]
