"""A letter that came on paper: when it was written and when it was received (handbook §11)."""

from __future__ import annotations

from datetime import date

from nod.core.acts.refusals import RuleBroken


def check_days(dated_on: date | None, received_on: date | None, today: date) -> tuple[date, date]:
    """Raises RuleBroken where a day is missing, is to come, or is before the letter was written."""
    if dated_on is None or received_on is None:
        raise RuleBroken("paper_day_missing", "Say the day that the letter bears, and the day on which it came.")
    if received_on > today:
        raise RuleBroken("paper_day_to_come", "It cannot have come on a day that is still to come.")
    if dated_on > received_on:
        words = f"It bears {dated_on:%-d %B %Y} and came on {received_on:%-d %B %Y}, before it was written."
        raise RuleBroken("paper_days_crossed", words)
    return dated_on, received_on


def check_scan(files: int) -> None:
    """Raises RuleBroken for a letter without what shows it."""
    if not files:
        raise RuleBroken("scan_missing", "Add the scan of the letter: it is the evidence.")
