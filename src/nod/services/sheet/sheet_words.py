"""The words on a sheet: searched, and the numbers of other sheets among them as ways to these (handbook §6)."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.sheet.words_on_sheet import box_of_word, numbers_said, occurrences
from nod.formats.sheet.words_pack import unpack_words
from nod.services.access.visibility import is_line, see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor
from nod.store.tables import DocumentRow, PageWordsRow

MOST_HITS = 500
_LONGEST = 200


class WordsFound(Answered):
    """A place that says what was searched for; `page` counts from 0, `box` in PDF points."""

    page: int
    box: tuple[float, float, float, float]
    words: str


class FoundOnSheet(Answered):
    """`more`: there are more than are listed. Without `has_words` the sheet is a scan that nobody has read."""

    hits: list[WordsFound]
    more: bool
    has_words: bool


class Reference(Answered):
    """A number on the page, with the sheet that it names."""

    page: int
    box: tuple[float, float, float, float]
    number: str
    title: str
    revision_id: str
    document_id: str
    is_sheet: bool


class References(Answered):
    references: list[Reference]


def find_words(context: Context, actor: Actor, revision_id: str, words: str) -> FoundOnSheet:
    with context.database.read() as session:
        revision, _, _ = see_revision(session, actor, revision_id, let_in=True)
        hits: list[WordsFound] = []
        said = False
        for place, packed in _pages(session, revision.sha256):
            placed = unpack_words(packed)
            said = said or bool(placed.texts)
            left = MOST_HITS + 1 - len(hits)
            found = occurrences(placed, words[:_LONGEST], left)
            hits += [WordsFound(page=place, box=each.box, words=each.words) for each in found]
        return FoundOnSheet(hits=hits[:MOST_HITS], more=len(hits) > MOST_HITS, has_words=said)


def list_references(context: Context, actor: Actor, revision_id: str) -> References:
    """Numbers of other documents on the sheet, as far as these are there for this person."""
    with context.database.read() as session:
        revision, document, seat = see_revision(session, actor, revision_id, let_in=True)
        separator = rules_of(seat.project).convention.separator
        pages = [(place, unpack_words(packed)) for place, packed in _pages(session, revision.sha256)]
        said = {place: numbers_said(placed, separator) for place, placed in pages}
        numbers = {number for found in said.values() for number in found} - {document.number}
        query = select(DocumentRow).where(
            DocumentRow.project_id == document.project_id, DocumentRow.number.in_(numbers), is_line(seat),
        )  # fmt: skip
        named = {row.number: row for row in session.scalars(query)}
        return References(
            references=[
                Reference(
                    page=place, box=box_of_word(placed, at), number=number, title=named[number].title,
                    revision_id=named[number].revision_id, document_id=named[number].id,
                    is_sheet=named[number].kind == "sheet",
                )
                for place, placed in pages
                for number, places in said[place].items()
                if number in named
                for at in places
            ]
        )  # fmt: skip


def _pages(session: Session, sha256: str) -> list[tuple[int, bytes]]:
    query = select(PageWordsRow.place, PageWordsRow.words).where(PageWordsRow.sha256 == sha256)
    return [(place, packed) for place, packed in session.execute(query.order_by(PageWordsRow.place))]
