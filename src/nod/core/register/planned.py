"""What companies have promised, and when: what is planned, received, late (handbook §5)."""

from __future__ import annotations

from datetime import date

FIELDS = ("number", "title", "company", "discipline", "planned_on")
STATES = ("late", "planned", "received")
"""In the order in which somebody has to do something about them."""
HEADS: dict[str, tuple[str, ...]] = {
    "number": ("number", "document number", "drawing number", "sheet number", "doc no", "drawing no", "no", "nr"),
    "title": ("title", "document title", "drawing title", "description", "name"),
    "company": ("company", "originator", "by", "author", "firm"),
    "discipline": ("discipline", "trade"),
    "planned_on": ("planned", "planned on", "planned date", "due", "date", "promised", "issue date", "promised for"),
}


def state_of(planned_on: date, received: bool, today: date) -> str:
    """`received`, `late` or `planned`."""
    if received:
        return "received"
    return "late" if planned_on < today else "planned"


def percent(part: int, of: int) -> int:
    """Whole percent, rounded down, so that 100 means all; 0 of nothing."""
    return 100 * part // of if of else 0
