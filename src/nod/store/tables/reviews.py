"""Routes, running reviews, their steps and what the steps answered."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class RouteRow(Base):
    """`stages`: [{steps, then}, …] as `services.reviews.paths` reads them. A running review keeps its own copy.

    `may_start`: [{kind, id}, …]; with none, everybody who may file. `ends`: by verdict, what is done with a document
    that leaves the review, as `services.reviews.endings` reads it. `may_change`: whoever starts may put others in.
    `shows`: when others than its people see what is said in it, `at_once` or at the `end`.
    """

    __tablename__ = "route"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    name: Mapped[str]
    purpose: Mapped[str]
    stages: Mapped[list[Any]]
    may_start: Mapped[list[Any]] = mapped_column(default=list)
    ends: Mapped[dict[str, Any]] = mapped_column(default=dict)
    may_change: Mapped[bool] = mapped_column(default=False)
    shows: Mapped[str] = mapped_column(default="at_once")
    retired_at: Mapped[datetime | None]
    version: Mapped[Version]


class ReviewRow(Base):
    """`then`: of each stage, what follows a verdict. `why_cancelled` also says why one was recalled.

    `answer_by` is when the contract wants an answer, `silence` what it means if none is given by then. `answers_…`: the
    thing that its outcome answers, if it was begun for one.
    """

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
    then: Mapped[list[Any]]
    ends: Mapped[dict[str, Any]] = mapped_column(default=dict)
    answer_by: Mapped[date | None]
    silence: Mapped[str] = mapped_column(default="nothing")
    silence_told_at: Mapped[datetime | None]
    shows: Mapped[str] = mapped_column(default="at_once")
    answers_kind: Mapped[str] = mapped_column(default="", server_default="")
    answers_id: Mapped[str] = mapped_column(default="", server_default="")
    version: Mapped[Version]

    __table_args__ = (UniqueConstraint("project_id", "number"),)


class ReviewDocumentRow(Base):
    """A document of a review, fixed at the revision under review.

    `verdict` is the outcome, once it has left the review or that has closed; `so_far` what the stages before said.
    """

    __tablename__ = "review_document"
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), primary_key=True, index=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    place: Mapped[int]
    verdict: Mapped[str] = mapped_column(default="")
    state: Mapped[str] = mapped_column(default="going")
    so_far: Mapped[str] = mapped_column(default="")


class ReviewStepRow(Base):
    """`place` orders the steps of a review, `stage` says which begin together. `whom`: [{kind, id}, …] as the route
    names them; whom that makes is looked up when the step begins, and stands in its places from then on."""

    __tablename__ = "review_step"
    id: Mapped[Id]
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id"), index=True)
    place: Mapped[int]
    stage: Mapped[int]
    name: Mapped[str]
    act: Mapped[str]
    whom: Mapped[list[Any]]
    quota: Mapped[str]
    least: Mapped[int]
    sums_up: Mapped[bool]
    own_allowed: Mapped[bool]
    days: Mapped[int]
    counting: Mapped[str]
    state: Mapped[str]
    began_at: Mapped[datetime | None]
    due_on: Mapped[date | None]
    taken_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    taken_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    why_ended: Mapped[str] = mapped_column(default="")
    remind_before: Mapped[int] = mapped_column(default=1)
    remind_every: Mapped[int] = mapped_column(default=2)
    lead_after: Mapped[int] = mapped_column(default=3)
    handing_on: Mapped[bool] = mapped_column(default=True)
    verdicts: Mapped[str] = mapped_column(default="")
    marking: Mapped[bool] = mapped_column(default=True)
    reminded_on: Mapped[date | None]
    lead_told_on: Mapped[date | None]

    __table_args__ = (Index("ix_review_step_state", "state", "due_on"),)


class StepPlaceRow(Base):
    """Somebody who is asked in a step, or was. `for_id` is whose place it was, if another's; `note` goes to whoever
    comes next."""

    __tablename__ = "step_place"
    step_id: Mapped[str] = mapped_column(ForeignKey("review_step.id"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    for_id: Mapped[str] = mapped_column(default="")
    state: Mapped[str]
    at: Mapped[datetime | None]
    note: Mapped[str] = mapped_column(default="")


class AnswerRow(Base):
    """What one place of a step said about one document."""

    __tablename__ = "answer"
    step_id: Mapped[str] = mapped_column(ForeignKey("review_step.id"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), primary_key=True)
    verdict: Mapped[str]
    comment: Mapped[str]


class BegunAnswerRow(Base):
    """What somebody has begun to say of a document, seen by them alone, until they hand in."""

    __tablename__ = "begun_answer"
    step_id: Mapped[str] = mapped_column(ForeignKey("review_step.id"), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"), primary_key=True)
    verdict: Mapped[str]
    comment: Mapped[str]
    grave: Mapped[str] = mapped_column(default="should")
    at: Mapped[datetime]


class AbsenceRow(Base):
    """Somebody is away from a project on these days, both included, and another stands in. `handed_at`: what was with
    them by then went to the stand-in."""

    __tablename__ = "absence"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    stand_in_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    first_on: Mapped[date]
    last_on: Mapped[date]
    set_by: Mapped[str] = mapped_column(ForeignKey("person.id"))
    set_at: Mapped[datetime]
    handed_at: Mapped[datetime | None]
    removed_at: Mapped[datetime | None]


class ReviewCommentRow(Base):
    """A line of a review's comment sheet. `place` says where in words, `mark_id` which mark it is, if it is one.

    `response_from` names who responded where another took it in for them. `from_id` is the comment of an earlier review
    that it goes on from; that one is `carried` then. `released_at`: when it was first sent to an author outside.
    """

    __tablename__ = "review_comment"
    id: Mapped[Id]
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id"))
    number: Mapped[int]
    document_id: Mapped[str] = mapped_column(ForeignKey("document.id"))
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"), index=True)
    mark_id: Mapped[str] = mapped_column(default="")
    page: Mapped[int | None]
    place: Mapped[str] = mapped_column(default="")
    by_id: Mapped[str] = mapped_column(ForeignKey("person.id"))
    raised_at: Mapped[datetime]
    text: Mapped[str]
    grave: Mapped[str] = mapped_column(default="should")
    response: Mapped[str] = mapped_column(default="")
    response_from: Mapped[str] = mapped_column(default="")
    responded_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    responded_at: Mapped[datetime | None]
    state: Mapped[str] = mapped_column(default="open")
    close_note: Mapped[str] = mapped_column(default="")
    closed_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    closed_at: Mapped[datetime | None]
    from_id: Mapped[str] = mapped_column(default="")
    released_at: Mapped[datetime | None]
    version: Mapped[Version]

    __table_args__ = (
        UniqueConstraint("review_id", "number"),
        Index("ix_review_comment_document", "document_id", "state", "grave"),
    )
