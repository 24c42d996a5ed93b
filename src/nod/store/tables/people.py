"""Companies, people, projects, who is in which, and who is signed in."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class CompanyRow(Base):
    __tablename__ = "company"
    id: Mapped[Id]
    name: Mapped[str]
    code: Mapped[str] = mapped_column(String(6), unique=True)
    part: Mapped[str]


class PersonRow(Base):
    """`password_hash` is empty for an outside contact, who has no sign-in."""

    __tablename__ = "person"
    id: Mapped[Id]
    name: Mapped[str]
    email: Mapped[str] = mapped_column(unique=True)
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"), index=True)
    job: Mapped[str] = mapped_column(default="")
    password_hash: Mapped[str] = mapped_column(default="")
    state: Mapped[str] = mapped_column(default="active")


class ProjectRow(Base):
    """`rules` holds the set-up: numbering, scheme, statuses, verdict set, working weekdays, disciplines."""

    __tablename__ = "project"
    id: Mapped[Id]
    number: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    time_zone: Mapped[str]
    rules: Mapped[dict[str, Any]]
    version: Mapped[Version]


class HolidayRow(Base):
    __tablename__ = "holiday"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    on: Mapped[date] = mapped_column(primary_key=True)
    name: Mapped[str]


class MembershipRow(Base):
    """Outside contacts are members with no role: they can be written to, and see nothing."""

    __tablename__ = "membership"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), primary_key=True, index=True)
    roles: Mapped[list[Any]]
    level: Mapped[int]


class SignInRow(Base):
    """A signed-in browser. The cookie's token is kept only as its SHA-256."""

    __tablename__ = "sign_in"
    token_sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    csrf_token: Mapped[str]
    began_at: Mapped[datetime]
    ends_at: Mapped[datetime]


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
