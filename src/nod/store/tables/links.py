"""Links for people without an account, and who came by them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class LinkRow(Base):
    """A link to the thing `thing_kind`, `thing_id`. Its secret is kept as a SHA-256 only.

    `for_kind` is `named` (`person_id`), `signed_in` or `anyone`; `allows` are acts, see `core.links.links`.
    """

    __tablename__ = "link"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    thing_kind: Mapped[str]
    thing_id: Mapped[str]
    for_kind: Mapped[str]
    person_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    allows: Mapped[list[Any]]
    made_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[datetime]
    ends_at: Mapped[datetime | None]
    password_hash: Mapped[str] = mapped_column(default="")
    most_visits: Mapped[int | None]
    visits: Mapped[int] = mapped_column(default=0)
    last_visit_at: Mapped[datetime | None]
    token_sha256: Mapped[str] = mapped_column(String(64), unique=True)
    withdrawn_at: Mapped[datetime | None]
    withdrawn_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    version: Mapped[Version]

    __table_args__ = (Index("ix_link_project", "project_id", "made_at"), Index("ix_link_thing", "thing_id"))


class GuestRow(Base):
    """Whoever opened a link with a deliberate press: by the name they typed, or their own. One visit of one browser."""

    __tablename__ = "guest"
    id: Mapped[Id]
    link_id: Mapped[str] = mapped_column(ForeignKey("link.id"), index=True)
    name: Mapped[str]
    person_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    secret_sha256: Mapped[str] = mapped_column(String(64), unique=True)
    began_at: Mapped[datetime]
