"""Batches and the files in them."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class BatchRow(Base):
    """One arrival. `source` says by which door: browser for now. New documents go into `folder_id`.

    `came_from` is the company, `came_person` who there gave it, `came_by` the way it took, `came_on` the day; while
    `came_said` is not set nobody has said so, and they are what Nod takes to be so.
    """

    __tablename__ = "batch"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    folder_id: Mapped[str] = mapped_column(ForeignKey("folder.id"), index=True)
    source: Mapped[str]
    came_from: Mapped[str]
    arrived_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    arrived_at: Mapped[datetime]
    keep_tree: Mapped[bool] = mapped_column(default=False)
    came_person: Mapped[str] = mapped_column(default="")
    came_by: Mapped[str] = mapped_column(default="")
    came_on: Mapped[date | None]
    came_said: Mapped[bool] = mapped_column(default=False)
    left_out: Mapped[int] = mapped_column(default=0)
    """Files that systems and archivers leave behind, which were not taken in."""


class ArrivalRow(Base):
    """One file of a batch.

    State: waiting → held → registered / already_there / discarded / sent_back; `split` for a file taken apart into
    sheets, whose arrivals have it as `split_from`; `unpacked` for an archive.

    Two witnesses beside the register: `by_name` and `by_block` map a field to what each says (for the block also why it
    says nothing). `chosen` maps a field to the witness whose value was taken: file name, title block, register, typed.
    """

    __tablename__ = "arrival"
    id: Mapped[Id]
    batch_id: Mapped[str] = mapped_column(ForeignKey("batch.id"), index=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    place: Mapped[int]
    file_name: Mapped[str]
    sha256: Mapped[str] = mapped_column(String(64), ForeignKey("blob.sha256"))
    number: Mapped[str]
    revision: Mapped[str]
    status: Mapped[str]
    title: Mapped[str]
    state: Mapped[str] = mapped_column(default="waiting")
    reason: Mapped[str] = mapped_column(default="")
    held_at: Mapped[datetime | None]
    revision_id: Mapped[str | None]
    folder_path: Mapped[str] = mapped_column(default="")
    scale: Mapped[str] = mapped_column(default="")
    by_name: Mapped[dict[str, Any]] = mapped_column(default=dict)
    by_block: Mapped[dict[str, Any]] = mapped_column(default=dict)
    chosen: Mapped[dict[str, Any]] = mapped_column(default=dict)
    reader_id: Mapped[str] = mapped_column(default="")
    split_from: Mapped[str] = mapped_column(default="")
    split_place: Mapped[int] = mapped_column(default=0)
    sheets_inside: Mapped[int] = mapped_column(default=0)
    kept_whole: Mapped[bool] = mapped_column(default=False)
    as_history: Mapped[bool] = mapped_column(default=False)
    purpose: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")
    fields: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """Further values that it brings, by the key of the register's column: read off its title block, or typed."""
    archive_id: Mapped[str] = mapped_column(String(16), default="", index=True)
    """The outermost archive it came out of, `depth` archives inside each other."""
    depth: Mapped[int] = mapped_column(default=0)
    unpack_trouble: Mapped[str] = mapped_column(default="")
    version: Mapped[Version]

    __table_args__ = (Index("ix_arrival_open", "project_id", "state"),)


class BlockReaderRow(Base):
    """Zones that read the title blocks of one company's sheets of one size (see `core.intake.block_readers`)."""

    __tablename__ = "block_reader"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    company: Mapped[str]
    name: Mapped[str]
    width_mm: Mapped[float]
    height_mm: Mapped[float]
    zones: Mapped[list[Any]]
    learned: Mapped[list[Any]] = mapped_column(default=list)
    removed: Mapped[bool] = mapped_column(default=False)
    version: Mapped[Version]


class ComparisonRow(Base):
    """Two files laid over each other. `strict`: both claim to be the same revision."""

    __tablename__ = "comparison"
    before_sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"), primary_key=True)
    after_sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256"), primary_key=True)
    strict: Mapped[bool] = mapped_column(primary_key=True)
    state: Mapped[str] = mapped_column(default="waiting")
    asked_at: Mapped[datetime]
    result: Mapped[dict[str, Any]] = mapped_column(default=dict)


class UploadRow(Base):
    """A file on its way in pieces; its bytes so far lie aside under its id.

    The row stays for a while after the file has arrived, so that whoever did not hear of it can ask.
    """

    __tablename__ = "upload"
    id: Mapped[Id]
    batch_id: Mapped[str] = mapped_column(ForeignKey("batch.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    file_name: Mapped[str]
    folder_path: Mapped[str]
    size_bytes: Mapped[int]
    begun_at: Mapped[datetime]
    done_at: Mapped[datetime | None]


class ReceivedRow(Base):
    """A transmittal of another company that came with a batch: by a list that was typed, or by its bag.

    `dated` is their day, `purpose` their word for it. Of a bag: its SHA-256, its `faults` in words, and its `proof`:
    `proven` under `key`, `broken`, or `none`; all empty where the list was typed. `receipt_to` is whom it was sent.
    """

    __tablename__ = "received"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batch.id"), index=True)
    number: Mapped[str]
    dated: Mapped[date | None]
    purpose: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")
    email: Mapped[str] = mapped_column(default="")
    bag_sha256: Mapped[str] = mapped_column(default="")
    proof: Mapped[str] = mapped_column(default="")
    key: Mapped[str] = mapped_column(default="", index=True)
    faults: Mapped[list[Any]] = mapped_column(default=list)
    entered_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    entered_at: Mapped[datetime]
    receipt_at: Mapped[datetime | None]
    receipt_to: Mapped[str] = mapped_column(default="")
    version: Mapped[Version]


class ReceivedLineRow(Base):
    """A document that it lists, as `core.transmittals.received.Listed`."""

    __tablename__ = "received_line"
    received_id: Mapped[str] = mapped_column(ForeignKey("received.id"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    number: Mapped[str]
    revision: Mapped[str]
    title: Mapped[str]
    status: Mapped[str]
    file: Mapped[str]
    sha256: Mapped[str] = mapped_column(String(64))
