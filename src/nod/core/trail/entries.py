"""What an audit entry says (handbook §14)."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any


@dataclass(frozen=True)
class Subject:
    """A thing an entry is about."""

    kind: str
    id: str


class FactKind(StrEnum):
    """Everything that can happen: what an entry keeps of it, and its words for people, who did it left out."""

    words: str

    def __new__(cls, kept: str, words: str) -> FactKind:
        member = str.__new__(cls, kept)
        member._value_, member.words = kept, words
        return member

    PROJECT_MADE = "project_made", "made the project"
    COMPANY_ADDED = "company_added", "added a company"
    PERSON_ADDED = "person_added", "added a person"
    MEMBER_ADDED = "member_added", "added to the project"
    HOLIDAYS_SET = "holidays_set", "set the holidays"
    PROJECT_CHANGED = "project_changed", "changed the project"
    RULES_CHANGED = "rules_changed", "changed the set-up"
    STARTER_KEPT = "starter_kept", "kept a starter"
    STARTER_REMOVED = "starter_removed", "removed a starter"
    COMPANY_CHANGED = "company_changed", "changed a company"
    COMPANIES_MERGED = "companies_merged", "merged two companies"
    PERSON_CHANGED = "person_changed", "changed a person"
    PERSON_INVITED = "person_invited", "invited a person"
    INVITATION_ACCEPTED = "invitation_accepted", "accepted an invitation"
    MEMBER_CHANGED = "member_changed", "changed a member"
    MEMBER_REMOVED = "member_removed", "removed from the project"
    WORK_HANDED_OVER = "work_handed_over", "handed over open work"
    FOLDER_MADE = "folder_made", "made a folder"
    FOLDER_CHANGED = "folder_changed", "changed a folder"
    FOLDER_REMOVED = "folder_removed", "removed an empty folder"
    ACCESS_CHANGED = "access_changed", "changed access"
    SEEN_AS = "seen_as", "saw the project as another"
    NOTICES_SET = "notices_set", "set notices"
    FOLLOW_BEGUN = "follow_begun", "began to follow"
    FOLLOW_ENDED = "follow_ended", "ended following"
    ACTIVITY_EXPORTED = "activity_exported", "exported the activity"
    PASSWORD_ASKED = "password_asked", "asked for a new password"
    PASSWORD_SET = "password_set", "set a password"
    SIGN_IN_ENDED = "sign_in_ended", "ended a sign-in"
    SEEING_AS_ENDED = "seeing_as_ended", "went back to their own eyes"
    SECOND_FACTOR_BEGUN = "second_factor_begun", "began to set a second factor"
    SECOND_FACTOR_SET = "second_factor_set", "set the second factor"
    SECOND_FACTOR_RESET = "second_factor_reset", "reset the second factor"
    RECOVERY_CODES_MADE = "recovery_codes_made", "drew new recovery codes"
    RECOVERY_CODE_USED = "recovery_code_used", "signed in with a recovery code"
    DOCUMENT_MOVED = "document_moved", "moved a document"
    DOCUMENT_CHANGED = "document_changed", "changed a document"
    DOCUMENT_CHECKED_OUT = "document_checked_out", "checked a document out"
    DOCUMENT_CHECKED_IN = "document_checked_in", "checked a document in"
    CHECK_OUT_PUT_BACK = "check_out_put_back", "put a document back unchanged"
    CHECK_OUT_BROKEN = "check_out_broken", "broke a check-out"
    DOCUMENT_WITHDRAWN = "document_withdrawn", "withdrew a document"
    DOCUMENT_BROUGHT_BACK = "document_brought_back", "brought a document back"
    DOCUMENT_RENAMED = "document_renamed", "renamed a document"
    DRAFT_KEPT = "draft_kept", "kept a draft of a transmittal"
    DRAFT_DISCARDED = "draft_discarded", "discarded a draft of a transmittal"
    TRANSMITTAL_VOIDED = "transmittal_voided", "voided a transmittal"
    TRANSMITTAL_LOG_TAKEN = "transmittal_log_taken", "took the log of transmittals"
    TRANSMITTAL_EVIDENCE_TAKEN = "transmittal_evidence_taken", "took the evidence of a transmittal"
    TRANSMITTAL_CHASED = "transmittal_chased", "reminded recipients of a transmittal"
    RECEIVED_ENTERED = "received_entered", "entered a transmittal that came in"
    RECEIVED_CHANGED = "received_changed", "changed a transmittal that came in"
    RECEIVED_REMOVED = "received_removed", "took away a transmittal that came in"
    RECEIPT_SENT = "receipt_sent", "sent a receipt for a transmittal that came in"
    HANDED_OVER = "handed_over", "handed a revision over on paper"
    HAND_OVER_REMOVED = "hand_over_removed", "took a hand-over on paper back"
    TRANSMITTAL_SENT_AGAIN = "transmittal_sent_again", "sent the mail of a transmittal again"
    LINK_GIVEN = "link_given", "gave a link"
    LINK_WITHDRAWN = "link_withdrawn", "withdrew a link"
    LINK_OPENED = "link_opened", "opened a link"
    MAIL_READ = "mail_read", "took in a mail"
    MAIL_HANDED_ON = "mail_handed_on", "handed on a held mail"
    MAIL_JUDGED_AGAIN = "mail_judged_again", "added the sender of a held mail"
    MAIL_LET_GO = "mail_let_go", "let a held mail go"
    MAIL_HELD_AGAIN = "mail_held_again", "held a mail again"
    MAIL_BOUNCED = "mail_bounced", "mail came back"
    MAIL_DOWNLOADED = "mail_downloaded", "took a mail as it came"
    VIEW_KEPT = "view_kept", "kept a view"
    VIEW_REMOVED = "view_removed", "removed a view"
    SET_MADE = "set_made", "made a drawing set"
    SET_CHANGED = "set_changed", "changed a drawing set"
    SET_REMOVED = "set_removed", "took a drawing set away"
    SET_BROUGHT_BACK = "set_brought_back", "brought a drawing set back"
    SET_SHEETS_PUT = "set_sheets_put", "put the sheets of a drawing set"
    REGISTER_EXPORTED = "register_exported", "exported a list of the register"
    FOLDER_PACK_ASKED = "folder_pack_asked", "asked for a folder as a ZIP"
    FOLDER_PACK_MADE = "folder_pack_made", "made a folder's ZIP"
    FOLDER_PACK_STOPPED = "folder_pack_stopped", "stopped a folder's ZIP"
    FOLDER_PACK_PUT_AWAY = "folder_pack_put_away", "put a folder's ZIP away"
    FOLDER_PACK_DOWNLOADED = "folder_pack_downloaded", "downloaded a folder's ZIP"
    LIST_MADE = "list_made", "made a list of the register"
    LIST_STOPPED = "list_stopped", "stopped a list of the register"
    LIST_PUT_AWAY = "list_put_away", "put a list of the register away"
    LIST_DOWNLOADED = "list_downloaded", "downloaded a list of the register"
    PLANNED_SET = "planned_set", "planned documents"
    PLANNED_REMOVED = "planned_removed", "took a planned document away"
    ROUTE_MADE = "route_made", "made a route"
    ROUTE_CHANGED = "route_changed", "changed a route"
    ROUTE_RETIRED = "route_retired", "retired a route"
    ROUTE_BROUGHT_BACK = "route_brought_back", "brought a route back"
    SIGNED_IN = "signed_in", "signed in"
    SIGNED_OUT = "signed_out", "signed out"
    BATCH_OPENED = "batch_opened", "opened a batch"
    UPLOAD_BEGUN = "upload_begun", "began to send a file"
    UPLOAD_STOPPED = "upload_stopped", "stopped sending a file"
    FILE_ARRIVED = "file_arrived", "a file arrived"
    SCAN_READ = "scan_read", "read a scan by OCR"
    FILE_LOOKED_INTO = "file_looked_into", "looked into a file"
    READING_CORRECTED = "reading_corrected", "corrected the reading"
    BATCH_CHANGED = "batch_changed", "changed a batch"
    ARCHIVE_UNPACKED = "archive_unpacked", "unpacked an archive"
    ARCHIVE_REFUSED = "archive_refused", "refused an archive"
    SET_SPLIT = "set_split", "took a set apart into sheets"
    SET_SPLIT_ASKED = "set_split_asked", "asked to take a set apart"
    SET_PUT_TOGETHER = "set_put_together", "put a set together again"
    SET_KEPT_WHOLE = "set_kept_whole", "left a set whole"
    READER_MADE = "reader_made", "drew a block reader"
    READER_CHANGED = "reader_changed", "changed a block reader"
    READER_REMOVED = "reader_removed", "removed a block reader"
    FILE_SENT_BACK = "file_sent_back", "sent a file back"
    FILE_DISCARDED = "file_discarded", "discarded a file"
    FILE_HELD = "file_held", "held a file"
    FILE_ALREADY_THERE = "file_already_there", "found a file already there"
    REVISION_FILED = "revision_filed", "filed a revision"
    HISTORY_FILED = "history_filed", "filed an older revision as history"
    STATUS_SET = "status_set", "set the status of a revision"
    IN_FORCE_CHANGED = "in_force_changed", "changed what is in force"
    COPY_PUT = "copy_put", "put a copy into a folder"
    COPIED = "copied", "copied a revision into a folder"
    RENDITION_FILED = "rendition_filed", "filed a further file of a revision"
    RENDITION_DOWNLOADED = "rendition_downloaded", "downloaded a further file of a revision"
    REVISION_DOWNLOADED = "revision_downloaded", "downloaded a revision"
    MARK_DRAWN = "mark_drawn", "drew a mark in pencil"
    MARK_CHANGED = "mark_changed", "changed a mark"
    MARK_REMOVED = "mark_removed", "took a mark away"
    MARK_BROUGHT_BACK = "mark_brought_back", "brought a mark back"
    MARK_INKED = "mark_inked", "inked a mark"
    MARK_OPENED = "mark_opened", "opened a mark to more readers"
    MARK_ANSWERED = "mark_answered", "answered a mark"
    TALKED = "talked", "said something about"
    ATTACHMENT_ADDED = "attachment_added", "added a file to what is not said yet"
    ATTACHMENT_REMOVED = "attachment_removed", "took a file back that was not said yet"
    ATTACHMENT_DOWNLOADED = "attachment_downloaded", "downloaded an attached file"
    MARKS_EXPORTED = "marks_exported", "took marks away as a file"
    PENS_KEPT = "pens_kept", "changed a roll of pens"
    MARK_STATE_SET = "mark_state_set", "set the state of a mark"
    MARK_LINKED = "mark_linked", "linked a mark"
    MARK_UNLINKED = "mark_unlinked", "took a link of a mark away"
    MARK_TAKEN_IN = "mark_taken_in", "took a mark in from a file"
    MARKS_TAKEN_IN = "marks_taken_in", "took marks in from a file"
    MARK_FILE_DOWNLOADED = "mark_file_downloaded", "downloaded a file that marks came from"
    MARK_CARRIED = "mark_carried", "carried a mark forward"
    MARK_COPIED = "mark_copied", "copied a mark along"
    SHEET_PRINTED = "sheet_printed", "printed a sheet"
    SCALE_SET = "scale_set", "set the scale of a sheet"
    SCALE_REMOVED = "scale_removed", "took a scale of a sheet away"
    REVIEW_STARTED = "review_started", "started a review"
    STEP_PICKED_UP = "step_picked_up", "picked up a step"
    STEP_PUT_DOWN = "step_put_down", "put down a step"
    COMMENTS_HANDED_IN = "comments_handed_in", "handed in comments"
    VERDICTS_HANDED_IN = "verdicts_handed_in", "handed in verdicts"
    REVIEW_CLOSED = "review_closed", "closed a review"
    REVIEW_CANCELLED = "review_cancelled", "cancelled a review"
    REVIEW_RECALLED = "review_recalled", "recalled a review"
    STAGE_DECIDED = "stage_decided", "what the steps decided"
    REVIEW_RECORD_TAKEN = "review_record_taken", "took the record of a review"
    COMMENT_RAISED = "comment_raised", "raised a comment"
    REVIEW_LOG_TAKEN = "review_log_taken", "took the log of reviews"
    RESPONSES_ASKED = "responses_asked", "asked for a response to comments"
    COMMENT_RESPONDED = "comment_responded", "responded to a comment"
    COMMENT_CLOSED = "comment_closed", "closed a comment"
    COMMENT_OPENED_AGAIN = "comment_opened_again", "opened a comment again"
    COMMENT_GRADED = "comment_graded", "said anew how grave a comment is"
    COMMENT_CARRIED = "comment_carried", "took a comment along to the next review"
    COMMENTS_TAKEN = "comments_taken", "took a comment sheet away as a file"
    STEP_ENDED = "step_ended", "ended a step"
    STEP_REMINDED = "step_reminded", "reminded of a step"
    SILENCE_TOLD = "silence_told", "told leads that the contract's time for an answer is over"
    ABSENCE_SET = "absence_set", "set an absence"
    ABSENCE_REMOVED = "absence_removed", "took an absence away"
    PLACE_GIVEN = "place_given", "put somebody in for a step"
    REVISION_SWAPPED = "revision_swapped", "swapped newer revisions in"
    SESSION_MADE = "session_made", "made a session"
    SESSION_CHANGED = "session_changed", "changed a session"
    SESSION_INVITED = "session_invited", "invited to a session"
    SESSION_UNINVITED = "session_uninvited", "took somebody out of a session"
    SESSION_OPENED = "session_opened", "opened a session"
    SESSION_JOINED = "session_joined", "came into a session"
    SESSION_SHEET_TAKEN_OUT = "session_sheet_taken_out", "took a sheet out of a session"
    SESSION_CLOSED = "session_closed", "closed a session"
    SESSION_OPENED_AGAIN = "session_opened_again", "opened a session again"
    SESSION_RECORD_MADE = "session_record_made", "made the record of a session"
    SESSION_RECORD_TAKEN = "session_record_taken", "downloaded the record of a session"
    SESSION_LOG_TAKEN = "session_log_taken", "took the log of sessions"
    WORK_TRIED_AGAIN = "work_tried_again", "had Nod try again"
    SEAL_KEY_BEGUN = "seal_key_begun", "began a new key for seals"
    SUBMITTAL_MADE = "submittal_made", "made a submittal"
    SUBMITTAL_CHANGED = "submittal_changed", "changed a submittal"
    SUBMITTAL_ASKED = "submittal_asked", "asked for a submittal"
    SUBMITTAL_PREPARED = "submittal_prepared", "began to prepare a submittal"
    SUBMITTAL_SENT_IN = "submittal_sent_in", "sent in a submittal"
    SUBMITTAL_GIVEN = "submittal_given", "gave a submittal to be answered"
    SUBMITTAL_ANSWERED = "submittal_answered", "answered a submittal"
    SUBMITTAL_CLOSED = "submittal_closed", "closed a submittal"
    SUBMITTAL_VOIDED = "submittal_voided", "voided a submittal"
    SUBMITTAL_COPIED_IN = "submittal_copied_in", "copied somebody in on a submittal"
    SUBMITTAL_ITEMS_SET = "submittal_items_set", "set the items of a submittal"
    SUBMITTAL_LOTS_SET = "submittal_lots_set", "set the lots of a submittal"
    SUBMITTAL_RETURNED = "submittal_returned", "had a submittal back from a review without an answer"
    SUBMITTAL_DELIVERED = "submittal_delivered", "said when a submittal was delivered"
    SUBMITTAL_REMINDED = "submittal_reminded", "reminded of a submittal"
    SUBMITTAL_HANDED_OVER = "submittal_handed_over", "handed over a submittal"
    SUBMITTAL_RECORD_TAKEN = "submittal_record_taken", "took a submittal as a PDF"
    SUBMITTAL_SENT_ON = "submittal_sent_on", "sent a submittal on by mail"
    SUBMITTAL_LOG_TAKEN = "submittal_log_taken", "took the log of submittals"
    LETTER_SENT = "letter_sent", "sent a letter"
    LETTER_WRITTEN = "letter_written", "wrote in a thread"
    LETTER_ANSWERED = "letter_answered", "gave the answer in a thread"
    LETTER_CLOSED = "letter_closed", "closed a thread"
    LETTER_OPENED_AGAIN = "letter_opened_again", "opened a thread again"
    LETTER_PRIVACY_SET = "letter_privacy_set", "set who sees a thread"
    LETTER_REMINDED = "letter_reminded", "reminded of an answer"
    LETTER_BOUNCED = "letter_bounced", "did not reach somebody with a message"
    LETTER_TAKEN_OUT = "letter_taken_out", "took a thread out as a file"
    LETTER_BAR_SET = "letter_bar_set", "said since when a notice's time bar runs"
    LETTER_CHECK_ASKED = "letter_check_asked", "gave a letter to somebody before it goes"
    LETTER_TAKEN_BACK = "letter_taken_back", "took a letter back to go on writing"
    LETTER_GIVEN_BACK = "letter_given_back", "gave a letter back before it went"
    LETTER_LET_GO = "letter_let_go", "let a letter go"
    FEED_MADE = "feed_made", "made an address for their calendar"
    FEED_WITHDRAWN = "feed_withdrawn", "withdrew the address of their calendar"
    TRANSMITTAL_SENT = "transmittal_sent", "sent a transmittal"
    TRANSMITTAL_PACKED = "transmittal_packed", "packed a transmittal"
    TRANSMITTAL_MAILED = "transmittal_mailed", "mailed a transmittal"
    TRANSMITTAL_OPENED = "transmittal_opened", "opened a transmittal"
    TRANSMITTAL_DOWNLOADED = "transmittal_downloaded", "downloaded a transmittal"
    TRANSMITTAL_ACKNOWLEDGED = "transmittal_acknowledged", "acknowledged a transmittal"


@dataclass(frozen=True)
class Fact:
    """Something that happened. `before` and `after` hold only what changed, as people read it.

    `state` is what a row is afterwards, by ids, where words would not say which; it is for replaying alone.
    """

    kind: FactKind
    subject: Subject
    about: str
    others: tuple[Subject, ...] = ()
    before: dict[str, Any] = field(default_factory=dict)
    after: dict[str, Any] = field(default_factory=dict)
    why: str = ""
    private_to: str = ""
    state: dict[str, Any] = field(default_factory=dict)


def changed(before: dict[str, Any], after: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """The two reduced to the keys whose values differ."""
    keys = [key for key in after if before.get(key) != after[key]]
    return {key: before.get(key) for key in keys}, {key: after[key] for key in keys}


def instant_text(instant: datetime) -> str:
    """RFC 3339 in UTC with microseconds, always the same length, so that text order is time order."""
    return instant.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.%fZ")


OBJECT_WORDS: dict[str, str] = {
    "revision": "revision",
    "mark": "mark",
    "attachment": "attached file",
    "batch": "batch",
    "arrival": "arriving file",
    "block_reader": "block reader",
    "route": "route",
    "folder": "folder",
    "person": "person",
    "company": "company",
    "project": "project",
    "drawing_set": "drawing set",
    "saved_view": "saved view",
    "comment": "comment",
}
"""What entries can be about besides the kinds of things that are registered."""
