"""Working days by number: the arithmetic of handbook §9 for one day, or for many at once.

Days are whole numbers counted from 1970-01-01, alone or as arrays of them, as numpy counts `datetime64[D]`.
"""

from __future__ import annotations

from datetime import date, timedelta
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from nod.core.acts.working_days import Calendar, NoWorkingDays

Days = npt.NDArray[np.int64]
Day = Days | np.int64
EPOCH = date(1970, 1, 1)
FIRST, LAST = date(1900, 1, 1), date(2299, 12, 31)
"""Days outside of these are not counted with."""
_OFFSET = (FIRST - EPOCH).days


def number(day: date) -> int:
    return (day - EPOCH).days


def day_of(number: int) -> date:
    return EPOCH + timedelta(days=int(number))


class DayIndex:
    """A calendar laid out once, so that each question is one look."""

    def __init__(self, calendar: Calendar) -> None:
        span = np.arange(_OFFSET, (LAST - EPOCH).days + 1)
        # 1970-01-01 was a Thursday.
        worked = np.isin((span + 3) % 7, sorted(calendar.working_weekdays))
        free = [number(day) - _OFFSET for day in calendar.holidays if FIRST <= day <= LAST]
        worked[free] = False
        self._worked = worked.astype(np.int64)
        self._up_to = np.cumsum(self._worked)
        self._days = span[worked]

    def _at(self, places: Day) -> Days:
        if np.size(places) and not (np.min(places) >= 0 and np.max(places) < len(self._days)):
            raise NoWorkingDays(f"a day lies before {FIRST} or after {LAST}, or nothing is worked")
        return np.asarray(self._days[places])

    def _counted(self, day: Day) -> Days:
        place = np.asarray(day) - _OFFSET
        if np.size(place) and not (np.min(place) >= 0 and np.max(place) < len(self._up_to)):
            raise NoWorkingDays(f"a day lies before {FIRST} or after {LAST}")
        return np.asarray(self._up_to[place])

    def after(self, day: Day, count: Day) -> Days:
        """The `count`-th working day after; with 0 the day itself, or the next working day."""
        here = self._counted(day)
        stays = (np.asarray(count) == 0) & (self._worked[np.asarray(day) - _OFFSET] == 0)
        return self._at(here + count - 1 + stays)

    def before(self, day: Day, count: Day) -> Days:
        """The `count`-th working day before the day, which is moved back to a working day first."""
        return self._at(self._counted(day) - 1 - count)

    def distance(self, start: Day, end: Day) -> Days:
        """Working days after the first up to and with the second; to an earlier one, the negative of the way back."""
        return np.asarray(self._counted(end) - self._counted(start))


@lru_cache(maxsize=64)
def day_index(calendar: Calendar) -> DayIndex:
    return DayIndex(calendar)
