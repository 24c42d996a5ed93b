"""Transmittals, what they carry and to whom."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, UniqueConstraint, select
from sqlalchemy.orm import Mapped, column_property, mapped_column

from nod.store.tables.base import Base, Id, Version


class TransmittalRow(Base):
    """Sent once and never changed, but for the packing: hashes and `files_packed` come from the worker.

    `proof_sha256` is the proof that the sending stands in the trail, and the key to it, as they lie in the bag. After
    `expires_on` recipients' links are closed. A mistake is voided, with why; `replaces` is the id of the one that it
    was sent in place of. `code` stands on the cover sheet and tells what still holds; empty for what was sent before
    covers had one. `purpose_words` are those of then. `natives`, `stamped` and `marks` (`core.transmittals.along`) are
    what was to go along; `attached`: the files went with the mail. `by_itself`: the project's matrix sent it, in the
    name of `sent_by`.
    """

    __tablename__ = "transmittal"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"))
    number: Mapped[str]
    purpose: Mapped[str]
    purpose_words: Mapped[str]
    note: Mapped[str]
    answer_wanted_on: Mapped[date | None]
    review_id: Mapped[str | None] = mapped_column(ForeignKey("review.id"))
    sent_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    sent_at: Mapped[datetime]
    cover_sha256: Mapped[str] = mapped_column(default="")
    pack_sha256: Mapped[str] = mapped_column(default="")
    proof_sha256: Mapped[str] = mapped_column(default="")
    files_packed: Mapped[int] = mapped_column(default=0)
    view_only: Mapped[bool] = mapped_column(default=False)
    expires_on: Mapped[date | None]
    voided_at: Mapped[datetime | None]
    voided_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    void_why: Mapped[str] = mapped_column(default="")
    replaces: Mapped[str] = mapped_column(default="", index=True)
    code: Mapped[str] = mapped_column(default="", index=True)
    natives: Mapped[bool] = mapped_column(default=False)
    stamped: Mapped[bool] = mapped_column(default=False)
    marks: Mapped[str] = mapped_column(default="")
    attached: Mapped[bool] = mapped_column(default=False)
    by_itself: Mapped[bool] = mapped_column(default=False)

    __table_args__ = (UniqueConstraint("project_id", "number"),)


class SentFileRow(Base):
    """A file that goes with a transmittal beside its documents; `kind` as `core.transmittals.along.Along`.

    `file` is its path in the bag below `data/`. A copy that is still to be made has no `sha256`; `fault` says why one
    could not be made.
    """

    __tablename__ = "sent_file"
    transmittal_id: Mapped[str] = mapped_column(ForeignKey("transmittal.id"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"))
    kind: Mapped[str]
    file: Mapped[str]
    sha256: Mapped[str] = mapped_column(default="")
    size_bytes: Mapped[int] = mapped_column(default=0)
    fault: Mapped[str] = mapped_column(default="")


class TransmittalDocumentRow(Base):
    """`number` as it was sent; `file` is its name in the bag, empty where it was sent before there were bags."""

    __tablename__ = "transmittal_document"
    transmittal_id: Mapped[str] = mapped_column(ForeignKey("transmittal.id"), primary_key=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    place: Mapped[int]
    verdict: Mapped[str]
    number: Mapped[str] = mapped_column(default="")
    file: Mapped[str] = mapped_column(default="")


class RecipientRow(Base):
    """One addressee and when each thing happened. Their link has the same id; `company_id` is whose they were then.

    `acknowledged_how` is `mail` where they answered the mail, `acknowledged_note` what they said with it on the page of
    their link. `bounced_why` says why the mail came back, until it is
    sent again; `sendings` counts the mails.
    """

    __tablename__ = "recipient"
    id: Mapped[Id]
    transmittal_id: Mapped[str] = mapped_column(ForeignKey("transmittal.id"), index=True)
    # From its transmittal, where a receipt is asked for by itself.
    project_id: Mapped[str] = column_property(
        select(TransmittalRow.project_id).where(TransmittalRow.id == transmittal_id).scalar_subquery(), deferred=True
    )
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    company_id: Mapped[str] = mapped_column(default="")
    place: Mapped[int]
    mailed_at: Mapped[datetime | None]
    opened_at: Mapped[datetime | None]
    downloaded_at: Mapped[datetime | None]
    acknowledged_at: Mapped[datetime | None]
    acknowledged_how: Mapped[str] = mapped_column(default="")
    acknowledged_note: Mapped[str] = mapped_column(default="")
    bounced_at: Mapped[datetime | None]
    bounced_why: Mapped[str] = mapped_column(default="")
    sendings: Mapped[int] = mapped_column(default=1)
    chased_on: Mapped[date | None]
    copied: Mapped[bool] = mapped_column(default=False)

    __table_args__ = (UniqueConstraint("transmittal_id", "person_id"),)


class RecipientFileRow(Base):
    """A file that a recipient took by itself, and when they did so first."""

    __tablename__ = "recipient_file"
    recipient_id: Mapped[str] = mapped_column(ForeignKey("recipient.id"), primary_key=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), primary_key=True)
    downloaded_at: Mapped[datetime]


class TransmittalDraftRow(Base):
    """A transmittal that is being prepared, shared among those of the company who run the project.

    `content` as `services.transmittals.drafts.DraftContent`; `why` says what proposed it, empty if somebody began it.
    """

    __tablename__ = "transmittal_draft"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"))
    content: Mapped[dict[str, Any]]
    why: Mapped[str] = mapped_column(default="")
    made_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[datetime]
    changed_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    changed_at: Mapped[datetime]
    version: Mapped[Version]


class HandOverRow(Base):
    """A revision that was handed over on paper, `count` times, to somebody of a company."""

    __tablename__ = "hand_over"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), index=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"))
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"))
    to_whom: Mapped[str]
    count: Mapped[int]
    on: Mapped[date]
    note: Mapped[str] = mapped_column(default="")
    entered_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    entered_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]


class HoldingRow(Base):
    """What a company has of a document, mirrored from all that was sent: `core.transmittals.holders.Held`."""

    __tablename__ = "holding"
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), primary_key=True)
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"), primary_key=True)
    revision_id: Mapped[str]
    sent_at: Mapped[datetime]
    opened_at: Mapped[datetime | None]
    acknowledged_at: Mapped[datetime | None]
    wanted: Mapped[bool]
    older_at: Mapped[datetime | None]

    __table_args__ = (
        Index("ix_holding_company", "company_id", "document_id"),
        Index("ix_holding_revision", "document_id", "revision_id", "company_id"),
    )
