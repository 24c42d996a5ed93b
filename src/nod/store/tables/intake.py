"""Batches and the files in them."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class BatchRow(Base):
    """One arrival. `source` says by which door: browser for now. New documents go into `folder_id`."""

    __tablename__ = "batch"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    folder_id: Mapped[str] = mapped_column(ForeignKey("folder.id"), index=True)
    source: Mapped[str]
    came_from: Mapped[str]
    arrived_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    arrived_at: Mapped[datetime]


class ArrivalRow(Base):
    """One file of a batch. State: waiting → held → registered / already_there / discarded."""

    __tablename__ = "arrival"
    id: Mapped[Id]
    batch_id: Mapped[str] = mapped_column(ForeignKey("batch.id"), index=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    place: Mapped[int]
    file_name: Mapped[str]
    sha256: Mapped[str] = mapped_column(String(64), ForeignKey("blob.sha256"))
    number: Mapped[str]
    revision: Mapped[str]
    status: Mapped[str]
    title: Mapped[str]
    state: Mapped[str] = mapped_column(default="waiting")
    reason: Mapped[str] = mapped_column(default="")
    held_at: Mapped[datetime | None]
    revision_id: Mapped[str | None]
    version: Mapped[Version]

    __table_args__ = (Index("ix_arrival_open", "project_id", "state"),)
