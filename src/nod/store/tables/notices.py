"""What people follow, and what they were told."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id


class FollowRow(Base):
    """Somebody follows something: a thing, a folder, or (`marks`, with the project's id) every mark of a project."""

    __tablename__ = "follow"
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    target: Mapped[str] = mapped_column(primary_key=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    since_at: Mapped[datetime]

    __table_args__ = (Index("ix_follow_target", "target", "kind"),)


class NoticeRow(Base):
    """A person was told of an act, once however many reasons there were. `about`: [[kind, id], …], all must be seen."""

    __tablename__ = "notice"
    id: Mapped[Id]
    act_id: Mapped[str]
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    at: Mapped[datetime]
    kind: Mapped[str]
    words: Mapped[str]
    because: Mapped[str]
    link: Mapped[str]
    about: Mapped[list[Any]]
    read_at: Mapped[datetime | None]

    __table_args__ = (
        UniqueConstraint("act_id", "person_id"),
        Index("ix_notice_person", "person_id", "project_id", "at"),
    )
