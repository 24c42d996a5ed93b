"""What is said about things, and what is answered to it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy import text as sql_text
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base


class ThreadRow(Base):
    """Something said about the thing `on_kind`, `on_id`. For its author alone while `shared_at` is empty.

    `kind` is `mark` where it has places on sheets, or `talk`, the one thread of a dossier, which is answers only.
    `said_on` and `state_on` are revisions, empty where the thing has none; `meant_for` is a person's id. `author_id` is
    whoever said it, or took it in from elsewhere (`way`, see `core.threads.threads.Way`) under another name.
    """

    __tablename__ = "thread"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    kind: Mapped[str]
    on_kind: Mapped[str]
    on_id: Mapped[str]
    said_on: Mapped[str] = mapped_column(default="")
    text: Mapped[str] = mapped_column(default="")
    author_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    author_name: Mapped[str] = mapped_column(default="")
    author_company: Mapped[str] = mapped_column(default="")
    way: Mapped[str] = mapped_column(default="person")
    file_id: Mapped[str] = mapped_column(default="", index=True)
    """Its identifier in the file that it was taken in from."""
    said_at: Mapped[datetime]
    shared_at: Mapped[datetime | None]
    readers: Mapped[str] = mapped_column(default="everybody")
    """Who reads it once it is shared: `everybody` who sees what it is about, or `some`, see ThreadReaderRow."""
    meant_for: Mapped[str] = mapped_column(default="")
    session_id: Mapped[str] = mapped_column(default="", index=True)
    """The session in which it was said, empty for none."""
    guest_id: Mapped[str] = mapped_column(default="")
    """The visit by a link in which a guest said it, empty for everybody else."""
    state: Mapped[str] = mapped_column(default="open")
    state_by: Mapped[str] = mapped_column(default="")
    state_at: Mapped[datetime | None]
    state_on: Mapped[str] = mapped_column(default="")
    version: Mapped[int] = mapped_column(default=0)

    __table_args__ = (
        Index("ix_thread_on", "on_id", "on_kind", "kind"),
        Index("one_talk_of_a_thing", "on_id", "on_kind", unique=True, sqlite_where=sql_text("kind = 'talk'")),
    )


class ThreadReaderRow(Base):
    """Some who read a thread: a company, or the people of a thing of another kind. Never taken out again."""

    __tablename__ = "thread_reader"
    thread_id: Mapped[str] = mapped_column(ForeignKey("thread.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    group_id: Mapped[str] = mapped_column(primary_key=True)

    __table_args__ = (Index("ix_thread_reader_group", "kind", "group_id"),)


class ReplyRow(Base):
    """An answer in a thread; authors as there. Never changed."""

    __tablename__ = "reply"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    thread_id: Mapped[str] = mapped_column(ForeignKey("thread.id"), index=True)
    author_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    author_name: Mapped[str] = mapped_column(default="")
    author_company: Mapped[str] = mapped_column(default="")
    way: Mapped[str] = mapped_column(default="person")
    file_id: Mapped[str] = mapped_column(default="")
    text: Mapped[str]
    at: Mapped[datetime]
    said_on: Mapped[str] = mapped_column(default="")
    folds: Mapped[list[Any]] = mapped_column(default=list)
    """What of the text is quoted or a signature: pairs of places, counted in characters."""
    mail_id: Mapped[str] = mapped_column(default="")
    """The mail that it came in, if it came in one."""


class ThreadLinkRow(Base):
    """`target` is the id of a thing of `kind`, or an address of the web."""

    __tablename__ = "thread_link"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    thread_id: Mapped[str] = mapped_column(ForeignKey("thread.id"), index=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    kind: Mapped[str]
    target: Mapped[str]
    made_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]

    __table_args__ = (Index("ix_thread_link_target", "kind", "target"),)
