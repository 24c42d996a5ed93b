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
    "holidays_set": "set the holidays",
    "project_changed": "changed the project",
    "rules_changed": "changed the set-up",
    "starter_kept": "kept a starter",
    "starter_removed": "removed a starter",
    "company_changed": "changed a company",
    "companies_merged": "merged two companies",
    "person_changed": "changed a person",
    "person_invited": "invited a person",
    "invitation_accepted": "accepted an invitation",
    "member_changed": "changed a member",
    "member_removed": "removed from the project",
    "work_handed_over": "handed over open work",
    "folder_made": "made a folder",
    "folder_changed": "changed a folder",
    "folder_removed": "removed an empty folder",
    "access_changed": "changed access",
    "seen_as": "saw the project as another",
    "notices_set": "set notices",
    "activity_exported": "exported the activity",
    "password_asked": "asked for a new password",
    "password_set": "set a password",
    "sign_in_ended": "ended a sign-in",
    "seeing_as_ended": "went back to their own eyes",
    "second_factor_begun": "began to set a second factor",
    "second_factor_set": "set the second factor",
    "document_moved": "moved a document",
    "document_changed": "changed a document",
    "document_checked_out": "checked a document out",
    "document_checked_in": "checked a document in",
    "check_out_put_back": "put a document back unchanged",
    "check_out_broken": "broke a check-out",
    "document_withdrawn": "withdrew a document",
    "document_brought_back": "brought a document back",
    "document_renamed": "renamed a document",
    "view_kept": "kept a view",
    "view_removed": "removed a view",
    "set_made": "made a drawing set",
    "set_changed": "changed a drawing set",
    "set_removed": "took a drawing set away",
    "set_brought_back": "brought a drawing set back",
    "set_sheets_put": "put the sheets of a drawing set",
    "register_exported": "exported a list of the register",
    "folder_pack_asked": "asked for a folder as a ZIP",
    "folder_pack_made": "made a folder's ZIP",
    "folder_pack_stopped": "stopped a folder's ZIP",
    "folder_pack_put_away": "put a folder's ZIP away",
    "folder_pack_downloaded": "downloaded a folder's ZIP",
    "planned_set": "planned documents",
    "planned_removed": "took a planned document away",
    "route_made": "made a route",
    "signed_in": "signed in",
    "signed_out": "signed out",
    "batch_opened": "opened a batch",
    "upload_begun": "began to send a file",
    "upload_stopped": "stopped sending a file",
    "file_arrived": "a file arrived",
    "scan_read": "read a scan by OCR",
    "file_looked_into": "looked into a file",
    "reading_corrected": "corrected the reading",
    "batch_changed": "changed a batch",
    "archive_unpacked": "unpacked an archive",
    "archive_refused": "refused an archive",
    "set_split": "took a set apart into sheets",
    "set_split_asked": "asked to take a set apart",
    "set_put_together": "put a set together again",
    "set_kept_whole": "left a set whole",
    "reader_made": "drew a block reader",
    "reader_changed": "changed a block reader",
    "reader_removed": "removed a block reader",
    "file_sent_back": "sent a file back",
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
    "marks_exported": "took marks away as a file",
    "pens_kept": "changed a roll of pens",
    "mark_state_set": "set the state of a mark",
    "mark_linked": "linked a mark",
    "mark_unlinked": "took a link of a mark away",
    "mark_taken_in": "took a mark in from a file",
    "marks_taken_in": "took marks in from a file",
    "mark_file_downloaded": "downloaded a file that marks came from",
    "mark_carried": "carried a mark forward",
    "sheet_printed": "printed a sheet",
    "scale_set": "set the scale of a sheet",
    "scale_removed": "took a scale of a sheet away",
    "review_started": "started a review",
    "step_picked_up": "picked up a step",
    "step_put_down": "put down a step",
    "comments_handed_in": "handed in comments",
    "verdicts_handed_in": "handed in verdicts",
    "review_closed": "closed a review",
    "review_cancelled": "cancelled a review",
    "work_tried_again": "had Nod try again",
    "seal_key_begun": "began a new key for seals",
    "transmittal_sent": "sent a transmittal",
    "transmittal_packed": "packed a transmittal",
    "transmittal_mailed": "mailed a transmittal",
    "transmittal_opened": "opened a transmittal",
    "transmittal_downloaded": "downloaded a transmittal",
    "transmittal_acknowledged": "acknowledged a transmittal",
}

OBJECT_WORDS: dict[str, str] = {
    "document": "document",
    "revision": "revision",
    "mark": "mark",
    "batch": "batch",
    "arrival": "arriving file",
    "block_reader": "block reader",
    "review": "review",
    "route": "route",
    "transmittal": "transmittal",
    "folder": "folder",
    "person": "person",
    "company": "company",
    "project": "project",
    "drawing_set": "drawing set",
    "saved_view": "saved view",
}
