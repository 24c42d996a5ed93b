"""What stands around the register: typed values, old numbers, drawing sets, saved views, packs, what is planned."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class DocumentValueRow(Base):
    """A document's value of one of the project's typed fields; an empty one has no row.

    `number` is the value of a number field, by which it is sorted.
    """

    __tablename__ = "document_value"
    seq: Mapped[int] = mapped_column(ForeignKey("document.seq"), primary_key=True)
    field: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]
    number: Mapped[float | None]

    __table_args__ = (Index("ix_document_value", "field", "value", "seq"),)


class FormerNumberRow(Base):
    """A number that a document had before; it still finds it, and no other document gets it."""

    __tablename__ = "former_number"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    number: Mapped[str] = mapped_column(primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    until_at: Mapped[datetime]
    why: Mapped[str]


class DrawingSetRow(Base):
    """A stage, an issue, a package: sheets in an order of their own."""

    __tablename__ = "drawing_set"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    name: Mapped[str] = mapped_column(String(collation="NOCASE"))
    on: Mapped[date | None]
    removed: Mapped[bool] = mapped_column(default=False)
    version: Mapped[Version]

    __table_args__ = (Index("one_set_name", "project_id", "name", unique=True, sqlite_where=text("NOT removed")),)


class SetSheetRow(Base):
    """A document in a drawing set; `place` counts from 0 without gaps."""

    __tablename__ = "drawing_set_sheet"
    set_id: Mapped[str] = mapped_column(ForeignKey("drawing_set.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), primary_key=True, index=True)
    place: Mapped[int]


class SavedViewRow(Base):
    """A view of a list (`of`, its station) that somebody kept; `content` is what the address bar holds."""

    __tablename__ = "saved_view"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    of: Mapped[str] = mapped_column(default="register")
    name: Mapped[str] = mapped_column(String(collation="NOCASE"))
    shared: Mapped[bool]
    content: Mapped[dict[str, Any]]
    version: Mapped[Version]

    __table_args__ = (UniqueConstraint("project_id", "person_id", "of", "name"),)


class FolderPackRow(Base):
    """A ZIP of a folder, or a list of the register, that somebody asked for and the worker makes.

    State: waiting → making → ready → put_away, or failed, stopped. A list has its view in `view` and counts lines as
    `files`; its folder is the topmost that its asker sees. `revisions`: `in_force`, `latest` or `all`.
    """

    __tablename__ = "folder_pack"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    folder_id: Mapped[str] = mapped_column(ForeignKey("folder.id"))
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    revisions: Mapped[str]
    names_as_came: Mapped[bool]
    asked_at: Mapped[datetime]
    state: Mapped[str] = mapped_column(default="waiting")
    files: Mapped[int] = mapped_column(default=0)
    done: Mapped[int] = mapped_column(default=0)
    size_bytes: Mapped[int] = mapped_column(default=0)
    sha256: Mapped[str] = mapped_column(default="")
    fault: Mapped[str] = mapped_column(default="")
    documents: Mapped[list[Any]] = mapped_column(default=list)
    """What it holds, by id: asked for anew at each download."""
    view: Mapped[dict[str, Any]] = mapped_column(default=dict)


class PlannedDocumentRow(Base):
    """A document that a company has promised for a day."""

    __tablename__ = "planned_document"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    number: Mapped[str] = mapped_column(primary_key=True)
    title: Mapped[str]
    company: Mapped[str]
    discipline: Mapped[str]
    planned_on: Mapped[date]
    version: Mapped[Version]


class PageTextRow(Base):
    """A page whose words are in the full-text index, under `seq`."""

    __tablename__ = "page_text"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"))
    place: Mapped[int]

    __table_args__ = (UniqueConstraint("sha256", "place"),)
