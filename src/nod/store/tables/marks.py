"""Marks on sheets and the replies to them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, Integer, literal_column
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class MarkRow(Base):
    """`points` are [[x, y], …] in PDF points. Pencil while `inked_at` is empty. A mark taken away keeps its row.

    `look` as `core.marks.marks.Look`, what is left out as there. `meant_for` is a person's id. Of a page, what has the
    higher `rank` lies on top.
    """

    __tablename__ = "mark"
    id: Mapped[Id]
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    page: Mapped[int]
    kind: Mapped[str]
    points: Mapped[list[Any]]
    text: Mapped[str]
    pin_number: Mapped[int | None]
    state: Mapped[str] = mapped_column(default="open")
    author_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    drawn_at: Mapped[datetime]
    inked_at: Mapped[datetime | None]
    removed_at: Mapped[datetime | None]
    look: Mapped[dict[str, Any]] = mapped_column(default=dict)
    label: Mapped[str] = mapped_column(default="")
    discipline: Mapped[str] = mapped_column(default="")
    meant_for: Mapped[str] = mapped_column(default="")
    locked: Mapped[bool] = mapped_column(default=False)
    rank: Mapped[int] = mapped_column(default=0)
    state_by: Mapped[str] = mapped_column(default="")
    state_at: Mapped[datetime | None]
    rings: Mapped[list[Any]] = mapped_column(default=list)
    """How many points each outline of an area has, see `core.marks.measures`."""
    aim_pt: Mapped[float] = mapped_column(default=0.0)
    """How exactly its points were placed: a pixel of the screen at the zoom it was drawn at, in points."""
    thread_id: Mapped[str] = mapped_column(default="")
    """The mark on whose sheet its thread began, where it was carried forward; empty for one that was not."""
    carried_from: Mapped[str] = mapped_column(default="", index=True)
    touched: Mapped[bool | None]
    """Whether the drawing under it had changed when it was carried here."""
    other_author: Mapped[str] = mapped_column(default="")
    """Who drew it in another program, where `author_id` took it in from a file; `file_id` is its identifier there."""
    file_id: Mapped[str] = mapped_column(default="", index=True)
    changed_at: Mapped[datetime | None]
    version: Mapped[Version]

    @property
    def thread(self) -> str:
        """What its replies belong to: it keeps them wherever it is carried."""
        return self.thread_id or self.id


MARK_ORDER = literal_column("mark.rowid", Integer)
"""The order in which marks were drawn, also of those drawn in one act."""


class ReplyRow(Base):
    __tablename__ = "reply"
    id: Mapped[Id]
    mark_id: Mapped[str] = mapped_column(ForeignKey("mark.id"), index=True)
    author_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    text: Mapped[str]
    at: Mapped[datetime]
    other_author: Mapped[str] = mapped_column(default="")
    file_id: Mapped[str] = mapped_column(default="")


class MarkLinkRow(Base):
    """`mark_id` is the mark with which the thread began, as of replies; `target` is an id, or an address of the web."""

    __tablename__ = "mark_link"
    id: Mapped[Id]
    mark_id: Mapped[str] = mapped_column(ForeignKey("mark.id"), index=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    kind: Mapped[str]
    target: Mapped[str]
    made_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]

    __table_args__ = (Index("ix_mark_link_target", "kind", "target"),)


class MarkFileRow(Base):
    """A file that marks were taken in from, kept as it came. `told` says what of it is no mark here."""

    __tablename__ = "mark_file"
    id: Mapped[Id]
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    sha256: Mapped[str]
    name: Mapped[str]
    size_bytes: Mapped[int]
    told: Mapped[list[Any]] = mapped_column(default=list)
    taken_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    taken_at: Mapped[datetime]


LINK_ORDER = literal_column("mark_link.rowid", Integer)
"""The order in which links were made, also of those made in the same instant."""


class ScaleRow(Base):
    """The scale of a page, or of a region of it (`box` in points of user space). Of one place, the later holds."""

    __tablename__ = "scale"
    id: Mapped[Id]
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    page: Mapped[int]
    box: Mapped[list[Any] | None]
    how: Mapped[str]
    said: Mapped[str]
    mm_per_pt: Mapped[float]
    share: Mapped[float]
    set_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    set_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]


class PrintCodeRow(Base):
    """The code on the prints of a revision, by which anybody who holds one learns whether it is still current."""

    __tablename__ = "print_code"
    code: Mapped[str] = mapped_column(primary_key=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), unique=True)
    made_at: Mapped[datetime]


class PenRollRow(Base):
    """Somebody's own pens in a project, or the project's where `person_id` is empty; see `services.marks.pens.Pen`."""

    __tablename__ = "pen_roll"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    person_id: Mapped[str] = mapped_column(primary_key=True)
    pens: Mapped[list[Any]]
    version: Mapped[Version]
