"""The columns of a log of submittals that is taken in or out, and reading what people write into them."""

from __future__ import annotations

import re

from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.arithmetic import LeadIn

LABELS = {
    "number": "Number", "title": "Title", "kind": "Kind", "section": "Section", "paragraph": "Paragraph",
    "company": "Responsible", "approver": "To answer it", "required_on": "Required on site", "lead": "Lead time",
    "lead_in": "Lead time is in", "review_days": "Review, working days", "rounds": "Rounds expected",
    "preparation": "Preparation, working days", "planned_on": "Planned send-in", "description": "Description",
    "reference": "Reference", "category": "Category", "location": "Location", "milestone": "Milestone",
}  # fmt: skip
"""What the columns are called where Nod writes them, so that what is taken out can be taken in again."""

HEADS: dict[str, tuple[str, ...]] = {
    "number": ("number", "submittal number", "submittal no", "submittal id", "submittal", "no", "nr"),
    "title": ("title", "submittal title", "name", "subject", "item"),
    "kind": ("kind", "type", "submittal type", "kind of submittal"),
    "section": ("section", "spec section", "specification section", "spec", "section number"),
    "paragraph": ("paragraph", "article", "para", "clause"),
    "company": ("responsible", "responsible company", "company", "contractor", "subcontractor", "from", "by"),
    "approver": ("to answer it", "approver", "reviewer", "answered by", "approved by"),
    "required_on": (
        "required on site", "required", "on site", "required date", "date required", "needed on site", "required by",
        "date", "start",
    ),
    "lead": (
        "lead time", "lead", "lead time working days", "lead time days", "lead days", "lead time weeks", "lead weeks",
    ),
    "lead_in": ("lead time is in", "lead in", "lead unit", "unit"),
    "review_days": ("review working days", "review days", "review", "review time"),
    "rounds": ("rounds expected", "expected rounds", "rounds", "reviews"),
    "preparation": ("preparation working days", "preparation", "preparation days"),
    "planned_on": ("planned send in", "planned", "planned on", "send in planned", "planned date", "submit by"),
    "description": ("description", "what", "remarks", "notes"),
    "reference": ("reference", "ref"),
    "category": ("category",),
    "location": ("location", "place"),
    "milestone": ("milestone", "milestones", "activity", "activity code", "activity id", "task id"),
}  # fmt: skip
"""The heads by which each column is known, the likeliest first; common practice. See `guess_columns`."""

DATE_FIELDS = ("number", "title", "milestone", "required_on")
"""What is read of a schedule, which only moves the days required on site."""

_COUNT = re.compile(r"(\d{1,5})(?:[.,]0+)?\s*([a-z ]*)")
_UNITS = {
    "": None, "d": LeadIn.WORKING_DAYS, "day": LeadIn.WORKING_DAYS, "days": LeadIn.WORKING_DAYS,
    "wd": LeadIn.WORKING_DAYS, "working days": LeadIn.WORKING_DAYS, "working day": LeadIn.WORKING_DAYS,
    "w": LeadIn.WEEKS, "wk": LeadIn.WEEKS, "wks": LeadIn.WEEKS, "week": LeadIn.WEEKS, "weeks": LeadIn.WEEKS,
}  # fmt: skip


def read_time(value: object) -> tuple[int, LeadIn | None]:
    """How many, and of what where that is said: `30`, `30.0`, `6 weeks`. Raises RuleBroken for anything else."""
    text = " ".join(str(value).casefold().split())
    found = _COUNT.fullmatch(text)
    if found is None or found[2].strip() not in _UNITS:
        raise RuleBroken("days_unfit", f"“{str(value)[:40]}” is no whole number of days, or of weeks.")
    return int(found[1]), _UNITS[found[2].strip()]


def read_count(value: object) -> int:
    """A number of working days, or of rounds. Raises RuleBroken for anything else, and for weeks."""
    count, unit = read_time(value)
    if unit is LeadIn.WEEKS:
        raise RuleBroken("days_unfit", f"“{str(value)[:40]}” is counted in working days.")
    return count


def read_unit(value: object) -> LeadIn:
    """What a lead time is in. Raises RuleBroken for anything else."""
    unit = _UNITS.get(" ".join(str(value).casefold().split()))
    if unit is None:
        raise RuleBroken("days_unfit", f"A lead time is in working days or in weeks, not in “{str(value)[:40]}”.")
    return unit
