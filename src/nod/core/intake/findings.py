"""What is known of an arriving file, what may be found about it, and the words for it (handbook §5.5)."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from nod.core.register.numbers import Convention
from nod.core.register.revisions import Scheme

PDF, DXF, UNKNOWN_TYPE = "application/pdf", "image/vnd.dxf", "application/octet-stream"
PICTURES = frozenset({"image/png", "image/jpeg", "image/tiff", "image/gif", "image/bmp", "image/webp"})
SHEETS = PICTURES | {PDF, DXF}
"""Types of files that are looked at as sheets."""
OPEN_STATES = ("waiting", "held")
"""States of an arrival that has not been settled."""

HISTORY = "history"
"""What a finding is about, and a correction puts, where an older revision is filed as history."""


class Weight(StrEnum):
    """How much a finding weighs."""

    STOP = "stop"
    LOOK = "look"
    SAME = "same"
    FINE = "fine"


@dataclass(frozen=True)
class Finding:
    """One thing found. `field` is what it is about; `mend` is the value that would put it right, if one is known.

    `witness` says whose value the mend is, where it is that of a witness.
    """

    weight: Weight
    code: str
    words: str
    field: str = ""
    mend: str = ""
    witness: str = ""


NAMES: dict[str, str] = {
    "encrypted": "Encrypted", "unreadable": "Unreadable", "bad_archive": "Archive refused", "not_pdf": "Not a PDF",
    "not_a_sheet": "Not a sheet", "look_alikes": "Look-alike characters", "number_breaks_convention": "Wrong number",
    "revision_missing": "No revision", "revision_unknown": "Unknown revision", "status_missing": "No status",
    "status_unknown": "Unknown status", "status_needs_review": "Status needs a review",
    "may_not_release": "May not release", "others_unreleased": "Another is in force", "renamed": "Renamed",
    "withdrawn": "Withdrawn", "checked_out": "Checked out", "in_a_session": "In a session",
    "title_missing": "No title", "title_characters": "Characters of the title",
    "witnesses_disagree": "Witnesses disagree", "block_unread": "Title block not read",
    "other_reader": "Read by another company's reader", "field_unfit": "A value left out", "read_by_ocr": "Read by OCR",
    "twice_in_batch": "Twice in the batch", "active_content": "Scripts or files inside",
    "several_sheets": "A set of sheets", "page_trouble": "A page left out", "no_text": "No text, a scan",
    "references_missing": "References missing",
    "new_number": "New number", "filed_by_controllers": "For the controllers", "already_there": "Already there",
    "only_saved_again": "Only saved again", "silent_change": "Silent change",
    "older_than_current": "Older than current", "as_history": "Filed as history",
    "goes_with": "One of several files", "goes_with_stopped": "Goes with a stopped file",
    "adds_rendition": "A further file of a revision", "native_missing": "No native",
    "revision_gap": "Gap in revisions", "title_changed": "Title changed", "size_changed": "Sheet size changed",
    "scale_changed": "Scale changed", "changed_outside_clouds": "Changed without a cloud",
    "another_drawing": "Another drawing", "nothing_changed": "Nothing changed",
}  # fmt: skip
"""What each finding is called where many are counted."""


@dataclass(frozen=True)
class Arriving:
    """What is known of one file when it is checked.

    `read_as`: the company whose reader read its title block, where that is not the one that sent it.
    `can_look`: its pages are there to be seen, as far as is known; `fault_words` may say why not. `unfit` says by field
    why a further value is left out. `missing` names files it refers to that are not there. `ocr`: `reading` or `read`
    where a scan is read by OCR. `kind` is what it is among the files of its revision, `goes_with` the file that governs
    where it is not itself, `came_with` the kinds of the other files of its revision in the batch. `as_history`: it is
    older than what is current, and meant to be. `may_release`: whoever registers it may give a status to build from.
    """

    number: str
    revision: str
    status: str
    title: str
    sha256: str
    fault: str = ""
    fault_words: str = ""
    page_size: str = ""
    has_text: bool = True
    can_look: bool = True
    active_content: tuple[str, ...] = ()
    twins_in_batch: int = 0
    media_type: str = PDF
    file_name: str = ""
    scale: str = ""
    disagreements: tuple[tuple[str, str, str], ...] = ()
    block_trouble: str = ""
    read_as: str = ""
    sheets_inside: int = 0
    page_trouble: str = ""
    compared: ComparedWith | None = None
    renamed_to: str = ""
    unfit: Mapping[str, str] = dataclasses.field(default_factory=dict)
    ocr: str = ""
    missing: tuple[str, ...] = ()
    kind: str = "PDF"
    goes_with: str = ""
    goes_with_stopped: bool = False
    as_history: bool = False
    came_with: tuple[str, ...] = ()
    may_release: bool = True


@dataclass(frozen=True)
class ComparedWith:
    """How the drawing differs from `revision` of the register; `known` is False while that is being worked out.

    `places` counts the changed places, `bare` those that no revision cloud surrounds.
    """

    revision: str
    known: bool = False
    fault: str = ""
    places: int = 0
    bare: int = 0
    same_words: bool = True
    same_extras: bool = True
    other_drawing: bool = False
    pages: tuple[int, int] = (1, 1)


@dataclass(frozen=True)
class Registered:
    """What the register holds under the same number. `revisions` maps each code to the SHA-256 of its governing file,

    `renditions` to all its files by kind.

    `for_others`: the number is not for whoever brings the file, and they may learn nothing more of it. `out_with`
    names who else has it checked out, `in_session` the session that has, `withdrawn_why` why it was withdrawn.
    """

    title: str
    current_revision: str
    sheet_size: str
    revisions: dict[str, str]
    for_others: bool = False
    scale: str = ""
    status: str = ""
    out_with: str = ""
    in_session: str = ""
    withdrawn_why: str = ""
    renditions: Mapping[str, Mapping[str, str]] = dataclasses.field(default_factory=dict)
    in_force: str = ""
    may_release: bool = True


@dataclass(frozen=True)
class Rules:
    """The project's rules that arriving files are held against. `reviewed_statuses` are reached only by a review.

    `native_forms` are the codes of the forms of which a native is asked beside the PDF. `status_uses` says what a
    status may be used for, see `core.register.in_force.use_of`.
    """

    convention: Convention
    scheme: Scheme
    statuses: tuple[str, ...]
    reviewed_statuses: tuple[str, ...] = ()
    native_forms: tuple[str, ...] = ()
    status_uses: Mapping[str, str] = dataclasses.field(default_factory=dict)
