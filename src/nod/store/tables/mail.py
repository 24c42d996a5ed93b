"""Mail that left about something of a project, and mail that came in."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class MailOutRow(Base):
    """A mail to a person about a thing of a project, or about the project as a whole (`thing_kind` empty).

    Its id is in the address for answers. `trouble` says in words why it did not arrive, empty if nothing is known.
    """

    __tablename__ = "mail_out"
    id: Mapped[Id]
    key: Mapped[str] = mapped_column(unique=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    email: Mapped[str]
    subject: Mapped[str]
    message_id: Mapped[str] = mapped_column(unique=True)
    thing_kind: Mapped[str] = mapped_column(default="")
    thing_id: Mapped[str] = mapped_column(default="")
    written_by: Mapped[str] = mapped_column(default="")
    written_at: Mapped[datetime]
    trouble: Mapped[str] = mapped_column(default="")
    trouble_at: Mapped[datetime | None]


class MailInRow(Base):
    """A mail as it came, for one project. What it says is read from its bytes; `state` is what became of it.

    `new`, `answer`, `bounce`, `news`, `automatic`, `duplicate`, `held`, or `let_go` (see `core.mail.judging.Fate`).
    `answers_id` is the mail in whose address for answers it came. `thing_kind` and `thing_id`: where it was handed to.
    """

    __tablename__ = "mail_in"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"))
    size_bytes: Mapped[int]
    arrived_at: Mapped[datetime]
    envelope_from: Mapped[str] = mapped_column(default="")
    answers_id: Mapped[str] = mapped_column(default="")
    state: Mapped[str] = mapped_column(default="new")
    why: Mapped[str] = mapped_column(default="")
    message_id: Mapped[str] = mapped_column(default="", index=True)
    sender_name: Mapped[str] = mapped_column(default="")
    sender_email: Mapped[str] = mapped_column(default="")
    sender_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    subject: Mapped[str] = mapped_column(default="")
    sent_at: Mapped[datetime | None]
    files: Mapped[list[Any]] = mapped_column(default=list)
    thing_kind: Mapped[str] = mapped_column(default="")
    thing_id: Mapped[str] = mapped_column(default="")
    private: Mapped[bool] = mapped_column(default=False)
    """What it was handed to is kept from those who run the project, or the workspace: so is the mail."""
    decided_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    decided_at: Mapped[datetime | None]
    version: Mapped[Version]

    __table_args__ = (Index("ix_mail_in_state", "project_id", "state", "seq"),)
