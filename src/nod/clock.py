"""The wall clock: the one place where it is read."""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta


class Clock:
    """Tells the time, shifted by a fixed span so that the demo and the tests can live on another day."""

    def __init__(self, shift_seconds: float = 0.0) -> None:
        self._shift = timedelta(seconds=shift_seconds)

    def now(self) -> datetime:
        """The present instant, UTC."""
        return datetime.now(UTC) + self._shift  # noqa: TID251 - this is the one place


class SetClock(Clock):
    """Stands still until it is set: for making the demo's past, and for tests."""

    def __init__(self, at: datetime) -> None:
        super().__init__()
        self._at = at

    def now(self) -> datetime:
        return self._at

    def set(self, at: datetime) -> None:
        self._at = at

    def advance(self, span: timedelta) -> None:
        self._at += span


def worked_seconds() -> float:
    """Seconds that this thread has worked, whatever else the machine does; for measuring spans only."""
    return time.thread_time()


def steady_seconds() -> float:
    """Seconds on a clock that never goes back; for measuring spans only."""
    return time.monotonic()
