"""Companies, people, projects, who is in which, and who is signed in."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.ids import new_id
from nod.store.tables.base import Base, Id, Version


class CompanyRow(Base):
    __tablename__ = "company"
    id: Mapped[Id]
    name: Mapped[str]
    code: Mapped[str] = mapped_column(String(6), unique=True)
    part: Mapped[str]
    merged_into: Mapped[str | None] = mapped_column(ForeignKey("company.id"))


class PersonRow(Base):
    """`password_hash` is empty for an outside contact and for whoever has not accepted an invitation yet.

    `second_factor` is the authenticator's secret, in force once `second_factor_on`; `last_code` is the time step of
    the last code taken, so that none is taken twice. `notices` maps a kind of notice to how it is told.
    """

    __tablename__ = "person"
    id: Mapped[Id]
    name: Mapped[str]
    email: Mapped[str] = mapped_column(unique=True)
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"), index=True)
    job: Mapped[str] = mapped_column(default="")
    password_hash: Mapped[str] = mapped_column(default="")
    state: Mapped[str] = mapped_column(default="active")
    steward: Mapped[bool] = mapped_column(default=False)
    time_zone: Mapped[str] = mapped_column(default="")
    second_factor: Mapped[str] = mapped_column(default="")
    second_factor_on: Mapped[bool] = mapped_column(default=False)
    last_code: Mapped[int] = mapped_column(default=0)
    notices: Mapped[dict[str, Any]] = mapped_column(default=dict)
    summary_hour: Mapped[int] = mapped_column(default=7)
    summary_sent_on: Mapped[date | None]


class ProjectRow(Base):
    """`rules` holds the set-up: numbering, scheme, statuses, verdict set, working weekdays, disciplines, roles, tools.

    `profile` holds what the project is; `access_version` counts the changes of folders and grants.
    """

    __tablename__ = "project"
    id: Mapped[Id]
    number: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    time_zone: Mapped[str]
    rules: Mapped[dict[str, Any]]
    profile: Mapped[dict[str, Any]] = mapped_column(default=dict)
    access_version: Mapped[Version]
    version: Mapped[Version]


class HolidayRow(Base):
    __tablename__ = "holiday"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    on: Mapped[date] = mapped_column(primary_key=True)
    name: Mapped[str]


class MembershipRow(Base):
    """State: contact, or invited → active → removed. An outside contact can be written to, and sees nothing.

    `tools` is the person's own setting, in place of what the roles bring.
    """

    __tablename__ = "membership"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), primary_key=True, index=True)
    roles: Mapped[list[Any]]
    state: Mapped[str] = mapped_column(default="active")
    tools: Mapped[list[Any] | None]
    invited_at: Mapped[datetime | None]
    version: Mapped[Version]


class FolderRow(Base):
    """A folder of a project's tree; the topmost one has no parent. Names are unique among sisters."""

    __tablename__ = "folder"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    parent_id: Mapped[str | None] = mapped_column(ForeignKey("folder.id"))
    name: Mapped[str] = mapped_column(String(collation="NOCASE"))

    __table_args__ = (
        UniqueConstraint("project_id", "parent_id", "name"),
        Index("one_root_folder", "project_id", unique=True, sqlite_where=text("parent_id IS NULL")),
    )


class GrantRow(Base):
    """A level given in a folder to a person, a role (its code), a company or everyone (no id)."""

    __tablename__ = "access_grant"
    folder_id: Mapped[str] = mapped_column(ForeignKey("folder.id"), primary_key=True)
    to_kind: Mapped[str] = mapped_column(primary_key=True)
    to_id: Mapped[str] = mapped_column(primary_key=True)
    alone: Mapped[bool] = mapped_column(primary_key=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    level: Mapped[int]


class KeyLinkRow(Base):
    """A mailed link that lets somebody set a password: once, and until `ends_at`. The secret is made, not kept."""

    __tablename__ = "key_link"
    id: Mapped[Id]
    kind: Mapped[str]
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    project_id: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]
    ends_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


class RecoveryCodeRow(Base):
    """A code on paper that signs in once in place of the authenticator's; only its hash is kept."""

    __tablename__ = "recovery_code"
    id: Mapped[Id]
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    hash: Mapped[str] = mapped_column(String(64))
    made_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


class StarterRow(Base):
    """A project's set-up, kept to begin others from."""

    __tablename__ = "starter"
    id: Mapped[Id]
    name: Mapped[str] = mapped_column(unique=True)
    purpose: Mapped[str]
    content: Mapped[dict[str, Any]]
    made_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[datetime]


class SummaryLineRow(Base):
    """A notice that waits for its person's daily summary."""

    __tablename__ = "summary_line"
    key: Mapped[str] = mapped_column(primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    project_id: Mapped[str]
    at: Mapped[datetime]
    words: Mapped[str]
    link: Mapped[str]
    about: Mapped[list[Any]]
    kind: Mapped[str] = mapped_column(default="")
    sent_at: Mapped[datetime | None]

    __table_args__ = (Index("ix_summary_line_open", "sent_at", "person_id"),)


class SignInRow(Base):
    """A signed-in browser. The cookie's token is kept only as its SHA-256.

    `sees_as` is whose eyes it looks through in the project `sees_in`; empty for one's own.
    """

    __tablename__ = "sign_in"
    token_sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    csrf_token: Mapped[str]
    began_at: Mapped[datetime]
    ends_at: Mapped[datetime]
    id: Mapped[str] = mapped_column(String(16), default=new_id, unique=True)
    came_from: Mapped[str] = mapped_column(default="")
    seen_at: Mapped[datetime | None]
    sees_as: Mapped[str] = mapped_column(default="")
    sees_in: Mapped[str] = mapped_column(default="")


class FailedSignInRow(Base):
    """One wrong password, kept for as long as it counts against the next try. `key` is a hash of address and name."""

    __tablename__ = "failed_sign_in"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    key: Mapped[str] = mapped_column(String(64), index=True)
    at: Mapped[datetime]


class SeriesRow(Base):
    """The last running number given out in a series of a project."""

    __tablename__ = "series"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    name: Mapped[str] = mapped_column(primary_key=True)
    last: Mapped[int] = mapped_column(default=0)
