"""What a file's name says: `NUMBER_REVISION_STATUS_Title.pdf` and the other forms that are usual (handbook §5.3)."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass

from nod.core.acts.plain_text import clean_text
from nod.core.register.look_alikes import plain
from nod.core.register.numbers import Convention, NumberField
from nod.core.register.revisions import Scheme, parse

_LONGEST_TITLE = 200
_LONGEST_NAME = 255
"""What the usual file systems hold; of a longer name the beginning is read."""


@dataclass(frozen=True)
class NameReading:
    """What was read; an empty string where the name says nothing.

    `number` is as written but for what parts its fields; its look-alikes are not corrected. `unsure` names the fields
    of which a person would say: probably.
    """

    number: str
    revision: str
    status: str
    title: str
    unsure: tuple[str, ...] = ()


def read_file_name(file_name: str, scheme: Scheme, statuses: tuple[str, ...], convention: Convention) -> NameReading:
    """The number by the convention's own fields, whatever parts them; revision and status before or behind the title.

    Both stand in any order, bare, in brackets or after “rev” (usual forms of file names: common practice, without a
    source). The rest is the title.
    """
    stem, copied = _without_copy_mark(re.sub(r"\.[A-Za-z0-9]{1,5}$", "", base_name(file_name)[:_LONGEST_NAME]))
    found = _find_number(_folded(stem), convention)
    number = convention.separator.join(stem[start:end] for start, end in found.fields) if found.fields else ""
    before, behind = (stem[: found.start], stem[found.end :]) if found.fields else ("", stem)
    reader = _CodeReader(scheme, statuses)
    behind = reader.read_front(behind)
    behind = reader.read_back(behind)
    if copied and not reader.revision and parse(scheme, copied):
        reader.revision = copied
        reader.unsure.add("revision")
    title = " ".join(" ".join([_tidy(before), _tidy(behind)]).split())
    unsure = reader.unsure | ({"number"} if number and not found.sure else set())
    return NameReading(number, reader.revision, reader.status, title[:_LONGEST_TITLE], tuple(sorted(unsure)))


_COPY = re.compile(r"(?:[\s_-]+(?:copy|kopie|copie))?\s*\((\d{1,2})\)$|[\s_-]+(?:copy|kopie|copie)$", re.IGNORECASE)
"""What systems add to the name of a file that was saved twice."""


def _without_copy_mark(stem: str) -> tuple[str, str]:
    """And the figure that was in it, which may have been a revision after all."""
    mark = _COPY.search(stem)
    return (stem[: mark.start()], mark[1] or "") if mark and mark.start() else (stem, "")


def _folded(text: str) -> str:
    """Of the same length: twins and odd dashes as what they look like, in capitals, white space as blanks."""
    folded = [(plain(ch).upper() or " ") if len(plain(ch).upper()) < 2 else ch for ch in text]
    return "".join(folded)


@dataclass(frozen=True)
class _Number:
    """Where the fields stand in the name; `sure` if they keep the convention and are parted as it wants."""

    fields: tuple[tuple[int, int], ...] = ()
    sure: bool = False

    @property
    def start(self) -> int:
        return self.fields[0][0]

    @property
    def end(self) -> int:
        return self.fields[-1][1]


_ANY_PART = r"\s*[-_.\s/]\s*"


def _find_number(folded: str, convention: Convention) -> _Number:
    """By its fields; else by as many parts as it has fields; else the first word with the separator in it."""
    own = rf"\s*{re.escape(convention.separator)}\s*"
    kept = [_pattern(each) for each in convention.fields]
    word, count = "[A-Z0-9]+", len(convention.fields)
    if fields := _match(own.join(kept), folded):
        return _Number(fields, sure=True)
    if fields := _match(_ANY_PART.join(kept), folded):
        return _Number(fields)
    if fields := _match(own.join([f"({word})"] * count), folded):
        return _Number(fields, sure=True)
    if convention.separator != "_" and (fields := _run(rf"{word}(?:{re.escape(convention.separator)}{word})+", folded)):
        return _Number(fields, sure=True)
    return _Number()


def _pattern(each: NumberField) -> str:
    return "(" + ("|".join(map(re.escape, sorted(each.codes, key=len, reverse=True))) or each.pattern) + ")"


def _match(pattern: str, folded: str) -> tuple[tuple[int, int], ...]:
    found = re.search(rf"(?<![A-Z0-9]){pattern}(?![A-Z0-9])", folded)
    return tuple(found.span(place) for place in range(1, len(found.groups()) + 1)) if found else ()


def _run(pattern: str, folded: str) -> tuple[tuple[int, int], ...]:
    found = re.match(rf"\s*({pattern})", folded)
    return (found.span(1),) if found else ()


_PARTS = r"\s_\-.,;()\[\]{}"
_CODE = r"(?P<code>[A-Z0-9]{1,4}(?:\.\d{1,2})?)"
_REV = r"(?P<rev>REV(?:ISION)?(?![A-Z]{2})[\s._-]*)?"
_FRONT = re.compile(rf"(?P<gap>[{_PARTS}]*){_REV}{_CODE}(?=[{_PARTS}]|$)")
_BACK = re.compile(rf"(?P<gap>(?:^|[{_PARTS}])[\s(\[{{]*){_REV}{_CODE}(?P<shut>[)\]}}]?)[\s_.]*$")


class _CodeReader:
    """Takes revision and status off the two ends of what stands behind the number."""

    def __init__(self, scheme: Scheme, statuses: tuple[str, ...]) -> None:
        self.scheme, self.statuses = scheme, statuses
        self.revision = self.status = ""
        self.unsure: set[str] = set()

    def read_front(self, text: str) -> str:
        while (found := _FRONT.match(_folded(text))) and self._takes_front(found, text):
            text = text[found.end() :]
        return text

    def _takes_front(self, found: re.Match[str], text: str) -> bool:
        # One letter or figure between blanks may be a word of the title.
        bare = found["gap"].isspace() and text[found.end() :][:1] == " " and len(found["code"]) < 3
        return self._take(found["code"], named=bool(found["rev"]), bare=bare and self.scheme is not Scheme.STAGED)

    def read_back(self, text: str) -> str:
        """Only what cannot be a word of the title: named, in brackets, or a code of a scheme with figures in it."""
        while (found := _BACK.search(_folded(text))) and self._takes_back(found):
            text = text[: found.start()]
        return text

    def _takes_back(self, found: re.Match[str]) -> bool:
        code, plainly = found["code"], bool(found["rev"] or found["shut"])
        staged = self.scheme is Scheme.STAGED and parse(self.scheme, code) is not None
        beside = code in self.statuses and (plainly or _ENDS_IN_CODE.search(_before(found)) is not None)
        if not (plainly or staged or beside):
            return False
        had = self.revision
        taken = self._take(code, named=bool(found["rev"]), bare=False)
        if taken and self.revision != had and not plainly:
            self.unsure.add("revision")
        return taken

    def _take(self, code: str, *, named: bool, bare: bool) -> bool:
        known = parse(self.scheme, code) is not None
        if not self.revision and (named or (known and not bare)):
            self.revision = code
            self.unsure |= set() if known else {"revision"}
            return True
        if not named and not self.status and code in self.statuses:
            self.status = code
            return True
        return False


_ENDS_IN_CODE = re.compile(r"(?:^|[\s_\-(\[])[PC]\d{2}(?:\.\d{1,2})?[\s_\-)\]]*$")


def _before(found: re.Match[str]) -> str:
    return found.string[: found.start()]


def _tidy(text: str) -> str:
    """Without what parted it from the rest, and without a bracket that lost its other half."""
    words = text.replace("_", " ").strip(" -.,;")
    for one, other in ("()", "[]", "{}"):
        if words.count(one) != words.count(other):
            words = words.strip(f" {one}{other}-.,;")
    return words


def base_name(file_name: str) -> str:
    """The last component of a name that may carry a path of any system; control characters dropped."""
    last = clean_text(re.split(r"[/\\]", file_name)[-1])
    return "".join(ch for ch in last if ch.isprintable()).strip() or "unnamed"


_OF_SYSTEMS = frozenset({
    ".ds_store", "thumbs.db", "ehthumbs.db", "desktop.ini", ".localized", ".spotlight-v100", ".trashes", ".fseventsd",
})  # fmt: skip
_OF_CAD = (".bak", ".dwl", ".dwl2", ".sv$", ".ac$")


def is_of_a_system(path: str) -> bool:
    """A file that a system, an archiver or a drawing program leaves beside the real ones, by where it lies.

    Which these are is common practice, from memory: folder views and thumbnails, resource forks (`__MACOSX`, `._x`),
    office owner files (`~$x`), backups and locks of CAD.
    """
    *folders, name = re.split(r"[/\\]", path.casefold())
    if "__macosx" in folders or ".git" in folders:
        return True
    return name in _OF_SYSTEMS or name.startswith(("._", "~$")) or name.endswith(_OF_CAD)


def alike(file_name: str) -> str:
    """The same for names that are the same but for capitals, or for how a system writes an accent.

    Caseless matching of the Unicode Standard (3.13, D145), then composed.
    """
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", file_name).casefold())
