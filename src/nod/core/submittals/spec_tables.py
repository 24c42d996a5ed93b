"""Tables of submittals in a specification: a row of heads, and rows whose words stand below these."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from nod.core.submittals.spec_lines import SpecLine, Word

_HEADS = {
    "what": re.compile(r"item|description|submittal|document|title|deliverable|what|subject|submission", re.IGNORECASE),
    "kind": re.compile(r"type|kind|category", re.IGNORECASE),
    "paragraph": re.compile(r"ref\w*|clause|paragraph|para\.?|article|no\.?|nr\.?|id|#", re.IGNORECASE),
    "section": re.compile(r"section|spec\w*", re.IGNORECASE),
}
_REFERENCE = re.compile(r"ref|clause|para|article", re.IGNORECASE)
_NUMBER = re.compile(r"(\d{2})[ .\u00a0-]?(\d{2})[ .\u00a0-]?(\d{2})(?:\.(\d{2}))?")
_KIND = "kind "
_SLACK_MM = 1.5
_FEWEST = 3
_ROW_GAP = 1.35
"""In heights of a line: what stands further below begins a row, also where its first cell is empty."""
_TICK = re.compile(r"[xX\u2713\u2714\u2717\u2718\u2022\u25cf\u25a0*]|yes|y|\d{1,2}", re.IGNORECASE)
KindIn = Callable[[str], str]


@dataclass
class Row:
    """`paragraph` is what its column of references says, or the article in which the table stands."""

    page: int
    top: float
    section: str
    section_title: str
    article: str
    cells: dict[str, str]
    ticked: list[str] = field(default_factory=list)
    """Codes of kinds whose columns are ticked, in a table with a column for each kind."""

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


@dataclass
class _Column:
    left: float
    name: str
    means: str = ""


class Tables:
    """Takes the lines that are of a table of submittals, and no others."""

    def __init__(self, articles: re.Pattern[str], kind_in: KindIn) -> None:
        self._articles, self._kind_in = articles, kind_in
        self._bottom = 0.0
        self._columns: list[_Column] = []
        self._headed = False
        """Whether nothing but heads has come yet."""
        self._before = ""
        self._open = False
        self.rows: list[Row] = []

    def takes(self, line: SpecLine, section: str, section_title: str, article: str) -> bool:
        if columns := self._heads(line):
            self._columns, self._open, self._headed, self._bottom = columns, True, True, line.top
            return True
        if self._open and self._headed and self._is_close(line) and self._fits(line):
            self._add_heads(line)
            return True
        if not self.holds(line):
            self._before = line.text
            return False
        self._headed = False
        self._row(line, section, section_title, article)
        return True

    def _is_close(self, line: SpecLine) -> bool:
        return 0 <= line.top - self._bottom < _ROW_GAP * line.height

    def _add_heads(self, line: SpecLine) -> None:
        """The second line of heads that need two."""
        for word in line.words:
            column = self._columns[self._column(word)]
            column.name = f"{column.name} {word.text}"
        self._bottom = line.top
        self._name(self._columns)

    def _name(self, columns: list[_Column]) -> None:
        """What each holds; where several could be the reference, the one that says so rather than a running number."""
        for each in columns:
            each.means = self._means(each.name)
        said = [each for each in columns if each.means == "paragraph"]
        if len(said) > 1:
            best = next((each for each in said if _REFERENCE.match(each.name)), said[0])
            for each in said:
                each.means = "paragraph" if each is best else ""

    def holds(self, line: SpecLine) -> bool:
        """Whether a line would be a row of the table that is open."""
        return self._open and self._fits(line)

    def end(self) -> None:
        self._open = False

    def _heads(self, line: SpecLine) -> list[_Column]:
        """Of a row that heads a table of submittals; empty for any other line."""
        cells = line.cells() if len(line.put) >= _FEWEST and _HEADS["what"].search(line.text) else []
        if len(cells) < _FEWEST:
            return []
        said = [" ".join(each.text for each in cell) for cell in cells]
        columns = [_Column(cell[0].left, words) for cell, words in zip(cells, said, strict=True)]
        self._name(columns)
        means = ["kind" if each.means.startswith(_KIND) else each.means for each in columns]
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
        if last is not None and 0 not in said and self._goes_on(line, said, last):
            for at, words in said.items():
                self._add(last, at, words)
            self._bottom = line.top
            return
        row = Row(line.page, line.top, section, section_title, article, {})
        for at, words in said.items():
            self._add(row, at, words)
        if found := _NUMBER.match(row.cells.get("section", "")):
            first, second, third, more = found.groups()
            row.section = f"{first} {second} {third}" + (f".{more}" if more else "")
        elif last is not None and not row.cells.get("section") and self._has("section"):
            row.section = last.section
        self._bottom = line.top
        self.rows.append(row)

    def _has(self, means: str) -> bool:
        return any(each.means == means for each in self._columns)

    def _goes_on(self, line: SpecLine, said: dict[int, str], last: Row) -> bool:
        """Whether a line without a first cell belongs to the row above it."""
        if line.page != last.page or not any(self._columns[at].means == "what" for at in said):
            return True
        return self._is_close(line)

    def _add(self, row: Row, at: int, words: str) -> None:
        means = self._columns[at].means or f"column {at}"
        if means.startswith(_KIND):
            if _TICK.fullmatch(words.strip()):
                row.ticked.append(means.removeprefix(_KIND))
            return
        row.cells[means] = " ".join(filter(None, (row.cells.get(means, ""), words)))

    def _means(self, words: str) -> str:
        """What a column holds: a kind of its own, where its head names one and nothing else."""
        code = self._kind_in(words)
        if code and len(words.split()) < _FEWEST + 1:
            return f"{_KIND}{code}"
        return next((means for means, pattern in _HEADS.items() if pattern.match(words.strip())), "")

    def _column(self, word: Word) -> int:
        left = [at for at, each in enumerate(self._columns) if word.left >= each.left - _SLACK_MM]
        return left[-1] if left else 0


def _breaks(run: list[Word], edge: float) -> bool:
    """Whether a word of the run begins at the edge: columns that stand close are still columns."""
    return any(abs(word.left - (edge + _SLACK_MM)) < _SLACK_MM for word in run[1:])
