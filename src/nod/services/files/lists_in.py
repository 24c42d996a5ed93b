"""A list that somebody keeps in a spreadsheet, taken in: its columns matched, each cell that cannot be read told."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time

from nod.core.acts.list_columns import find_heads, guess_columns, is_either_way, read_day
from nod.formats.files.spreadsheet import Table, Value, cell_name
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.files.tables_in import table_in

_MOST_FAULTS = 500
_SAMPLES, _MOST_BEFORE = 3, 12


@dataclass(frozen=True)
class ListAsked:
    """How a list is to be read: the place of each field's column from 0, -1 where it has none, None to be guessed.

    `sheet` of a book, empty for the first with something in it. `heads` is the row that names the columns, counted from
    1; 0 to have it found. `keep`: not only tried.
    """

    project_id: str
    columns: dict[str, int] | None
    day_first: bool
    keep: bool
    sheet: str = ""
    heads: int = 0


class ListColumn(Answered):
    letter: str
    head: str
    samples: list[str]


class CellTrouble(Answered):
    """`cell` like B7, as the spreadsheet calls it."""

    cell: str
    value: str
    words: str


class ListTried(Answered):
    """How a list was read. Rows with a trouble are left out.

    `either_way` counts the days whose day and month could be taken for each other. `heads` is the row that names the
    columns, counted from 1, and `before` what stands in each row that it could be. `rows` are those below it.
    """

    sheet: str
    sheets: list[str]
    heads: int
    before: list[str]
    columns: list[ListColumn]
    taken: dict[str, int]
    rows: int
    troubles: list[CellTrouble]
    more_troubles: int
    either_way: int
    kept: bool


class ListReading:
    """One list as it is read: what stands where, and what was found wrong with it."""

    def __init__(self, table: Table, asked: ListAsked, named: Mapping[str, tuple[str, ...]]) -> None:
        """`named`: the heads by which each field is known, see `guess_columns`."""
        heads = asked.heads - 1 if 0 < asked.heads <= len(table.rows) else find_heads(table.rows, named)
        columns = asked.columns if asked.columns is not None else guess_columns(table.rows[heads], named)
        self.table, self.heads, self.day_first = table, heads, asked.day_first
        self.taken = {field: at for field, at in columns.items() if 0 <= at < table.columns and field in named}
        self.troubles: list[CellTrouble] = []
        self.either_way = 0

    def rows(self) -> Iterable[tuple[int, Sequence[Value]]]:
        """Those below the heads with something in them, each with its number in the spreadsheet, from 1."""
        for at, row in enumerate(self.table.rows[self.heads + 1 :], start=self.heads + 2):
            if any(value not in (None, "") for value in row):
                yield at, row

    def value(self, row: Sequence[Value], field: str) -> Value:
        return row[self.taken[field]] if field in self.taken else None

    def said(self, row: Sequence[Value], field: str, longest: int = 300) -> str:
        value = self.value(row, field)
        return "" if value is None else str(value).strip()[:longest]

    def trouble(self, field: str, at: int, value: object, words: str) -> None:
        cell = cell_name(self.taken[field], at) if field in self.taken else f"row {at}"
        self.troubles.append(CellTrouble(cell=cell, value="" if value is None else str(value)[:80], words=words))

    def day(self, at: int, row: Sequence[Value], field: str) -> date | None:
        """None for what is no day, which is told."""
        value = self.value(row, field)
        on = read_day(value, day_first=self.day_first)
        if on is None:
            self.trouble(field, at, value, "No day is given." if value in (None, "") else f"“{value}” is no day.")
        self.either_way += is_either_way(value)
        return on

    def told(self, *, kept: bool) -> ListTried:
        return ListTried(
            sheet=self.table.sheet, sheets=list(self.table.sheets), heads=self.heads + 1,
            before=[_row_words(row) for row in self.table.rows[: max(self.heads + 3, _MOST_BEFORE)]],
            columns=[self._column(at) for at in range(self.table.columns)], taken=self.taken,
            rows=len(self.table.rows) - self.heads - 1, troubles=self.troubles[:_MOST_FAULTS],
            more_troubles=max(0, len(self.troubles) - _MOST_FAULTS), either_way=self.either_way, kept=kept,
        )  # fmt: skip

    def _column(self, at: int) -> ListColumn:
        samples = [
            _words(row[at]) for row in self.table.rows[self.heads + 1 : self.heads + 40] if row[at] not in (None, "")
        ]
        head = str(self.table.rows[self.heads][at] or "")
        return ListColumn(
            letter=cell_name(at, 1)[:-1], head=head[:80], samples=[each[:60] for each in samples[:_SAMPLES]]
        )


def list_in(context: Context, chunks: Iterable[bytes], asked: ListAsked, *, whole: bool = False) -> Table:
    """Texts `whole` with their breaks. Raises RuleBroken for a file that is no table, or is larger than 20 MB."""
    return table_in(context, chunks, whole=whole, sheet=asked.sheet)


def _row_words(row: Sequence[Value]) -> str:
    return ", ".join(_words(each) for each in row if each not in (None, ""))[:80]


def _words(value: Value) -> str:
    """A day without the midnight that a spreadsheet keeps with it."""
    return str(value.date() if isinstance(value, datetime) and value.time() == time() else value)
