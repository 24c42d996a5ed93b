"""A file as whoever came by a link looks at it: its pages, and how they are drawn."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.formats.sheet.pdf_look import FIRST_LEVEL, LARGE_LEVEL, TILE_PX, TOP_LEVEL, WHOLE_PAGE_LEVEL
from nod.services.acts.answers import Answered
from nod.services.sheet.sheets import SheetPage, show_page
from nod.store.tables import BlobRow, PageRow, RevisionRow


class GuestFile(Answered):
    """One revision of a document; no pages where it cannot be looked at."""

    revision_id: str
    number: str
    revision: str
    title: str
    file_name: str
    size_bytes: int
    pages: list[SheetPage]
    tile_px: int
    first_level: int
    whole_level: int
    large_level: int
    top_level: int


def guest_file(session: Session, revision: RevisionRow, number: str, file_name: str) -> GuestFile:
    blob = session.get_one(BlobRow, revision.sha256)
    pages = session.scalars(select(PageRow).where(PageRow.sha256 == revision.sha256).order_by(PageRow.place))
    labels = blob.contents.get("labels", [])
    return GuestFile(
        revision_id=revision.id, number=number, revision=revision.code, title=revision.title, file_name=file_name,
        size_bytes=blob.size_bytes, pages=[show_page(page, labels) for page in pages], tile_px=TILE_PX,
        first_level=FIRST_LEVEL, whole_level=WHOLE_PAGE_LEVEL, large_level=LARGE_LEVEL, top_level=TOP_LEVEL,
    )  # fmt: skip
