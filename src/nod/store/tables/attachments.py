"""Files added to anything."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base


class AttachmentRow(Base):
    """A file on the thing `on_kind`, `on_id`, whose audience is its own; for whoever added it alone until it is said.

    `reply_id` is the answer that it came with. `folder_id` is where the project files what is attached to that kind.
    """

    __tablename__ = "attachment"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    on_kind: Mapped[str]
    on_id: Mapped[str]
    reply_id: Mapped[str] = mapped_column(default="", index=True)
    folder_id: Mapped[str] = mapped_column(ForeignKey("folder.id"))
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"), index=True)
    name: Mapped[str]
    added_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    added_at: Mapped[datetime]
    said_at: Mapped[datetime | None]

    __table_args__ = (Index("ix_attachment_on", "on_id", "on_kind"),)
