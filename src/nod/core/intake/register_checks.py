"""An arriving file against what the register holds under its number (handbook §5.5)."""

from __future__ import annotations

from nod.core.intake.findings import HISTORY, Arriving, ComparedWith, Finding, Registered, Rules, Weight
from nod.core.intake.witnesses import Witness
from nod.core.register import revisions
from nod.core.register.in_force import Use, use_of


def check_register(arriving: Arriving, register: Registered | None, rules: Rules) -> list[Finding]:
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
        return [_older(arriving, register)]
    if register.in_session:
        words = f"{arriving.number} is in session {register.in_session}. File it when that has closed."
        return [Finding(Weight.STOP, "in_a_session", words, "number")]
    if register.out_with:
        words = f"{arriving.number} is checked out by {register.out_with}, who alone can file the next revision."
        return [Finding(Weight.STOP, "checked_out", words, "number")]
    gap = [*_gap(arriving, register.current_revision, rules), *_stays(arriving, register, rules)]
    return [*gap, *_changes(arriving, register), *_drawing_changes(arriving.compared)]


def _older(arriving: Arriving, register: Registered) -> Finding:
    words = f"{arriving.revision} is older than the latest, {register.current_revision}."
    if not arriving.as_history:
        words = f"{words} It can be filed as history."
        return Finding(Weight.STOP, "older_than_current", words, HISTORY, "yes")
    words = f"{words} It is filed as history: superseded at once, and nobody is told."
    return Finding(Weight.LOOK, "as_history", words, HISTORY)


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


def _stays(arriving: Arriving, register: Registered, rules: Rules) -> list[Finding]:
    """Another revision is in force than the latest, which is older than this one: worth knowing, nothing to mend."""
    if not register.in_force or register.in_force == register.current_revision:
        return []
    if use_of(arriving.status, rules.status_uses) > Use.RECEIVED:
        return []
    words = f"{register.in_force} stays in force; {register.current_revision} was not released either."
    return [Finding(Weight.LOOK, "others_unreleased", words, "status")]


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
