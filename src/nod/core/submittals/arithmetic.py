"""By when a submittal must be sent in, when it will be on site, and how many days there are to spare (handbook §9).

For one submittal or for all of a log at once: the same lines, over arrays. Times are working days of the project's
calendar, except a lead in weeks, which goes on through holidays as factories count: it ends on its day, or the next
working day; taken back from a day, on it or the working day before. Of the path back from the day required on site the
lead comes off first.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from enum import IntEnum, StrEnum

import numpy as np
import numpy.typing as npt

from nod.core.acts.day_index import Days, day_index, day_of, number
from nod.core.acts.working_days import Calendar

PREPARATION = 10
"""Days to prepare another round, unless set (handbook §9)."""
LEAST_ANSWERS, MOST_ANSWERS = 3, 10
"""How many answers of a company are enough to expect the next from, and how many of the last are looked at."""


class LeadIn(StrEnum):
    """What a lead time is counted in."""

    WORKING_DAYS = "working days"
    WEEKS = "weeks"


class Stage(IntEnum):
    """What a forecast starts from."""

    NOT_SENT = 0
    SENT = 1
    PROCEED = 2
    REVISE = 3
    DELIVERED = 4


@dataclass(frozen=True)
class Times:
    """What one submittal takes. `lead`: in what `lead_in` says; the others in working days. `rounds` >= 1."""

    lead: int
    review: int
    rounds: int = 1
    preparation: int = PREPARATION
    buffer: int = 0
    lead_in: LeadIn = LeadIn.WORKING_DAYS

    @property
    def path(self) -> int:
        return self.review * self.rounds + self.preparation * (self.rounds - 1)


@dataclass(frozen=True)
class Standing:
    """Where one submittal stands. `round` is the round that `since` is about, from 1.

    `since`: when it was sent in, answered or delivered; while not sent in, the day it is planned to be, if one is.
    """

    stage: Stage = Stage.NOT_SENT
    round: int = 1
    since: date | None = None


@dataclass(frozen=True)
class Case:
    """One line of a log, as the arithmetic needs it. `expected`: the answer time to expect, in working days."""

    required: date
    times: Times
    expected: int
    standing: Standing = Standing()


@dataclass(frozen=True)
class Outlook:
    """What follows. `answer`: when the running round's answer is to come; None where none is awaited.

    `to_latest`: working days from today to the latest send-in; None once it is sent in. `to_spare`: from the forecast
    to the day required less the buffer. `float_days`: the smaller of them; 0 is the last day, negative is late.
    """

    latest: date
    answer: date | None
    forecast: date
    to_latest: int | None
    to_spare: int
    float_days: int


@dataclass(frozen=True)
class Outlooks:
    """`Outlook` for many, in arrays of one length; days as `day_index` counts them. Where none is, -1."""

    latest: Days
    answer: Days
    forecast: Days
    to_latest: Days
    to_spare: Days
    float_days: Days
    not_sent: npt.NDArray[np.bool_]

    def __getitem__(self, place: int) -> Outlook:
        answer, waits = self.answer[place], bool(self.not_sent[place])
        return Outlook(
            day_of(self.latest[place]), None if answer < 0 else day_of(answer), day_of(self.forecast[place]),
            int(self.to_latest[place]) if waits else None, int(self.to_spare[place]), int(self.float_days[place]),
        )  # fmt: skip


@dataclass(frozen=True)
class Columns:
    """The cases of a log as arrays of one length, in the order of `Case`; `since` is -1 where there is no such day."""

    required: Days
    lead: Days
    in_weeks: npt.NDArray[np.bool_]
    review: Days
    rounds: Days
    preparation: Days
    buffer: Days
    expected: Days
    stage: Days
    round: Days
    since: Days


def columns_of(cases: Sequence[Case]) -> Columns:
    """The same as arrays."""
    rows = np.array(
        [
            (
                number(each.required), each.times.lead, each.times.review, each.times.rounds, each.times.preparation,
                each.times.buffer, each.expected, each.standing.stage, each.standing.round,
                -1 if each.standing.since is None else number(each.standing.since),
            )
            for each in cases
        ],
        dtype=np.int64,
    ).reshape(len(cases), 10)  # fmt: skip
    in_weeks = np.array([each.times.lead_in is LeadIn.WEEKS for each in cases], dtype=np.bool_)
    required, lead, *others = rows.T
    return Columns(required, lead, in_weeks, *others)


def outlooks(log: Columns, today: date, calendar: Calendar) -> Outlooks:
    """Works out a whole log. Raises NoWorkingDays where a day falls out of what is counted with."""
    days, now = day_index(calendar), np.int64(number(today))
    again = log.preparation * (log.rounds - 1)
    plain = np.where(log.in_weeks, 0, log.lead)
    weeks = np.where(log.in_weeks, log.lead * 7, 0)
    not_sent, sent = log.stage == Stage.NOT_SENT, log.stage == Stage.SENT
    revise, done = log.stage == Stage.REVISE, log.stage == Stage.DELIVERED

    latest = days.before(log.required - weeks, plain + log.review * log.rounds + again + log.buffer)
    since = np.where(log.since < 0, now, log.since)
    begins = np.where(not_sent, np.maximum(now, since), since)
    answer = days.after(np.maximum(now, days.after(since, log.expected)), np.int64(0))
    start = np.where(sent, answer, days.after(begins, np.int64(0)))
    another = np.maximum(np.where(revise, 1, 0), log.rounds - log.round) * (log.preparation + log.expected)
    rest = np.select([not_sent, sent | revise], [log.expected * log.rounds + again, another], 0)
    # What has been answered begins on the day of the answer, worked or not: the n-th working day after it is the same.
    begin = np.where(not_sent | sent, start, since)
    there = days.after(begin, rest + plain)
    by_weeks = days.after(np.where(rest > 0, days.after(begin, rest), begin) + weeks, np.int64(0))
    forecast = np.where(done, since, np.where(log.in_weeks, by_weeks, there))

    to_latest = days.distance(now, latest)
    to_spare = days.distance(forecast, days.before(log.required, log.buffer))
    least = np.where(not_sent, np.minimum(to_latest, to_spare), to_spare)
    return Outlooks(latest, np.where(sent, answer, -1), forecast, to_latest, to_spare, least, not_sent)


def outlook(case: Case, today: date, calendar: Calendar) -> Outlook:
    """The same for one."""
    return outlooks(columns_of([case]), today, calendar)[0]


def expected_days(last_answers: Sequence[int], review: int) -> int:
    """The answer time to expect: the median of a company's last answers, rounded up; with too few, the review days.

    `last_answers`: working days from sent in to answered, newest first.
    """
    looked_at = sorted(last_answers[:MOST_ANSWERS])
    if len(looked_at) < LEAST_ANSWERS:
        return review
    middle = len(looked_at) // 2
    if len(looked_at) % 2:
        return looked_at[middle]
    return -(-(looked_at[middle - 1] + looked_at[middle]) // 2)


def days_overdue(case: Case, today: date, calendar: Calendar) -> int:
    """How many working days an answer is late, while one is awaited; 0 where it is in time or none is."""
    if case.standing.stage is not Stage.SENT or case.standing.since is None:
        return 0
    days = day_index(calendar)
    due = days.after(np.int64(number(case.standing.since)), np.int64(case.expected))
    return max(0, int(days.distance(due, np.int64(number(today)))))
