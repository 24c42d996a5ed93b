"""The audit trail, the work that follows an act (outbox), and what is told live."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, LargeBinary, String
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.ids import new_id
from nod.store.tables.base import Base, Id


class AuditEntryRow(Base):
    """`body` is the canonical JSON (RFC 8785) that was hashed; the other columns repeat parts of it for searching."""

    __tablename__ = "audit_entry"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    body: Mapped[bytes] = mapped_column(LargeBinary)
    leaf_sha256: Mapped[bytes] = mapped_column(LargeBinary(32), index=True)
    at: Mapped[datetime] = mapped_column(index=True)
    project_id: Mapped[str] = mapped_column(index=True)
    person_id: Mapped[str] = mapped_column(index=True)
    kind: Mapped[str] = mapped_column(index=True)
    private_to: Mapped[str] = mapped_column(default="")


class AuditSubjectRow(Base):
    """Which things an entry is about, for the timeline of each."""

    __tablename__ = "audit_subject"
    seq: Mapped[int] = mapped_column(ForeignKey("audit_entry.seq"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    subject_id: Mapped[str] = mapped_column(primary_key=True)

    __table_args__ = (Index("ix_audit_subject", "subject_id", "seq"),)


class TrailHeadRow(Base):
    """The frontier of the Merkle tree: size and the heads of its full subtrees, 32 bytes each. A single row."""

    __tablename__ = "trail_head"
    id: Mapped[int] = mapped_column(primary_key=True)
    size: Mapped[int]
    heads: Mapped[bytes] = mapped_column(LargeBinary)


class DoneOnceRow(Base):
    """An act that was asked for with a key by a person or in a visit by a link, for two days.

    `fingerprint` of what was asked, and the answer once given; `status` is 0 until that is known.
    """

    __tablename__ = "done_once"
    person_id: Mapped[str] = mapped_column(String(16), primary_key=True)
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    fingerprint: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(index=True)
    status: Mapped[int]
    body: Mapped[str]


class OutboxRow(Base):
    """Work that an act asks for after its commit. `key` makes doing it twice harmless; a lease says who is at it.

    `tries` counts how often it was taken, `lapses` how often whoever had it died or hung.
    """

    __tablename__ = "outbox"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    kind: Mapped[str]
    key: Mapped[str] = mapped_column(unique=True)
    payload: Mapped[dict[str, Any]]
    made_at: Mapped[datetime]
    not_before: Mapped[datetime]
    tries: Mapped[int] = mapped_column(default=0)
    lapses: Mapped[int] = mapped_column(default=0)
    leased_by: Mapped[str] = mapped_column(default="")
    leased_until: Mapped[datetime | None]
    done_at: Mapped[datetime | None]
    gave_up_at: Mapped[datetime | None]
    trouble: Mapped[str] = mapped_column(default="")

    __table_args__ = (Index("ix_outbox_open", "done_at", "gave_up_at", "not_before"),)


class SealKeyRow(Base):
    """A key that seals are signed with; another follows only where the first was lost. Never changed."""

    __tablename__ = "seal_key"
    id: Mapped[Id]
    name: Mapped[str]
    public_key: Mapped[bytes] = mapped_column(LargeBinary(32))
    began_at: Mapped[datetime]


class SealRow(Base):
    """A signed head of the trail's tree, see `core.trail.seals`. Never changed."""

    __tablename__ = "seal"
    size: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    root: Mapped[bytes] = mapped_column(LargeBinary(32))
    at: Mapped[datetime]
    key_id: Mapped[str] = mapped_column(ForeignKey("seal_key.id"))
    note: Mapped[str]


class LiveEventRow(Base):
    """Something changed, for those who may know: `audience` as `core.access.audiences.Audience`, its sets as lists.

    `key` stands for the event outside: a running number would tell how much happened elsewhere. `load` is
    what whoever hears of it soon need not fetch, as the feature of the topic keeps it; not for long.
    """

    __tablename__ = "live_event"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    key: Mapped[str] = mapped_column(String(16), default=new_id, unique=True)
    at: Mapped[datetime]
    project_id: Mapped[str]
    audience: Mapped[dict[str, Any]]
    topic: Mapped[str]
    subject_id: Mapped[str] = mapped_column(String(64))
    by_person_id: Mapped[str] = mapped_column(default="")
    load: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), default=None)

    __table_args__ = (Index("ix_live_event_at", "at"),)


class AccessEpochRow(Base):
    """One row. Its number grows, by triggers, with every change of who may see what, and of who is who.

    That is of grants, folders, members, people, companies, projects with their rules, sessions with their people and
    sheets, and sign-ins but for new ones.
    What was worked out from these alone holds for as long as the number stays.
    """

    __tablename__ = "access_epoch"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    number: Mapped[int]
