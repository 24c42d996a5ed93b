"""Submittals: what was agreed to be sent in, its rounds, who is copied in, and calendars that read their days."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class SubmittalRow(Base):
    """`state` as `core.submittals.states.State`; `lead_in` as `core.submittals.arithmetic.LeadIn`.

    `keeper_id` looks after it for the project; `person_id` is asked for it, `approver_id` to answer it. `since_at`:
    when it came to whoever has it now. `review_id`: the review that answers it, while it goes round in one.
    `verdict` is the last one given. `latest_on`, `forecast_on`, `answer_on`,
    `float_days` are worked out, and `worked_from` says from which day and set-up, see
    `services.submittals.outlooks`; empty where a time or the day on site is missing. `spec_…` say where a specification
    asks for it; its page counts from 0.
    """

    __tablename__ = "submittal"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    number: Mapped[str]
    revision: Mapped[int] = mapped_column(default=0)
    title: Mapped[str]
    kind: Mapped[str]
    for_information: Mapped[bool] = mapped_column(default=False)
    section: Mapped[str] = mapped_column(default="")
    paragraph: Mapped[str] = mapped_column(default="")
    description: Mapped[str] = mapped_column(default="")
    reference: Mapped[str] = mapped_column(default="")
    category: Mapped[str] = mapped_column(default="")
    location: Mapped[str] = mapped_column(default="")
    milestone: Mapped[str] = mapped_column(default="")
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"), index=True)
    person_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    approver_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    keeper_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    made_at: Mapped[datetime]
    required_on: Mapped[date | None]
    planned_on: Mapped[date | None]
    delivered_on: Mapped[date | None]
    lead: Mapped[int | None]
    lead_in: Mapped[str]
    review_days: Mapped[int]
    rounds: Mapped[int]
    preparation: Mapped[int]
    state: Mapped[str]
    since_at: Mapped[datetime]
    review_id: Mapped[str | None] = mapped_column(ForeignKey("review.id"), index=True)
    verdict: Mapped[str] = mapped_column(default="")
    why_void: Mapped[str] = mapped_column(default="")
    expected: Mapped[int] = mapped_column(default=0)
    latest_on: Mapped[date | None]
    forecast_on: Mapped[date | None]
    answer_on: Mapped[date | None]
    float_days: Mapped[int | None]
    worked_from: Mapped[str] = mapped_column(default="")
    spec_document_id: Mapped[str | None] = mapped_column(ForeignKey("document.id"), index=True)
    spec_revision_id: Mapped[str | None] = mapped_column(ForeignKey("revision.id"))
    spec_page: Mapped[int | None]
    version: Mapped[Version]

    __table_args__ = (
        UniqueConstraint("project_id", "number"),
        Index("ix_submittal_float", "project_id", "float_days", "number"),
        Index("ix_submittal_worked", "project_id", "worked_from"),
        Index("ix_submittal_state", "project_id", "state"),
    )


class SubmittalRoundRow(Base):
    """One sending in of a submittal, as `revision`, and its answer.

    `sent_files` and `answer_files` are what its attachments came with. `sent_on` and `answered_on` are days of the
    project; `approver_company_id` is the approver's company then. `answered_for`: entered by another on their behalf.
    `review_id`: the review that it was given to, whose outcome is the answer.
    """

    __tablename__ = "submittal_round"
    id: Mapped[Id]
    submittal_id: Mapped[str] = mapped_column(ForeignKey("submittal.id"))
    revision: Mapped[int]
    sent_at: Mapped[datetime]
    sent_on: Mapped[date]
    sent_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    note: Mapped[str] = mapped_column(default="")
    sent_files: Mapped[str]
    given_at: Mapped[datetime | None]
    due_on: Mapped[date | None]
    approver_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    approver_company_id: Mapped[str | None] = mapped_column(ForeignKey("company.id"))
    review_id: Mapped[str | None] = mapped_column(ForeignKey("review.id"))
    verdict: Mapped[str] = mapped_column(default="")
    answer_note: Mapped[str] = mapped_column(default="")
    answer_files: Mapped[str]
    answered_at: Mapped[datetime | None]
    answered_on: Mapped[date | None]
    answered_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    answered_for: Mapped[bool] = mapped_column(default=False)

    __table_args__ = (
        UniqueConstraint("submittal_id", "revision"),
        Index("ix_submittal_round_answered", "approver_company_id", "answered_at"),
    )


class SubmittalItemRow(Base):
    """Something of a submittal that has a verdict of its own. `verdict` is the last one given."""

    __tablename__ = "submittal_item"
    id: Mapped[Id]
    submittal_id: Mapped[str] = mapped_column(ForeignKey("submittal.id"), index=True)
    place: Mapped[int]
    title: Mapped[str]
    paragraph: Mapped[str] = mapped_column(default="")
    verdict: Mapped[str] = mapped_column(default="")


class SubmittalItemAnswerRow(Base):
    """What a round said of an item."""

    __tablename__ = "submittal_item_answer"
    round_id: Mapped[str] = mapped_column(ForeignKey("submittal_round.id"), primary_key=True)
    item_id: Mapped[str] = mapped_column(ForeignKey("submittal_item.id"), primary_key=True)
    verdict: Mapped[str]


class SubmittalLotRow(Base):
    """A part of a submittal that is delivered by itself; what it does not say of day and lead is the submittal's."""

    __tablename__ = "submittal_lot"
    id: Mapped[Id]
    submittal_id: Mapped[str] = mapped_column(ForeignKey("submittal.id"), index=True)
    place: Mapped[int]
    name: Mapped[str]
    required_on: Mapped[date | None]
    lead: Mapped[int | None]
    lead_in: Mapped[str]
    delivered_on: Mapped[date | None]


class SubmittalFloatRow(Base):
    """What a submittal's float was, by day, as `core.submittals.analysis` keeps it."""

    __tablename__ = "submittal_float"
    submittal_id: Mapped[str] = mapped_column(ForeignKey("submittal.id"), primary_key=True)
    days: Mapped[str]


class SubmittalFileRow(Base):
    """A file of a round that was sent in, registered as a revision; or, in `trouble`, why it could not be."""

    __tablename__ = "submittal_file"
    attachment_id: Mapped[str] = mapped_column(ForeignKey("attachment.id"), primary_key=True)
    round_id: Mapped[str] = mapped_column(ForeignKey("submittal_round.id"), index=True)
    revision_id: Mapped[str | None] = mapped_column(ForeignKey("revision.id"))
    trouble: Mapped[str] = mapped_column(default="")


class SubmittalCopiedRow(Base):
    """Somebody who is told of each step: a person, or a company with all its people."""

    __tablename__ = "submittal_copied"
    submittal_id: Mapped[str] = mapped_column(ForeignKey("submittal.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    party_id: Mapped[str] = mapped_column(primary_key=True)
    copied_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    copied_at: Mapped[datetime]

    __table_args__ = (Index("ix_submittal_copied", "party_id"),)


class CalendarFeedRow(Base):
    """A secret address under which somebody's calendar reads the days of submittals. Its secret is kept as a SHA-256.

    `view` as `services.submittals.log.View`: all that they see, what is with them, of their company.
    """

    __tablename__ = "calendar_feed"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    view: Mapped[str]
    token_sha256: Mapped[str] = mapped_column(String(64), unique=True)
    made_at: Mapped[datetime]
    withdrawn_at: Mapped[datetime | None]

    __table_args__ = (Index("ix_calendar_feed_of", "person_id", "project_id"),)
