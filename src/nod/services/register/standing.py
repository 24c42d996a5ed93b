"""Where a document stands: with whom, since when, due when, its latest verdict."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.store.tables import (
    DocumentRow,
    PersonRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    StepPersonRow,
)


def refresh(session: Session, document_ids: set[str]) -> None:
    """Bring the mirrored columns of these documents in line with the reviews; part of the act's transaction."""
    session.flush()
    for document_id in document_ids:
        document = session.scalars(select(DocumentRow).where(DocumentRow.id == document_id)).one()
        document.verdict = verdict_of(session, document.revision_id)
        step = _running_step(session, document_id)
        document.with_whom = with_whom(session, step) if step else _holder(session, document)
        document.since_at = (step.taken_at or step.began_at) if step else document.checked_out_at
        document.due_on = step.due_on if step else None


def _holder(session: Session, document: DocumentRow) -> str:
    """Who has it checked out, where no review runs; empty for nobody."""
    return session.get_one(PersonRow, document.checked_out_by).name if document.checked_out_by else ""


def _running_step(session: Session, document_id: str) -> ReviewStepRow | None:
    """Where several reviews run, the one that is due first."""
    query = (
        select(ReviewStepRow)
        .join(ReviewRow, ReviewRow.id == ReviewStepRow.review_id)
        .join(ReviewDocumentRow, ReviewDocumentRow.review_id == ReviewRow.id)
        .where(ReviewDocumentRow.document_id == document_id, ReviewStepRow.state == "running")
        .order_by(ReviewStepRow.due_on)
    )
    return session.scalars(query).first()


def verdict_of(session: Session, revision_id: str) -> str:
    """The latest verdict given to exactly this revision; empty without one."""
    query = (
        select(ReviewDocumentRow.verdict)
        .join(ReviewRow, ReviewRow.id == ReviewDocumentRow.review_id)
        .where(ReviewDocumentRow.revision_id == revision_id, ReviewDocumentRow.verdict != "")
        .order_by(ReviewRow.ended_at.desc())
    )
    return session.scalars(query).first() or ""


def step_people(session: Session, step_id: str) -> list[PersonRow]:
    query = (
        select(PersonRow)
        .join(StepPersonRow, StepPersonRow.person_id == PersonRow.id)
        .where(StepPersonRow.step_id == step_id)
        .order_by(StepPersonRow.place)
    )
    return list(session.scalars(query))


def with_whom(session: Session, step: ReviewStepRow) -> str:
    """Whoever picked the step up, otherwise those who may: two by name, more by number."""
    if step.taken_by:
        return session.get_one(PersonRow, step.taken_by).name
    people = step_people(session, step.id)
    if len(people) <= 2:
        return " or ".join(person.name for person in people)
    return f"any of {len(people)} for {step.name}"
