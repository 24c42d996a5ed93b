"""Renditions: the files of one revision, each of another kind, of which one governs (handbook §4)."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from nod.core.intake.findings import DXF, PDF, SHEETS, UNKNOWN_TYPE, Arriving, Finding, Registered, Rules, Weight

_ENDING = re.compile(r"\.([A-Za-z0-9]{1,5})$")
_LIKE_EACH_OTHER = {"JPEG": "JPG", "TIF": "TIFF", "DOCM": "DOCX", "XLSM": "XLSX", "HTML": "HTM"}


def kind_of(media_type: str, file_name: str) -> str:
    """What a file of this content and name is among the files of its revision: `PDF`, `DXF`, `DWG`.

    By its content where that says enough, otherwise by the ending of its name; `file` where neither says anything.
    """
    if media_type in (PDF, DXF):
        return "PDF" if media_type == PDF else "DXF"
    ending = _ENDING.search(file_name)
    if ending:
        return _LIKE_EACH_OTHER.get(ending[1].upper(), ending[1].upper())
    return "file" if media_type == UNKNOWN_TYPE else media_type.rpartition("/")[2].upper()[:8]


def rank_of(media_type: str) -> int:
    """Which of them governs: the lowest. A PDF, then a DXF, then a picture, then all that is not looked at."""
    return 0 if media_type == PDF else 1 if media_type == DXF else 2 if media_type in SHEETS else 3


@dataclass(frozen=True)
class Came:
    """One file of a batch."""

    id: str
    number: str
    revision: str
    media_type: str
    file_name: str

    @property
    def kind(self) -> str:
        return kind_of(self.media_type, self.file_name)


@dataclass(frozen=True)
class Together:
    """How a file stands among those of its number and revision that came with it.

    `twins` are others of the same kind. `governs` is the file that it goes with; None for the one that governs, and for
    one that is alone. `kinds` are those of the others.
    """

    twins: int = 0
    governs: Came | None = None
    kinds: tuple[str, ...] = ()


def together(files: Iterable[Came]) -> dict[str, Together]:
    """By id, every file. Of several that could govern the first to come does."""
    revisions: dict[tuple[str, str], list[Came]] = defaultdict(list)
    found = {}
    for each in files:
        found[each.id] = Together()
        if each.number and each.revision:
            revisions[each.number, each.revision].append(each)
    for came in revisions.values():
        first = min(came, key=lambda each: rank_of(each.media_type))
        for each in came:
            twins = sum(1 for other in came if other.kind == each.kind) - 1
            kinds = tuple(sorted({other.kind for other in came} - {each.kind}))
            found[each.id] = Together(twins, None if each.kind == first.kind else first, kinds)
    return found


def check_native(arriving: Arriving, rules: Rules) -> list[Finding]:
    """A PDF of a form of which the project asks the native as well, and no other file of its revision has come.

    For a number that keeps the convention. What was drawn before, and is filed as history, is not asked for.
    """
    if arriving.media_type != PDF or arriving.came_with or arriving.as_history:
        return []
    form = rules.convention.split(arriving.number).get("form", "")
    if form not in rules.native_forms:
        return []
    words = f"No native has come with it: the project asks for one of every {_form_words(rules, form)}."
    return [Finding(Weight.LOOK, "native_missing", words, "file")]


def _form_words(rules: Rules, form: str) -> str:
    codes = next((each.codes for each in rules.convention.fields if each.name == "form"), {})
    return codes.get(form, form)


def check_rendition(arriving: Arriving, register: Registered | None) -> list[Finding] | None:
    """What is found about a file that is not the one that governs; None for one that is.

    Its title, status and drawing are those of the revision it belongs to, so only what it is itself is looked at.
    """
    if arriving.goes_with:
        words = f"Goes with {arriving.goes_with}: one revision of {arriving.number}, and this is its {arriving.kind}."
        if arriving.goes_with_stopped:
            words = f"It goes with {arriving.goes_with}, which is stopped: mend that one."
            return [Finding(Weight.STOP, "goes_with_stopped", words, "file")]
        held = _held(arriving, register)
        return [_in_register(arriving, held[arriving.kind])] if arriving.kind in held else [_fine(words)]
    held = _held(arriving, register)
    if not held or arriving.kind in held:
        further = held.get(arriving.kind)
        governs = register.revisions.get(arriving.revision) if register else None
        return [_in_register(arriving, further)] if further and further != governs else None
    if register and register.in_session:
        words = f"{arriving.number} is in session {register.in_session}. File it when that has closed."
        return [Finding(Weight.STOP, "in_a_session", words, "number")]
    if register and register.out_with:
        words = f"{arriving.number} is checked out by {register.out_with}, who alone can add a file to it."
        return [Finding(Weight.STOP, "checked_out", words, "number")]
    kinds = " and ".join(held)
    words = f"{arriving.number} {arriving.revision} is in the register as {kinds}: this is filed beside it."
    return [Finding(Weight.LOOK, "adds_rendition", words, "file")]


def _held(arriving: Arriving, register: Registered | None) -> Mapping[str, str]:
    """The files of the same revision in the register, by kind."""
    if register is None or register.for_others or register.withdrawn_why:
        return {}
    return register.renditions.get(arriving.revision, {})


def _in_register(arriving: Arriving, sha256: str) -> Finding:
    name = f"The {arriving.kind} of {arriving.number} {arriving.revision}"
    if sha256 == arriving.sha256:
        return Finding(
            Weight.SAME, "already_there", f"{name} is already in the register with the same content.", "file"
        )
    words = f"Silent change: {name[0].lower()}{name[1:]} is already in the register with other content."
    return Finding(Weight.STOP, "silent_change", words, "revision")


def _fine(words: str) -> Finding:
    return Finding(Weight.FINE, "goes_with", words, "file")
