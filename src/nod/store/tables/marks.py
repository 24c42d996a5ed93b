"""Marks on sheets and the replies to them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class MarkRow(Base):
    """`points` are [[x, y], …] in PDF points. Pencil while `inked_at` is empty. A mark taken away keeps its row."""

    __tablename__ = "mark"
    id: Mapped[Id]
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    page: Mapped[int]
    kind: Mapped[str]
    points: Mapped[list[Any]]
    colour: Mapped[str]
    text: Mapped[str]
    pin_number: Mapped[int | None]
    state: Mapped[str] = mapped_column(default="open")
    author_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    drawn_at: Mapped[datetime]
    inked_at: Mapped[datetime | None]
    removed_at: Mapped[datetime | None]
    version: Mapped[Version]


class ReplyRow(Base):
    __tablename__ = "reply"
    id: Mapped[Id]
    mark_id: Mapped[str] = mapped_column(ForeignKey("mark.id"), index=True)
    author_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    text: Mapped[str]
    at: Mapped[datetime]
