"""How long a thread is open (handbook §11)."""

from __future__ import annotations

from datetime import date


def days_open(sent_on: date, today: date) -> int:
    """Calendar days from the day it was sent: sent Fri 12 Mar, on 31 Mar 19."""
    return (today - sent_on).days
