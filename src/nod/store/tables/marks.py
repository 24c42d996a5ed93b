"""Marks on sheets, and what belongs to them: files, scales, codes of prints, pens."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from nod.store.tables.base import Base, Id, Version
from nod.store.tables.threads import ThreadRow


class MarkRow(Base):
    """Where a thread lies on a revision, and how it looks there. A mark taken away keeps its row.

    `points` are [[x, y], …] in PDF points; `look` as `core.marks.marks.Look`, what is left out as there. Of a page,
    what has the higher `rank` lies on top, and of the same rank what has the higher `seq`.
    """

    __tablename__ = "mark"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    thread_id: Mapped[str] = mapped_column(ForeignKey("thread.id"), index=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    page: Mapped[int]
    kind: Mapped[str]
    points: Mapped[list[Any]]
    rings: Mapped[list[Any]] = mapped_column(default=list)
    """How many points each outline of an area has, see `core.marks.measures`."""
    aim_pt: Mapped[float] = mapped_column(default=0.0)
    """How exactly its points were placed: a pixel of the screen at the zoom it was drawn at, in points."""
    look: Mapped[dict[str, Any]] = mapped_column(default=dict)
    rank: Mapped[int] = mapped_column(default=0)
    locked: Mapped[bool] = mapped_column(default=False)
    label: Mapped[str] = mapped_column(default="")
    discipline: Mapped[str] = mapped_column(default="")
    pin_number: Mapped[int | None]
    carried_from: Mapped[str] = mapped_column(default="", index=True)
    touched: Mapped[bool | None]
    """Whether the drawing under it had changed when it was carried here."""
    changed_at: Mapped[datetime | None]
    removed_at: Mapped[datetime | None]
    version: Mapped[Version]
    thread: Mapped[ThreadRow] = relationship(lazy="joined", innerjoin=True)

    @property
    def seen_version(self) -> int:
        """Of the mark and what is said with it: whatever of them changes, it grows."""
        return self.version + self.thread.version


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
