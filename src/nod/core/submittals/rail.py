"""A submittal's rail: what still has to happen between today and the day required on site, as blocks (handbook §9)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from typing import Literal

import numpy as np

from nod.core.acts.day_index import DayIndex, day_index, number
from nod.core.acts.working_days import Calendar
from nod.core.submittals.arithmetic import Case, LeadIn, Stage, outlook

What = Literal["review", "preparation", "buffer", "lead"]


@dataclass(frozen=True)
class Block:
    """Working days from today; `start` may be negative: it should have begun by now."""

    what: What
    start: int
    days: int


@dataclass(frozen=True)
class Rail:
    """`span`: working days from today to the day required. `gap`: those to spare before the first block."""

    span: int
    gap: int
    blocks: tuple[Block, ...]


def rail(case: Case, today: date, calendar: Calendar) -> Rail | None:
    """Laid from its right end: lead, buffer, then the rounds with their preparations. None for what is delivered.

    Of a round, the longer of what is set and what is expected is laid, as that is what makes the float.
    """
    if case.standing.stage is Stage.DELIVERED:
        return None
    days = day_index(calendar)
    now, required = np.int64(number(today)), np.int64(number(case.required))
    span = int(days.distance(now, required))
    lengths = [*_rounds(case, today, calendar), ("buffer", case.times.buffer), ("lead", _lead(case, days))]
    ends = [span]
    for _, length in reversed(lengths):
        ends.insert(0, ends[0] - length)
    blocks = [
        Block(what, begin, end - begin)
        for (what, _), (begin, end) in zip(lengths, pairwise(ends), strict=True)
        if end > begin
    ]
    return Rail(span, ends[0], tuple(blocks))


def _lead(case: Case, days: DayIndex) -> int:
    """In working days, also of a lead in weeks: those of the weeks before the day required."""
    if case.times.lead_in is LeadIn.WORKING_DAYS:
        return case.times.lead
    required = np.int64(number(case.required))
    return int(days.distance(required - case.times.lead * 7, required))


def _rounds(case: Case, today: date, calendar: Calendar) -> Iterator[tuple[What, int]]:
    """What is still to come before the lead, in its order."""
    times, at = case.times, case.standing
    if at.stage is Stage.PROCEED:
        return
    length, left = case.expected, max(0, times.rounds - at.round)
    if at.stage is Stage.NOT_SENT:
        length, left = max(case.expected, times.review), times.rounds - 1
        yield "review", length
    elif at.stage is Stage.SENT:
        answer = outlook(case, today, calendar).answer
        if answer is not None:
            yield "review", int(day_index(calendar).distance(np.int64(number(today)), np.int64(number(answer))))
    else:
        left = max(1, left)
    for _ in range(left):
        yield "preparation", times.preparation
        yield "review", length
