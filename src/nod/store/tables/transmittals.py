"""Transmittals, what they carry and to whom."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id


class TransmittalRow(Base):
    """Sent once and never changed, but for the packing: `cover_sha256` and `pack_sha256` come from the worker."""

    __tablename__ = "transmittal"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"))
    number: Mapped[str]
    purpose: Mapped[str]
    note: Mapped[str]
    answer_wanted_on: Mapped[date | None]
    review_id: Mapped[str | None] = mapped_column(ForeignKey("review.id"))
    sent_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    sent_at: Mapped[datetime]
    cover_sha256: Mapped[str] = mapped_column(default="")
    pack_sha256: Mapped[str] = mapped_column(default="")

    __table_args__ = (UniqueConstraint("project_id", "number"),)


class TransmittalDocumentRow(Base):
    __tablename__ = "transmittal_document"
    transmittal_id: Mapped[str] = mapped_column(ForeignKey("transmittal.id"), primary_key=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    place: Mapped[int]
    verdict: Mapped[str]


class RecipientRow(Base):
    """One addressee and when each thing happened. Their link has the same id.

    `acknowledged_how` is `mail` where they answered the mail. `bounced_why` says why the mail came back, until it is
    sent again; `sendings` counts the mails.
    """

    __tablename__ = "recipient"
    id: Mapped[Id]
    transmittal_id: Mapped[str] = mapped_column(ForeignKey("transmittal.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    place: Mapped[int]
    mailed_at: Mapped[datetime | None]
    opened_at: Mapped[datetime | None]
    downloaded_at: Mapped[datetime | None]
    acknowledged_at: Mapped[datetime | None]
    acknowledged_how: Mapped[str] = mapped_column(default="")
    bounced_at: Mapped[datetime | None]
    bounced_why: Mapped[str] = mapped_column(default="")
    sendings: Mapped[int] = mapped_column(default=1)
    copied: Mapped[bool] = mapped_column(default=False)

    __table_args__ = (UniqueConstraint("transmittal_id", "person_id"),)
