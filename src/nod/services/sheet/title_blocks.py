"""Stored readers and stored words as values of the core."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.intake.block_readers import BlockReader, Lines, Zone
from nod.core.sheet.geometry import PageBox
from nod.core.sheet.placed_words import NO_WORDS, PlacedWords, as_seen, size_seen_mm
from nod.formats.sheet.words_pack import unpack_words
from nod.store.tables import BlockReaderRow, PageRow, PageWordsRow

SeenPage = tuple[PlacedWords, tuple[float, float]]


def to_core(reader_id: str, company: str, size: tuple[float, float], zones: Iterable[Any], learned: Any) -> BlockReader:
    """A stored or typed reader as a value of the core."""
    built = tuple(Zone(**{**each, "lines": Lines(each.get("lines", "joined"))}) for each in zones)
    return BlockReader(reader_id, company, size, built, {(field, was): meant for field, was, meant in learned})


def readers_of(session: Session, project_id: str) -> list[BlockReader]:
    query = select(BlockReaderRow).where(BlockReaderRow.project_id == project_id, BlockReaderRow.removed.is_(False))
    return [
        to_core(row.id, row.company, (row.width_mm, row.height_mm), row.zones, row.learned)
        for row in session.scalars(query.order_by(BlockReaderRow.id))
    ]


def pages_seen(session: Session, sha256: str, most: int) -> list[SeenPage]:
    """The words of the first pages as seen in millimetres, with the size of each page."""
    query = (
        select(PageRow, PageWordsRow.words)
        .outerjoin(PageWordsRow, (PageWordsRow.sha256 == PageRow.sha256) & (PageWordsRow.place == PageRow.place))
        .where(PageRow.sha256 == sha256)
        .order_by(PageRow.place)
        .limit(most)
    )
    return [page_seen(page, packed) for page, packed in session.execute(query)]


def first_pages(session: Session, hashes: set[str]) -> dict[str, tuple[PageRow, bytes | None]]:
    """The first page of each of these files, with its words as they are kept."""
    words = (PageWordsRow.sha256 == PageRow.sha256) & (PageWordsRow.place == PageRow.place)
    query = select(PageRow, PageWordsRow.words).outerjoin(PageWordsRow, words)
    rows = session.execute(query.where(PageRow.sha256.in_(hashes), PageRow.place == 0))
    return {page.sha256: (page, packed) for page, packed in rows}


def page_seen(page: PageRow, packed: bytes | None) -> SeenPage:
    box = box_of(page)
    words = as_seen(unpack_words(packed), box, page.user_unit) if packed else NO_WORDS
    return words, size_seen_mm(box, page.user_unit)


def box_of(page: PageRow) -> PageBox:
    return PageBox(page.left, page.bottom, page.right, page.top, page.rotation)
