"""Sessions: their sheets, who is invited, who came, and what was made of them."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class SessionRow(Base):
    """`state` as `core.sessions.sessions.SessionState`. `parts` counts how often it was closed: each makes a record."""

    __tablename__ = "session"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    number: Mapped[str]
    name: Mapped[str]
    note: Mapped[str] = mapped_column(default="")
    host_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[datetime]
    opens_at: Mapped[datetime]
    closes_at: Mapped[datetime]
    state: Mapped[str]
    opened_at: Mapped[datetime | None]
    closed_at: Mapped[datetime | None]
    parts: Mapped[int] = mapped_column(default=0)
    version: Mapped[Version]

    __table_args__ = (UniqueConstraint("project_id", "number"),)


class SessionSheetRow(Base):
    """A document of a session, at a revision. While it is `held`, it is checked out to the session.

    `left_at`: taken out of the session since then. `why` it was taken out, or is open in it without being checked out.
    """

    __tablename__ = "session_sheet"
    session_id: Mapped[str] = mapped_column(ForeignKey("session.id"), primary_key=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    place: Mapped[int]
    held: Mapped[bool] = mapped_column(default=False)
    left_at: Mapped[datetime | None]
    why: Mapped[str] = mapped_column(default="")

    __table_args__ = (
        Index("ix_session_sheet_revision", "revision_id"),
        Index("one_session_of_a_document", "document_id", unique=True, sqlite_where=text("held = 1")),
    )


class SessionPartyRow(Base):
    """Somebody who is invited: a person, or a company with all its people; `may` as `core.sessions.sessions.May`."""

    __tablename__ = "session_party"
    session_id: Mapped[str] = mapped_column(ForeignKey("session.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    party_id: Mapped[str] = mapped_column(primary_key=True)
    may: Mapped[str]
    invited_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    invited_at: Mapped[datetime]

    __table_args__ = (Index("ix_session_party", "party_id"),)


class SessionVisitRow(Base):
    """Who was in a session, by `name` and `company` then; `who` is a person's id, or that of a guest's visit."""

    __tablename__ = "session_visit"
    session_id: Mapped[str] = mapped_column(ForeignKey("session.id"), primary_key=True)
    who: Mapped[str] = mapped_column(primary_key=True)
    guest: Mapped[bool] = mapped_column(default=False)
    name: Mapped[str]
    company: Mapped[str]
    came_at: Mapped[datetime]
    seen_at: Mapped[datetime]


class SessionRecordRow(Base):
    """What was made when a session closed for the `part`th time, never changed once it has a `sha256`."""

    __tablename__ = "session_record"
    session_id: Mapped[str] = mapped_column(ForeignKey("session.id"), primary_key=True)
    part: Mapped[int] = mapped_column(primary_key=True)
    opened_at: Mapped[datetime]
    closed_at: Mapped[datetime]
    sheets: Mapped[int]
    done: Mapped[int] = mapped_column(default=0)
    sha256: Mapped[str] = mapped_column(default="")
    size_bytes: Mapped[int] = mapped_column(default=0)
    made_at: Mapped[datetime | None]
