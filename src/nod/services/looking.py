"""Looking into a stored file: what it is, its pages, its thumbnail and first tiles."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail import Fact, Subject
from nod.formats.pdf_facts import FileFacts
from nod.formats.pdf_look import CannotDraw
from nod.services.context import Context
from nod.services.press import Press, PressCrashed, PressStopped
from nod.services.seats import SYSTEM
from nod.store import journal
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, DocumentRow, PageRow

_PAGES_DRAWN_AHEAD = 3
_BLAMED_AT = 3

_TOO_SLOW = FileFacts("unreadable", "The file could not be read: it took too long, or is built to do harm.")
_NOT_DRAWABLE = FileFacts("unreadable", "Page 1 of the file cannot be drawn. Ask for it again.")


def look_into(context: Context, press: Press, payload: dict[str, Any]) -> None:
    """Notes what the file is. A file that makes the press fail is told as a fault; it never fails the worker.

    A crash of the press may have other reasons than the file: the task is put off (PressCrashed is raised) and the
    file blamed only at the `_BLAMED_AT`-th of its `tries`.
    """
    sha256 = payload["sha256"]
    with context.database.read() as session:
        blob = session.get_one(BlobRow, sha256)
        if blob.state == "known":
            return
        media = blob.media_type
    try:
        facts = _facts(context, press, sha256, media)
        if not facts.fault and not _draw_ahead(context, press, sha256, len(facts.pages)):
            facts = _NOT_DRAWABLE
    except PressCrashed:
        if payload.get("tries", 1) < _BLAMED_AT:
            raise
        facts = _TOO_SLOW
    _note(context, sha256, facts)


def _facts(context: Context, press: Press, sha256: str, media: str) -> FileFacts:
    if context.blobs.path(sha256).stat().st_size == 0:
        return FileFacts("unreadable", "The file is empty. Ask for it again.")
    if media != "application/pdf":
        kind = "" if media == "application/octet-stream" else f" but {media.rpartition('/')[2].upper()}"
        return FileFacts("not_pdf", f"This is not a PDF{kind}, whatever its name says. Only PDF sheets are filed.")
    try:
        return press.facts(context.blobs.path(sha256))
    except PressCrashed:
        raise
    except PressStopped:
        return _TOO_SLOW


def _draw_ahead(context: Context, press: Press, sha256: str, pages: int) -> bool:
    """Thumbnails and the lowest levels of the first pages; False if the first page cannot be drawn."""
    for page in range(min(pages, _PAGES_DRAWN_AHEAD)):
        try:
            tiles, thumbnail = press.first_look(context.blobs.path(sha256), page)
        except PressCrashed:
            raise
        except (PressStopped, CannotDraw):
            if page == 0:
                return False
            continue
        context.tiles.keep(context.tiles.thumbnail_path(sha256, page), thumbnail)
        for tile in tiles:
            context.tiles.keep(context.tiles.tile_path(sha256, page, tile.level, tile.column, tile.row), tile.webp)
    return True


def _note(context: Context, sha256: str, facts: FileFacts) -> None:
    now = context.clock.now()
    with context.database.write() as session:
        blob = session.get_one(BlobRow, sha256)
        if blob.state == "known":
            return
        blob.state, blob.fault, blob.fault_words = "known", facts.fault, facts.fault_words
        blob.page_count, blob.has_text = len(facts.pages), facts.has_text
        blob.active_content = "; ".join(facts.active_content)
        session.add_all(
            PageRow(
                sha256=sha256, place=place, left=page.box.left, bottom=page.box.bottom, right=page.box.right,
                top=page.box.top, rotation=page.box.rotation, user_unit=page.user_unit, size_name=page.size_name,
            )
            for place, page in enumerate(facts.pages)
        )  # fmt: skip
        session.flush()
        arrivals = list(session.scalars(select(ArrivalRow).where(ArrivalRow.sha256 == sha256)))
        after = {"pages": len(facts.pages), "found": facts.fault_words, "active_content": list(facts.active_content)}
        for arrival in arrivals:
            fact = Fact("file_looked_into", Subject("arrival", arrival.id), arrival.file_name, after=after)
            journal.record(session, now, SYSTEM, arrival.project_id, fact)
            folder_id = session.get_one(BatchRow, arrival.batch_id).folder_id
            journal.tell(session, now, arrival.project_id, "intake", arrival.batch_id, {folder_id}, by="")
        _mirror_size(session, arrivals, facts)


def _mirror_size(session: Session, arrivals: list[ArrivalRow], facts: FileFacts) -> None:
    """A document filed before its file was looked into learns its sheet size now."""
    filed = [arrival.revision_id for arrival in arrivals if arrival.revision_id]
    if not filed or not facts.pages:
        return
    for document in session.scalars(select(DocumentRow).where(DocumentRow.revision_id.in_(filed))):
        document.sheet_size = facts.pages[0].size_name
