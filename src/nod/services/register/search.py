"""Finding anything: numbers, titles and fields of documents, the text on their sheets, and marks (handbook §4).

The text of a sheet goes into the index when it is filed; a search says where it found what.
"""

from __future__ import annotations

from itertools import islice
from typing import Any, Literal

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session, contains_eager

from nod.core.register.number_shapes import fold, shapes
from nod.core.sheet.placed_words import without_places
from nod.formats.files.preview import NoPreview
from nod.formats.sheet.words_pack import pack_words, unpack_words
from nod.services.access.visibility import is_line
from nod.services.acts.answers import Answered, people_by_id
from nod.services.acts.arrived_files import of_file
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.acts.work import Job, Lane, work
from nod.services.things.kinds import seen_of, thing_kinds
from nod.services.things.things import Thing, find_things
from nod.services.threads.said import author_ids, author_of
from nod.store.dialects.sqlite import (
    WordIndex,
    add_sheet_words,
    add_unless_there,
    put_unless_there,
    unindexed,
    words_in,
)
from nod.store.register_query import hits_of, plain_words
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    FormerNumberRow,
    MarkRow,
    PageTextRow,
    PageWordsRow,
    RevisionRow,
    ThreadRow,
)

_MOST_EACH = 50
_MOST_ROWS, _MOST_WORDS = 20_000, 200_000
_BEFORE, _AFTER = 4, 8


class Hit(Answered):
    """What was found and where. `page` counts from 0; `box` is left, low, right, high in PDF points of that page.

    `words` are those around the place; `mark_id` for a hit in a mark; `is_sheet` where there is a page to open.
    """

    kind: Literal["document", "sheet", "mark"]
    document_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    where: str
    words: str
    page: int
    box: list[float]
    mark_id: str
    is_sheet: bool


class FoundThings(Answered):
    """Things of one kind, whose `plural` is given."""

    kind: str
    plural: str
    things: list[Thing]


class Found(Answered):
    """The first hits of each kind, and of which kinds there are more. `others`: things that are no documents."""

    documents: list[Hit]
    sheets: list[Hit]
    marks: list[Hit]
    others: list[FoundThings]
    more: list[str]


def search(context: Context, actor: Actor, project_id: str, words: str, limit: int) -> Found:
    """What is there for this person. Superseded revisions are not searched; withdrawn documents are."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        if not plain_words(words):
            return Found(documents=[], sheets=[], marks=[], others=[], more=[])
        most = min(limit, _MOST_EACH)
        documents = _documents(session, seat, words, most + 1)
        sheets = _sheets(session, seat, words, most + 1)
        marks = _marks(session, seat, words, most + 1)
        found = {"documents": documents, "sheets": sheets, "marks": marks}
        others = [
            FoundThings(kind=kind.code, plural=kind.plural, things=find_things(session, seat, kind, words, most + 1))
            for kind in thing_kinds()
            if not kind.placed
        ]
        more = [kind for kind, hits in found.items() if len(hits) > most]
        more += [each.kind for each in others if len(each.things) > most]
        for each in others:
            del each.things[most:]
        return Found(
            documents=documents[:most], sheets=sheets[:most], marks=marks[:most],
            others=[each for each in others if each.things], more=more,
        )  # fmt: skip


def _mine(seat: Seat) -> tuple[ColumnElement[bool], ColumnElement[bool]]:
    """The hits are walked, not the project."""
    return unindexed(DocumentRow.project_id) == seat.project.id, is_line(seat)


def find_documents(session: Session, seat: Seat, words: str, most: int) -> list[DocumentRow]:
    """Those that are there for the seat; by number, those that are withdrawn last."""
    if not plain_words(words):
        return []
    hits = hits_of(session, words)
    query = select(DocumentRow).where(*_mine(seat)).limit(most)
    if hits.rows is None:
        # With so many nobody reads an order: the first that are met are shown, and typing goes on.
        index, seq, match = words_in(WordIndex.DOCUMENTS, hits.match)
        query = query.join(index, seq == DocumentRow.seq).where(match)
    else:
        query = query.where(DocumentRow.seq.in_(hits.rows)).order_by(DocumentRow.withdrawn, DocumentRow.number)
    return list(session.scalars(query))


def _documents(session: Session, seat: Seat, words: str, most: int) -> list[Hit]:
    rows = find_documents(session, seat, words, most)
    former = _former(session, [row.id for row in rows])
    return [_document(row, words, former.get(row.id, [])) for row in rows]


def _former(session: Session, ids: list[str]) -> dict[str, list[str]]:
    query = select(FormerNumberRow.document_id, FormerNumberRow.number).where(FormerNumberRow.document_id.in_(ids))
    found: dict[str, list[str]] = {}
    for document_id, number in session.execute(query):
        found.setdefault(document_id, []).append(number)
    return found


def _document(row: DocumentRow, words: str, former: list[str]) -> Hit:
    """Where: what is not in number or title stands in the fields, or is the number it had before."""
    wanted = [word.casefold() for word in words.split()]
    said = f"{row.number} {row.title} {shapes(row.number)}".casefold()
    where, about = "", ""
    if not all(word in said or fold(word).casefold() in said for word in wanted):
        old = [each for each in former if any(fold(word) in fold(each) for word in wanted)]
        where, about = ("the number it had before", old[0]) if old else ("its fields", row.field_words)
        if not row.field_words:
            where, about = "", ""
    if row.withdrawn:
        where = f"{where}, withdrawn".strip(", ")
    return _hit("document", row, row.revision_id, row.revision, where=where, words=about)


def _hit(
    kind: Literal["document", "sheet", "mark"], row: DocumentRow, revision_id: str, revision: str, **more: Any
) -> Hit:
    given = {"where": "", "words": "", "page": 0, "box": [], "mark_id": ""} | more
    return Hit(
        kind=kind, document_id=row.id, revision_id=revision_id, number=row.number, title=row.title, revision=revision,
        is_sheet=row.kind == "sheet", **given,
    )  # fmt: skip


def _sheets(session: Session, seat: Seat, words: str, most: int) -> list[Hit]:
    index, seq, match = words_in(WordIndex.SHEETS, plain_words(words))
    query = (
        select(DocumentRow, PageTextRow.place, PageWordsRow.words)
        .select_from(index)
        .join(PageTextRow, PageTextRow.seq == seq)
        .join(DocumentRow, DocumentRow.sha256 == PageTextRow.sha256)
        .join(PageWordsRow, (PageWordsRow.sha256 == PageTextRow.sha256) & (PageWordsRow.place == PageTextRow.place))
        .where(match, *_mine(seat))
        .limit(most)
    )
    hits = []
    for row, place, packed in session.execute(query):
        around, box = _place_of(packed, words)
        box = box if row.kind == "sheet" else []
        where = f"the sheet, page {place + 1}" if row.kind == "sheet" else "the file"
        where += ", withdrawn" if row.withdrawn else ""
        hits.append(_hit("sheet", row, row.revision_id, row.revision, where=where, words=around, page=place, box=box))
    return hits


def _place_of(packed: bytes, words: str) -> tuple[str, list[float]]:
    """The words around the first one that begins like the longest of those typed, and its box."""
    placed = unpack_words(packed)
    wanted = max((each.casefold() for each in plain_words(words).replace('"', "").replace("*", "").split()), key=len)
    for at, each in enumerate(placed.texts):
        if wanted in each.casefold():
            around = placed.texts[max(0, at - _BEFORE) : at + _AFTER]
            return " ".join(around), [round(float(side), 1) for side in placed.boxes[at]]
    return "", []


def _marks(session: Session, seat: Seat, words: str, most: int) -> list[Hit]:
    """Ink that is for the seat, and their own pencil."""
    index, seq, match = words_in(WordIndex.THREADS, plain_words(words))
    query = (
        select(DocumentRow, MarkRow, RevisionRow.code)
        .select_from(index)
        .join(ThreadRow, ThreadRow.seq == seq)
        .join(MarkRow, MarkRow.thread_id == ThreadRow.id)
        .options(contains_eager(MarkRow.thread))
        .join(DocumentRow, DocumentRow.id == MarkRow.document_id)
        .join(RevisionRow, RevisionRow.id == MarkRow.revision_id)
        .where(
            match, unindexed(DocumentRow.project_id) == seat.project.id, seat.sees(DocumentRow.folder_id),
            # What came along with a copy is found where it was drawn.
            is_line(seat) | (MarkRow.carried_from == ""), MarkRow.removed_at.is_(None),
            seen_of("thread", seat),
        )
        .order_by(ThreadRow.said_at.desc(), MarkRow.seq.desc())
        .limit(most)
    )  # fmt: skip
    newest: dict[str, tuple[DocumentRow, MarkRow, str]] = {}
    for row, mark, code in session.execute(query):
        newest.setdefault(mark.thread_id, (row, mark, code))
    people = people_by_id(session, author_ids(mark.thread for _, mark, _ in newest.values()))
    hits = []
    for row, mark, code in newest.values():
        xs, ys = [point[0] for point in mark.points], [point[1] for point in mark.points]
        author = author_of(mark.thread, people)
        where = f"a mark by {author.name}{'' if mark.thread.shared_at else ', in pencil'}"
        box = [min(xs), min(ys), max(xs), max(ys)]
        hits.append(
            _hit("mark", row, mark.revision_id, code, where=where, words=mark.thread.text, page=mark.page, box=box,
                 mark_id=mark.id)
        )  # fmt: skip
    return hits


@work("index_words", Lane.REST, "making the text findable", of_file, shared=True)
def index_words(job: Job, payload: dict[str, Any]) -> None:
    """What a file that was filed says becomes findable, by pages where it has such. Harmless when done twice."""
    sha256 = payload["sha256"]
    with job.context.database.read() as session:
        without_pages = session.get_one(BlobRow, sha256).page_count == 0
        file_name = session.scalars(select(RevisionRow.file_name).where(RevisionRow.sha256 == sha256)).first() or ""
    texts = _words_of_file(job, sha256, file_name) if without_pages else ()
    with job.context.database.write() as session:
        if texts:
            packed = pack_words(without_places(texts))
            put_unless_there(session, PageWordsRow, "sha256", "place", sha256=sha256, place=0, words=packed)
        query = select(PageWordsRow.place, PageWordsRow.words).where(PageWordsRow.sha256 == sha256)
        for place, packed in session.execute(query).all():
            adding = add_unless_there(PageTextRow, sha256=sha256, place=place).returning(PageTextRow.seq)
            seq = session.execute(adding).scalar_one_or_none()
            if seq is not None:
                add_sheet_words(session, seq, " ".join(unpack_words(packed).texts))


def _words_of_file(job: Job, sha256: str, file_name: str) -> tuple[str, ...]:
    """Of a document, a spreadsheet, a mail, a text; nothing of a file that nothing can be read of."""
    try:
        with job.context.blobs.local(sha256) as path:
            found = job.press.preview(path, file_name, _MOST_ROWS)
    except NoPreview:
        return ()
    said = (
        each for part in found.parts for each in (part.title, *part.lines, *(cell for row in part.rows for cell in row))
    )
    return tuple(islice((word for words in said for word in words.split()), _MOST_WORDS))
