"""What is with whom: every feature writes its own, the Desk, the register and chase lists read it (decision 0032)."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id


class OpenWorkRow(Base):
    """Something that is wanted of somebody, on a thing; gone as soon as it is done.

    `part` tells apart what is open on one thing, `what` says it in a word or two (a step's name). `each`: it is wanted
    of each of those it is with, otherwise of any one of them. `waiter_id`: who waits for it. `is_coming`: it begins
    when something before it has ended.
    """

    __tablename__ = "open_work"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    kind: Mapped[str]
    thing_kind: Mapped[str]
    thing_id: Mapped[str]
    part: Mapped[str] = mapped_column(default="")
    what: Mapped[str] = mapped_column(default="")
    each: Mapped[bool] = mapped_column(default=False)
    waiter_id: Mapped[str] = mapped_column(default="")
    since_at: Mapped[datetime | None]
    due_on: Mapped[date | None]
    counting: Mapped[str]
    is_coming: Mapped[bool] = mapped_column(default=False)

    __table_args__ = (
        Index("ix_open_work_thing", "thing_id"),
        Index("ix_open_work_due", "project_id", "is_coming", "due_on"),
        Index("ix_open_work_waiter", "waiter_id"),
    )


class OpenWorkHolderRow(Base):
    """Who has it: `kind` is person or company."""

    __tablename__ = "open_work_holder"
    work_id: Mapped[str] = mapped_column(ForeignKey("open_work.id", ondelete="CASCADE"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    holder_id: Mapped[str] = mapped_column(primary_key=True, index=True)
    place: Mapped[int]


class OpenWorkDocumentRow(Base):
    """A document that the work is on."""

    __tablename__ = "open_work_document"
    work_id: Mapped[str] = mapped_column(ForeignKey("open_work.id", ondelete="CASCADE"), primary_key=True)
    document_id: Mapped[str] = mapped_column(primary_key=True, index=True)
