"""Looking into a stored file: what it is, its pages, words and thumbnails; then what follows from it in Intake."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, replace
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from nod.core.access.audiences import for_folders
from nod.core.acts.plain_text import clean_all
from nod.core.intake.findings import PDF, SHEETS
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.intake.pdf_facts import FileFacts, PageFacts
from nod.formats.sheet.pdf_look import NO_SIZE, CannotDraw
from nod.formats.sheet.pdf_page import PageLook
from nod.services.acts.arrived_files import of_file
from nod.services.acts.context import Context
from nod.services.acts.seats import SYSTEM
from nod.services.acts.work import Job, Lane, work
from nod.services.intake import arrivals as arriving
from nod.services.intake import scans
from nod.services.press.press import Press, PressCrashed, PressStopped
from nod.store import journal
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, DocumentRow, PageRow, PageWordsRow

_PAGES_DRAWN_AHEAD = 3
_BLAMED_AT = 3
_AT_ONCE = 2
_TELL_EVERY = 25
_KEPT_EVERY = 5
_STORED_AT_ONCE = 50

_TOO_SLOW = FileFacts("unreadable", "The file could not be read: it took too long, or is built to do harm.")
_NOT_DRAWN_IN_TIME = FileFacts(fault_words="Drawing it takes too long.")
_NOT_DRAWABLE = FileFacts("unreadable", "No page of the file can be drawn. Ask for it again.")
_EMPTY = FileFacts("unreadable", "The file is empty. Ask for it again.")

KeepOn = Callable[[], None]


@dataclass(frozen=True)
class Looked:
    """A page as it was seen; `look` is None where that failed, and `trouble` says why."""

    look: PageLook | None
    trouble: str = ""


@work("look_into", Lane.LOOK, "reading the file", of_file, shared=True)
def look_into(job: Job, payload: dict[str, Any]) -> None:
    """Notes what the file is. A file that makes the press fail is told as a fault; it never fails the worker.

    A crash of the press may have other reasons than the file: the task is put off (PressCrashed is raised) and the
    file blamed only at the `_BLAMED_AT`-th try.
    """
    context, press = job.context, job.press
    sha256 = payload["sha256"]
    with context.database.read() as session:
        blob = session.get_one(BlobRow, sha256)
        if blob.state == "known":
            return
        media = blob.media_type
    looked: list[Looked] = []
    try:
        facts = _facts(context, press, sha256, media)
        if not facts.fault and facts.pages:
            looked = _look_at_pages(context, press, sha256, len(facts.pages), job.go_on)
            drawn = [place for place, each in enumerate(looked) if each.look]
            if not drawn or not _draw_ahead(context, press, sha256, drawn[:_PAGES_DRAWN_AHEAD]):
                facts, looked = _NOT_DRAWABLE, []
    except PressCrashed:
        if job.tries < _BLAMED_AT:
            raise
        facts, looked = (_TOO_SLOW if media == PDF else _NOT_DRAWN_IN_TIME), []
    _note(context, sha256, facts, looked)


def _facts(context: Context, press: Press, sha256: str, media: str) -> FileFacts:
    with context.blobs.local(sha256) as path:
        if path.stat().st_size == 0:
            return _EMPTY
    if media not in SHEETS:
        return FileFacts()
    try:
        if media == PDF:
            with context.blobs.local(sha256) as path:
                return press.facts(path)
        references = _draw_as_sheet(context, press, sha256, media)
        with context.blobs.local_sheet(sha256) as path:
            facts = press.facts(path)
        return replace(facts, contents=replace(facts.contents, references=references))
    except PressCrashed:
        raise
    except PressStopped:
        return _TOO_SLOW if media == PDF else _NOT_DRAWN_IN_TIME
    except CannotDraw as error:
        return FileFacts(fault_words=str(error))


def _draw_as_sheet(context: Context, press: Press, sha256: str, media: str) -> tuple[str, ...]:
    """A picture or a CAD drawing is seen by a PDF made of it once; the file itself stays what is filed and sent."""
    with context.blobs.local(sha256) as path, context.blobs.drawing_sheet(sha256) as made:
        return press.as_sheet(path, made, media)


def _look_at_pages(context: Context, press: Press, sha256: str, count: int, keep_on: KeepOn) -> list[Looked]:
    """Every page, two at a time; one that takes too long is left out, not the file."""

    def look(place: int) -> Looked:
        try:
            with context.blobs.local_sheet(sha256) as path:
                seen = press.page(path, place)
        except PressStopped:
            return Looked(None, f"Page {place + 1} takes too long to read, and was left out.")
        except CannotDraw as error:
            said = NO_SIZE if str(error).endswith(NO_SIZE) else "cannot be drawn"
            return Looked(None, f"Page {place + 1} {said}.")
        context.tiles.keep(context.tiles.thumbnail_path(sha256, place), seen.thumbnail)
        return Looked(seen)

    found: list[Looked] = []
    with ThreadPoolExecutor(_AT_ONCE if count > 1 else 1) as pool:
        for each in pool.map(look, range(count)):
            found.append(each)
            if len(found) % _TELL_EVERY == 0:
                _tell_progress(context, sha256, len(found), count)
            if len(found) % _KEPT_EVERY == 0:
                keep_on()
    return found


def _tell_progress(context: Context, sha256: str, read: int, count: int) -> None:
    with context.database.write() as session:
        blob = session.get_one(BlobRow, sha256)
        blob.pages_read, blob.page_count = read, count
        for batch in _batches(session, sha256):
            journal.tell(
                session, context.clock.now(), batch.project_id, "intake", batch.id, for_folders(batch.folder_id), by=""
            )


def _batches(session: Session, sha256: str) -> list[BatchRow]:
    of_blob = select(ArrivalRow.batch_id).where(ArrivalRow.sha256 == sha256)
    return list(session.scalars(select(BatchRow).where(BatchRow.id.in_(of_blob))))


def _draw_ahead(context: Context, press: Press, sha256: str, pages: Sequence[int]) -> bool:
    """The lowest levels of these pages; False if the first of them cannot be drawn."""
    for page in pages:
        try:
            with context.blobs.local_sheet(sha256) as path:
                pages_drawn, _ = press.first_look(path, page)
        except PressCrashed:
            raise
        except (PressStopped, CannotDraw):
            if page == pages[0]:
                return False
            continue
        for each in pages_drawn:
            context.tiles.keep(context.tiles.whole_path(sha256, page, each.level), each.picture)
    return True


def _note(context: Context, sha256: str, facts: FileFacts, looked: list[Looked]) -> None:
    now = context.clock.now()
    with context.database.write() as session:
        blob = session.get_one(BlobRow, sha256)
        if blob.state == "known":
            return
        keep_facts(session, blob, facts, looked)
        arrivals = list(session.scalars(select(ArrivalRow).where(ArrivalRow.sha256 == sha256)))
        after = {
            "pages": len(facts.pages),
            "found": facts.fault_words,
            "active_content": list(facts.contents.active),
        }
        for arrival in arrivals:
            fact = Fact(FactKind.FILE_LOOKED_INTO, Subject("arrival", arrival.id), arrival.file_name, after=after)
            journal.record(session, now, SYSTEM, arrival.project_id, fact)
        arriving.follow_up(session, now, arrivals)
        if any(each.look and each.look.is_scan for each in looked):
            scans.ask(session, now, sha256)
        for batch in _batches(session, sha256):
            journal.tell(session, now, batch.project_id, "intake", batch.id, for_folders(batch.folder_id), by="")
        _mirror_size(session, arrivals, facts)


def keep_facts(session: Session, blob: BlobRow, facts: FileFacts, looked: list[Looked]) -> None:
    """Writes what is known of a blob and its pages, in place of what was known before."""
    blob.state, blob.fault, blob.fault_words = "known", facts.fault, facts.fault_words
    blob.page_count, blob.pages_read = len(facts.pages), len(looked)
    blob.has_text = any(each.look and each.look.word_count for each in looked)
    blob.active_content = "; ".join(facts.contents.active)
    blob.contents = clean_all(asdict(facts.contents))
    for table in (PageWordsRow, PageRow):
        session.execute(delete(table).where(table.sha256 == blob.sha256))
    padded = looked or [Looked(None)] * len(facts.pages)
    for place, (page, seen) in enumerate(zip(facts.pages, padded, strict=True)):
        session.add(_page_row(blob.sha256, place, page, seen))
        if seen.look:
            session.add(PageWordsRow(sha256=blob.sha256, place=place, words=seen.look.words))
        if place % _STORED_AT_ONCE == 0:
            session.flush()
    session.flush()


def _page_row(sha256: str, place: int, page: PageFacts, seen: Looked) -> PageRow:
    return PageRow(
        sha256=sha256, place=place, left=page.box.left, bottom=page.box.bottom, right=page.box.right,
        top=page.box.top, rotation=page.box.rotation, user_unit=page.user_unit, size_name=page.size_name,
        word_count=seen.look.word_count if seen.look else 0, is_scan=bool(seen.look and seen.look.is_scan),
        trouble=seen.trouble, contents=clean_all(asdict(page.contents)),
    )  # fmt: skip


def _mirror_size(session: Session, arrivals: list[ArrivalRow], facts: FileFacts) -> None:
    """A document filed before its file was looked into learns its sheet size, and that it can be seen, now."""
    filed = [arrival.revision_id for arrival in arrivals if arrival.revision_id]
    if not filed or not facts.pages:
        return
    for document in session.scalars(select(DocumentRow).where(DocumentRow.revision_id.in_(filed))):
        document.sheet_size, document.kind = facts.pages[0].size_name, "sheet"
