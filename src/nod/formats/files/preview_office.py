"""Documents (DOCX) and tables (XLSX, CSV) in plain parts; see `formats.preview`."""

from __future__ import annotations

import warnings
import zipfile
from pathlib import Path

from docx import Document
from docx.table import Table as DocxTable
from lxml import etree
from openpyxl import load_workbook

from nod.formats.files.preview import (
    LONGEST_LINE,
    MOST_COLUMNS,
    MOST_LINES,
    MOST_PARTS,
    MOST_ROWS,
    NoPreview,
    Preview,
    PreviewPart,
    cell_words,
    table_part,
)
from nod.formats.files.spreadsheet import BROKEN_BOOK, BrokenTable, read_table

_LARGEST_INSIDE_BYTES = 200 * 1024**2
_BROKEN_DOCUMENT = (*BROKEN_BOOK, etree.LxmlError, RecursionError, OSError)


def read_package(path: Path, most_rows: int = MOST_ROWS) -> Preview:
    """Raises NoPreview for a broken one and for other kinds."""
    try:
        with zipfile.ZipFile(path) as archive:
            names = {each.filename for each in archive.infolist()}
            if sum(each.file_size for each in archive.infolist()) > _LARGEST_INSIDE_BYTES:
                raise NoPreview("The file is larger inside than Nod reads.")
        if "word/document.xml" in names:
            return _read_document(path, most_rows)
        if "xl/workbook.xml" in names:
            return _read_book(path, most_rows)
    except _BROKEN_DOCUMENT as error:
        raise NoPreview("The file is broken: it cannot be read.") from error
    raise NoPreview("Nod has no preview for this kind of file.")


def _read_book(path: Path, most_rows: int) -> Preview:
    """Every sheet with its values, as last calculated by whoever saved it."""
    parts = []
    with warnings.catch_warnings(), path.open("rb") as file:
        # What the package does not keep is of no use for reading.
        warnings.simplefilter("ignore", UserWarning)
        book = load_workbook(file, read_only=True, data_only=True)
        for sheet in book.worksheets[:MOST_PARTS]:
            rows: list[tuple[str, ...]] = []
            for row in sheet.iter_rows(max_row=most_rows + 1, max_col=MOST_COLUMNS, values_only=True):
                rows.append(tuple(cell_words(value) for value in row))
            parts.append(table_part(rows, sheet.title, most_rows))
    return Preview("Spreadsheet", tuple(parts))


def _read_document(path: Path, most_rows: int) -> Preview:
    parts: list[PreviewPart] = []
    title = ""
    lines: list[str] = []

    def close() -> None:
        if title or any(lines):
            parts.append(PreviewPart(title, lines=tuple(lines[:MOST_LINES]), more=len(lines) > MOST_LINES))

    with path.open("rb") as file:
        for thing in Document(file).iter_inner_content():
            if isinstance(thing, DocxTable):
                close()
                title, lines = "", []
                rows = [tuple(cell_words(cell.text) for cell in row.cells) for row in thing.rows]
                parts.append(table_part(rows, "", most_rows))
            elif thing.style is not None and str(thing.style.name).startswith(("Heading", "Title")):
                close()
                title, lines = " ".join(thing.text.split())[:LONGEST_LINE], []
            else:
                lines.append(thing.text[:LONGEST_LINE])
    close()
    return Preview("Document", tuple(parts[:MOST_PARTS]))


def read_csv(path: Path, most_rows: int = MOST_ROWS) -> Preview:
    """Raises NoPreview."""
    try:
        table = read_table(path)
    except BrokenTable as error:
        raise NoPreview(str(error)) from error
    rows = [tuple(cell_words(value) for value in row[:MOST_COLUMNS]) for row in table.rows[: most_rows + 1]]
    return Preview("Table", (table_part(rows, "", most_rows),))
