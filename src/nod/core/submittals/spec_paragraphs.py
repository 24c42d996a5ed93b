"""The paragraphs of a specification: sections, numbered articles and what is lettered or numbered below them."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from nod.core.submittals.spec_lines import SpecLine, SpecPages

_LARGER = 1.06
_FULL_MM = 22.0
"""A line that ends so near to the right edge of the text goes on in the next."""
_LONGEST_HEAD, _LONGEST_PART, _LONGEST_TEXT = 110, 60, 6000
_SECTION = re.compile(
    r"section\s+(?:no\.?\s*)?(\d{2})[ .\u00a0-]?(\d{2})[ .\u00a0-]?(\d{2})(?:\.(\d{2}))?\b[\s:.\u2013\u2014-]*(.*)$",
    re.IGNORECASE,
)
_BARE = re.compile(r"(\d{2}) (\d{2}) (\d{2})(?:\.(\d{2}))?[\s:\u2013\u2014-]+(?=[A-Z])(.*)$")
_WITHIN = re.compile(r"\(?\b(?:section\s+)?(\d{2}) (\d{2}) (\d{2})(?:\.(\d{2}))?\b\)?", re.IGNORECASE)
_END = re.compile(r"end of (?:the )?section\b", re.IGNORECASE)
_PART = re.compile(r"part\s+(?:\d|[ivx]{1,4})\b", re.IGNORECASE)
_LABELS = (
    ("article", re.compile(r"(?:(?:[Cc]lause|[Aa]rticle)\s+)?(\d{1,3}(?:\.\d{1,3}){1,4})\.?\)?\s+(?=[^a-z\s])(.+)")),
    ("top", re.compile(r"(\d{1,2}\.?)\s+(?=[A-Z])([^.;:]{3,80})$")),
    ("upper", re.compile(r"([A-Z])\.\s+(.+)")),
    ("figure", re.compile(r"(\d{1,2})\.\s+(?=\D)(.+)")),
    ("lower", re.compile(r"([a-z])\.\s+(.+)")),
    ("bracket", re.compile(r"\(?([a-z]|[ivx]{1,4}|[A-Z]|\d{1,2})\)\s+(.+)")),
    (
        "bullet",
        re.compile(
            r"([\u2022\u00b7\u25aa\u2023\u25e6\u25cf\u25cb\u25a0\u2013\u2014\uf0b7\uf0a7*-])\s+(.+)"
        ),
    ),
)  # fmt: skip


@dataclass
class Paragraph:
    """`label` is its whole way down, as in `1.03.A.2`; `kind` says how it is labelled (`text`: not at all).

    `section` is written `NN NN NN`, empty where the section is numbered another way, or not at all.
    """

    kind: str
    label: str
    text: str
    page: int
    top: float
    section: str
    section_title: str
    parent: Paragraph | None = None
    children: list[Paragraph] = field(default_factory=list)


@dataclass(frozen=True)
class Section:
    number: str
    title: str


def section_number(found: re.Match[str]) -> str:
    first, second, third, more = found.groups()[:4]
    return f"{first} {second} {third}" + (f".{more}" if more else "")


class Paragraphs:
    """Takes lines in their order, and puts paragraphs together."""

    def __init__(self, pages: SpecPages) -> None:
        self._pages = pages
        self._firsts: dict[int, SpecLine] = {}
        for line in pages.lines:
            self._firsts.setdefault(line.page, line)
        self._prefixed = any(self._heading(line) for line in pages.lines)
        self.all: list[Paragraph] = []
        self._stack: list[Paragraph] = []
        self._section = Section("", "")
        self._titled = True
        self._last: SpecLine | None = None

    def section_at(self, line: SpecLine, *, bare: bool = True) -> Section | None:
        """What a line opens, if it is the heading of a section; `bare`: also by its number alone."""
        found = self._heading(line)
        if (
            found is None
            and bare
            and not self._prefixed
            and len(line.text) < _LONGEST_HEAD
            and not line.text.endswith(".")
        ):
            found = _BARE.match(line.text)
        return Section(section_number(found), _title(found.group(5))) if found else None

    def _heading(self, line: SpecLine) -> re.Match[str] | None:
        """`Section 08 44 13`: in capitals, in a larger type or first on its page; in a text it is a reference."""
        found = _SECTION.match(line.text)
        if found is None or (line.text.endswith((".", ",", ";")) and not found.group(5).isupper()):
            return None
        first = self._firsts[line.page] is line
        if line.text.startswith("SECTION") or line.height > _LARGER * self._pages.height or first:
            return found
        return None

    def take(self, line: SpecLine) -> None:
        text = line.text
        section = self.section_at(line)
        if section is not None and section.number and section.number == self._section.number:
            # A running head that stands on one page alone, or higher there than on others.
            pass
        elif section is not None:
            self.open(section)
        elif _END.match(text):
            self._stack = []
        elif not self._titled and not _PART.match(text) and not self._labelled(text):
            self._section, self._titled = Section(self._section.number, _title(text)), True
        elif _PART.match(text) and len(text) < _LONGEST_PART and not text.endswith((".", ",")):
            self._stack, self._titled = [], True
        else:
            self._titled = True
            self._put(line, text)
        self._last = line

    def open(self, section: Section) -> None:
        self._section, self._titled, self._stack = section, bool(section.title), []

    @property
    def section(self) -> Section:
        return self._section

    @property
    def label(self) -> str:
        return self._stack[-1].label if self._stack else ""

    def section_of(self, page: int) -> str:
        """The present one; without any, what the running heads of the page say."""
        if self._section.number:
            return self._section.number
        found = _WITHIN.search(self._pages.heads.get(page, ""))
        return section_number(found) if found else ""

    def _labelled(self, text: str) -> tuple[str, str, str] | None:
        """How it is labelled, the label, and the rest."""
        for kind, pattern in _LABELS:
            found = pattern.match(text)
            if found and (kind != "top" or self._heads_all(found.group(1), found.group(2))):
                return kind, found.group(1).rstrip("."), found.group(2).strip()
        return None

    def _heads_all(self, label: str, text: str) -> bool:
        """`4 Curtain walls`; with a stop, as items have it, only in capitals or with the number of a section."""
        if label.endswith(".") and not text.isupper() and not _WITHIN.search(text):
            return False
        return self._is_next(label.rstrip("."))

    def _is_next(self, label: str) -> bool:
        """Whether a figure alone can head what follows the articles that there are: 4 after 3.2."""
        articles = [each.label for each in self._stack if each.kind == "article"]
        return not articles or int(label) == int(articles[0].partition(".")[0]) + 1

    def _put(self, line: SpecLine, text: str) -> None:
        labelled = self._labelled(text)
        if labelled is None:
            self._go_on(line, text)
            return
        kind, label, rest = labelled
        if kind == "top" and (found := _WITHIN.search(rest)):
            self.open(Section(section_number(found), _title(_WITHIN.sub("", rest))))
        self._add(line, kind, label, rest)

    def _go_on(self, line: SpecLine, text: str) -> None:
        """A line without a label belongs to the one before, unless that was a heading or had ended."""
        last = self._stack[-1] if self._stack else None
        if last is not None and self._last is not None and self._continues(last, line):
            joined = f"{last.text[:-1]}{text}" if _broken(last.text) else f"{last.text} {text}"
            last.text = joined[:_LONGEST_TEXT]
        else:
            self._add(line, "text", "", text)

    def _continues(self, last: Paragraph, line: SpecLine) -> bool:
        before = self._last
        if before is None:
            return False
        alike = abs(before.height - line.height) < 0.04 * line.height
        full = before.right > self._pages.right - _FULL_MM
        if last.kind in ("article", "top", "text"):
            return alike and full and not last.text.endswith(":")
        return alike and (full or not last.text.endswith((".", ";", ":")))

    def _add(self, line: SpecLine, kind: str, label: str, text: str) -> None:
        self._go_up(kind, label)
        parent = self._stack[-1] if self._stack else None
        way = label if kind in ("article", "top") else ".".join(filter(None, (parent.label if parent else "", label)))
        if kind in ("text", "bullet"):
            way = parent.label if parent else ""
        made = Paragraph(
            kind, way, text, line.page, line.top, self.section_of(line.page), self._section.title, parent
        )  # fmt: skip
        if parent:
            parent.children.append(made)
        self._stack.append(made)
        self.all.append(made)

    def _go_up(self, kind: str, label: str) -> None:
        """To what this one stands below."""
        stack = self._stack
        if kind == "article":
            above = [
                at for at, each in enumerate(stack)
                if each.kind in ("article", "top") and label.startswith(f"{each.label}.")
            ]  # fmt: skip
            self._stack = stack[: above[-1] + 1] if above else []
            return
        if kind == "top":
            self._stack = []
            return
        same = next((at for at, each in enumerate(stack) if each.kind == kind), None)
        if same is not None:
            self._stack = stack[:same]
        elif stack and stack[-1].kind in ("text", "bullet"):
            self._stack = stack[:-1]
            if kind == "bullet" and stack[-1].kind == "text":
                self._stack = stack


def _title(text: str) -> str:
    """As words are written: headings in capitals are made small, their first letter stays."""
    tidy = " ".join(text.split()).strip(" -\u2013\u2014:.")
    return tidy.capitalize() if tidy.isupper() else tidy


def _broken(text: str) -> bool:
    """A word that was broken at the end of its line."""
    return bool(re.search(r"[a-z]-$", text))
