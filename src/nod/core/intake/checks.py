"""The checks at the door: what is found about an arriving file (handbook §5.5)."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from nod.core.intake.witnesses import Witness
from nod.core.register import numbers, revisions
from nod.core.register.look_alikes import plain, tidy_title
from nod.core.register.numbers import Convention
from nod.core.register.revisions import Scheme

PDF, DXF, UNKNOWN_TYPE = "application/pdf", "image/vnd.dxf", "application/octet-stream"
PICTURES = frozenset({"image/png", "image/jpeg", "image/tiff", "image/gif", "image/bmp", "image/webp"})
_MOST_NAMED = 3
SHEETS = PICTURES | {PDF, DXF}
"""Types of files that are looked at as sheets."""
OPEN_STATES = ("waiting", "held")
"""States of an arrival that has not been settled."""
_NO_REVISION = "No revision was found in the file name or the title block."


class Weight(StrEnum):
    """How much a finding weighs."""

    STOP = "stop"
    LOOK = "look"
    SAME = "same"


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
    "status_unknown": "Unknown status", "status_needs_review": "Status needs a review", "renamed": "Renamed",
    "withdrawn": "Withdrawn", "checked_out": "Checked out",
    "title_missing": "No title", "title_characters": "Characters of the title",
    "witnesses_disagree": "Witnesses disagree", "block_unread": "Title block not read",
    "field_unfit": "A value left out", "read_by_ocr": "Read by OCR",
    "twice_in_batch": "Twice in the batch", "active_content": "Scripts or files inside",
    "several_sheets": "A set of sheets", "page_trouble": "A page left out", "no_text": "No text, a scan",
    "references_missing": "References missing",
    "new_number": "New number", "filed_by_controllers": "For the controllers", "already_there": "Already there",
    "only_saved_again": "Only saved again", "silent_change": "Silent change",
    "older_than_current": "Older than current",
    "revision_gap": "Gap in revisions", "title_changed": "Title changed", "size_changed": "Sheet size changed",
    "scale_changed": "Scale changed", "changed_outside_clouds": "Changed without a cloud",
    "another_drawing": "Another drawing", "nothing_changed": "Nothing changed",
}  # fmt: skip
"""What each finding is called where many are counted."""


@dataclass(frozen=True)
class Arriving:
    """What is known of one file when it is checked.

    `can_look`: its pages are there to be seen, as far as is known; `fault_words` may say why not. `unfit` says by field
    why a further value is left out. `missing` names files it refers to that are not there. `ocr`: `reading` or `read`
    where a scan is read by OCR.
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
    sheets_inside: int = 0
    page_trouble: str = ""
    compared: ComparedWith | None = None
    renamed_to: str = ""
    unfit: Mapping[str, str] = dataclasses.field(default_factory=dict)
    ocr: str = ""
    missing: tuple[str, ...] = ()


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
    """What the register holds under the same number. `revisions` maps each code to the SHA-256 of its file.

    `for_others`: the number is not for whoever brings the file, and they may learn nothing more of it. `out_with`
    names who else has it checked out, `withdrawn_why` why it was withdrawn.
    """

    title: str
    current_revision: str
    sheet_size: str
    revisions: dict[str, str]
    for_others: bool = False
    scale: str = ""
    status: str = ""
    out_with: str = ""
    withdrawn_why: str = ""


@dataclass(frozen=True)
class Rules:
    """The project's rules that arriving files are held against. `reviewed_statuses` are reached only by a review."""

    convention: Convention
    scheme: Scheme
    statuses: tuple[str, ...]
    reviewed_statuses: tuple[str, ...] = ()


def check(arriving: Arriving, register: Registered | None, rules: Rules) -> list[Finding]:
    """All findings, the gravest first. A file without a STOP can be registered, unless it is the SAME."""
    if arriving.fault:
        return [Finding(Weight.STOP, arriving.fault, arriving.fault_words, "file")]
    found = [
        *_check_kind(arriving),
        *_check_number(arriving, rules),
        *_check_revision_code(arriving, rules),
        *_check_status(arriving, rules),
        *_check_title(arriving),
        *_check_witnesses(arriving),
        *_check_batch(arriving),
        *_check_content(arriving),
    ]
    if not any(each.weight is Weight.STOP for each in found):
        found += _check_register(arriving, register, rules)
    order = list(Weight)
    return sorted(found, key=lambda each: order.index(each.weight))


def is_stopped(findings: list[Finding]) -> bool:
    return any(each.weight is Weight.STOP for each in findings)


def is_already_there(findings: list[Finding]) -> bool:
    return any(each.weight is Weight.SAME for each in findings)


def held_reason(findings: list[Finding]) -> str:
    """The words of everything that stops the file, in one line."""
    return " ".join(each.words for each in findings if each.weight is Weight.STOP)


def _check_number(arriving: Arriving, rules: Rules) -> list[Finding]:
    if arriving.renamed_to:
        words = f"{arriving.number} was renamed: it is {arriving.renamed_to} now."
        return [Finding(Weight.STOP, "renamed", words, "number", arriving.renamed_to)]
    faults = numbers.check_number(rules.convention, arriving.number)
    if not faults:
        return []
    printed = next((each for field, _, each in arriving.disagreements if field == "number"), "")
    if printed and not numbers.check_number(rules.convention, printed):
        # The nearest code is a guess; what the sheet itself says is not.
        return [
            Finding(Weight.STOP, "number_breaks_convention", each.words, "number", printed, Witness.BLOCK)
            for each in faults
        ]
    mend = numbers.mend_number(rules.convention, arriving.number) or ""
    if mend and mend == plain(arriving.number).upper():
        words = f"The number “{arriving.number}” holds spaces or look-alike characters. It should read {mend}."
        return [Finding(Weight.STOP, "look_alikes", words, "number", mend)]
    return [Finding(Weight.STOP, "number_breaks_convention", each.words, "number", mend) for each in faults]


def _check_revision_code(arriving: Arriving, rules: Rules) -> list[Finding]:
    if revisions.parse(rules.scheme, arriving.revision):
        return []
    if not arriving.revision:
        return [Finding(Weight.STOP, "revision_missing", _NO_REVISION, "revision")]
    words = (
        f"“{arriving.revision}” is not a revision of this project. The first is {revisions.first_code(rules.scheme)}."
    )
    return [Finding(Weight.STOP, "revision_unknown", words, "revision")]


def _check_status(arriving: Arriving, rules: Rules) -> list[Finding]:
    if arriving.status in rules.reviewed_statuses:
        words = f"{arriving.status} can be reached only by a review. File it with another status, then start one."
        return [Finding(Weight.STOP, "status_needs_review", words, "status")]
    if arriving.status in rules.statuses:
        return []
    if not arriving.status:
        return [
            Finding(
                Weight.LOOK, "status_missing", "No status was found; it will be S0, work in progress.", "status", "S0"
            )
        ]
    words = f"“{arriving.status}” is not a status of this project. It has {', '.join(rules.statuses)}."
    return [Finding(Weight.STOP, "status_unknown", words, "status")]


def _check_title(arriving: Arriving) -> list[Finding]:
    if not arriving.title:
        words = "No title was found in the file name or the title block."
        return [Finding(Weight.STOP, "title_missing", words, "title")]
    tidy = tidy_title(arriving.title)
    if tidy == arriving.title:
        return []
    words = f"The title holds doubled spaces or letters of another alphabet. It should read “{tidy}”."
    return [Finding(Weight.LOOK, "title_characters", words, "title", tidy)]


def _check_kind(arriving: Arriving) -> list[Finding]:
    """What is no PDF is filed as the file it is, unless its name says that it is a PDF."""
    if arriving.media_type == PDF:
        return []
    short = arriving.media_type.rpartition("/")[2].removeprefix("vnd.").removeprefix("x-").upper()
    kind = "" if arriving.media_type == UNKNOWN_TYPE else f" but {short}"
    if arriving.file_name.lower().endswith(".pdf"):
        words = f"This is not a PDF{kind}, whatever its name says. Ask for it again."
        return [Finding(Weight.STOP, "not_pdf", words, "file")]
    if arriving.media_type in SHEETS and arriving.can_look:
        return []
    words = f"Not a sheet: it is filed as it is. {arriving.fault_words}".rstrip()
    return [Finding(Weight.LOOK, "not_a_sheet", words, "file")]


_WITNESS_STOPS = ("number", "revision")


def _check_witnesses(arriving: Arriving) -> list[Finding]:
    """Number and revision have to be settled by somebody; a title is filed as it is printed."""
    found = []
    for field, named, printed in arriving.disagreements:
        weight = Weight.STOP if field in _WITNESS_STOPS else Weight.LOOK
        words = f"The file name says {field} “{named}”, the title block “{printed}”."
        # What the sheet says is law; only a title is often cut short by its cell.
        mend, witness = (named, Witness.NAME) if field == "title" else (printed, Witness.BLOCK)
        found.append(Finding(weight, "witnesses_disagree", words, field, mend, witness))
    if arriving.block_trouble:
        found.append(Finding(Weight.LOOK, "block_unread", arriving.block_trouble, "file"))
    return found


def _check_batch(arriving: Arriving) -> list[Finding]:
    if not arriving.twins_in_batch:
        return []
    words = f"{arriving.number} {arriving.revision} is in this batch more than once."
    return [Finding(Weight.STOP, "twice_in_batch", words, "number")]


def _check_content(arriving: Arriving) -> list[Finding]:
    found = []
    if arriving.active_content:
        words = f"The file carries {', '.join(arriving.active_content)}. Nod does not run it."
        found.append(Finding(Weight.LOOK, "active_content", words, "file"))
    if arriving.sheets_inside > 1:
        words = f"Its {arriving.sheets_inside} pages carry different numbers: it is a set of sheets."
        found.append(Finding(Weight.STOP, "several_sheets", words, "file", "split"))
    if arriving.missing:
        found.append(_missing(arriving.missing))
    if arriving.page_trouble:
        found.append(Finding(Weight.LOOK, "page_trouble", arriving.page_trouble, "file"))
    if not arriving.has_text and arriving.media_type in SHEETS - {DXF} and arriving.can_look:
        found.append(_scan(arriving))
    found += [
        Finding(Weight.LOOK, "field_unfit", f"{words} It is left out.", "file") for words in arriving.unfit.values()
    ]
    return found


def _missing(names: tuple[str, ...]) -> Finding:
    told = ", ".join(names[:_MOST_NAMED]) + (
        f" and {len(names) - _MOST_NAMED} more" if len(names) > _MOST_NAMED else ""
    )
    files = "a file that has" if len(names) == 1 else f"{len(names)} files that have"
    return Finding(Weight.LOOK, "references_missing", f"It refers to {files} not come: {told}.", "file")


def _scan(arriving: Arriving) -> Finding:
    if arriving.ocr == "read":
        words = "It is a scan, and its words were read by OCR: hold them against the picture."
        return Finding(Weight.LOOK, "read_by_ocr", words, "file")
    more = " Nod is reading it by OCR, which takes a while." if arriving.ocr == "reading" else ""
    return Finding(Weight.LOOK, "no_text", f"There is no text on the page: it is a scan.{more}", "file")


def _check_register(arriving: Arriving, register: Registered | None, rules: Rules) -> list[Finding]:
    if register is None:
        found = [
            Finding(Weight.LOOK, "new_number", "A new number: this document is not in the register yet.", "number")
        ]
        return found + _gap(arriving, None, rules)
    if register.for_others:
        words = f"{arriving.number} is filed by the document controllers. Leave it here: they find it in Intake."
        return [Finding(Weight.STOP, "filed_by_controllers", words, "number")]
    if register.withdrawn_why:
        words = f"{arriving.number} was withdrawn: {register.withdrawn_why} Bring it back first, or correct the number."
        return [Finding(Weight.STOP, "withdrawn", words, "number")]
    if arriving.revision in register.revisions:
        return [_same_revision(arriving, register)]
    current, new = (revisions.parse(rules.scheme, code) for code in (register.current_revision, arriving.revision))
    if current and new and new < current:
        words = f"{arriving.revision} is older than the current {register.current_revision}."
        return [Finding(Weight.STOP, "older_than_current", words, "revision")]
    if register.out_with:
        words = f"{arriving.number} is checked out by {register.out_with}, who alone can file the next revision."
        return [Finding(Weight.STOP, "checked_out", words, "number")]
    gap = _gap(arriving, register.current_revision, rules)
    return [*gap, *_changes(arriving, register), *_drawing_changes(arriving.compared)]


def _same_revision(arriving: Arriving, register: Registered) -> Finding:
    name = f"{arriving.number} {arriving.revision}"
    if register.revisions[arriving.revision] == arriving.sha256:
        words = f"{name} is already in the register with the same content."
        return Finding(Weight.SAME, "already_there", words, "file")
    compared = arriving.compared
    if compared and compared.known and not compared.fault and not compared.places and not compared.other_drawing:
        if compared.same_words and compared.same_extras and compared.pages[0] == compared.pages[1]:
            words = f"{name} is in the register with the same drawing; only the file was saved again."
            return Finding(Weight.SAME, "only_saved_again", words, "file")
        words = f"Silent change: {name} looks the same as in the register, but {_unseen(compared)}."
        return Finding(Weight.STOP, "silent_change", words, "revision")
    words = (
        f"Silent change: {name} is already in the register with other content. {_how(compared)}"
        "Ask for a new revision, or correct the revision here."
    )
    return Finding(Weight.STOP, "silent_change", words, "revision")


def _unseen(compared: ComparedWith) -> str:
    if compared.pages[0] != compared.pages[1]:
        return f"it has {compared.pages[1]} pages instead of {compared.pages[0]}"
    return "its text differs" if not compared.same_words else "its layers, links or annotations differ"


def _how(compared: ComparedWith | None) -> str:
    if compared is None or not compared.known:
        return "The drawings are being compared. "
    if compared.fault:
        return f"The drawings could not be compared: {compared.fault} "
    if compared.other_drawing:
        return "Nearly everything differs. "
    return f"It differs at {compared.places} place{'s' if compared.places > 1 else ''}. "


def _drawing_changes(compared: ComparedWith | None) -> list[Finding]:
    """A later revision against the current one."""
    if compared is None or not compared.known or compared.fault:
        return []
    if compared.other_drawing:
        words = f"Nearly everything differs from {compared.revision}. Is it the right sheet?"
        return [Finding(Weight.LOOK, "another_drawing", words, "drawing")]
    if not compared.places:
        words = f"The drawing is the same as {compared.revision}."
        return [Finding(Weight.LOOK, "nothing_changed", words, "drawing")]
    if not compared.bare:
        return []
    words = f"Changed at {compared.places} places, {compared.bare} of them without a revision cloud."
    if compared.places == 1:
        words = "Changed at 1 place, without a revision cloud."
    return [Finding(Weight.LOOK, "changed_outside_clouds", words, "drawing")]


def _gap(arriving: Arriving, current: str | None, rules: Rules) -> list[Finding]:
    if not revisions.is_gap(rules.scheme, current, arriving.revision):
        return []
    after = f"after {current}" if current else "for a new document"
    words = f"{arriving.revision} leaves a gap {after}."
    return [Finding(Weight.LOOK, "revision_gap", words, "revision")]


def _changes(arriving: Arriving, register: Registered) -> list[Finding]:
    found = []
    if arriving.title != register.title:
        words = f"The title changes from “{register.title}”."
        found.append(Finding(Weight.LOOK, "title_changed", words, "title", register.title, Witness.REGISTER))
    if arriving.page_size and register.sheet_size and arriving.page_size != register.sheet_size:
        words = f"The sheet changes from {register.sheet_size} to {arriving.page_size}."
        found.append(Finding(Weight.LOOK, "size_changed", words, "file"))
    if arriving.scale and register.scale and arriving.scale != register.scale:
        words = f"The scale changes from {register.scale} to {arriving.scale}."
        found.append(Finding(Weight.LOOK, "scale_changed", words, "scale"))
    return found
