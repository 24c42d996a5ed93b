"""What a specification asks to be sent in: its sections, the articles that call for submittals, their items (§9).

Three manners are read: numbered articles with lettered paragraphs under parts, decimal clauses, and tables. Which words
call for submittals and which name a kind is the project's to set; how they are used is common practice.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from nod.core.sheet.placed_words import PlacedWords
from nod.core.submittals.spec_lines import SizeMm, SpecPages, body_of
from nod.core.submittals.spec_paragraphs import Paragraph, Paragraphs
from nod.core.submittals.spec_tables import Row, Tables
from nod.core.submittals.spec_words import ReadingWords

MOST_ITEMS = 5_000
_LONGEST_TITLE, _LONGEST_TEXT = 120, 4000
_LONGEST_HEAD, _LONGEST_LABEL = 90, 60
_ADMINISTRATIVE = ("01 3", "01 7")
"""Sections that say how submittals are handled, in the usual order of sections (common practice): no items."""


@dataclass(frozen=True)
class SpecItem:
    """What is to be sent in, where it stands: `page` from 0, `top` in millimetres. `kind` is empty where none is named.

    A person says which kind that is. `section` is written `NN NN NN`; where it is numbered another way it is empty.
    """

    page: int
    top: float
    section: str
    section_title: str
    paragraph: str
    kind: str
    title: str
    text: str


def read_specification(pages: Sequence[tuple[PlacedWords, SizeMm]], words: ReadingWords) -> list[SpecItem]:
    """Of the pages of a PDF as seen, in their order: all that it asks for, in the order of reading."""
    body = body_of(pages)
    reader = _Reader(words)
    tables, paragraphs = Tables(_any_of(words.articles), reader.kind_in), Paragraphs(body)
    rows = list(_rows(body, tables, paragraphs))
    found = [item for each in paragraphs.all if (item := reader.item(each))]
    found += [item for row in rows for item in reader.of_row(row)]
    return sorted(found, key=lambda each: (each.page, each.top))[:MOST_ITEMS]


def _rows(body: SpecPages, tables: Tables, paragraphs: Paragraphs) -> Iterator[Row]:
    """The rows of tables; all other lines are paragraphs."""
    for line in body.lines:
        opens = paragraphs.section_at(line, bare=not tables.holds(line)) is not None
        if not opens and tables.takes(
            line, paragraphs.section_of(line.page), paragraphs.section.title, paragraphs.label
        ):
            continue
        tables.end()
        paragraphs.take(line)
    tables.end()
    yield from tables.rows


def _any_of(phrases: Sequence[str]) -> re.Pattern[str]:
    """Whole words, in the singular or plural, however they are spaced. Matches nothing where there are none."""
    said = sorted({" ".join(each.casefold().split()) for each in phrases if each.strip()}, key=len, reverse=True)
    if not said:
        return re.compile(r"(?!)")
    one = (re.escape(each).replace(r"\-", r"[\s-]?").replace(r"\ ", r"[\s-]+") for each in said)
    return re.compile(rf"\b(?:{'|'.join(one)})(?:s|es)?\b", re.IGNORECASE)


_ASKS = re.compile(
    r"(?:^|:\s)(?:the \w+ (?:shall|must|is to|will) )?(?:submit|provide|furnish)\b(?! to\b)"
    r"|\b(?:shall|must|is to|are to) (?:also )?(?:submit|be submitted)\b|\bto be submitted\b",
    re.IGNORECASE,
)
_FOR_REVIEW = re.compile(
    r"\b(?:for (?:approval|review|acceptance|comment|information|record)|submit\w*)\b", re.IGNORECASE
)
_REFUSES = re.compile(r"\b(?:shall|must) not\b|\bhave been\b|\bhas been\b|\buntil\b|\bare accepted\b", re.IGNORECASE)
_PROCEDURES = re.compile(r"\b(?:procedure|format|administrat|substitution|schedule of values)", re.IGNORECASE)


class _Reader:
    def __init__(self, words: ReadingWords) -> None:
        self._articles = _any_of(words.articles)
        self._kinds = {code: _any_of(each) for code, each in words.kinds.items()}
        self._aside = _any_of(words.aside)

    def kind_in(self, text: str) -> str:
        """The code of the kind that is named first; of two that begin together, the longer."""
        found = [(each.search(text), code) for code, each in self._kinds.items()]
        said = [(at.start(), -len(at.group()), code) for at, code in found if at]
        return min(said)[2] if said else ""

    def item(self, at: Paragraph) -> SpecItem | None:
        if at.section.startswith(_ADMINISTRATIVE):
            return None
        article = self._calling(at)
        if article is None:
            return self._elsewhere(at)
        return self._made(at) if self._is_item(at, article) else None

    def _calling(self, at: Paragraph) -> Paragraph | None:
        """The article above it, or itself, that calls for submittals by its heading."""
        above: Paragraph | None = at
        while above is not None:
            head = _head(above.text)
            if above.kind in _HEADED and len(head) <= _LONGEST_HEAD and self._articles.search(head):
                return None if _PROCEDURES.search(head) else above
            above = above.parent
        return None

    def _is_item(self, at: Paragraph, article: Paragraph) -> bool:
        if at is article:
            return not at.children and bool(self.kind_in(at.text)) and len(at.text.split()) > 3
        if self._divides(at) or any(self._is_whole(each) for each in _between(at, article)):
            return False
        return self._is_whole(at)

    def _divides(self, at: Paragraph) -> bool:
        """What only heads its own items: `A. Submit the following:`, or a clause that names no kind itself."""
        named = [each for each in at.children if self.kind_in(each.text)]
        if not named:
            return False
        several = len({self.kind_in(each.text) for each in named}) > 1
        return not self.kind_in(_head(at.text)) or (several and at.text.rstrip().endswith(":"))

    def _is_whole(self, at: Paragraph) -> bool:
        """An item of its own: it names a kind, or is headed like one; and does not say how things are handled."""
        if self._divides(at) or self._aside.match(at.text):
            return False
        if self.kind_in(at.text):
            return not _REFUSES.search(_sentence(at.text)) or bool(self.kind_in(_head(at.text)))
        named = _NAMED.match(at.text) or (len(at.text.split()) <= _LONGEST_NAME and not _SAYS.search(at.text))
        return at.kind not in ("text", "article") and bool(named)

    def _elsewhere(self, at: Paragraph) -> SpecItem | None:
        """A sentence in another article that asks for something of a kind."""
        if at.kind == "article" and at.children and not _ASKS.search(at.text):
            return None
        for sentence in _sentences(at.text):
            asks = _ASKS.search(sentence) and _FOR_REVIEW.search(sentence) and not _REFUSES.search(sentence)
            if asks and self.kind_in(sentence):
                return self._made(at, sentence)
        return None

    def _made(self, at: Paragraph, said: str = "") -> SpecItem:
        text = said or at.text
        kind = self.kind_in(_head(text)) or self.kind_in(text)
        whole = "\n".join([at.text, *(each.text for each in at.children)])[:_LONGEST_TEXT]
        return SpecItem(
            at.page, at.top, at.section, at.section_title, at.label[:_LONGEST_LABEL], kind,
            title_of(at.section_title, text), whole,
        )  # fmt: skip

    def of_row(self, row: Row) -> list[SpecItem]:
        """One, or one for each kind that is ticked."""
        if row.section.startswith(_ADMINISTRATIVE) or not row.what:
            return []
        kind = self.kind_in(row.kind) or self._code(row.kind) or self.kind_in(row.what)
        title = title_of(row.section_title, row.what)
        return [
            SpecItem(
                row.page, row.top, row.section, row.section_title, row.paragraph[:_LONGEST_LABEL], each, title,
                row.text[:_LONGEST_TEXT],
            )
            for each in row.ticked or [kind]
        ]  # fmt: skip

    def _code(self, said: str) -> str:
        return said.strip().upper() if said.strip().upper() in self._kinds else ""


_HEADED = ("article", "top", "upper", "figure")
_LONGEST_NAME = 12
_SAYS = re.compile(
    r"\b(?:shall|must|will|should|may|is|are|be|been|has|have|submit\w*|include\w*|provide\w*|allow\w*|comply|show|use|"
    r"indicate|coordinate|obtain|prepare|deliver|store|notify|refer|furnish|maintain|keep|do not)\b",
    re.IGNORECASE,
)
"""What makes a sentence of what would otherwise be a name."""
_NAMED = re.compile(r"[A-Z][^.:;]{2,60}:\s+\S")


def _between(at: Paragraph, article: Paragraph) -> Iterator[Paragraph]:
    above = at.parent
    while above is not None and above is not article:
        yield above
        above = above.parent


def _head(text: str) -> str:
    """What stands before a colon, or the first sentence."""
    return re.split(r":\s|:$|\.\s", text, maxsplit=1)[0]


def _sentence(text: str) -> str:
    return _sentences(text)[0]


def _sentences(text: str) -> list[str]:
    return re.split(r"(?<=[.;])\s+(?=[A-Z])", text) or [text]


def title_of(section_title: str, text: str) -> str:
    """`Marine fenders: shop drawings of frames and chains`: of the section, and what is wanted."""
    said = " ".join(_sentence(text).split()).rstrip(".;:, ")
    said = re.sub(r"^(?:the \w+ (?:shall|must|is to) )?(?:submit|provide|furnish)\s+", "", said, flags=re.IGNORECASE)
    if len(said) > _LONGEST_TITLE:
        said = f"{said[:_LONGEST_TITLE].rsplit(' ', 1)[0]} \u2026"
    if not section_title:
        return said[:1].upper() + said[1:]
    return f"{section_title}: {': '.join(map(_small, said.split(': ')))}"


def _small(words: str) -> str:
    """As within a sentence: `Product Data` becomes small, `CE marking` does not."""
    if words.istitle() and len(words.split()) < 5:
        return words.lower()
    return words if words[1:2].isupper() or not words[1:2].isalpha() else words[:1].lower() + words[1:]
