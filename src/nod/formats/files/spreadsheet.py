"""Tables as spreadsheets (XLSX, by openpyxl) and CSV: written for people's own programs, read with all their habits."""

from __future__ import annotations

import csv
import io
import re
import warnings
import zipfile
import zlib
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from pathlib import Path
from typing import Any, BinaryIO

from openpyxl import Workbook, load_workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter
from openpyxl.utils.exceptions import InvalidFileException
from openpyxl.worksheet.datavalidation import DataValidation

from nod.core.acts.plain_text import clean_text
from nod.formats.files.media_types import media_type

MOST_ROWS, MOST_COLUMNS = 20_000, 100
_LARGEST_INSIDE_BYTES = 200 * 1024**2
_LONGEST_CELL = 1000
_LONGEST_TEXT = 32_767
"""What a cell of a spreadsheet holds (ECMA-376, 18.18.93 ST_Xstring as programs limit it)."""

# What the package raises for parts that are missing, cut off or not what they say; a parse error is a SyntaxError.
BROKEN_BOOK = (
    InvalidFileException, zipfile.BadZipFile, zlib.error, SyntaxError, KeyError, ValueError, IndexError, TypeError,
    AttributeError, EOFError, NotImplementedError,
)  # fmt: skip

Value = str | int | float | date | datetime | None


class BrokenTable(Exception):
    """A file that cannot be read as a table; the words say why."""


@dataclass(frozen=True)
class Table:
    """`rows` are as in the file, the first at row 1; every row has `columns` values.

    `sheets` are the names of those of the book that can be seen, `sheet` the one that was read; none of a CSV.
    """

    columns: int
    rows: list[list[Value]]
    sheet: str = ""
    sheets: tuple[str, ...] = ()


def cell_name(column: int, row: int) -> str:
    """`B7` for the second column of the seventh row; `column` counts from 0, `row` from 1."""
    return f"{get_column_letter(column + 1)}{row}"


def write_xlsx(target: Path, heads: Sequence[str], widths_px: Sequence[int], rows: Iterable[Sequence[Value]]) -> None:
    """One sheet with a fixed, bold first row. Text stays text, also where it looks like a formula."""
    write_book(target, [BookSheet("Register", heads, widths_px, rows)])


@dataclass(frozen=True)
class BookSheet:
    """One sheet of a book; widths in pixels."""

    name: str
    heads: Sequence[str]
    widths_px: Sequence[int]
    rows: Iterable[Sequence[Value]]


def write_book(target: Path, sheets: Iterable[BookSheet]) -> None:
    """Several sheets, each as `write_xlsx` writes one."""
    book = Workbook(write_only=True)
    for each in sheets:
        _write_sheet(book.create_sheet(each.name), each.heads, each.widths_px, each.rows)
    book.save(target)


_FILLED_ROWS = 2000
_TEXT_FORMAT, _DAY_FORMAT = "@", "yyyy-mm-dd"


def template_book(
    target: BinaryIO, name: str, heads: Sequence[str], choices: Mapping[str, Sequence[str]], days: Collection[str] = ()
) -> None:
    """A sheet to fill in, `name`, with its heads; where a head has `choices`, its cells offer them and take no other.

    Cells are text, so that a number keeps its zeros, but for those of `days`. The choices have a sheet of their own.
    """
    book = Workbook()
    sheet, offered = book.worksheets[0], book.create_sheet("Choices")
    sheet.title, sheet.freeze_panes = name, "A2"
    for place, head in enumerate(heads, start=1):
        letter = get_column_letter(place)
        cell = sheet.cell(1, place, clean_text(head))
        cell.font = Font(bold=True)
        column = sheet.column_dimensions[letter]
        column.width, column.number_format = max(12.0, len(head) + 3), _DAY_FORMAT if head in days else _TEXT_FORMAT
        if not choices.get(head):
            continue
        at = get_column_letter(offered.max_column + 1 if offered.max_row > 1 else 1)
        for row, words in enumerate((head, *choices[head]), start=1):
            cell = offered[f"{at}{row}"]
            cell.value, cell.data_type = clean_text(words), "s"
        rule = DataValidation("list", formula1=f"Choices!${at}$2:${at}${len(choices[head]) + 1}", allow_blank=True)
        rule.showErrorMessage = True
        rule.error = f"Choose one of the sheet Choices for {head}."
        rule.add(f"{letter}2:{letter}{_FILLED_ROWS}")
        sheet.add_data_validation(rule)
    book.save(target)


def _write_sheet(
    sheet: Any, heads: Sequence[str], widths_px: Sequence[int], rows: Iterable[Sequence[Value]]
) -> None:  # fmt: skip
    sheet.freeze_panes = "A2"
    for place, width in enumerate(widths_px):
        # A column's width counts figures of 7 px at the usual font (ECMA-376, 18.3.1.13).
        sheet.column_dimensions[get_column_letter(place + 1)].width = max(6.0, width / 7)
    bold = Font(bold=True)
    cells = [_text_cell(sheet, head) for head in heads]
    for cell in cells:
        cell.font = bold
    sheet.append(cells)
    for row in rows:
        sheet.append([_cell(sheet, value) for value in row])


def _cell(sheet: Any, value: Value) -> Any:
    if isinstance(value, datetime):
        value = value.replace(tzinfo=None)
    if not isinstance(value, str):
        return value
    return _text_cell(sheet, value) if value.startswith("=") else clean_text(value)[:_LONGEST_TEXT]


def _text_cell(sheet: Any, text: str) -> Any:
    """Text whatever it begins with: a head is made of a field's name, which anybody may have chosen."""
    cell = WriteOnlyCell(sheet, "")
    cell.value = clean_text(text)[:_LONGEST_TEXT]
    cell.data_type = "s"
    return cell


def write_csv(heads: Sequence[str], rows: Iterable[Sequence[Value]]) -> str:
    """RFC 4180 with a byte order mark, which spreadsheets need to see UTF-8.

    A cell that a spreadsheet would run as a formula gets an apostrophe in front (OWASP, CSV injection).
    """
    out = io.StringIO()
    out.write("\ufeff")
    table = csv.writer(out)
    table.writerow([_plain(head) for head in heads])
    for row in rows:
        table.writerow([_plain(value) for value in row])
    return out.getvalue()


def _plain(value: Value) -> str | int | float:
    if value is None:
        return ""
    if isinstance(value, datetime):
        return value.isoformat(timespec="minutes")
    if isinstance(value, date):
        return value.isoformat()
    if not isinstance(value, str):
        return value
    text = clean_text(value)
    return f"'{text}" if text and text[0] in "=+-@\t\r" else text


def read_table(path: Path, *, whole: bool = False, sheet: str = "") -> Table:
    """A sheet of an XLSX, or a CSV with commas, semicolons or tabs. Raises BrokenTable in words.

    Of a book the `sheet` that is named, or else the first with something in it; hidden ones are left alone. Figures are
    read as they are shown where that is more than their value: `0007`, and 31001 of a number kept as 31001.0. Text is
    tidied into one line and cut after 1,000 characters, unless it is wanted `whole`, with its breaks.
    """
    with path.open("rb") as file:
        head = file.read(8)
    if head == _OLD_BOOK:
        raise BrokenTable("This is a spreadsheet of the old kind (XLS). Open it and save it as XLSX, then take that.")
    take = _whole if whole else _value
    if not head.startswith(b"PK"):
        return _table(_read_csv(path, take))
    name, names, rows = _read_xlsx(path, take, sheet)
    return _table(rows, name, names)


_OLD_BOOK = bytes.fromhex("d0cf11e0a1b11ae1")
"""A compound file ([MS-CFB] 2.2), in which spreadsheets were kept before ECMA-376."""


def _table(rows: list[list[Value]], sheet: str = "", sheets: tuple[str, ...] = ()) -> Table:
    if not rows:
        raise BrokenTable("The table is empty.")
    width = max(len(row) for row in rows)
    if width > MOST_COLUMNS:
        raise BrokenTable(f"The table has {width} columns; at most {MOST_COLUMNS} are read.")
    return Table(width, [[*row, *[None] * (width - len(row))] for row in rows], sheet, sheets)


def _filled(rows: list[list[Value]]) -> list[list[Value]]:
    """Without the empty rows at the end."""
    while rows and not any(value not in (None, "") for value in rows[-1]):
        rows.pop()
    return rows


def _read_xlsx(
    path: Path, take: Callable[[Any], Value], wanted: str
) -> tuple[str, tuple[str, ...], list[list[Value]]]:  # fmt: skip
    """The name of the sheet, those of all that can be seen, and its rows."""
    try:
        with zipfile.ZipFile(path) as archive:
            if sum(each.file_size for each in archive.infolist()) > _LARGEST_INSIDE_BYTES:
                raise BrokenTable("The spreadsheet is larger inside than Nod reads.")
        # Opened here, as the package would look at the name.
        with path.open("rb") as file, warnings.catch_warnings():
            # It warns of what it leaves out of styles and validation, of which nothing is read here.
            warnings.simplefilter("ignore")
            book = load_workbook(file, read_only=True, data_only=True)
            seen = [each for each in book.worksheets if each.sheet_state == "visible"] or book.worksheets
            names = tuple(each.title for each in seen)
            if wanted and wanted not in names:
                raise BrokenTable(f"There is no sheet {wanted[:80]} in this book.")
            rows: list[list[Value]] = []
            name = names[0]
            for sheet in seen:
                if not rows and wanted in ("", sheet.title):
                    name, rows = sheet.title, _filled(list(_rows_of(sheet, take)))
    except BROKEN_BOOK as error:
        raise BrokenTable("This is not a spreadsheet (XLSX) that can be read, or it is broken.") from error
    return name if rows or wanted else names[0], names, rows


def _rows_of(sheet: Any, take: Callable[[Any], Value]) -> Iterator[list[Value]]:
    for count, row in enumerate(sheet.iter_rows(max_col=MOST_COLUMNS + 1)):
        if count > MOST_ROWS:
            raise BrokenTable(f"The table has more than {MOST_ROWS} rows.")
        yield _trimmed([take(_shown(each)) for each in row])


def _shown(cell: Any) -> Any:
    """A cell's value, as its format shows it where that tells more."""
    value = cell.value
    if isinstance(value, float) and value.is_integer() and abs(value) < _EXACT:
        value = int(value)
    if isinstance(value, time):
        # What a format of days makes of 0: no day at all (ECMA-376 part 1, 18.17.4.1).
        return 0 if value == time() else value
    if isinstance(value, int) and not isinstance(value, bool) and value >= 0:
        return _by_format(value, cell.number_format) or value
    return value


_EXACT, _LONGEST_FORMAT = 2**53, 100
_LITERAL = re.compile(r'"[^"]*"|\\.|[- ]')
_FIXED = re.compile(r'(?:"[^"]*"|\\.|[- ]|0)+')


def _by_format(value: int, pattern: str) -> str:
    """What a format of fixed figures shows, `0000` or `"A-"00-00`; empty for any other.

    Figures fill the zeros from the right, and what is more stands at the first (ECMA-376 part 1, 18.8.31).
    """
    pattern = pattern.split(";")[0]
    zeros = _LITERAL.sub("", pattern).count("0")
    if not zeros or len(pattern) > _LONGEST_FORMAT or not _FIXED.fullmatch(pattern) or pattern == "0":
        return ""
    figures = str(value).zfill(zeros)
    first, rest = figures[: len(figures) - zeros + 1], list(figures[len(figures) - zeros + 1 :])
    found, quoted, at = "", False, 0
    fill = [first, *rest]
    while at < len(pattern):
        sign = pattern[at]
        if sign == '"':
            quoted = not quoted
        elif sign == "\\" and not quoted:
            at += 1
            found += pattern[at]
        elif sign == "0" and not quoted:
            found += fill.pop(0)
        else:
            found += sign
        at += 1
    return found


def _trimmed(row: list[Value]) -> list[Value]:
    while row and row[-1] in (None, ""):
        row.pop()
    return row


def _value(value: Any) -> Value:
    if value is None or isinstance(value, int | float | date):
        return value
    return " ".join(clean_text(str(value)).split())[:_LONGEST_CELL]


def _whole(value: Any) -> Value:
    if value is None or isinstance(value, int | float | date):
        return value
    return clean_text(str(value)).replace("\r\n", "\n").replace("_x000D_", "").strip()[:_LONGEST_TEXT]


def _check_count(rows: Sequence[object]) -> None:
    if len(rows) > MOST_ROWS + 1:
        raise BrokenTable(f"The table has more than {MOST_ROWS} rows.")


def _unguarded(text: str) -> str:
    """Without the apostrophe that was put before what a spreadsheet would run, see `write_csv`."""
    return text[1:] if text[:1] == "'" and text[1:2] in ("=", "+", "-", "@", "\t", "\r") else text


def _read_csv(path: Path, take: Callable[[Any], Value]) -> list[list[Value]]:
    raw = path.read_bytes()
    if b"\0" in raw[:4096] or media_type(raw[:4096]) != "application/octet-stream":
        raise BrokenTable("This is neither a spreadsheet (XLSX) nor a CSV.")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = raw.decode("cp1252", "replace")
    first = text.splitlines()[0] if text.strip() else ""
    divider = max(",;\t", key=first.count)
    rows: list[list[Value]] = []
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=divider):
            rows.append([take(_unguarded(each)) for each in row])
            _check_count(rows)
    except csv.Error as error:
        raise BrokenTable(f"The CSV cannot be read: {error}.") from error
    return _filled([_trimmed(row) for row in rows])
