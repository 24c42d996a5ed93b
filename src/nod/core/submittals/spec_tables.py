"""Tables of submittals in a specification: a row of heads, and rows whose words stand below these."""

from __future__ import annotations

import re
from dataclasses import dataclass

from nod.core.submittals.spec_lines import SpecLine, Word

_HEADS = {
    "what": re.compile(r"item|description|submittal|document|title|deliverable|what|subject|submission", re.IGNORECASE),
    "kind": re.compile(r"type|kind|category", re.IGNORECASE),
    "paragraph": re.compile(r"ref\w*|clause|paragraph|para\.?|article|no\.?|nr\.?|id|#", re.IGNORECASE),
    "section": re.compile(r"section|spec\w*", re.IGNORECASE),
}
_NUMBER = re.compile(r"(\d{2})[ .\u00a0-]?(\d{2})[ .\u00a0-]?(\d{2})(?:\.(\d{2}))?")
_SLACK_MM = 1.5
_FEWEST = 3


@dataclass
class Row:
    """`paragraph` is what its column of references says, or the article in which the table stands."""

    page: int
    top: float
    section: str
    section_title: str
    article: str
    cells: dict[str, str]

    @property
    def what(self) -> str:
        return self.cells.get("what", "")

    @property
    def kind(self) -> str:
        return self.cells.get("kind", "")

    @property
    def paragraph(self) -> str:
        return self.cells.get("paragraph") or self.article

    @property
    def text(self) -> str:
        return " \u00b7 ".join(each for each in self.cells.values() if each)


@dataclass(frozen=True)
class _Column:
    left: float
    right: float
    means: str


class Tables:
    """Takes the lines that are of a table of submittals, and no others."""

    def __init__(self, articles: re.Pattern[str]) -> None:
        self._articles = articles
        self._columns: list[_Column] = []
        self._headed: list[str] = []
        self._before = ""
        self._open = False
        self.rows: list[Row] = []

    def takes(self, line: SpecLine, section: str, section_title: str, article: str) -> bool:
        if columns := self._heads(line):
            self._columns, self._open = columns, True
            self._headed = [each.means for each in columns]
            return True
        if not self._open or not self._fits(line):
            self._before = line.text
            return False
        self._row(line, section, section_title, article)
        return True

    def end(self) -> None:
        self._open = False

    def _heads(self, line: SpecLine) -> list[_Column]:
        """Of a row that heads a table of submittals; empty for any other line."""
        cells = line.cells()
        if len(cells) < _FEWEST:
            return []
        said = [" ".join(each.text for each in cell) for cell in cells]
        columns = [
            _Column(cell[0].left, cell[-1].right, _means(words)) for cell, words in zip(cells, said, strict=True)
        ]
        means = [each.means for each in columns]
        called = self._articles.search(" ".join([self._before, *said]))
        if "what" not in means or not {"kind", "paragraph", "section"} & set(means) or not (called or "kind" in means):
            return []
        return columns if all(len(each) < 40 for each in said) else []

    def _fits(self, line: SpecLine) -> bool:
        """Whether no run of words reaches over the left edge of a column."""
        runs = line.cells()
        edges = [each.left - _SLACK_MM for each in self._columns[1:]]
        crossed = any(run[0].left < edge < run[-1].right and not _breaks(run, edge) for run in runs for edge in edges)
        return not crossed and line.left > self._columns[0].left - 4 * _SLACK_MM

    def _row(self, line: SpecLine, section: str, section_title: str, article: str) -> None:
        put: dict[int, list[str]] = {}
        for word in line.words:
            put.setdefault(self._column(word), []).append(word.text)
        said = {at: " ".join(words) for at, words in put.items()}
        last = self.rows[-1] if self.rows else None
        if 0 not in said and last is not None:
            for at, words in said.items():
                self._add(last, at, words)
            return
        row = Row(line.page, line.top, section, section_title, article, {})
        for at, words in said.items():
            self._add(row, at, words)
        if found := _NUMBER.match(row.cells.get("section", "")):
            first, second, third, more = found.groups()
            row.section = f"{first} {second} {third}" + (f".{more}" if more else "")
        self.rows.append(row)

    def _add(self, row: Row, at: int, words: str) -> None:
        means = self._columns[at].means or f"column {at}"
        row.cells[means] = " ".join(filter(None, (row.cells.get(means, ""), words)))

    def _column(self, word: Word) -> int:
        left = [at for at, each in enumerate(self._columns) if word.left >= each.left - _SLACK_MM]
        return left[-1] if left else 0


def _breaks(run: list[Word], edge: float) -> bool:
    """Whether a word of the run begins at the edge: columns that stand close are still columns."""
    return any(abs(word.left - (edge + _SLACK_MM)) < _SLACK_MM for word in run[1:])


def _means(words: str) -> str:
    return next((means for means, pattern in _HEADS.items() if pattern.match(words.strip())), "")
