"""What an audit entry says (handbook §14)."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any


@dataclass(frozen=True)
class Subject:
    """A thing an entry is about."""

    kind: str
    id: str


@dataclass(frozen=True)
class Fact:
    """Something that happened. `kind` is past tense; `before` and `after` hold only what changed."""

    kind: str
    subject: Subject
    about: str
    others: tuple[Subject, ...] = ()
    before: dict[str, Any] = field(default_factory=dict)
    after: dict[str, Any] = field(default_factory=dict)
    why: str = ""
    private_to: str = ""


def changed(before: dict[str, Any], after: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """The two reduced to the keys whose values differ."""
    keys = [key for key in after if before.get(key) != after[key]]
    return {key: before.get(key) for key in keys}, {key: after[key] for key in keys}


def instant_text(instant: datetime) -> str:
    """RFC 3339 in UTC with microseconds, always the same length, so that text order is time order."""
    return instant.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.%fZ")


KIND_WORDS: dict[str, str] = {
    "project_made": "made the project",
    "company_added": "added a company",
    "person_added": "added a person",
    "member_added": "added to the project",
    "holiday_added": "added a holiday",
    "route_made": "made a route",
    "signed_in": "signed in",
    "signed_out": "signed out",
    "batch_opened": "opened a batch",
    "file_arrived": "a file arrived",
    "file_looked_into": "looked into a file",
    "reading_corrected": "corrected the reading",
    "file_discarded": "discarded a file",
    "file_held": "held a file",
    "file_already_there": "found a file already there",
    "revision_filed": "filed a revision",
    "revision_downloaded": "downloaded a revision",
    "mark_drawn": "drew a mark in pencil",
    "mark_changed": "changed a mark",
    "mark_removed": "took a mark away",
    "mark_brought_back": "brought a mark back",
    "mark_inked": "inked a mark",
    "mark_answered": "answered a mark",
    "mark_state_set": "set the state of a mark",
    "review_started": "started a review",
    "step_picked_up": "picked up a step",
    "step_put_down": "put down a step",
    "comments_handed_in": "handed in comments",
    "verdicts_handed_in": "handed in verdicts",
    "review_closed": "closed a review",
    "review_cancelled": "cancelled a review",
    "transmittal_sent": "sent a transmittal",
    "transmittal_packed": "packed a transmittal",
    "transmittal_mailed": "mailed a transmittal",
    "transmittal_opened": "opened a transmittal",
    "transmittal_downloaded": "downloaded a transmittal",
    "transmittal_acknowledged": "acknowledged a transmittal",
}
