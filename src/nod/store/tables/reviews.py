"""Routes, running reviews, their steps and what the steps answered."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class RouteRow(Base):
    """`steps`: [{name, act, people, days, counting}, …]. A running review keeps its own copy."""

    __tablename__ = "route"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    name: Mapped[str]
    purpose: Mapped[str]
    steps: Mapped[list[Any]]
    retired_at: Mapped[datetime | None]
    version: Mapped[Version]


class ReviewRow(Base):
    __tablename__ = "review"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    number: Mapped[str]
    name: Mapped[str]
    message: Mapped[str]
    route_name: Mapped[str]
    state: Mapped[str]
    verdict_set: Mapped[list[Any]]
    started_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    started_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    why_cancelled: Mapped[str] = mapped_column(default="")
    version: Mapped[Version]

    __table_args__ = (UniqueConstraint("project_id", "number"),)


class ReviewDocumentRow(Base):
    """A document of a review, fixed at the revision under review. `verdict` is the outcome, once there is one."""

    __tablename__ = "review_document"
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), primary_key=True, index=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"))
    place: Mapped[int]
    verdict: Mapped[str] = mapped_column(default="")


class ReviewStepRow(Base):
    __tablename__ = "review_step"
    id: Mapped[Id]
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id"), index=True)
    place: Mapped[int]
    name: Mapped[str]
    act: Mapped[str]
    days: Mapped[int]
    counting: Mapped[str]
    state: Mapped[str]
    began_at: Mapped[datetime | None]
    due_on: Mapped[date | None]
    taken_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    taken_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    note: Mapped[str] = mapped_column(default="")

    __table_args__ = (Index("ix_review_step_state", "state", "due_on"),)


class StepPersonRow(Base):
    """Somebody who may take the step."""

    __tablename__ = "step_person"
    step_id: Mapped[str] = mapped_column(ForeignKey("review_step.id"), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), primary_key=True, index=True)
    place: Mapped[int]


class AnswerRow(Base):
    """What a step said about one document."""

    __tablename__ = "answer"
    step_id: Mapped[str] = mapped_column(ForeignKey("review_step.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    verdict: Mapped[str]
    comment: Mapped[str]
    at: Mapped[datetime]
