"""The checks at the door: what is found about an arriving file (handbook §5.5)."""

from __future__ import annotations

from nod.core.intake.findings import DXF, PDF, SHEETS, UNKNOWN_TYPE, Arriving, Finding, Registered, Rules, Weight
from nod.core.intake.register_checks import check_register
from nod.core.intake.renditions import check_native, check_rendition
from nod.core.intake.witnesses import Witness
from nod.core.register import numbers, revisions
from nod.core.register.in_force import Use, use_of
from nod.core.register.look_alikes import plain, tidy_title

_MOST_NAMED = 3
_NO_REVISION = "No revision was found in the file name or the title block."


def check(arriving: Arriving, register: Registered | None, rules: Rules) -> list[Finding]:
    """All findings, the gravest first. A file without a STOP can be registered, unless it is the SAME."""
    if arriving.fault:
        return [Finding(Weight.STOP, arriving.fault, arriving.fault_words, "file")]
    beside = None if _check_number(arriving, rules) else check_rendition(arriving, register)
    if beside is not None:
        beside = [*beside, *_check_batch(arriving), *_check_active(arriving)]
        return sorted(beside, key=lambda each: list(Weight).index(each.weight))
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
        found += check_register(arriving, register, rules)
        found += [] if is_already_there(found) else check_native(arriving, rules)
    order = list(Weight)
    return sorted(found, key=lambda each: order.index(each.weight))


def content_stops(arriving: Arriving) -> list[Finding]:
    """What stops a file for its content alone, however it is numbered."""
    if arriving.fault:
        return [Finding(Weight.STOP, arriving.fault, arriving.fault_words, "file")]
    return [each for each in _check_kind(arriving) if each.weight is Weight.STOP]


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
    if not arriving.may_release and not arriving.as_history and _is_built(arriving, rules):
        words = f"{arriving.status} may be built from: it is given by a review, or by those who keep the folder."
        return [Finding(Weight.STOP, "may_not_release", words, "status")]
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


def _is_built(arriving: Arriving, rules: Rules) -> bool:
    return use_of(arriving.status, rules.status_uses) is Use.BUILT


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
    if arriving.read_as:
        words = (
            f"The title block was read as one of {arriving.read_as}, which did not send it. Nothing read there is sure:"
            " look at the sheet, or draw a reader for it."
        )
        found.append(Finding(Weight.LOOK, "other_reader", words, "file"))
    if arriving.block_trouble:
        found.append(Finding(Weight.LOOK, "block_unread", arriving.block_trouble, "file"))
    return found


def _check_batch(arriving: Arriving) -> list[Finding]:
    if not arriving.twins_in_batch:
        return []
    words = f"{arriving.number} {arriving.revision} is in this batch more than once as {arriving.kind}."
    return [Finding(Weight.STOP, "twice_in_batch", words, "number")]


def _check_active(arriving: Arriving) -> list[Finding]:
    if not arriving.active_content:
        return []
    words = f"The file carries {', '.join(arriving.active_content)}. Nod does not run it."
    return [Finding(Weight.LOOK, "active_content", words, "file")]


def _check_content(arriving: Arriving) -> list[Finding]:
    found = _check_active(arriving)
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
