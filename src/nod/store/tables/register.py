"""Blobs and their pages; documents and their revisions."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date, datetime
from typing import Any

from sqlalchemy import (
    ColumnElement,
    ForeignKey,
    Index,
    ScalarSelect,
    String,
    UniqueConstraint,
    and_,
    literal_column,
    select,
    text,
)
from sqlalchemy.engine.default import DefaultExecutionContext
from sqlalchemy.orm import Mapped, column_property, mapped_column

from nod.core.intake.file_names import alike
from nod.store.tables.base import Base, Id, Version


class BlobRow(Base):
    """Bytes that are on the disk under their SHA-256. `state` tells how far they have been analysed."""

    __tablename__ = "blob"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size_bytes: Mapped[int]
    media_type: Mapped[str]
    stored_at: Mapped[datetime]
    state: Mapped[str] = mapped_column(default="waiting")
    fault: Mapped[str] = mapped_column(default="")
    fault_words: Mapped[str] = mapped_column(default="")
    page_count: Mapped[int] = mapped_column(default=0)
    pages_read: Mapped[int] = mapped_column(default=0)
    has_text: Mapped[bool] = mapped_column(default=False)
    active_content: Mapped[str] = mapped_column(default="")
    contents: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """Layers, labels, encryption: see `pdf_contents.FileContents`."""
    ocr: Mapped[str] = mapped_column(default="")
    """Whether the words of its scans are being read by OCR (`reading`) or were (`read`); empty where they are not."""


class PageRow(Base):
    """One page: crop box in points of the unrotated page, rotation in degrees clockwise, UserUnit."""

    __tablename__ = "page"
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    left: Mapped[float]
    bottom: Mapped[float]
    right: Mapped[float]
    top: Mapped[float]
    rotation: Mapped[int]
    user_unit: Mapped[float]
    size_name: Mapped[str]
    word_count: Mapped[int] = mapped_column(default=0)
    is_scan: Mapped[bool] = mapped_column(default=False)
    trouble: Mapped[str] = mapped_column(default="")
    contents: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """Annotations, links, measure scales: see `pdf_contents.PageContents`."""


class PageWordsRow(Base):
    """The words of a page as `formats.words_pack` packs them; apart from the page, as lists never need them."""

    __tablename__ = "page_words"
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    words: Mapped[bytes]


class DocumentRow(Base):
    """One line of the register. The columns from `revision` on mirror the latest revision and what runs on it,

    written in the same transaction as the act that changes them, so that lists sort and filter on an index. `in_force`
    is the code of the revision in force, empty without one; `release` a key of `core.register.in_force.RELEASES`.

    A copy in a folder is a line of its own with revisions of its own: `copy_of` is the document that it came from, and
    `home_folder_id` where that lies; both are empty otherwise.
    """

    __tablename__ = "document"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    folder_id: Mapped[str] = mapped_column(ForeignKey("folder.id"))
    number: Mapped[str]
    title: Mapped[str]
    discipline: Mapped[str]
    originator: Mapped[str]
    form: Mapped[str]
    kind: Mapped[str] = mapped_column(default="sheet")
    scale: Mapped[str] = mapped_column(default="")
    zone: Mapped[str] = mapped_column(default="")
    level: Mapped[str] = mapped_column(default="")
    version: Mapped[Version]
    revision_id: Mapped[str]
    revision: Mapped[str]
    status: Mapped[str]
    purpose: Mapped[str] = mapped_column(default="")
    sheet_size: Mapped[str] = mapped_column(default="")
    file_name: Mapped[str] = mapped_column(default="")
    file_kinds: Mapped[str] = mapped_column(default="")
    size_bytes: Mapped[int] = mapped_column(default=0)
    sha256: Mapped[str] = mapped_column(default="")
    filed_by: Mapped[str] = mapped_column(default="")
    came_from: Mapped[str] = mapped_column(default="")
    came_person: Mapped[str] = mapped_column(default="")
    came_by: Mapped[str] = mapped_column(default="")
    arrived_at: Mapped[datetime | None]
    in_force_id: Mapped[str] = mapped_column(default="")
    in_force: Mapped[str] = mapped_column(default="")
    release: Mapped[str] = mapped_column(default="none")
    verdict: Mapped[str] = mapped_column(default="")
    with_whom: Mapped[str] = mapped_column(default="")
    since_at: Mapped[datetime | None]
    due_on: Mapped[date | None]
    filed_at: Mapped[datetime]
    checked_out_by: Mapped[str] = mapped_column(default="")
    checked_out_at: Mapped[datetime | None]
    checked_out_note: Mapped[str] = mapped_column(default="")
    checked_out_session: Mapped[str] = mapped_column(default="")
    """The session that it is checked out to, whose host is `checked_out_by`."""
    withdrawn: Mapped[bool] = mapped_column(default=False)
    withdrawn_at: Mapped[datetime | None]
    withdrawn_why: Mapped[str] = mapped_column(default="")
    shapes: Mapped[str] = mapped_column(default="")
    """The number as `number_shape.shapes` folds it, for searching; `field_words` are typed fields and old numbers."""
    field_words: Mapped[str] = mapped_column(default="")
    copy_of: Mapped[str] = mapped_column(String(16), default="")
    home_folder_id: Mapped[str] = mapped_column(String(16), default="")

    # The folder at the end of each index lets a walk along it skip what its reader may not see without fetching rows.
    __table_args__ = (
        Index("one_document_of_a_number", "project_id", "number", unique=True, sqlite_where=text("copy_of = ''")),
        Index("one_copy_in_a_folder", "copy_of", "folder_id", unique=True, sqlite_where=text("copy_of != ''")),
        Index("ix_document_copied", "project_id", "home_folder_id", "folder_id", sqlite_where=text("copy_of != ''")),
        Index("ix_document_folder", "project_id", "folder_id", "withdrawn"),
        Index("ix_document_sha256", "sha256"),
        Index("ix_document_out", "project_id", "checked_out_by", sqlite_where=text("checked_out_by != ''")),
        Index("ix_document_withdrawn", "project_id", "folder_id", sqlite_where=text("withdrawn")),
        *(
            Index(f"ix_document_{column}", "project_id", column, "seq", "folder_id")
            for column in (
                "number",
                "title",
                "discipline",
                "revision",
                "in_force",
                "release",
                "status",
                "verdict",
                "with_whom",
                "due_on",
                "filed_at",
            )
        ),
    )


def _alike(inserting: DefaultExecutionContext) -> str:
    values: dict[str, Any] = inserting.get_current_parameters()  # type: ignore[no-untyped-call]
    return alike(values["file_name"])


def _of_document(column: str, document_id: Any) -> ScalarSelect[str]:
    document = DocumentRow.__table__.alias()
    return select(document.c[column]).where(document.c.id == document_id.column).scalar_subquery()


class RevisionRow(Base):
    """What was filed under one code. Its file never changes; its status may, and with it what is in force.

    `superseded_at` is since when it is neither the latest nor in force; `released_at` since when its status is one that
    was given to it as one to work from.

    `note` is what whoever filed it said of it; `from_id` the earlier revision whose content it brought back. `place`
    orders the revisions of a document as their scheme does: one filed as history stands before those that came earlier.
    Its file is the one that governs; further files of it are renditions.

    In a copy, `copied_from` is the revision that it came from, `copied_at` when it was put there, `copy_why` by what;
    `copy_verdict` is the verdict that it came with.
    """

    __tablename__ = "revision"
    id: Mapped[Id]
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    # From its document, where a revision is asked for by itself.
    project_id: Mapped[str] = column_property(_of_document("project_id", document_id), deferred=True)
    number: Mapped[str] = column_property(_of_document("number", document_id), deferred=True)
    code: Mapped[str]
    status: Mapped[str]
    title: Mapped[str]
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"), index=True)
    scale: Mapped[str] = mapped_column(default="")
    file_name: Mapped[str]
    file_alike: Mapped[str] = mapped_column(default=_alike)
    """The file's name as `core.intake.file_names.alike` writes it, by which it is looked up."""
    size_bytes: Mapped[int]
    filed_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    filed_at: Mapped[datetime]
    came_from: Mapped[str]
    arrived_at: Mapped[datetime]
    superseded_at: Mapped[datetime | None]
    released_at: Mapped[datetime | None]
    purpose: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")
    from_id: Mapped[str] = mapped_column(default="")
    place: Mapped[int] = mapped_column(default=0)
    as_history: Mapped[bool] = mapped_column(default=False)
    came_person: Mapped[str] = mapped_column(default="")
    came_by: Mapped[str] = mapped_column(default="")
    copied_from: Mapped[str] = mapped_column(String(16), default="")
    copied_at: Mapped[datetime | None]
    copy_why: Mapped[str] = mapped_column(default="")
    copy_verdict: Mapped[str] = mapped_column(default="")

    __table_args__ = (
        UniqueConstraint("document_id", "code"),
        Index("ix_revision_file_alike", "file_alike"),
    )


class RenditionRow(Base):
    """A further file of a revision, of another kind than the one that governs."""

    __tablename__ = "rendition"
    id: Mapped[Id]
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    kind: Mapped[str]
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"))
    file_name: Mapped[str]
    size_bytes: Mapped[int]
    filed_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    filed_at: Mapped[datetime]
    came_from: Mapped[str]

    __table_args__ = (UniqueConstraint("revision_id", "kind"),)


def held_under(project_id: str, numbers: str | Collection[str]) -> ColumnElement[bool]:
    """Documents, not their copies, that have this number, or one of these."""
    named = DocumentRow.number == numbers if isinstance(numbers, str) else DocumentRow.number.in_(numbers)
    return and_(DocumentRow.project_id == project_id, named, DocumentRow.copy_of == NO_COPY)


NO_COPY: ColumnElement[str] = literal_column("''")
"""Said as it is, not as a value handed over, so that SQLite can use the indexes of copies alone, and of all others."""
