"""Reading scans by OCR, where it is installed: the words of a page without text become those of its picture."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from nod.core.access.audiences import for_folders
from nod.core.sheet.placed_words import PlacedWords, from_picture
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.intake import ocr
from nod.formats.sheet.pdf_look import CannotDraw
from nod.formats.sheet.words_pack import pack_words
from nod.services.acts.arrived_files import of_file
from nod.services.acts.context import Context
from nod.services.acts.seats import SYSTEM
from nod.services.acts.work import Job, Lane, work
from nod.services.intake import arrivals as arriving
from nod.services.press.press import Press, PressCrashed, PressStopped
from nod.services.sheet.title_blocks import box_of
from nod.store import journal
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, PageRow, PageWordsRow, RevisionRow

READING, READ, NOTHING = "reading", "read", "nothing"
_PATIENCE_SECONDS = 180.0
_BLAMED_AT = 3


def ask(session: Session, at: datetime, sha256: str) -> None:
    """Have the worker read the scans of a file, should it be able to."""
    journal.ask(session, at, "read_scan", f"read_scan:{sha256}", {"sha256": sha256})


@work("read_scan", Lane.SCAN, "reading the scan", of_file, shared=True)
def read_scan(job: Job, payload: dict[str, Any]) -> None:
    """A page that cannot be read stays without words."""
    context = job.context
    if not ocr.installed():
        return
    sha256 = payload["sha256"]
    with context.database.write() as session:
        session.get_one(BlobRow, sha256).ocr = READING
        _tell(session, context.clock.now(), sha256)
    with context.database.read() as session:
        pages = list(session.scalars(select(PageRow).where(PageRow.sha256 == sha256, PageRow.is_scan)))
    read: dict[int, PlacedWords] = {}
    for page in pages:
        found = _read_page(context, job.press, page, job.tries)
        job.go_on()
        if found and found.texts:
            read[page.place] = found
    _note(context, sha256, read)


def _read_page(context: Context, press: Press, page: PageRow, tries: int) -> PlacedWords | None:
    """A press that dies may do so for other reasons: the file is put off, and left without words at the third try."""
    try:
        with context.blobs.local_sheet(page.sha256) as path:
            picture = press.picture(path, page.place)
        found = ocr.read_picture(picture.pgm, picture.dpi, context.settings.ocr_languages, _PATIENCE_SECONDS)
    except PressCrashed:
        if tries < _BLAMED_AT:
            raise
        return None
    except (PressStopped, CannotDraw, ocr.CannotRead):
        return None
    return from_picture(found.texts, found.boxes, picture.size, box_of(page))


def _note(context: Context, sha256: str, read: dict[int, PlacedWords]) -> None:
    now = context.clock.now()
    with context.database.write() as session:
        for place, words in read.items():
            packed = pack_words(words)
            of_page = (PageWordsRow.sha256 == sha256, PageWordsRow.place == place)
            session.execute(update(PageWordsRow).where(*of_page).values(words=packed))
        session.get_one(BlobRow, sha256).ocr = READ if read else NOTHING
        arrivals = list(session.scalars(select(ArrivalRow).where(ArrivalRow.sha256 == sha256)))
        after = {"pages": len(read), "words": sum(len(words.texts) for words in read.values())}
        for arrival in arrivals:
            fact = Fact(FactKind.SCAN_READ, Subject("arrival", arrival.id), arrival.file_name, after=after)
            journal.record(session, now, SYSTEM, arrival.project_id, fact)
        arriving.follow_up(session, now, arrivals)
        if session.scalars(select(RevisionRow.id).where(RevisionRow.sha256 == sha256).limit(1)).first():
            journal.ask(session, now, "index_words", f"index_words:{sha256}", {"sha256": sha256})
        _tell(session, now, sha256)


def _tell(session: Session, at: datetime, sha256: str) -> None:
    of_blob = select(ArrivalRow.batch_id).where(ArrivalRow.sha256 == sha256)
    for batch in session.scalars(select(BatchRow).where(BatchRow.id.in_(of_blob))):
        journal.tell(session, at, batch.project_id, "intake", batch.id, for_folders(batch.folder_id), by="")
