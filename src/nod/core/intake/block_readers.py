"""Block readers: named zones that read the title blocks of one company's sheets of one size (handbook §5.3).

All places are millimetres of the paper as seen, origin upper left, y downwards.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Literal

import numpy as np

from nod.core.intake import block_labels, block_picks
from nod.core.intake.block_picks import Reading
from nod.core.intake.findings import Rules
from nod.core.sheet.placed_words import PlacedWords
from nod.core.sheet.sheet_sizes import TOLERANCE_MM

Corner = Literal["upper left", "upper right", "lower left", "lower right"]
CORNERS: tuple[Corner, ...] = ("upper left", "upper right", "lower left", "lower right")
NOT_COMPARED = "not compared"
"""The field of a zone that is read by nobody: what changes there (a plot stamp) is left out of comparisons."""

_REACH_MM = 150.0
_SPACE = 0.45
_SAME_HEIGHT = 0.2
_WEIGHTS: Mapping[str, float] = {"number": 3.0, "revision": 2.0, "title": 2.0}


class Lines(StrEnum):
    """What becomes of several lines in one zone."""

    JOINED = "joined"
    CLOSED_UP = "closed up"
    FIRST = "first"
    LAST = "last"


@dataclass(frozen=True)
class Zone:
    """A rectangle `across` and `down` from a corner of the page to its nearest corner, and what it gives.

    `label` is printed inside and dropped; `pattern` (see block_picks) picks the value out of what is left.
    """

    field: str
    corner: Corner
    across_mm: float
    down_mm: float
    width_mm: float
    height_mm: float
    label: str = ""
    pattern: str = ""
    lines: Lines = Lines.JOINED

    def on(self, size_mm: tuple[float, float]) -> tuple[float, float, float, float]:
        """Left, upper, right and lower edge on a page of this size."""
        width, height = size_mm
        left = width - self.across_mm - self.width_mm if "right" in self.corner else self.across_mm
        upper = height - self.down_mm - self.height_mm if "lower" in self.corner else self.down_mm
        return left, upper, left + self.width_mm, upper + self.height_mm


@dataclass(frozen=True)
class BlockReader:
    """`learned` maps a field and what was read there (see `learned_key`) to what the controller made of it."""

    id: str
    company: str
    size_mm: tuple[float, float]
    zones: tuple[Zone, ...]
    learned: Mapping[tuple[str, str], str]

    def fits(self, size_mm: tuple[float, float]) -> bool:
        """Whether pages of this size, the right way up, are its business: 3 mm tolerance (handbook §4)."""
        return all(abs(a - b) <= TOLERANCE_MM for a, b in zip(self.size_mm, size_mm, strict=True))


def read_page(
    reader: BlockReader, words: PlacedWords, size_mm: tuple[float, float], rules: Rules
) -> dict[str, Reading]:
    """What each zone reads, by field. Where a field has several zones the first that reads something counts."""
    found: dict[str, Reading] = {}
    words = _around_zones(reader, words, size_mm)
    for zone in reader.zones:
        if zone.field == NOT_COMPARED or (zone.field in found and found[zone.field].value):
            continue
        found[zone.field] = read_zone(zone, words, size_mm, rules)
    number = found["number"].value if "number" in found else ""
    return {field: _as_learned(reader, field, reading, number) for field, reading in found.items()}


def _around_zones(reader: BlockReader, words: PlacedWords, size_mm: tuple[float, float]) -> PlacedWords:
    """The words that any zone could read: most of a drawing is nowhere near its title block."""
    boxes = np.array([zone.on(size_mm) for zone in reader.zones])
    left, upper = boxes[:, :2].min(0) - _REACH_MM
    right, lower = boxes[:, 2:].max(0) + _REACH_MM
    x, y = words.boxes[:, (0, 2)], words.boxes[:, (1, 3)]
    return words.only((x[:, 1] >= left) & (x[:, 0] <= right) & (y[:, 1] >= upper) & (y[:, 0] <= lower))


def learned_key(field: str, reading: str, number: str) -> str:
    """Under what a correction is remembered: the reading, for a title together with the number of its sheet.

    Two sheets can bear the same title and only one of them wrongly.
    """
    return f"{number}\n{reading}" if field == "title" else reading


def _as_learned(reader: BlockReader, field: str, reading: Reading, number: str) -> Reading:
    meant = reader.learned.get((field, learned_key(field, reading.value, number))) if reading.value else None
    return Reading(meant, learned_from=reading.value) if meant else reading


def read_zone(zone: Zone, words: PlacedWords, size_mm: tuple[float, float], rules: Rules) -> Reading:
    """The value in a zone, or why there is none. Nothing is guessed: what is doubtful stays open."""
    lines = block_labels.without_label(_lines(words, zone.on(size_mm)), zone.field, zone.label)
    texts = [" ".join(words.texts[at] for at in line) for line in lines if line]
    if not texts:
        return Reading(why="The zone is empty here.")
    return block_picks.pick(_join(texts, zone.lines), zone.field, zone.pattern, rules)


def _join(texts: list[str], how: Lines) -> str:
    if how is Lines.FIRST:
        return texts[0]
    if how is Lines.LAST:
        return texts[-1]
    return ("" if how is Lines.CLOSED_UP else " ").join(texts)


def as_ocr(readings: Mapping[str, Reading]) -> dict[str, Reading]:
    """Readings of a scan, marked as such. One that its field does not take is left open: OCR errs often enough."""
    return {
        field: replace(each, by_ocr=True)
        if each.sure
        else Reading(why=f"OCR reads “{each.value}”, which is not a {field}.", by_ocr=True)
        for field, each in readings.items()
    }


def score(reader: BlockReader, readings: Mapping[str, Reading]) -> float:
    """How well it reads a page: 0 to 1, the number weighing most."""
    fields = {zone.field for zone in reader.zones if zone.field != NOT_COMPARED}
    possible = sum(_WEIGHTS.get(field, 1.0) for field in fields)
    reached = sum(_WEIGHTS.get(field, 1.0) for field in fields if readings[field].value and readings[field].sure)
    return reached / possible if possible else 0.0


def choose_reader(
    readers: list[BlockReader], words: PlacedWords, size_mm: tuple[float, float], rules: Rules, company: str = "",
    *, said: bool = False,
) -> tuple[BlockReader, dict[str, Reading]] | None:  # fmt: skip
    """The reader for pages of this size that reads most; of equals, the one of the company that sent the sheet.

    Where somebody has `said` which company that is, its own readers come first. Where none of these reads anything, the
    best of the others proposes: what it reads is not sure, however well it fits, as zones that take anything read any
    block.
    """
    read = [(each, read_page(each, words, size_mm, rules)) for each in readers if each.fits(size_mm)]
    found = [each for each in read if score(*each) > 0]
    own = [each for each in found if said and each[0].company == company]
    if not found:
        return None
    reader, readings = max(own or found, key=lambda each: (score(*each), each[0].company == company))
    if own or not said or not reader.company:
        return reader, readings
    proposed = {field: replace(each, sure=False, reader_of=reader.company) for field, each in readings.items()}
    return reader, proposed


def _lines(words: PlacedWords, rect: tuple[float, float, float, float]) -> list[list[block_labels.Placed]]:
    """The words of the zone as lines in the order of reading, each word with its height."""
    left, upper, right, lower = rect
    x, y = words.boxes[:, 0] + words.boxes[:, 2], words.boxes[:, 1] + words.boxes[:, 3]
    inside = (2 * left <= x) & (x <= 2 * right) & (2 * upper <= y) & (y <= 2 * lower)
    places = np.flatnonzero(inside).tolist()
    if not places:
        return []
    turn = _main_turn(words, places)
    along, across = _frame(words, turn)
    same_turn = words.turns == turn
    # A zone has few words: plain numbers are quicker one by one than arrays.
    bands: list[list[float]] = across.tolist()
    starts: list[float] = along[:, 0].tolist()
    chosen = sorted((at for at in places if same_turn[at]), key=lambda at: sum(bands[at]))
    lines: list[list[int]] = []
    for at in chosen:
        if lines and _same_line(bands[lines[-1][-1]], bands[at]):
            lines[-1].append(at)
        else:
            lines.append([at])
    for line in lines:
        line.sort(key=lambda at: starts[at])
        _run_over(line, along, across, same_turn)
    return [[block_labels.Placed(at, words.texts[at], bands[at][1] - bands[at][0]) for at in line] for line in lines]


def _main_turn(words: PlacedWords, places: list[int]) -> int:
    """The direction in which most characters of the zone are read; of equals the one nearest to upright."""
    lengths: dict[int, int] = {}
    for at in places:
        turn = int(words.turns[at])
        lengths[turn] = lengths.get(turn, 0) + len(words.texts[at])
    return max(sorted(lengths), key=lambda turn: lengths[turn])


def _frame(words: PlacedWords, turn: int) -> tuple[np.ndarray, np.ndarray]:
    """Extents (n, 2) along the direction of reading and across it, both growing as one reads."""
    x, y = words.boxes[:, (0, 2)], words.boxes[:, (1, 3)]
    return {0: (x, y), 90: (y, -x[:, ::-1]), 180: (-x[:, ::-1], -y[:, ::-1]), 270: (-y[:, ::-1], x)}[turn]


def _same_line(one: list[float], other: list[float]) -> bool:
    """Two words share a line where their bands overlap by more than half of the lower one."""
    overlap = min(one[1], other[1]) - max(one[0], other[0])
    return overlap > 0.5 * min(one[1] - one[0], other[1] - other[0])


def _run_over(line: list[int], along: np.ndarray, across: np.ndarray, same_turn: np.ndarray) -> None:
    """Adds the words after it that a blank only parts from the line: a value that runs over the edge of its cell."""
    while True:
        last = line[-1]
        low, high = across[last].tolist()
        height, end = high - low, float(along[last, 1])
        starts = along[:, 0]
        near = np.flatnonzero(same_turn & (starts > end - 0.1 * height) & (starts < end + _SPACE * height)).tolist()
        follows = (
            at
            for at in near
            if at not in line
            and abs(across[at, 0] - low) < _SAME_HEIGHT * height
            and abs(across[at, 1] - high) < _SAME_HEIGHT * height
        )
        after = next(follows, None)
        if after is None:
            return
        line.append(after)
